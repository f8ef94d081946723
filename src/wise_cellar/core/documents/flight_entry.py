"""A flight as it stands in the logbook: what was noted of it, by hand or beside a log; what nobody noted is empty."""

from __future__ import annotations

import itertools
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.conditions import Conditions
from wise_cellar.core.documents.pack import PackState
from wise_cellar.core.documents.provenance import Moment
from wise_cellar.core.documents.text import Identifier, Name, Notes

MOST_EDGES = 400


class PhaseEdge(Document):
    """Where a phase begins, and what it is, as somebody put it right."""

    from_s: float = Field(ge=0, le=1e7, title="phase begins at")
    kind: Name = Field(min_length=1, max_length=20, title="kind of phase")


class FlightEntry(Document):
    """One flight. Its craft flew as the design has it but for what is noted here."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, max_length=60, title="name of the flight")
    sample: bool = Field(False, title="sample data", description="Invented for the sample world.")
    flown_at: Moment = Field(title="flown at", description="By the clock of the place.")
    design_id: Identifier = Field(min_length=1, title="design that flew")
    pack_id: Identifier = Field("", title="built pack that flew", description="Empty: none that has a name.")
    mission_id: Identifier = Field("", title="flown as", description="Empty: as its log, or the design.")
    place: Name = Field("", max_length=60, title="place")
    recording_id: Identifier = Field("", title="log", description="Empty: written down by hand.")
    of_log: int = Field(1, ge=1, le=100, title="number in the log", description="Of several flights in one.")
    duration_min: float | None = Field(None, gt=0, le=100000, title="minutes flown")
    used_mah: float | None = Field(None, gt=0, le=10_000_000, title="charge used", description="By its counter.")
    returned_mah: float | None = Field(
        None, gt=0, le=10_000_000, title="charge put back", description="By the charger, after all of it."
    )
    landing_v: float | None = Field(None, gt=2, le=1000, title="volts at landing", description="Under load.")
    resting_v: float | None = Field(
        None, gt=2, le=1000, title="volts at rest", description="Of the pack, an hour after landing or more."
    )
    start_charge_percent: float = Field(100, gt=0, le=100, title="charge at take-off")
    pack_temperature_c: float | None = Field(
        None, ge=-30, le=55, title="pack temperature at start", description="Empty: as the design has it."
    )
    air_temperature_c: float | None = Field(None, ge=-40, le=60, title="air temperature of that day")
    wind_m_s: float | None = Field(None, ge=0, le=30, title="wind of that day")
    altitude_m: float | None = Field(None, ge=-400, le=6000, title="altitude of the place")
    edges: tuple[PhaseEdge, ...] = Field(
        (), max_length=MOST_EDGES, title="phases", description="As put right. Empty: as they are found."
    )
    teaches: bool = Field(True, title="counts in what is learned")
    note: Notes = Field("", title="note")

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        starts = [edge.from_s for edge in self.edges]
        if any(later <= earlier for earlier, later in itertools.pairwise(starts)):
            raise ValueError("Each phase begins after the one before it.")
        if self.landing_v is not None and self.resting_v is not None and self.resting_v < self.landing_v - 0.05:
            raise ValueError(
                f"At rest {self.name} has fewer volts than at landing under load; volts rise when a pack rests. Are"
                " they the wrong way round?"
            )
        return self

    def conditions(self, planned: Conditions) -> Conditions:
        """The weather of the day, as far as it was noted."""
        noted = {name: getattr(self, name) for name in ("air_temperature_c", "wind_m_s", "altitude_m")}
        return planned.changed(**{name: value for name, value in noted.items() if value is not None})

    def state(self, planned: PackState) -> PackState:
        """The pack at take-off."""
        warm = planned.temperature_c if self.pack_temperature_c is None else self.pack_temperature_c
        return planned.changed(start_charge_percent=self.start_charge_percent, temperature_c=warm)
