"""Chargers at hand, what is wanted of one pack, and a day of flying and charging with several."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.text import Identifier

MOST_SETS = 6


class ChargeGoal(StrEnum):
    """What a charge is for."""

    FULL = "full, to fly"
    STORAGE = "storage"


class ChargeFrom(StrEnum):
    """Where a charge begins."""

    LANDING = "as it lands"
    GIVEN = "a given charge"
    FOUND = "volts as found"


class Charger(Document):
    """Chargers of one kind, and what feeds them."""

    count: int = Field(1, ge=1, le=8, title="packs charged at once", description="Each on a charger of its own.")
    current_a: float = Field(6, gt=0, le=100, title="most charger current")
    power_w: float = Field(80, gt=0, le=3000, title="charger power", description="Of each, into the pack.")
    efficiency: float = Field(0.85, ge=0.3, le=1, title="efficiency of the charger")
    balance_a: float = Field(0.3, gt=0, le=5, title="balancing current")
    discharge_w: float = Field(8, gt=0, le=500, title="discharging power", description="To bring a pack to storage.")
    supply_wh: float | None = Field(
        None, gt=0, le=100000, title="energy at hand", description="Of a supply in the field. Empty: no end to it."
    )


class ChargeWish(Document):
    """What is to be charged, from where, and how fast at the most."""

    pack: int = Field(0, ge=0, le=4, title="pack to charge", description="The recipe's is the first.")
    goal: ChargeGoal = Field(ChargeGoal.FULL, title="charge for")
    start: ChargeFrom = Field(ChargeFrom.LANDING, title="charge from")
    start_percent: float = Field(20, ge=0, le=100, title="charge at the start")
    found_v: float = Field(
        3.6, ge=0, le=5, title="volts a cell as found", description="At rest, of the lowest group, measured by hand."
    )
    temperature_c: float = Field(
        20, ge=-40, le=60, title="temperature there", description="Of the pack and the air while it is charged."
    )
    most_c_rate: float | None = Field(
        None, gt=0, le=10, title="no faster than", description="Current over capacity. Empty: 1C, the usual most."
    )
    first_charge: bool = Field(False, title="first charge after building")


class DaySet(Document):
    """Sets of packs for one design: all that goes up in one flight."""

    design_id: Identifier = Field("", title="design of the set", description="Empty: the present one.")
    count: int = Field(1, ge=1, le=20, title="how many sets")


class FieldDay(Document):
    """A day in the field with one craft in the air at a time."""

    length_h: float = Field(6, gt=0.1, le=24, title="duration of the day")
    turnaround_min: float = Field(
        5, ge=0, le=120, title="between two flights", description="Swapping packs, checks, a note in the log."
    )
    place_temperature_c: float | None = Field(
        None, ge=-40, le=60, title="air at the chargers", description="Empty: the air of the flights."
    )
    sets: tuple[DaySet, ...] = Field((DaySet(),), min_length=1, max_length=MOST_SETS, title="sets of packs")
