"""What flights taught: a value with its doubt, the flights it is from, and what stood there before."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.documents.text import Name
from wise_cellar.core.units import counted

MOST_FLIGHTS = 200


class LearnedOf(StrEnum):
    """Of what."""

    POWER = "power"
    DRAG = "drag"
    CAPACITY = "capacity"
    RESISTANCE = "resistance"
    COOLING = "cooling"
    LAG = "lag"


class LearnedValue(Document):
    """One value that flights taught; it holds as long as nobody puts another in its place."""

    of: LearnedOf = Field(title="of what")
    value: float = Field(
        gt=0, le=1e6, title="learned value",
        description="Times what the law says; of drag m², of capacity and resistance % of new.",
    )  # fmt: skip
    doubt_percent: float = Field(gt=0, le=100, title="doubt", description="One standard deviation.")
    before: float | None = Field(None, gt=0, le=1e6, title="value before", description="Empty: an estimate.")
    flights: tuple[Name, ...] = Field((), max_length=MOST_FLIGHTS, title="taught by")
    learned_on: Day = Field(title="learned on")

    @property
    def words(self) -> str:
        """What it rests on."""
        return f"{counted(len(self.flights), 'flight')} of the logbook"


class SensorFact(Document):
    """How far a craft's own sensors are off, as flights told it: it is taken out of its logs."""

    amps_scale: float = Field(1, ge=0.5, le=2, title="scale of the current sensor", description="Told over flowing.")
    amps_offset_a: float = Field(0, ge=-50, le=50, title="offset of the current sensor")
    amps_doubt_percent: float = Field(1, gt=0, le=50, title="doubt of its scale", description="One standard deviation.")
    volts_offset_v: float = Field(0, ge=-5, le=5, title="offset of the voltage sensor", description="Of the pack.")
    flights: tuple[Name, ...] = Field((), max_length=MOST_FLIGHTS, title="told by")
