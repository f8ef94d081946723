"""What instruments sent, kept as it came: channels with their units, and a series that grows by parts."""

from __future__ import annotations

from pydantic import Field

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.provenance import Moment
from wise_cellar.core.documents.text import Identifier, Name


class RecordedChannel(Document):
    """One column of a recording, after the time."""

    quantity: Name = Field(min_length=1, max_length=20, title="quantity")
    unit: Name = Field(min_length=1, max_length=10, title="unit")


class Recording(Document):
    """A discharge that is recorded, or was. Its rows are seconds since it began and a number a channel, not a number
    where none came; they stand in a series that grows."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    device: Name = Field("", title="device", description="The profile that it talks by.")
    channels: tuple[RecordedChannel, ...] = Field(min_length=1, max_length=64, title="channels")
    series_key: Identifier = Field(min_length=1, title="series")
    begun_at: Moment = Field(title="begun at")
    amps: float = Field(gt=0, le=1000, title="current that was asked for")
    least_v: float = Field(ge=0, le=100, title="ends at volts")
    ended: Name = Field("", title="ended because", description="Empty: it was cut off.")

    @property
    def series_keys(self) -> tuple[str, ...]:
        """Its rows."""
        return (self.series_key,)
