"""A cell type: what a maker's sheet or a bench test says about one cell."""

from __future__ import annotations

from enum import StrEnum
from itertools import pairwise
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document


class OcvFamily(StrEnum):
    """Which open-circuit voltage table stands for the cell's chemistry (``data/ocv``)."""

    ENERGY_NMC_SIOX = "liion_energy_nmc_siox"
    POWER_NCA = "liion_power_nca"
    POUCH_NMC = "pouch_nmc"
    LFP = "lfp"
    POLYMER = "lipo_hobby"
    HIGH_VOLTAGE_POLYMER = "lihv_hobby"

    @property
    def words(self) -> str:
        """The family as people call it."""
        return {
            OcvFamily.ENERGY_NMC_SIOX: "energy, NMC",
            OcvFamily.POWER_NCA: "power, NCA",
            OcvFamily.POUCH_NMC: "pouch, NMC",
            OcvFamily.LFP: "iron phosphate",
            OcvFamily.POLYMER: "lithium polymer",
            OcvFamily.HIGH_VOLTAGE_POLYMER: "high-voltage polymer",
        }[self]


class KineticClass(StrEnum):
    """How fast ions follow the current, where nothing was measured: sets the default surface lag."""

    ENERGY_CYLINDER = "energy cylinder"
    POWER_CYLINDER = "power cylinder"
    POLYMER_POUCH = "polymer pouch"


class FormFactor(StrEnum):
    """Outer form. The size itself stands in ``diameter_mm`` and ``length_mm``."""

    C18650 = "18650"
    C21700 = "21700"
    OTHER_CYLINDER = "cylinder"


class FittedModel(Document):
    """A cell model fitted to discharge curves, and the range of currents and temperatures it rests on."""

    capacity_mah: float = Field(gt=50, le=50000, title="fitted capacity")
    ocv_soc: tuple[float, ...] = Field(min_length=5, max_length=2001, title="states of charge of the voltage table")
    ocv_v: tuple[float, ...] = Field(title="open-circuit voltage table")
    resistance_soc: tuple[float, ...] = Field(min_length=2, max_length=201, title="states of charge of R₀")
    resistance_mohm: tuple[float, ...] = Field(title="R₀ at 25 °C")
    r1_mohm: float = Field(ge=0, le=500, title="polarisation resistance")
    tau1_s: float = Field(gt=0, le=3600, title="polarisation time constant")
    lag_gain_s: float = Field(ge=0, le=7200, title="surface lag")
    lag_tau_s: float = Field(gt=0, le=36000, title="time constant of the lag")
    resistance_activation_j_mol: float = Field(title="activation energy of resistance")
    lag_activation_j_mol: float = Field(title="activation energy of the lag")
    residual_mv: float = Field(ge=0, title="residual of the fit")
    highest_current_a: float = Field(gt=0, title="highest current fitted")
    coldest_c: float = Field(title="coldest cell fitted")
    warmest_c: float = Field(title="warmest cell fitted")

    @model_validator(mode="after")
    def _tables(self) -> Self:
        for name, soc, values in (
            ("voltage", self.ocv_soc, self.ocv_v),
            ("resistance", self.resistance_soc, self.resistance_mohm),
        ):
            rising = all(low < high for low, high in pairwise(soc))
            if len(soc) != len(values) or soc[0] != 0 or soc[-1] != 1 or not rising:
                raise ValueError(f"The {name} table must have one value for each state of charge, rising from 0 to 1.")
            if min(values) <= 0:
                raise ValueError(f"Every value of the {name} table must be more than 0.")
        return self


class CellType(Document):
    """One kind of cylindrical cell."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: str = Field(min_length=1, title="identifier")
    name: str = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data", description="Invented for the sample world.")
    form_factor: FormFactor = Field(title="form factor")
    diameter_mm: float = Field(gt=5, le=60, title="diameter")
    length_mm: float = Field(gt=10, le=200, title="length")
    mass_g: float = Field(gt=1, le=500, title="cell mass")
    capacity_mah: float = Field(gt=50, le=50000, title="capacity", description="At C/10, 25 °C, full to empty.")
    dcir_mohm: float = Field(gt=0.5, le=500, title="DC internal resistance",
                             description="10 s pulse at half charge and 25 °C.")  # fmt: skip
    continuous_current_a: float = Field(gt=0, le=300, title="continuous current")
    pulse_current_a: float | None = Field(None, gt=0, le=500, title="pulse current")
    min_voltage_v: float = Field(2.5, ge=1.5, le=3.4, title="minimum voltage")
    max_voltage_v: float = Field(4.2, ge=3.3, le=4.5, title="full voltage")
    max_temperature_c: float = Field(60, ge=30, le=100, title="temperature limit")
    ocv_family: OcvFamily = Field(title="chemistry family")
    kinetic_class: KineticClass = Field(title="kinetic class")
    fitted: FittedModel | None = Field(
        None, title="fitted model", description="Stands in for family, kinetic class, capacity and resistance."
    )
    price: float | None = Field(None, ge=0, title="price of one")
    notes: str = Field("", title="notes")

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if self.pulse_current_a is not None and self.pulse_current_a < self.continuous_current_a:
            raise ValueError(
                f"Pulse current ({self.pulse_current_a:g} A) of {self.name} must be at least its continuous"
                f" current ({self.continuous_current_a:g} A)."
            )
        return self
