"""A flight cut into what was flown: on the ground, climbs, hover, cruises by speed, bursts, descents, rest after.

Take-off and landing by the power alone; the rest by what there is: height tells climbs and descents, a speed tells
hover from cruise and one cruise from the next. Source: our own rules; the thresholds are estimates.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.documents import DocumentError, PhaseEdge
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.units import format_minutes
from wise_cellar.core.words import quoted

GRID_S = 0.5
FLIES_SHARE = 0.35
"""Of the way from what is drawn on the ground to what is drawn in flight: over it, it flies."""
PARTED_S, LEAST_FLIGHT_S, LEAST_W = 30.0, 10.0, 20.0
"""So long on the ground parts two flights; a shorter one is none; and a craft that flies draws more than that."""
ROUNDS = 12
BURST_SHARE, BURST_S, AROUND_S = 1.5, 20.0, 60.0
"""Over the power around it, and no longer than that, is a burst."""
CLIMB_M_S, SINK_M_S, RATE_S = 0.8, 0.6, 6.0
HOVER_M_S, GOES_M_S, OTHER_M_S, SPEED_S = 1.8, 3.2, 1.6, 8.0
"""Slower than the first is a hover, until it is faster than the second; so much faster or slower for so long is another
cruise."""
LAST_S = 20.0
"""So short a hover at the end of a descent is the landing itself."""
LEAST_PHASE_S = 6.0


class PhaseKind(StrEnum):
    """What was flown."""

    GROUND = "on the ground"
    CLIMB = "climb"
    HOVER = "hover"
    CRUISE = "cruise"
    BURST = "burst"
    DESCENT = "descent"
    FLIGHT = "flight"
    """Where nothing tells what of it."""
    REST = "at rest after"


KINDS = list(PhaseKind)
LEVEL_SHARE = 0.02
"""Of the way to the present speed that a cruise's own moves with every step."""


@dataclass(frozen=True)
class Phase:
    """A stretch of a flight, and what was seen in it."""

    kind: PhaseKind
    from_s: float
    to_s: float
    watts: float
    amps: float
    volts: float
    least_v: float
    throttle: float
    """Not a number where it was not told; as the two after it."""
    speed_m_s: float
    climb_m_s: float

    @property
    def seconds(self) -> float:
        """How long."""
        return self.to_s - self.from_s

    @property
    def mah(self) -> float:
        """Drawn in it."""
        return self.amps * self.seconds / 3.6

    @property
    def wh(self) -> float:
        """Given in it."""
        return self.watts * self.seconds / 3600


def flights_in(log: FlightLog) -> list[tuple[float, float]]:
    """Take-off and landing of every flight in a log, s; raises :class:`DocumentError` where there is none."""
    grid, watts = _on_grid(log, log.volts * log.amps)
    smooth = _mean(watts, 1.0)
    low, high = _ground_and_flight(smooth)
    if high < LEAST_W or high < 2 * max(low, 1.0):
        raise DocumentError("Nothing flies in this log: its power does not rise as it would at a take-off.")
    flies = smooth > low + FLIES_SHARE * (high - low)
    glides = _moves(log, grid)
    found: list[tuple[float, float]] = []
    for start, end in _runs(flies):
        began, over = float(grid[start]), float(grid[end - 1] + GRID_S)
        gap = (grid >= found[-1][1]) & (grid < began) if found else glides[:0]
        if found and (began - found[-1][1] < PARTED_S or glides[gap].all()):
            found[-1] = (found[-1][0], over)
        else:
            found.append((began, over))
    return [(began, over) for began, over in found if over - began >= LEAST_FLIGHT_S]


def _moves(log: FlightLog, grid: Floats) -> Bools:
    """Where it goes as fast as nothing on the ground does: a wing glides with its motor off."""
    speed = _column(log, log.speed_m_s, grid)
    return np.asarray(np.nan_to_num(_mean(speed, 2.0)) > GOES_M_S)


def _ground_and_flight(watts: Floats) -> tuple[float, float]:
    """Power on the ground and in flight, however long either lasts: the middles of what is under and over a line that
    lies between their geometric means."""
    level = np.maximum(watts, 1.0)
    line = float(np.sqrt(level.min() * level.max()))
    for _ in range(ROUNDS):
        under, over = level[level <= line], level[level > line]
        if not len(over):
            break
        line = float(np.sqrt(np.median(under) * np.median(over)))
    over = watts[level > line]
    return float(np.median(watts[level <= line])), float(np.median(over)) if len(over) else 0.0


def phases_of(log: FlightLog, flight: tuple[float, float]) -> list[Phase]:
    """The phases of one of its flights, with the ground before it and the rest after, in order and without gaps."""
    edges, kinds = phase_edges(log, flight)
    return [seen(log, kind, start, end) for kind, start, end in zip(kinds, edges, edges[1:], strict=False)]


def phases_between(log: FlightLog, edges: Sequence[PhaseEdge]) -> list[Phase]:
    """Phases as somebody put them right: each from its edge to the next, the last to the end of the log. Raises
    :class:`DocumentError` for a kind that is none, or an edge after the end."""
    ends_s = float(log.time_s[-1])
    beyond = next((edge for edge in edges if edge.from_s >= ends_s), None)
    if beyond is not None:
        raise DocumentError(f"A phase begins at {format_minutes(beyond.from_s)}, after the end of the log.")
    kinds = {str(kind): kind for kind in PhaseKind}
    unknown = next((edge.kind for edge in edges if edge.kind not in kinds), None)
    if unknown is not None:
        raise DocumentError(f"{quoted(unknown)} is no kind of phase; {', '.join(kinds)} are.")
    ends = [*(edge.from_s for edge in edges[1:]), ends_s]
    return [seen(log, kinds[edge.kind], edge.from_s, end) for edge, end in zip(edges, ends, strict=True)]


def phase_edges(log: FlightLog, flight: tuple[float, float]) -> tuple[list[float], list[PhaseKind]]:
    """Seconds at which phases begin, with the end of the last, and what each is."""
    took_off, landed = flight
    grid, watts = _on_grid(log, log.volts * log.amps)
    flown = (grid >= took_off) & (grid < landed)
    at = grid[flown]
    kinds = _kinds(log, grid, flown)
    groups = _speed_groups(_column(log, log.speed_m_s, grid)[flown], kinds)
    burst = _bursts(watts[flown])
    labels = np.where(burst, -1, groups)
    found = [(PhaseKind.GROUND, 0.0)] if took_off > 0 else []
    for start, place in _alike(labels):
        kind = PhaseKind.BURST if labels[place] < 0 else KINDS[int(kinds[place])]
        found.append((kind, float(at[start]) if start else took_off))
    if len(found) > 1 and found[-1][0] is PhaseKind.HOVER and found[-2][0] is PhaseKind.DESCENT:
        found = found[:-1] if landed - found[-1][1] < LAST_S else found
    if float(log.time_s[-1]) > landed + 1.0:
        found.append((PhaseKind.REST, landed))
        landed = float(log.time_s[-1])
    return [*(start for _, start in found), landed], [kind for kind, _ in found]


def seen(log: FlightLog, kind: PhaseKind, from_s: float, to_s: float) -> Phase:
    """What was seen in a stretch of a log."""
    part = log.between(from_s, to_s)
    if len(part) < 2:
        return Phase(kind, from_s, to_s, *[np.nan] * 7)
    span = float(part.time_s[-1] - part.time_s[0])

    def mean(values: Floats) -> float:
        there = np.isfinite(values)
        return float(np.trapezoid(values[there], part.time_s[there]) / span) if np.count_nonzero(there) > 1 else np.nan

    rise = part.height_m[np.isfinite(part.height_m)]
    return Phase(
        kind, from_s, to_s, watts=mean(part.volts * part.amps), amps=mean(part.amps), volts=mean(part.volts),
        least_v=float(np.percentile(part.volts, 0.5)), throttle=mean(part.throttle), speed_m_s=mean(part.speed_m_s),
        climb_m_s=float(rise[-1] - rise[0]) / span if len(rise) > 1 else np.nan,
    )  # fmt: skip


def _kinds(log: FlightLog, grid: Floats, flown: Bools) -> Ints:
    """What every moment of the flight is, by height and speed: places in :data:`KINDS`."""
    height, speed = _column(log, log.height_m, grid), _column(log, log.speed_m_s, grid)
    kinds = np.full(np.count_nonzero(flown), KINDS.index(PhaseKind.FLIGHT))
    over_ground = _column(log, log.ground_speed_m_s, grid)
    speed = over_ground if np.isfinite(over_ground).any() else speed
    if np.isfinite(speed).any():
        slow = _still(_mean(speed, SPEED_S / 2)[flown])
        kinds = np.where(slow, KINDS.index(PhaseKind.HOVER), KINDS.index(PhaseKind.CRUISE))
    if np.isfinite(height).any():
        rate = _mean(np.gradient(_mean(height, RATE_S / 2), GRID_S), RATE_S / 2)[flown]
        kinds[rate > CLIMB_M_S] = KINDS.index(PhaseKind.CLIMB)
        kinds[rate < -SINK_M_S] = KINDS.index(PhaseKind.DESCENT)
    return kinds


def _still(speed: Floats) -> Bools:
    """Whether it hovers: with the two thresholds, so that wind and noise do not switch to and fro."""
    marks = np.where(speed < HOVER_M_S, 1, np.where(speed > GOES_M_S, 0, -1))
    marks[0] = marks[0] if marks[0] >= 0 else 1
    last = np.maximum.accumulate(np.where(marks >= 0, np.arange(len(marks)), 0))
    return np.asarray(marks[last] == 1)


def _speed_groups(speed: Floats, kinds: Ints) -> Ints:
    """A number for each stretch of one kind, and of one speed where it cruises."""
    smooth = _mean(speed, SPEED_S / 2) if np.isfinite(speed).any() else np.zeros(len(kinds))
    cruise, groups = KINDS.index(PhaseKind.CRUISE), np.zeros(len(kinds), int)
    group, level, away = 0, float(smooth[0]) if len(smooth) else 0.0, 0
    for place in range(1, len(kinds)):
        away = away + 1 if kinds[place] == cruise and abs(smooth[place] - level) > OTHER_M_S else 0
        if kinds[place] != kinds[place - 1]:
            group, level, away = group + 1, float(smooth[place]), 0
        elif away * GRID_S >= SPEED_S:
            group, level = group + 1, float(smooth[place])
            groups[place - away + 1 : place] = group
            away = 0
        else:
            level += LEVEL_SHARE * (float(smooth[place]) - level)
        groups[place] = group
    return groups


def _bursts(watts: Floats) -> Bools:
    around = _median(watts, AROUND_S)
    high = watts > BURST_SHARE * around
    found = np.zeros(len(watts), bool)
    for start, end in _runs(high):
        if (end - start) * GRID_S <= BURST_S:
            peak = float(watts[start:end].max())
            half = watts[start:end] > 0.5 * (peak + float(around[start:end].mean()))
            found[start:end] = half
    return found


def _alike(labels: Ints) -> list[tuple[int, int]]:
    """Where stretches of one label begin, and a place that has their label; one that is too short goes to the one
    before, and after a burst to the next, unless that is a burst too."""
    cuts = [0, *(np.flatnonzero(np.diff(labels)) + 1).tolist(), len(labels)]
    found: list[tuple[int, int]] = []
    waits: int | None = None
    for start, end in itertools.pairwise(cuts):
        burst, short = labels[start] < 0, (end - start) * GRID_S < LEAST_PHASE_S
        if burst and waits is not None:
            found.append((waits, waits))
            waits = None
        alone = not found or labels[found[-1][1]] < 0
        if burst or not short or (alone and end == len(labels)):
            found.append((start if waits is None else waits, start))
            waits = None
        elif alone and waits is None:
            waits = start
    return found


def _on_grid(log: FlightLog, values: Floats) -> tuple[Floats, Floats]:
    grid = np.arange(0.0, float(log.time_s[-1]), GRID_S)
    return grid, np.interp(grid, log.time_s, values)


def _column(log: FlightLog, values: Floats, grid: Floats) -> Floats:
    there = np.isfinite(values)
    return np.interp(grid, log.time_s[there], values[there]) if there.any() else np.full(len(grid), np.nan)


def _mean(values: Floats, seconds: float) -> Floats:
    wide = max(int(seconds / GRID_S) | 1, 1)
    padded = np.pad(values, wide // 2, mode="edge")
    return np.convolve(padded, np.ones(wide) / wide, "valid")


def _median(values: Floats, seconds: float) -> Floats:
    wide = min(int(seconds / GRID_S) | 1, len(values) | 1)
    padded = np.pad(values, wide // 2, mode="edge")
    return np.median(np.lib.stride_tricks.sliding_window_view(padded, wide), axis=1)[: len(values)]


def _runs(flags: Bools) -> Sequence[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(int)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))
