"""The sentence with gaps that a craft begins with: what was filled in, and what stays open."""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.begin.description import Description
from wise_cellar.core.begin.missions import OF_ROTORS, OF_WINGS, Purpose
from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.text import Identifier, Name
from wise_cellar.core.units import format_mah


class Carried(StrEnum):
    """What carries the craft."""

    ROTORS = "rotors"
    WING = "a wing"


class Arranged(StrEnum):
    """How the rotors stand."""

    SINGLE = "one on each arm"
    COAXIAL = "in coaxial pairs"
    DUCTED = "in ducts"


class Beginning(Document):
    """What was told of a craft so far; empty is open, and then usual for the size."""

    name: Name = Field("", title="name of the craft")
    carried: Carried | None = Field(None, title="carried by")
    rotor_count: int | None = Field(None, ge=1, le=16, title="number of rotors")
    arranged: Arranged | None = Field(None, title="how the rotors stand")
    propeller_mm: float | None = Field(None, ge=20, le=1500, title="propeller diameter")
    span_mm: float | None = Field(None, ge=200, le=12000, title="wing span")
    mass_g: float | None = Field(None, gt=5, le=200_000, title="mass of the craft")
    with_battery: bool = Field(False, title="with the battery in it")
    battery: Description | None = Field(None, title="battery flown now")
    flown_min: float | None = Field(None, gt=0.2, le=10_000, title="minutes it flies now")
    charge_mah: float | None = Field(None, gt=5, le=1_000_000, title="charge put back after it")
    purpose: Purpose | None = Field(None, title="what it is for")
    onto: Description | None = Field(None, title="battery wanted")
    onto_cell_id: Identifier = Field("", title="cell type wanted", description="Of those in the workspace.")

    @property
    def winged(self) -> bool:
        """Whether a wing carries it: as told, or because a span was."""
        return self.carried is Carried.WING or (self.carried is None and self.span_mm is not None)

    @property
    def filled(self) -> tuple[str, ...]:
        """Names of the gaps that are filled, in the order of the sentence."""
        return tuple(name for name in GAPS if getattr(self, name) not in (None, "", False))

    def only(self, names: tuple[str, ...]) -> Beginning:
        """The same with these gaps filled and all others open."""
        kept = {name: getattr(self, name) for name in names}
        if "mass_g" in names:
            kept["with_battery"] = self.with_battery
        if self.winged:
            kept["carried"] = Carried.WING
        return Beginning(**kept)

    @model_validator(mode="after")
    def _goes_together(self) -> Self:
        if self.purpose is not None and self.purpose not in (OF_WINGS if self.winged else OF_ROTORS):
            carried = "a wing" if self.winged else "rotors"
            raise ValueError(f"A craft on {carried} is not for {self.purpose}; choose another purpose.")
        if self.winged and self.arranged is not None:
            raise ValueError("Propellers that pull a wing do not stand in pairs or ducts here; leave that open.")
        if self.arranged is Arranged.COAXIAL and (self.rotor_count or 8) % 2:
            raise ValueError(f"{self.rotor_count} rotors do not make coaxial pairs; an even number does.")
        if self.onto is not None and self.onto_cell_id:
            raise ValueError("Name a battery or choose a cell type, not both.")
        told = self.battery.battery_mah if self.battery is not None else None
        if told is not None and self.charge_mah is not None and self.charge_mah > MOST_PUT_BACK * told:
            raise ValueError(
                f"{format_mah(self.charge_mah)} were put back into a battery of {format_mah(told)}. Correct one."
            )
        return self


GAPS = (
    "name", "carried", "rotor_count", "arranged", "propeller_mm", "span_mm", "mass_g", "battery", "flown_min",
    "charge_mah", "purpose", "onto", "onto_cell_id",
)  # fmt: skip
"""In the order of the sentence."""
MOST_PUT_BACK = 1.15
"""No battery takes more than its label, a generous one's included."""
