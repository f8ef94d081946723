"""A flight of the logbook held against its design: by its log where there is one, else by its notes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import CompleteDesign, FlightEntry, Mission
from wise_cellar.core.logbook.apart import Apart, Setting, apart
from wise_cellar.core.logbook.evidence import Together, merged, together
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.logbook.learning import BEFORE, Learned, learned_of
from wise_cellar.core.logbook.noted import NotedFlight, flown_on, noted_flight, refuse_what_cannot_be
from wise_cellar.core.logbook.reflown import LEAST_SAY, FlownFlight, Noted, flown_flight
from wise_cellar.core.physics.arrays import Floats

Fact = FlownFlight | NotedFlight


def on_that_day(entry: FlightEntry, complete: CompleteDesign, mission: Mission | None = None) -> CompleteDesign:
    """The design in the weather and with the pack of a flight; ``mission``: the one that was flown."""
    design, first = complete.design, complete.design.packs[0]
    day = complete.with_design(
        conditions=entry.conditions(design.conditions), packs=(first.changed(state=entry.state(first.state)),
                                                               *design.packs[1:]),
    )  # fmt: skip
    return day if mission is None else day.changed(mission=mission.changed(id=complete.mission.id))


def held(entry: FlightEntry, complete: CompleteDesign, log: FlightLog | None, mission: Mission | None = None) -> Fact:
    """A flight against its design; ``mission`` is the one it was noted to be. Raises :class:`DocumentError`."""
    day = on_that_day(entry, complete, mission)
    refuse_what_cannot_be(entry, day)
    if log is None:
        return noted_flight(entry, day)
    return flown_flight(log, day, Noted(entry.returned_mah, entry.of_log - 1, complete.craft.sensor, entry.edges))


def share_of(fact: Fact, name: str) -> float:
    """What a flight told of one value, as a share; 1 where it did not."""
    return next((one.share for one in fact.learned if one.name == name and one.can_be and one.told), 1.0)


def setting_of(fact: Fact, planned: CompleteDesign) -> Setting:
    """All that a flight's minutes hang on, with the landing rule of the plan."""
    complete = fact.flies.changed(mission=flown_on(fact.flies.mission)).with_design(landing=planned.design.landing)
    power = share_of(fact, "power")
    sensor = fact.sensor if isinstance(fact, FlownFlight) else None
    off = sensor is not None and abs(sensor.scale - 1) > 2 * sensor.scale_doubt
    scale = sensor.scale if sensor is not None and off else 1.0
    return Setting(complete, power * scale, power, share_of(fact, "capacity"), share_of(fact, "resistance"),
                   fact.drawn_mah)  # fmt: skip


def against_plan(fact: Fact, planned: CompleteDesign) -> Apart:
    """The minutes of a flight over those of its plan, told apart."""
    first = Setting(planned.changed(mission=flown_on(planned.mission)))
    return apart(first, setting_of(fact, planned), None, fact.seconds)


def against_other(one: Fact, planned: CompleteDesign, other: Fact, other_planned: CompleteDesign) -> Apart:
    """The minutes of the other flight over those of one, told apart: what was not alike, and what is left."""
    return apart(setting_of(one, planned), setting_of(other, other_planned), one.seconds, other.seconds)


@dataclass(frozen=True)
class FlightSaid:
    """A flight that teaches, by its name."""

    id: str
    name: str
    fact: Fact


@dataclass(frozen=True)
class Lesson:
    """What several flights teach together."""

    learned: tuple[Learned, ...]
    flights: tuple[str, ...]
    """Names of those that said anything."""
    weights: tuple[float, ...]
    """Of each of them: 1, less for one that disagrees."""

    def of(self, name: str) -> Learned | None:
        """One value; none where no flight said anything of it."""
        return next((one for one in self.learned if one.name == name), None)

    @property
    def odd(self) -> tuple[str, ...]:
        """Flights that hardly count, as they disagree with the others."""
        return tuple(name for name, weight in zip(self.flights, self.weights, strict=True) if weight < ODD)


ODD = 0.35


def lesson(flights: Sequence[FlightSaid], names: Sequence[str], before: Mapping[str, float] = BEFORE) -> Lesson:
    """What flights teach of some values together; those that no flight speaks of are left out, as are flights that
    speak of none of them. Of whatever else they speak, such as packs that were several, each speaks for itself."""
    mine = {name: before[name] for name in names}
    said = [(flight, merged(flight.fact.said).alone(names, before)) for flight in flights if flight.fact.said]
    said = [(flight, one) for flight, one in said if np.diag(one.information).any()]
    found: Together = together([evidence for _, evidence in said], mine)
    spoken: Floats = sum((np.diag(one.information) for _, one in said), np.zeros(len(names)))
    open_ = {name for name, much in zip(names, spoken, strict=True) if much * before[name] ** 2 > LEAST_SAY}
    return Lesson(
        learned_of(found, {name: before[name] for name in names if name in open_}),
        tuple(flight.name for flight, _ in said), tuple(found.weights.tolist()),
    )  # fmt: skip
