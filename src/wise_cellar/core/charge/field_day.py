"""A day in the field: which set of packs to fly and to charge when, for the most minutes in the air.

One craft is in the air at a time. After a flight every pack of its set cools, is charged by itself on a charger of its
own, cools again where it must, and the set is ready once all of its packs are. The order of flying (which kind of set
goes first when several are ready) and of charging (which pack waits) are tried out, and the best day is kept; that is
the best of the orders tried, not a proof.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import permutations

import numpy as np

from wise_cellar.core.answer import Answer, Finding, Severity
from wise_cellar.core.charge.allowed import cooling_s
from wise_cellar.core.charge.plan import about, planned
from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import ChargeGoal, Charger, ChargeWish, CompleteDesign, FieldDay
from wise_cellar.core.units import counted, format_number, format_significant
from wise_cellar.core.words import lower_first

MOST_PERMUTED = 4
"""Kinds of set whose every order is tried; of more only those that begin with one of them."""
READY_C = 40.0


class Doing(StrEnum):
    """What a set, or one of its packs, does."""

    FLY = "flies"
    COOL = "cools"
    WARM = "warms up"
    WAIT = "waits for a charger"
    CHARGE = "is charged"
    READY = "is ready"


class ChargeFirst(StrEnum):
    """Which of the waiting packs goes on a free charger."""

    LONGEST_WAITING = "the one that waits longest"
    QUICKEST = "the one that is full soonest"
    MOST_MINUTES = "the one that brings most minutes"


@dataclass(frozen=True)
class PackTurn:
    """What one pack of a set needs between two flights."""

    name: str
    cool_s: float
    """Until it may be charged: cooling, or warming."""
    charge_s: float
    rest_s: float
    """Cooling after the charge."""
    supply_wh: float
    warming: bool = False
    refused: str = ""
    """Why nothing is charged, a sentence."""


@dataclass(frozen=True)
class SetKind:
    """All that goes up in one flight of one design, and how many of it there are."""

    name: str
    count: int
    flight_s: float
    packs: tuple[PackTurn, ...]
    cautions: tuple[Finding, ...] = ()
    """Of charging them."""

    @property
    def charger_s(self) -> float:
        """Charger time that one flight costs."""
        return sum(pack.charge_s for pack in self.packs)


@dataclass(frozen=True)
class Entry:
    """One line of the timetable; times in seconds from the start of the day."""

    start_s: float
    end_s: float
    doing: Doing
    set_name: str
    pack: str = ""
    charger: int = 0
    """Counted from 1; 0 where none is used."""


@dataclass(frozen=True)
class Timetable:
    """The day."""

    entries: tuple[Entry, ...]
    """In order of their start."""
    day_s: float
    flights: int
    air_s: float
    fly_first: tuple[str, ...]
    charge_first: ChargeFirst
    supply_wh: float
    """Drawn from the supply in all."""
    short: str = ""
    """What ran out, in a sentence; empty where nothing did."""
    cautions: tuple[Finding, ...] = ()
    """Of charging all sets, each once, the gravest first."""

    @property
    def flights_words(self) -> str:
        """ "7 flights"."""
        return counted(self.flights, "flight")

    @property
    def sets(self) -> list[str]:
        """Every set that does something, by name."""
        return sorted({entry.set_name for entry in self.entries})

    def sentences(self) -> list[str]:
        """The day in words."""
        words = [
            f"{self.flights_words} and {about(self.air_s)} in the air in {format_significant(self.day_s / 3600, 3)} h."
        ]
        if len(self.fly_first) > 1:
            words.append(f"Where several are ready, fly {', then '.join(self.fly_first)}.")
        words.append(
            f"On a free charger goes {self.charge_first}; {format_number(self.supply_wh, 0)} Wh are drawn from"
            " the supply."
        )
        return [*words, self.short] if self.short else words


def set_kind(
    name: str, count: int, complete: CompleteDesign, answer: Answer, charger: Charger,
    most_c_rate: float | None = None, place_c: float | None = None,
) -> SetKind:  # fmt: skip
    """What one set of a design gives and needs: its flight as answered, its packs' cooling and charging.

    ``most_c_rate`` is the user's own limit, current over capacity; none: 1C. ``place_c`` is the temperature where it is
    charged, °C; none: the air of the flight.
    """
    air = complete.design.conditions.air_temperature_c if place_c is None else place_c
    full_v = answer.bus_start.lower_full_v if answer.bus_start is not None else complete.pack.cell.max_voltage_v
    wish = ChargeWish(goal=ChargeGoal.FULL, temperature_c=air, most_c_rate=most_c_rate)
    turns: list[PackTurn] = []
    cautions: list[Finding] = []
    for pack in answer.packs:
        warm = float(pack.series.temperature_c[-1])
        plan = planned(pack.complete, pack.build, charger, wish, pack.charge_left, warm, full_v, len(answer.packs))
        cautions += plan.cautions
        after = float(plan.charged.temperature_c[-1])
        turns.append(
            PackTurn(
                pack.complete.name,
                plan.wait_s,
                plan.charged.seconds if plan.charged.done and not plan.refused else math.inf,
                cooling_s(pack.complete, pack.build, after, READY_C, air),
                plan.supply_wh,
                plan.warming,
                plan.refused,
            )
        )
    return SetKind(name, count, answer.duration_s, tuple(turns), tuple(cautions))


def field_day(kinds: Sequence[SetKind], day: FieldDay, charger: Charger) -> Timetable:
    """The best of the days that are tried."""
    best: Timetable | None = None
    for order in _orders(kinds):
        for rule in ChargeFirst:
            tried = _Day(kinds, order, rule, day, charger).lived()
            if best is None or tried.air_s > best.air_s + 1.0:
                best = tried
    assert best is not None
    return best


def _orders(kinds: Sequence[SetKind]) -> list[tuple[int, ...]]:
    places = tuple(range(len(kinds)))
    if len(kinds) <= MOST_PERMUTED:
        return list(permutations(places))
    by_minutes = tuple(sorted(places, key=lambda place: -kinds[place].flight_s))
    return [(first, *(place for place in by_minutes if place != first)) for first in by_minutes]


@dataclass(eq=False)
class _Set:
    """One set as the day goes on."""

    kind: int
    name: str
    ready_s: float = 0.0
    waiting: int = 0
    """Packs that are not full yet."""


@dataclass(eq=False)
class _Job:
    """One pack that wants a charger."""

    free_s: float
    owner: _Set
    turn: PackTurn


class _Day:
    """One day, lived through with one order of flying and one of charging."""

    def __init__(
        self, kinds: Sequence[SetKind], order: tuple[int, ...], rule: ChargeFirst, day: FieldDay, charger: Charger
    ) -> None:
        self.kinds, self.order, self.rule, self.charger = kinds, order, rule, charger
        self.day_s, self.turnaround_s = day.length_h * 3600, day.turnaround_min * 60
        self.sets = [
            _Set(place, f"{kind.name} {number}" if kind.count > 1 else kind.name)
            for place, kind in enumerate(kinds)
            for number in range(1, kind.count + 1)
        ]
        self.jobs: list[_Job] = []
        self.chargers = [0.0] * charger.count
        self.supply_wh = 0.0
        self.pilot_s = 0.0
        self.entries: list[Entry] = []
        self.flights, self.air_s, self.short = 0, 0.0, ""

    def lived(self) -> Timetable:
        """From morning to evening."""
        now = 0.0
        while now < self.day_s:
            self._charge(now)
            if self._fly(now):
                continue
            later = [time for time in self._times() if time > now + 1e-6]
            if not later:
                break
            now = min(later)
        entries = sorted(self.entries, key=lambda entry: (entry.start_s, entry.set_name, entry.pack))
        names = tuple(self.kinds[place].name for place in self.order)
        return Timetable(
            tuple(entries), self.day_s, self.flights, self.air_s, names, self.rule, self.supply_wh, self.short,
            _each_once([caution for kind in self.kinds for caution in kind.cautions]),
        )  # fmt: skip

    def _times(self) -> list[float]:
        """Moments at which something may begin."""
        return [
            *(one.ready_s for one in self.sets if not one.waiting),
            *(job.free_s for job in self.jobs),
            *self.chargers,
            self.pilot_s,
        ]

    def _fly(self, now: float) -> bool:
        """Send up the first ready set, if the pilot is free and it comes down before the day is over."""
        if now < self.pilot_s - 1e-6:
            return False
        ready = [one for one in self.sets if not one.waiting and one.ready_s <= now + 1e-6]
        ready = [one for one in ready if 0 < self.kinds[one.kind].flight_s <= self.day_s - now]
        if not ready:
            return False
        one = min(ready, key=lambda each: (self.order.index(each.kind), each.ready_s, each.name))
        kind = self.kinds[one.kind]
        if now > one.ready_s + 1.0:
            self.entries.append(Entry(one.ready_s, now, Doing.READY, one.name))
        landed = now + kind.flight_s
        self.entries.append(Entry(now, landed, Doing.FLY, one.name))
        self.flights, self.air_s = self.flights + 1, self.air_s + kind.flight_s
        self.pilot_s, one.waiting = landed + self.turnaround_s, len(kind.packs)
        one.ready_s = landed
        for turn in kind.packs:
            if 1.0 < turn.cool_s < math.inf:
                doing = Doing.WARM if turn.warming else Doing.COOL
                self.entries.append(Entry(landed, landed + turn.cool_s, doing, one.name, turn.name))
            job = _Job(landed + turn.cool_s, one, turn)
            if math.isfinite(job.free_s + turn.charge_s):
                self.jobs.append(job)
            else:
                why = turn.refused or "It neither cools nor fills."
                self.short = f"{one.name}: the {lower_first(turn.name)} cannot be charged here. {why}"
        return True

    def _charge(self, now: float) -> None:
        """Put waiting packs on free chargers."""
        while True:
            free = [place for place, until in enumerate(self.chargers) if until <= now + 1e-6]
            waiting = [job for job in self.jobs if job.free_s <= now + 1e-6 and self._can(job)]
            if not free or not waiting:
                return
            job = min(waiting, key=self._urgency)
            self.jobs.remove(job)
            if now > job.free_s + 1.0:
                self.entries.append(Entry(job.free_s, now, Doing.WAIT, job.owner.name, job.turn.name))
            full = now + job.turn.charge_s
            self.chargers[free[0]] = full
            self.entries.append(Entry(now, full, Doing.CHARGE, job.owner.name, job.turn.name, free[0] + 1))
            if job.turn.rest_s > 1.0:
                self.entries.append(Entry(full, full + job.turn.rest_s, Doing.COOL, job.owner.name, job.turn.name))
            self.supply_wh += job.turn.supply_wh
            job.owner.waiting -= 1
            job.owner.ready_s = max(job.owner.ready_s, full + job.turn.rest_s)

    def _can(self, job: _Job) -> bool:
        """Whether the supply has enough for it; else the day goes on without it, and says so."""
        if self.charger.supply_wh is not None and self.supply_wh + job.turn.supply_wh > self.charger.supply_wh:
            self.short = (
                f"The supply's {format_number(self.charger.supply_wh, 0)} Wh are used up: {job.owner.name} wants"
                f" {format_number(job.turn.supply_wh, 0)} Wh more than is left of them."
            )
            return False
        return True

    def _urgency(self, job: _Job) -> tuple[float, float]:
        kind = self.kinds[job.owner.kind]
        if self.rule is ChargeFirst.QUICKEST:
            return job.turn.charge_s, job.free_s
        if self.rule is ChargeFirst.MOST_MINUTES:
            return -kind.flight_s / max(kind.charger_s, 1.0), job.free_s
        return job.free_s, job.turn.charge_s


def _each_once(cautions: Sequence[Finding]) -> tuple[Finding, ...]:
    """Those that say the same once, the gravest first."""
    by_sentence = {caution.sentence: caution for caution in cautions}
    return tuple(sorted(by_sentence.values(), key=lambda caution: caution.severity is not Severity.OVER))


def timetable_csv(table: Timetable) -> str:
    """The timetable as a table with one head line; times as hours and minutes from the start."""
    rows: list[Sequence[object]] = [["start", "end", "minutes", "set", "pack", "what", "charger"]]
    for entry in table.entries:
        minutes = f"{(entry.end_s - entry.start_s) / 60:.1f}"
        rows.append(
            [clock(entry.start_s), clock(entry.end_s), minutes, entry.set_name, entry.pack, str(entry.doing),
             entry.charger or ""]
        )  # fmt: skip
    return csv_text(rows)


def clock(seconds: float) -> str:
    """ "2:05" from the start of the day."""
    minutes = round(seconds / 60) if np.isfinite(seconds) else 0
    return f"{minutes // 60}:{minutes % 60:02d}"
