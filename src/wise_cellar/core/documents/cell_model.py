"""Tables and parameters that stand in for a chemistry family: a measured voltage table, a fitted model."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.text import Name, Notes


def _check_table(name: str, soc: Sequence[float], values: Sequence[float]) -> None:
    rising = all(low < high for low, high in pairwise(soc))
    if len(soc) != len(values) or soc[0] != 0 or soc[-1] != 1 or not rising:
        raise ValueError(f"The {name} table must have one value for each state of charge, rising from 0 to 1.")
    if min(values) <= 0:
        raise ValueError(f"Every value of the {name} table must be more than 0.")


class OcvTable(Document):
    """Resting voltage over state of charge, in place of the family's table."""

    soc: tuple[float, ...] = Field(min_length=5, max_length=2001, title="states of charge")
    ocv_v: tuple[float, ...] = Field(max_length=2001, title="resting voltage")

    @model_validator(mode="after")
    def _table(self) -> Self:
        _check_table("voltage", self.soc, self.ocv_v)
        if max(self.ocv_v) > 6:
            raise ValueError("The voltage table is of one cell; a value above 6 V is not.")
        return self


class CurveResidual(Document):
    """How a fit meets one of its curves."""

    name: Name = Field(min_length=1, title="curve")
    residual_mv: float = Field(ge=0, title="residual")


class FittedModel(Document):
    """A cell model fitted to discharge curves, and the range of currents and temperatures it rests on."""

    capacity_mah: float = Field(gt=50, le=50000, title="fitted capacity")
    ocv_soc: tuple[float, ...] = Field(min_length=5, max_length=2001, title="states of charge of the voltage table")
    ocv_v: tuple[float, ...] = Field(max_length=2001, title="open-circuit voltage table")
    resistance_soc: tuple[float, ...] = Field(min_length=2, max_length=201, title="states of charge of R₀")
    resistance_mohm: tuple[float, ...] = Field(max_length=201, title="R₀ at 25 °C")
    r1_mohm: float = Field(ge=0, le=500, title="polarisation resistance")
    tau1_s: float = Field(gt=0, le=3600, title="polarisation time constant")
    lag_gain_s: float = Field(ge=0, le=7200, title="surface lag")
    lag_tau_s: float = Field(gt=0, le=36000, title="time constant of the lag")
    lag_exponent: float = Field(0.0, ge=0, le=3, title="growth of the lag with current")
    lag_reference_a: float = Field(1.0, gt=0, le=1000, title="current at which the surface lag is given")
    transfer_share: float = Field(0.0, ge=0, le=1, title="share of charge transfer in R₀ at the one-hour current")
    exchange_a: float = Field(1.0, gt=0, le=1000, title="exchange current")
    resistance_activation_j_mol: float = Field(title="activation energy of resistance")
    lag_activation_j_mol: float = Field(title="activation energy of the lag")
    heat_capacity_j_k: float | None = Field(None, gt=0, le=20000, title="heat capacity")
    residual_mv: float = Field(ge=0, title="residual of the fit")
    highest_current_a: float = Field(gt=0, title="highest current fitted", description="Held for a minute or more.")
    burst_a: float | None = Field(
        None, gt=0, title="highest burst fitted", description="Of five seconds. Empty: no more than was held."
    )
    coldest_c: float = Field(title="coldest cell fitted")
    warmest_c: float = Field(title="warmest cell fitted")
    lowest_soc: float = Field(0.0, ge=0, lt=1, title="lowest state of charge reached")
    capacity_given: bool = Field(False, title="capacity taken from the sheet")
    resistance_given: bool = Field(
        False, title="resistance taken from the sheet", description="No fast step of a current told it."
    )
    lag_given: bool = Field(
        False, title="lag taken from the class", description="No run at rate went down to the cut-off."
    )
    lifted_from_a: float = Field(0.0, ge=0, title="current of the run that gave the resting volts")
    warmth_told: bool = Field(False, title="runs began at different temperatures")
    curves: tuple[CurveResidual, ...] = Field((), max_length=200, title="curves it rests on")
    remarks: tuple[Notes, ...] = Field((), max_length=100, title="what the curves leave open")

    @model_validator(mode="after")
    def _tables(self) -> Self:
        _check_table("voltage", self.ocv_soc, self.ocv_v)
        _check_table("resistance", self.resistance_soc, self.resistance_mohm)
        return self
