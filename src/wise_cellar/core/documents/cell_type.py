"""A cell type: what a maker's sheet or a bench test says about one cell, or one polymer pack bought whole."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.cell_model import FittedModel, OcvTable
from wise_cellar.core.documents.provenance import BenchResult, Day, SourceKind, ValueSource
from wise_cellar.core.documents.text import Identifier, Name, Notes
from wise_cellar.core.units import TOLD, format_amps

SOURCED = frozenset({
    "mass_g", "capacity_mah", "dcir_mohm", "ac_resistance_mohm", "continuous_current_a", "c_rating", "pulse_current_a",
    "pulse_s", "charge_current_a", "min_voltage_v", "max_voltage_v", "nominal_voltage_v", "min_temperature_c",
    "max_temperature_c", "diameter_mm", "length_mm", "width_mm", "thickness_mm", "price",
})  # fmt: skip
"""Fields whose values come from somewhere."""
AC_SHARE_OF_DCIR = 0.6
"""A 1 kHz reading is 0.5 to 0.7 of the 10 s DC resistance: an estimate, said wherever it is used."""


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
    """Outer form. The size itself stands in the size fields."""

    C18650 = "18650"
    C21700 = "21700"
    OTHER_CYLINDER = "cylinder"
    POUCH = "pouch"
    WHOLE_PACK = "pack bought whole"

    @property
    def cylindrical(self) -> bool:
        """Whether a diameter and a length describe it."""
        return self in (FormFactor.C18650, FormFactor.C21700, FormFactor.OTHER_CYLINDER)


class LandingClass(StrEnum):
    """Cells that are landed at the same volts."""

    CYLINDER = "cylindrical lithium-ion"
    POLYMER = "polymer"
    IRON_PHOSPHATE = "iron phosphate"


class CellType(Document):
    """One kind of cell; or one kind of polymer pack bought whole, ``cells_in_series`` of its cells in one wrap.

    Mass and size are of what is bought: one cell, or the whole pack with its leads. Capacity, resistance, currents and
    voltages are of one cell, which for a whole pack is the pack's own capacity and current.
    """

    schema_version: int = Field(2, ge=1, le=2, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data", description="Invented for the sample world.")
    archived: bool = Field(False, title="archived", description="Kept for designs that use it, off the shelf.")
    form_factor: FormFactor = Field(title="form factor")
    diameter_mm: float | None = Field(None, gt=5, le=60, title="diameter", description="Of a cylinder.")
    length_mm: float = Field(gt=10, le=400, title="length")
    width_mm: float | None = Field(None, gt=5, le=300, title="width", description="Of a pouch or a whole pack.")
    thickness_mm: float | None = Field(None, gt=1, le=200, title="thickness",
                                       description="Of a pouch or a whole pack.")  # fmt: skip
    cells_in_series: int = Field(1, ge=1, le=20, title="cells in series inside",
                                 description="Of a pack bought whole; 1 for a single cell.")  # fmt: skip
    mass_g: float = Field(gt=1, le=10000, title="mass", description="Of one cell, or of the whole pack with leads.")
    capacity_mah: float = Field(gt=50, le=50000, title="capacity", description="At C/10, 25 °C, full to empty.")
    dcir_mohm: float | None = Field(
        None, gt=0.5, le=500, title="DC internal resistance",
        description="Of one cell: 10 s pulse at half charge and 25 °C. Empty: from the AC resistance.",
    )  # fmt: skip
    ac_resistance_mohm: float | None = Field(
        None, gt=0.2, le=500, title="AC resistance",
        description="Of one cell at 1 kHz, as small meters read it: 0.5 to 0.7 of the DC resistance, never equal.",
    )  # fmt: skip
    continuous_current_a: float | None = Field(None, gt=0, le=500, title="continuous current",
                                               description="As the maker claims it.")  # fmt: skip
    c_rating: float | None = Field(
        None, gt=0, le=500, title="C-rating",
        description="Claimed continuous current over capacity, as on polymer labels.",
    )  # fmt: skip
    pulse_current_a: float | None = Field(None, gt=0, le=1000, title="pulse current")
    pulse_s: float | None = Field(None, gt=0, le=300, title="pulse duration",
                                  description="How long the pulse current is allowed. Empty: 10 s.")  # fmt: skip
    trusted_current_a: float | None = Field(
        None, gt=0, le=500, title="current we trust",
        description="Stands in for the claimed continuous current as the cell's limit.",
    )  # fmt: skip
    charge_current_a: float | None = Field(None, gt=0, le=500, title="charge current")
    min_voltage_v: float = Field(2.5, ge=1.5, le=3.4, title="minimum voltage")
    max_voltage_v: float = Field(4.2, ge=3.3, le=4.5, title="full voltage")
    nominal_voltage_v: float | None = Field(None, ge=2.5, le=4.5, title="nominal voltage",
                                            description="As printed on the label.")  # fmt: skip
    min_temperature_c: float = Field(-20, ge=-60, le=20, title="coldest discharge")
    max_temperature_c: float = Field(60, ge=30, le=100, title="temperature limit")
    ocv_family: OcvFamily = Field(title="chemistry family")
    own_ocv: OcvTable | None = Field(None, title="own voltage table", description="Stands in for the family's.")
    kinetic_class: KineticClass = Field(title="kinetic class")
    fitted: FittedModel | None = Field(
        None, title="fitted model", description="Stands in for family, kinetic class, capacity and resistance."
    )
    price: float | None = Field(None, ge=0, title="price of one")
    source: SourceKind = Field(SourceKind.MAKERS_SHEET, title="source", description="Of all values not named below.")
    source_day: Day | None = Field(None, title="date of the source")
    sources: tuple[ValueSource, ...] = Field((), max_length=100, title="sources of single values")
    bench_results: tuple[BenchResult, ...] = Field((), max_length=500, title="bench results")
    notes: Notes = Field("", title="notes")

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 knew fewer fields, none of another meaning."""
        return as_version(data, 2)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if self.form_factor.cylindrical and self.diameter_mm is None:
            raise ValueError(f"{self.name} is a cylinder and needs a diameter.")
        if not self.form_factor.cylindrical and (self.width_mm is None or self.thickness_mm is None):
            raise ValueError(f"{self.name} is no cylinder and needs a width and a thickness.")
        if self.cells_in_series > 1 and self.form_factor is not FormFactor.WHOLE_PACK:
            raise ValueError(f"{self.name} is a single cell; only a pack bought whole has cells in series inside.")
        if self.dcir_mohm is None and self.ac_resistance_mohm is None:
            raise ValueError(f"{self.name} needs a DC internal resistance, or an AC resistance to estimate it from.")
        if self.continuous_current_a is None and self.c_rating is None:
            raise ValueError(f"{self.name} needs a continuous current or a C-rating.")
        if self.pulse_current_a is not None and self.pulse_current_a < self.rated_current_a:
            raise ValueError(
                f"Pulse current ({format_amps(self.pulse_current_a, TOLD)}) of {self.name} must be at least"
                f" its continuous current ({format_amps(self.rated_current_a, TOLD)})."
            )
        if self.min_voltage_v >= self.max_voltage_v:
            raise ValueError(f"Minimum voltage of {self.name} must be less than its full voltage.")
        return self

    @property
    def whole_pack(self) -> bool:
        """Whether it is bought as a finished pack."""
        return self.form_factor is FormFactor.WHOLE_PACK

    @property
    def landing_class(self) -> LandingClass:
        """At which volts it is landed."""
        if self.ocv_family is OcvFamily.LFP:
            return LandingClass.IRON_PHOSPHATE
        polymer = self.kinetic_class is KineticClass.POLYMER_POUCH
        return LandingClass.POLYMER if polymer else LandingClass.CYLINDER

    @property
    def rated_current_a(self) -> float:
        """Continuous current that the maker claims, A."""
        if self.continuous_current_a is not None:
            return self.continuous_current_a
        return (self.c_rating or 0.0) * self.capacity_mah / 1000

    @property
    def resistance_mohm(self) -> float:
        """DC internal resistance of one cell; from the AC reading over 0.6 where that is all there is."""
        return self.dcir_mohm if self.dcir_mohm is not None else (self.ac_resistance_mohm or 0.0) / AC_SHARE_OF_DCIR

    @property
    def volume_l(self) -> float:
        """Volume of what is bought, litres."""
        if self.diameter_mm is not None and self.form_factor.cylindrical:
            return math.pi * (self.diameter_mm / 200) ** 2 * self.length_mm / 100
        return self.length_mm * (self.width_mm or 0.0) * (self.thickness_mm or 0.0) * 1e-6

    @property
    def surface_m2(self) -> float:
        """Outer surface of what is bought."""
        if self.diameter_mm is not None and self.form_factor.cylindrical:
            return math.pi * self.diameter_mm * (self.length_mm + self.diameter_mm / 2) * 1e-6
        width, thick = self.width_mm or 0.0, self.thickness_mm or 0.0
        return 2e-6 * (self.length_mm * width + self.length_mm * thick + width * thick)

    def told(self, field: str) -> CellType:
        """The same, once somebody has typed a value where an estimate stood: it is taken from a sheet or a label."""
        if self.source_of(field)[0] is not SourceKind.ESTIMATE or field not in SOURCED:
            return self
        others = tuple(one for one in self.sources if one.field != field)
        return self.changed(sources=(*others, ValueSource(field=field, kind=SourceKind.MAKERS_SHEET)))

    def source_of(self, field: str) -> tuple[SourceKind, Day | None]:
        """Source and date of one value."""
        own = next((s for s in self.sources if s.field == field), None)
        return (own.kind, own.day) if own else (self.source, self.source_day)
