"""Flights of the logbook with all that they are held against, so that they can be judged beside the window."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from threading import Lock

from wise_cellar.core.answer import Answer, answer, spread
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    CompleteDesign,
    DocumentError,
    FlightEntry,
    Mission,
    Recording,
)
from wise_cellar.core.flight.stopping import ask
from wise_cellar.core.logbook import log_of_rows
from wise_cellar.core.logbook.apart import Apart
from wise_cellar.core.logbook.entries import Fact, FlightSaid, Lesson, against_other, against_plan, held, lesson
from wise_cellar.core.logbook.life import FlightOfPack, PackLife, pack_life
from wise_cellar.core.logbook.taking import OF_CRAFT, OF_PACK, with_lesson
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.ui.state.memory import Memory

KNOWN = 60
"""Flights whose judgement is remembered, each with its log."""
MOST_TOGETHER, LATEST = 16, 4
"""Of the latest flights that teach together of a craft, as more would keep the window waiting; and of a pack, which
older ones know as younger than it is."""


@dataclass(frozen=True)
class Flown:
    """A flight of the logbook with the documents that it is held against."""

    entry: FlightEntry
    complete: CompleteDesign
    """The design that flew, with the built pack where one flew."""
    mission: Mission | None
    """The one that it was noted to be."""
    recording: Recording | None = None
    rows: Floats | None = field(default=None, compare=False, repr=False)
    """Of its log, (rows, 1 + channels), where it is not known yet what they say."""
    fact: Fact | None = field(default=None, compare=False, repr=False)
    """What they say, where that is known."""

    @property
    def of(self) -> tuple[object, ...]:
        """All that its judgement hangs on."""
        return self.entry, self.recording, self.mission, self.complete


class Facts:
    """Judges flights, and remembers them; pages ask from threads of their own."""

    def __init__(self) -> None:
        self._known, self._one_at_a_time = Memory(KNOWN), Lock()

    def known(self, flown: Flown) -> Fact | None:
        """What is known of a flight that was judged already."""
        with self._one_at_a_time:
            found: Fact | None = self._known.get(flown.of)
            return found

    def of(self, flown: Flown) -> Fact:
        """One flight; raises :class:`DocumentError`."""
        known = flown.fact or self.known(flown)
        if known is None:
            ask()
            log, recording = None, flown.recording
            if recording is not None and flown.rows is not None:
                log = log_of_rows(recording.quantities, flown.rows, flown.entry.name)
            known = held(flown.entry, flown.complete, log, flown.mission)
            with self._one_at_a_time:
                self._known.keep(flown.of, known)
        return known

    def those_told(self, flights: Iterable[Flown]) -> list[tuple[Flown, Fact]]:
        """Those of some flights that can be judged."""
        found = []
        for one in flights:
            try:
                found.append((one, self.of(one)))
            except DocumentError:
                continue
        return found


@dataclass(frozen=True)
class Shown:
    """One flight as it is shown."""

    flown: Flown
    fact: Fact
    parts: Apart
    """Over its plan."""
    beside: Apart | None
    """Over another flight."""


def show_one(facts: Facts, flown: Flown, other: Flown | None) -> Shown:
    """A flight over its plan, and over another one; raises :class:`DocumentError`."""
    fact = facts.of(flown)
    beside = None
    if other is not None:
        beside = against_other(facts.of(other), other.complete, fact, flown.complete)
    return Shown(flown, fact, against_plan(fact, flown.complete), beside)


@dataclass(frozen=True)
class Taught:
    """What flights teach of a craft and of a pack, and the range of a design before and with it."""

    of_craft: Lesson
    of_pack: Lesson
    before: Answer
    before_s: tuple[float, float]
    with_it: Answer | None
    with_it_s: tuple[float, float] | None

    def lesson(self, name: str) -> Lesson:
        """Where a value is told."""
        return self.of_pack if name in OF_PACK else self.of_craft


def teach(
    facts: Facts, flights: list[Flown], pack_flights: list[Flown], complete: CompleteDesign, day: date
) -> Taught:  # fmt: skip
    """What flights of a craft teach of it, and those with the design's pack of that. Raises :class:`DocumentError`."""
    of_craft = _together(facts, flights[-MOST_TOGETHER:], (*OF_CRAFT, "liveliness"))
    of_pack = _together(facts, [one for one in pack_flights if one.entry.teaches][-LATEST:], tuple(OF_PACK))
    before = answer(complete)
    before_s = spread(complete, before).duration_s
    taught = with_lesson(with_lesson(complete, of_craft, day), of_pack, day)
    if taught == complete:
        return Taught(of_craft, of_pack, before, before_s, None, None)
    after = answer(taught)
    return Taught(of_craft, of_pack, before, before_s, after, spread(taught, after).duration_s)


def _together(facts: Facts, flights: list[Flown], names: tuple[str, ...]) -> Lesson:
    told = facts.those_told(one for one in flights if one.entry.teaches)
    return lesson([FlightSaid(one.entry.id, one.entry.name, fact) for one, fact in told], names)


def live(
    facts: Facts, flights: list[Flown], pack: BuiltPack, cell_type: CellType
) -> PackLife:  # fmt: skip
    """The life of a pack by its flights."""
    told = facts.those_told(flights)
    return pack_life(pack, cell_type, [FlightOfPack(one.entry, fact) for one, fact in told])
