"""What instruments sent, kept as it came: channels with their units, and a series that grows by parts."""

from __future__ import annotations

from enum import StrEnum
from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.provenance import Moment
from wise_cellar.core.documents.text import Identifier, Name

MOST_STEPS = 2000


class RecordingKind(StrEnum):
    """What was recorded."""

    DISCHARGE = "discharge"
    CHARGE = "charge"
    BENCH = "bench run"
    FLIGHT = "flight"


class RecordedChannel(Document):
    """One column of a recording, after the time."""

    quantity: Name = Field(min_length=1, max_length=20, title="quantity")
    unit: Name = Field(min_length=1, max_length=10, title="unit")


class RunStep(Document):
    """A stretch of a bench run: a current, a power or a throttle that is held; none of them where it rests."""

    seconds: float = Field(gt=0, le=86400, title="duration")
    amps: float | None = Field(None, gt=0, le=5000, title="held current", description="Of all that is on the load.")
    watts: float | None = Field(None, gt=0, le=100000, title="held power", description="Of all that is on the load.")
    throttle_percent: float | None = Field(None, gt=0, le=100, title="throttle")
    name: Name = Field("", max_length=60, title="name")

    @model_validator(mode="after")
    def _one_thing(self) -> Self:
        if sum(value is not None for value in (self.amps, self.watts, self.throttle_percent)) > 1:
            raise ValueError("A step holds a current, a power or a throttle: one of them.")
        return self

    @property
    def rests(self) -> bool:
        """Whether nothing is drawn."""
        return self.amps is None and self.watts is None and self.throttle_percent is None


class Recording(Document):
    """What is recorded, or was. Its rows are seconds since it began and a number a channel, not a number where none
    came; they stand in a series that grows. A row of no numbers marks a gap."""

    schema_version: int = Field(3, ge=1, le=3, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data", description="Invented for the sample world.")
    kind: RecordingKind = Field(RecordingKind.DISCHARGE, title="kind")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    design_id: Identifier = Field("", title="design", description="That it was held against; empty of one cell alone.")
    series_count: int = Field(1, ge=1, le=400, title="cells in series")
    parallel_count: int = Field(1, ge=1, le=400, title="cells in parallel")
    device: Name = Field("", title="device", description="The profile that it talks by.")
    channels: tuple[RecordedChannel, ...] = Field(min_length=1, max_length=64, title="channels")
    series_key: Identifier = Field(min_length=1, title="series")
    begun_at: Moment = Field(title="begun at")
    amps: float = Field(ge=0, le=5000, title="current that was asked for")
    least_v: float = Field(ge=0, le=2000, title="ends at volts", description="Of a charge: that are held.")
    returned_mah: float | None = Field(
        None, gt=0, le=10_000_000, title="charge put back", description="By the charger, after all of it."
    )
    ended: Name = Field("", title="ended because", description="Empty: it was cut off.")
    steps: tuple[RunStep, ...] = Field((), max_length=MOST_STEPS, title="schedule")

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 knew discharges of single cells alone, version 2 no samples."""
        return as_version(data, 3)

    @property
    def series_keys(self) -> tuple[str, ...]:
        """Its rows."""
        return (self.series_key,)

    @property
    def quantities(self) -> list[str]:
        """Of its channels, in the order of its columns after the time."""
        return [channel.quantity for channel in self.channels]
