"""A mission laid out step by step: repeats written out, legs turned, bursts of manual flying put between its minutes.

What each step asks for does not depend on the craft; what it costs does
(:meth:`~wise_cellar.core.propulsion.carrier.Propulsion.step_power`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from itertools import count
from typing import Any

import numpy as np

from wise_cellar.core.documents import Block, BlockKind, Conditions, Mission
from wise_cellar.core.documents.mission import LONGEST_S
from wise_cellar.core.physics.arrays import Bools, Floats, Ints

MINUTE_S = 60.0
TRUE_STEPS, GROWTH = 600, 1.1
"""What goes round and round is written out as it is flown for so many steps; after that every round lasts a tenth
longer than the one before, which leaves its mean as it is, and keeps weeks in the air to some hundred steps."""
GUST_WEIGHTS = ((-1.0, 0.25), (0.0, 0.5), (1.0, 0.25))
"""A gust's swing in three points, as of a slow sine."""


@dataclass(frozen=True)
class FlightStep:
    """One stretch that asks for the same all along."""

    block: int
    """Its place in the mission."""
    seconds: float
    """Infinite where it lasts until the landing rule."""
    airspeed_m_s: float = 0.0
    climb_m_s: float = 0.0
    """Negative: a descent."""
    ratio: float = 1.0
    """On the power of level flight; 0 with the motors at rest."""
    duty: float = 0.0
    """Held throttle, 1 = full; 0 where a power is held."""
    punch: bool = False
    landing: bool = False
    ground: bool = False
    """On the ground or the bench."""
    manual: bool = False
    """Flown by hand; its bursts aside."""
    holding: bool = False
    """Asks for no airspeed of its own: rotors hold a place in the wind, a wing flies as slowly as is safe."""
    radius_m: float = math.inf
    """Of the circle that is flown."""
    amps: float = 0.0
    """Held on the bench, of the whole pack, or ``watts`` at its plug; 0 where neither is."""
    watts: float = 0.0


def plan(mission: Mission, conditions: Conditions) -> tuple[FlightStep, ...]:
    """The mission in the order in which it is flown, however long: repeats laid out, the landing last.

    Source: our own way of laying a mission out. Not modelled: that rounds after the first hundreds are not as long as
    they say, in which as much is flown of each block.
    """
    found: list[FlightStep] = []
    landings = [n for n, block in enumerate(mission.blocks) if block.kind is BlockKind.LANDING]
    for place, scale in _order(mission, conditions):
        if place not in landings:
            steps = _steps(place, mission.blocks[place], conditions)
            found += steps if scale == 1.0 else (replace(step, seconds=step.seconds * scale) for step in steps)
    for place in landings:
        found += _steps(place, mission.blocks[place], conditions)
    return tuple(found)


def _rounds(round_s: float, total_s: float, steps: int) -> Iterator[float]:
    """How many times as long as ``round_s`` each round lasts, until ``total_s`` are flown, or a part of the last round
    more; a round has so many steps."""
    left, scale = total_s, 1.0
    for number in count():
        if left <= 1e-9 * total_s:
            return
        scale *= GROWTH if number >= TRUE_STEPS // steps else 1.0
        yield scale
        left -= scale * round_s


def _order(mission: Mission, conditions: Conditions) -> Iterator[tuple[int, float]]:
    """Places of the blocks, repeats written out, each with how many times as long as it says it lasts."""
    starts = {repeat.first - 1: repeat for repeat in mission.repeats}
    place = 0
    while place < len(mission.blocks):
        repeat = starts.get(place)
        if repeat is None:
            yield place, 1.0
            place += 1
            continue
        group = range(repeat.first - 1, repeat.last)
        once = sum(mission.blocks[each].duration_s or 0.0 for each in group)
        steps = sum(1 for each in group for _ in _steps(each, mission.blocks[each], conditions))
        total = LONGEST_S if repeat.times is None else repeat.times * once
        left = total / once
        for scale in _rounds(once, total, steps):
            yield from ((each, min(scale, left)) for each in group)
            left -= scale
        place = repeat.last


def _steps(place: int, block: Block, conditions: Conditions) -> Iterator[FlightStep]:
    seconds = math.inf if block.duration_s is None else block.duration_s
    held = conditions.wind_m_s
    if block.kind is BlockKind.CRUISE:
        yield from _cruise(place, block, conditions, seconds)
    elif block.kind is BlockKind.MANUAL:
        yield from _manual(place, block, seconds, conditions)
    elif block.kind is BlockKind.PUNCH:
        yield FlightStep(place, seconds, held, duty=conditions.most_duty, punch=True, holding=True)
    elif block.kind is BlockKind.DESCENT:
        asked = block.airspeed_m_s
        yield FlightStep(place, seconds, max(asked, held), -block.sink_m_s, holding=asked == 0)
    elif block.kind is BlockKind.LOITER:
        asked, radius = block.airspeed_m_s, block.radius_m or math.inf
        yield FlightStep(place, seconds, asked or held, holding=asked == 0, radius_m=radius)
    elif block.kind is BlockKind.PAUSE:
        yield FlightStep(place, seconds, ratio=0.0, ground=True)
    elif block.kind is BlockKind.THROTTLE:
        yield _on_the_bench(place, block, seconds)
    elif block.kind is BlockKind.TAKE_OFF and block.climb_throttle_percent is not None:
        duty = min(block.climb_throttle_percent / 100, conditions.most_duty)
        yield FlightStep(place, seconds, held, duty=duty, punch=True, holding=True)
    else:
        climb = block.climb_m_s if block.kind is BlockKind.TAKE_OFF else 0.0
        yield FlightStep(place, seconds, held, climb, landing=block.kind is BlockKind.LANDING, holding=True)


def _on_the_bench(place: int, block: Block, seconds: float) -> FlightStep:
    """A step on the bench: watts before amps before throttle."""
    if block.bench_power_w is not None:
        return FlightStep(place, seconds, ratio=0.0, ground=True, watts=block.bench_power_w)
    if block.bench_current_a is not None:
        return FlightStep(place, seconds, ratio=0.0, ground=True, amps=block.bench_current_a)
    return FlightStep(place, seconds, duty=block.throttle_percent / 100, ground=True)


def _cruise(place: int, block: Block, conditions: Conditions, seconds: float) -> Iterator[FlightStep]:
    if block.climb_throttle_percent is not None:
        duty = min(block.climb_throttle_percent / 100, conditions.most_duty)
        yield FlightStep(place, seconds, block.airspeed_m_s, duty=duty)
        return
    if block.ground_speed_m_s is None:
        yield FlightStep(place, seconds, block.airspeed_m_s, block.climb_m_s)
        return
    out, back = (
        airspeed_over_ground(block.ground_speed_m_s, block.heading_deg + turn, conditions) for turn in (0.0, 180.0)
    )
    if not block.out_and_back or abs(out - back) < 1e-9:
        yield FlightStep(place, seconds, out, block.climb_m_s)
        return
    left = min(seconds, LONGEST_S)
    for scale in _rounds(2 * block.leg_s, left, 2):
        for airspeed in (out, back):
            length = min(scale * block.leg_s, left)
            if length > 1e-9:
                left -= length
                last = math.isinf(seconds) and left <= 1e-9
                yield FlightStep(place, math.inf if last else length, airspeed, block.climb_m_s)


def _manual(place: int, block: Block, seconds: float, conditions: Conditions) -> Iterator[FlightStep]:
    """Every minute its bursts in one piece at its end: they find the cells as warm and as low as bursts do.

    Through the air it is as fast as the wind, at the least: it stays where the pilot is.
    """
    airspeed, most_duty = max(block.airspeed_m_s, conditions.wind_m_s), conditions.most_duty

    def by_hand(length: float) -> FlightStep:
        return FlightStep(place, length, airspeed, ratio=block.liveliness, manual=True)

    if block.full_throttle_s == 0:
        yield by_hand(seconds)
        return
    left = min(seconds, LONGEST_S)
    for scale in _rounds(MINUTE_S, left, 2):
        minute = min(scale * MINUTE_S, left)
        burst = block.full_throttle_s * minute / MINUTE_S
        yield by_hand(minute - burst)
        yield FlightStep(place, burst, airspeed, duty=most_duty, punch=True)
        left -= minute
    if math.isinf(seconds):
        yield by_hand(seconds)


def airspeed_over_ground(ground_m_s: float, heading_deg: float, conditions: Conditions) -> float:
    """Airspeed that keeps a speed over ground along a heading: the wind's part along it adds, its part across is held.

    √((g + w·cos θ)² + (w·sin θ)²), θ between the heading and where the wind comes from; m/s and degrees. Source: the
    triangle of velocities.
    """
    angle = math.radians(heading_deg - conditions.wind_from_deg)
    return math.hypot(ground_m_s + conditions.wind_m_s * math.cos(angle), conditions.wind_m_s * math.sin(angle))


@dataclass(frozen=True)
class StepArrays:
    """Steps as arrays of shape ``(steps,)``."""

    block: Ints
    seconds: Floats
    airspeed_m_s: Floats
    climb_m_s: Floats
    ratio: Floats
    duty: Floats
    punch: Bools
    landing: Bools
    ground: Bools
    manual: Bools
    holding: Bools
    radius_m: Floats
    amps: Floats
    watts: Floats
    gust_m_s: float

    @property
    def cruising(self) -> int:
        """The longest step in the air, bursts and the landing aside: it gives the flight its own speed."""
        flown = ~(self.punch | self.landing | self.ground)
        return int(np.argmax(np.where(flown, self.seconds, -1.0)))

    @staticmethod
    def of(mission: Mission, conditions: Conditions) -> StepArrays:
        """The steps of a mission in the given conditions."""
        steps = plan(mission, conditions)

        def column(name: str) -> Any:
            return np.array([getattr(step, name) for step in steps])

        columns = {field.name: column(field.name) for field in fields(FlightStep)}
        return StepArrays(**columns, gust_m_s=conditions.gust_m_s)
