"""A pack's life: what it held and resisted, flight by flight and reading by reading, where that leads, and a verdict.

Each flight speaks for itself here, with next to nothing taken for known before it, so that a trend is no echo of what
was thought. The trend is a straight line over time by weighted least squares, those that disagree counting less
(Cauchy's weights, as in `evidence.py`). Source: ours; cells are usually called worn at 80 % of new, IEC 61960-3 ends a
cycle test at 60 %. Not modelled: the bend with which cells end when they are older than that.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.build.finished import cells_mohm, charge_of, group_capacities
from wise_cellar.core.cells import capacity_mah
from wise_cellar.core.documents import BuiltPack, CellType, FlightEntry, LandingPolicy, PackCharge, PackCheck
from wise_cellar.core.documents.mission import THRESHOLDS_V
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.logbook.entries import Fact
from wise_cellar.core.logbook.evidence import CAUCHY, merged, together
from wise_cellar.core.logbook.groups import LEAST_USED, groups_between
from wise_cellar.core.logbook.learning import BEFORE
from wise_cellar.core.logbook.reflown import FlownFlight
from wise_cellar.core.logbook.sensors import COULOMBIC
from wise_cellar.core.pack import build_pack
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import counted, format_celsius, format_mah, format_number, format_share

OPEN = BEFORE | {"capacity": 0.5, "resistance": 1.0}
"""Doubts before a flight where it is to speak for itself."""
MOST_DOUBT = {"capacity": 0.15, "resistance": 0.5}
"""A flight that tells no better than this is no point of a trend."""
CHECK_DOUBT_OHM = 0.05
"""Of a meter's reading of a pack's resistance, share of one."""
LEAST_POINTS, SHARED = 3, 0.015
"""Points that make a trend; and what all of them may be off alike, as the model is, share of one."""
WORN, SPENT = 0.80, 0.60
"""Of new: flown gently, and not flown any more."""
RESISTS, RESISTS_TOO_MUCH = 1.5, 2.5
USUAL_LOSS, USUAL_RISE = 0.2, 0.5
"""A year, one standard deviation: an estimate for packs that fly every week."""
BEHIND, FAR_BEHIND = 0.04, 0.15
"""A group under the middle of the others, share of what they hold."""
HOT_C = 45.0
LOSES_MAH_DAY = 0.003
"""Of the label, a day at rest: a sound cell loses a tenth of that."""
LEAST_DAYS = 3
FARTHEST_DAYS = 3650


@dataclass(frozen=True)
class LifePoint:
    """What was told of a pack on a day."""

    day: Day
    share: float
    """Of new."""
    doubt: float
    """One standard deviation."""
    by: str


@dataclass(frozen=True)
class Trend:
    """A line through points: what it was when it last told, how it changes, and when it is at a level."""

    day: Day
    """Of the last point."""
    now: float
    """Then."""
    now_doubt: float
    a_year: float
    """Change, share of new."""
    a_year_doubt: float
    worn_on: Day | None
    worn_between: tuple[Day, Day] | None
    """At the slope a doubt steeper, and a doubt flatter; none where a flatter one would not get there."""

    @property
    def falls(self) -> bool:
        """Whether it changes by more than its doubt."""
        return abs(self.a_year) > self.a_year_doubt


@dataclass(frozen=True)
class Hours:
    """What a pack went through."""

    flights: int
    cycles: float
    """Charge drawn over the label."""
    deep: int
    """Landings deeper than the deepest ready rule."""
    hot_s: float
    """Over :data:`HOT_C`, s."""
    under_s: float
    """With a cell under its minimum by the pack's volts, s."""


@dataclass(frozen=True)
class PackLife:
    """All of it."""

    capacity: tuple[LifePoint, ...]
    resistance: tuple[LifePoint, ...]
    capacity_trend: Trend | None
    resistance_trend: Trend | None
    hours: Hours
    weak_group: int | None
    """Counted from 1, the negative end."""
    loses_mah_day: float | None
    """The group that loses most."""
    verdict: str
    reasons: tuple[str, ...]


@dataclass(frozen=True)
class FlightOfPack:
    """A flight of a pack."""

    entry: FlightEntry
    fact: Fact


def pack_life(
    pack: BuiltPack, cell_type: CellType, flights: Sequence[FlightOfPack]
) -> PackLife:  # fmt: skip
    """The life of a pack by its flights and readings."""
    capacity, resistance = _of_flights(flights)
    checks = sorted(pack.checks, key=lambda one: one.day)
    new_mah = pack.recipe.parallel_count * capacity_mah(cell_type)
    wiring = 1e3 * build_pack(pack.recipe, cell_type).wiring_ohm
    for check in checks:
        read = group_capacities(cell_type, check)
        if read is not None:
            capacity.append(
                LifePoint(check.day, float(read[0].mean()) / new_mah, float(read[1].mean()) / new_mah, check.name)
            )
        if check.resistance_mohm is not None:
            mine = (check.resistance_mohm - wiring) / cells_mohm(pack.recipe, cell_type, check.temperature_c)
            resistance.append(LifePoint(check.day, mine, CHECK_DOUBT_OHM * max(mine, 0.5), check.name))
    for charge in pack.charges:
        point = _of_charge(cell_type, charge, new_mah)
        capacity += [] if point is None else [point]
    capacity.sort(key=lambda one: one.day)
    resistance.sort(key=lambda one: one.day)
    trends = [trend_of(capacity, WORN, USUAL_LOSS), trend_of(resistance, RESISTS, USUAL_RISE)]
    weak, by = _weak_group(cell_type, checks, flights, pack.charges)
    hours = _hours(pack, cell_type, flights)
    loses = _loses(cell_type, checks, [one.entry for one in flights], pack.recipe.parallel_count)
    verdict, reasons = _judge(pack, trends[0], trends[1], (weak, by), loses, hours, new_mah)
    return PackLife(tuple(capacity), tuple(resistance), trends[0], trends[1], hours, weak, loses, verdict, reasons)


def _of_flights(flights: Sequence[FlightOfPack]) -> tuple[list[LifePoint], list[LifePoint]]:
    found: dict[str, list[LifePoint]] = {name: [] for name in MOST_DOUBT}
    for one in flights:
        if not one.fact.said or not one.entry.teaches:
            continue
        state = one.fact.flies.pack.state
        told = together([merged(one.fact.said)], OPEN)
        base = {"capacity": state.capacity_percent / 100, "resistance": state.resistance_percent / 100}
        for name, points in found.items():
            share, doubt = base[name] * float(np.exp(told.value(name))), told.doubt(name)
            if doubt < MOST_DOUBT[name]:
                points.append(LifePoint(one.entry.flown_at.date(), share, doubt * share, one.entry.name))
    return found["capacity"], found["resistance"]


def trend_of(points: Sequence[LifePoint], worn: float, usual: float) -> Trend | None:
    """A line through points of one kind; none through fewer than three, or through those of one day. ``usual`` is by
    how much packs change in a year, which few points do not deny."""
    if len(points) < LEAST_POINTS or points[0].day == points[-1].day:
        return None
    last_day = points[-1].day
    years = np.array([(one.day - last_day).days / 365.25 for one in points])
    shares, doubts = (np.array([getattr(one, name) for one in points]) for name in ("share", "doubt"))
    table = np.column_stack([np.ones(len(years)), years])
    weights = np.ones(len(years))
    line, spread = np.zeros(2), np.eye(2)
    for _ in range(20):
        each = weights / doubts**2
        whole = table.T @ (table * each[:, None]) + np.diag([0.0, usual**-2])
        line = np.linalg.solve(whole, table.T @ (each * shares))
        away = (shares - table @ line) / doubts
        weights = 1 / (1 + (away / CAUCHY) ** 2)
        scatter = float((weights * away**2).sum()) / max(float(weights.sum()) - 2, 1.0)
        spread = np.linalg.inv(whole) * max(1.0, scatter)
    now, slope = float(line[0]), float(line[1])
    slope_doubt = float(np.sqrt(spread[1, 1]))
    worn_on = _reached(now, slope, worn, last_day)
    now_doubt, falls = float(np.sqrt(spread[0, 0] + SHARED**2)), abs(slope) > slope_doubt
    towards = 1.0 if worn > now else -1.0
    first, last = (
        _reached(now + sign * towards * now_doubt, slope + sign * towards * slope_doubt, worn, last_day)
        for sign in (1, -1)
    )
    between = (last_day if first is None else first, last) if falls and last is not None else None
    return Trend(last_day, now, now_doubt, slope, slope_doubt, worn_on if falls else None, between)


def _reached(now: float, slope: float, level: float, day: Day) -> Day | None:
    if (level - now) * slope <= 0:
        return day if level == now else None
    days = 365.25 * (level - now) / slope
    return Day.fromordinal(day.toordinal() + round(days)) if days <= FARTHEST_DAYS else None


def _weak_group(
    cell_type: CellType, checks: Sequence[PackCheck], flights: Sequence[FlightOfPack], charges: Sequence[PackCharge]
) -> tuple[int | None, float]:
    """The group that is behind the middle of the others by the latest flight, charge or readings that tell, and by how
    much."""
    seen = [(one.entry.flown_at.date(), one.fact.groups) for one in flights
            if isinstance(one.fact, FlownFlight) and one.fact.groups is not None]  # fmt: skip
    seen += [
        (charge.day, groups_between(cell_type, np.array(charge.before_v), np.array(charge.after_v)))
        for charge in charges
        if len(charge.before_v) > 1 and charge.after_v
    ]
    seen.sort(key=lambda one: one[0])
    if seen and (not checks or seen[-1][0] >= checks[-1].day):
        groups = seen[-1][1]
        weak = groups.weakest
        return (None, 0.0) if weak is None else (weak + 1, 1 - float(groups.holds[weak]))
    for check in reversed(checks):
        read = group_capacities(cell_type, check)
        if read is None or len(read[0]) < 2:
            continue
        held: Floats = read[0]
        least = int(held.argmin())
        middle = float(np.median(np.delete(held, least)))
        by = 1 - float(held[least]) / middle
        return (least + 1, by) if by > max(BEHIND, 2 * float(read[1][least]) / middle) else (None, by)
    return None, 0.0


def _of_charge(cell_type: CellType, charge: PackCharge, new_mah: float) -> LifePoint | None:
    """What the pack holds by a charge with its groups read before and after: Q·η/(z of after − z of before)."""
    if not charge.before_v or not charge.after_v:
        return None
    seen = groups_between(cell_type, np.array(charge.before_v), np.array(charge.after_v))
    if seen.used.min() < LEAST_USED:
        return None
    held = COULOMBIC * charge.charge_mah / seen.used
    doubt = float(np.hypot(float((held * seen.doubt).mean()), 0.01 * float(held.mean())))
    return LifePoint(charge.day, float(held.mean()) / new_mah, doubt / new_mah, charge.name)


def _hours(pack: BuiltPack, cell_type: CellType, flights: Sequence[FlightOfPack]) -> Hours:
    label, series = pack.recipe.parallel_count * cell_type.capacity_mah, pack.recipe.series_count
    deepest = THRESHOLDS_V[cell_type.landing_class][LandingPolicy.DEEP]
    drawn, deep, hot, under = 0.0, 0, 0.0, 0.0
    for one in flights:
        drawn += one.fact.drawn_mah
        lowest = one.entry.landing_v
        if isinstance(one.fact, FlownFlight):
            log = one.fact.log
            seconds = np.diff(log.time_s, append=log.time_s[-1])
            under += float(seconds[log.volts < series * cell_type.min_voltage_v].sum())
            air = [phase for phase in one.fact.phases if phase.kind != "at rest after" and np.isfinite(phase.volts)]
            lowest = air[-1].volts if air else lowest
            hot += float(seconds[np.nan_to_num(log.celsius) > HOT_C].sum())
        deep += int(lowest is not None and lowest / series < deepest)
    return Hours(len(flights), drawn / label, deep, hot, under)


def _loses(
    cell_type: CellType, checks: Sequence[PackCheck], flights: Sequence[FlightEntry], parallel: int
) -> float | None:
    """Charge that the worst group loses a day at rest, mAh, by the last two readings with no flight between them."""
    for before, after in reversed(list(itertools.pairwise(checks))):
        days = (after.day - before.day).days
        flown = any(before.day <= one.flown_at.date() <= after.day for one in flights)
        if days < LEAST_DAYS or flown or not before.group_v or not after.group_v or before.used_mah != after.used_mah:
            continue
        held = parallel * capacity_mah(cell_type)
        lost = [held * (charge_of(cell_type, was) - charge_of(cell_type, now)) / days
                for was, now in zip(before.group_v, after.group_v, strict=True)]  # fmt: skip
        return max(*lost, 0.0)
    return None


RETIRE, GENTLY, FINE, UNKNOWN = "Retire it", "Use it gently", "Fine", "Not known yet"


def _judge(
    pack: BuiltPack, capacity: Trend | None, resistance: Trend | None, weak: tuple[int | None, float],
    loses: float | None, hours: Hours, new_mah: float,
) -> tuple[str, tuple[str, ...]]:  # fmt: skip
    """A verdict with its reasons, the gravest first."""
    worst, told = 0, []

    def say(grade: int, sentence: str) -> None:
        nonlocal worst
        worst = max(worst, grade)
        told.append((grade, sentence))

    if capacity is not None:
        held = f"It held {_within(capacity)} of new on {capacity.day}"
        say(2 if capacity.now < SPENT else 1 if capacity.now < WORN else 0, f"{held}{_leads(capacity)}.")
    if resistance is not None:
        grade = 2 if resistance.now > RESISTS_TOO_MUCH else 1 if resistance.now > RESISTS else 0
        say(grade, f"It resisted {_within(resistance)} of new at one warmth on {resistance.day}.")
    group, by = weak
    if group is not None:
        ends = "and ends the flight for all: repair or retire it" if by > FAR_BEHIND else "and will end flights first"
        say(2 if by > FAR_BEHIND else 1, f"Group {group} holds {format_share(by)} less than the others, {ends}.")
    if loses is not None and loses > LOSES_MAH_DAY * new_mah:
        say(1, f"A group loses {format_mah(loses)} a day at rest: look at it every week, and hand it in if that grows.")
    if hours.under_s > 1:
        say(1, f"{format_number(hours.under_s, 0)} s were flown with cells under their minimum: each costs cycles.")
    if hours.deep:
        say(0, f"{counted(hours.deep, 'landing')} deeper than the deepest ready rule: each costs cycles.")
    if hours.hot_s > 60:
        say(0, f"{format_number(hours.hot_s / 60, 0)} minutes were flown over {format_celsius(HOT_C)}.")
    if pack.retired:
        return "Retired", tuple(sentence for _, sentence in told)
    ordered = tuple(sentence for _, sentence in sorted(told, key=lambda one: -one[0]))
    if capacity is None and resistance is None and not worst:
        wanted = f"{LEAST_POINTS} flights that tell, or readings of three days, are wanted for a trend."
        return UNKNOWN, (*ordered, wanted)
    return (FINE, GENTLY, RETIRE)[worst], ordered


def _within(trend: Trend) -> str:
    return f"{format_number(100 * trend.now, 0)} ± {format_number(100 * trend.now_doubt, 0)} %"


def _leads(trend: Trend) -> str:
    if not trend.falls:
        return ", with no trend beyond its doubt"
    pace = f", {format_number(100 * trend.a_year, 0, signed=True)} points a year"
    if trend.worn_on is None:
        return pace
    first, last = trend.worn_between or (trend.worn_on, trend.worn_on)
    when = f"in {first:%B %Y}" if f"{first:%Y-%m}" == f"{last:%Y-%m}" else f"between {first:%B %Y} and {last:%B %Y}"
    return f"{pace}: at {format_number(100 * WORN, 0)} % {when}"
