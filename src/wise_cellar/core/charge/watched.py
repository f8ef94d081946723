"""A charge that is watched: what comes held against what was planned, when it will be done, and what is wrong with it.

When it is done: the planned charge is moved to begin where this one did, at the state of charge from which the law
gives the volts that were seen some minutes later; from then on the moment of that charge is sought that is like the
present one, by its volts while the current is held, by its current while the volts are. What is left of it from there
is what is left. Source: our own; not modelled: how long a charger goes on balancing, and its own idea of full.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.answer import Finding
from wise_cellar.core.answer.result import caution, over
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.charge.cc_cv import Charged, OnCharger, charge
from wise_cellar.core.charge.plan import ChargePlan, about
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.charging import FROST_C, HOT_C
from wise_cellar.core.units import (
    format_amps,
    format_celsius,
    format_mah,
    format_number,
    format_rise,
    format_share,
    format_volts,
)

LOOKED_AT = 5
"""The median of so many readings is what is looked at: one that is wrong alarms nobody."""
FLOWS_SHARE, FLOWS_A = 0.05, 0.05
"""Of the current that is expected, and at the least: under it nothing flows."""
KNOWN_AFTER_S = 240.0
"""So long after it began its volts tell where it began."""
OVERFULL_V = 0.03
"""A cell, or a group, this much over the volts that are held is charged too far."""
AMPS_SHARE, AMPS_SURE = 0.1, 0.2
MOST_PUT_IN = 1.1
"""Of what the label holds."""
WARMER_K = 8.0
APART_V, APART_SOC = 0.03, 0.03
"""A group is apart where it is so by both: in volts, and in the charge that they stand for there."""
HELD_WITHIN_V, UNCHANGED_S = 0.015, 600.0
"""A cell, from the volts that are held; and over so long a fall of the current is looked for."""
FALLS_TO, STAYS_AT = 0.85, 0.95
"""A current that should have fallen to the first share, and is over the second, does not fall."""
LATE = 1.2
LEAST_SOC, MOST_SOC, SOC_SURE = 0.0, 0.97, 0.002
PASSES = 6
SLOPE_OVER, LEAST_SLOPE_V = 0.03, 0.3
"""A slope is taken over so much charge to both sides, and is no less than the second, V."""
HELD_SURE_V = 0.004
"""A cell, under the volts that are held: nearer than that the current tells more."""
FIELD = "design.charge"


@dataclass(frozen=True)
class Came:
    """What a charger has told so far, from when the current began to flow; arrays of shape ``(readings,)``."""

    time_s: Floats
    amps: Floats
    """Into the pack."""
    volts: Floats
    """Of the pack."""
    groups: Floats
    """(readings, groups) Volts of each; no column where it tells none."""
    celsius: Floats
    """Not a number where it does not tell it."""
    charge_mah: Floats
    """That has flowed, by its own current."""

    @classmethod
    def of(cls, time_s: Floats, amps: Floats, volts: Floats, groups: Floats, celsius: Floats) -> Came:
        """With the charge summed up."""
        steps = 0.5 * (amps[1:] + amps[:-1]) * np.diff(time_s) / 3.6
        return cls(
            time_s, amps, volts, groups, celsius, np.concatenate([np.zeros(min(len(amps), 1)), np.cumsum(steps)])
        )

    def __len__(self) -> int:
        return len(self.time_s)

    @property
    def seconds(self) -> float:
        """So far."""
        return float(self.time_s[-1]) if len(self) else 0.0

    @property
    def put_in_mah(self) -> float:
        """All of it."""
        return float(self.charge_mah[-1]) if len(self) else 0.0

    def now(self) -> Came:
        """The median of the last readings, as one."""
        last = slice(-LOOKED_AT, None)
        return Came(
            time_s=self.time_s[-1:],
            amps=np.atleast_1d(np.median(self.amps[last])),
            volts=np.atleast_1d(np.median(self.volts[last])),
            groups=np.median(self.groups[last], axis=0, keepdims=True),
            celsius=np.atleast_1d(np.median(self.celsius[last])),
            charge_mah=self.charge_mah[-1:],
        )

    def flows(self, plan: ChargePlan) -> bool:
        """Whether a current flows."""
        return flows(plan, float(self.amps[-1]))


def flows(plan: ChargePlan, amps: float) -> bool:
    """Whether so little is a current of this charge."""
    return amps > max(FLOWS_SHARE * plan.current_a, FLOWS_A)


@dataclass(frozen=True)
class Alarm:
    """What is wrong, and whether the charge is stopped for it."""

    finding: Finding
    stops: bool = False


@dataclass(frozen=True)
class Watched:
    """A charge at one moment."""

    left_s: float | None
    """Until it is done; none where that is not known yet, or nothing flows."""
    like_s: float
    """The moment of what is expected that the present one is like."""
    apart: tuple[float, ...]
    """Volts of each group over the middle of all."""
    alarms: tuple[Alarm, ...]


def expected_from(plan: ChargePlan, came: Came) -> Charged:
    """The planned charge as it goes from where this one began, with the current that flows: its volts and amps after
    :data:`KNOWN_AFTER_S` are those that came, sought by the slope of the open-circuit voltage."""
    place = min(int(np.searchsorted(came.time_s, KNOWN_AFTER_S)), len(came) - 1)
    near = slice(max(place - LOOKED_AT, 0), place + 1)
    volts, amps = float(np.median(came.volts[near])), float(np.median(came.amps[near]))
    at_s = float(came.time_s[near].mean())
    on = plan.on_charger
    if amps < on.current_a * (1 - AMPS_SHARE / 2) and amps * volts < on.power_w * (1 - AMPS_SHARE / 2):
        on = replace(on, current_a=amps)
    ohm = float((on.group_share * on.cell.r0_ohm).sum()) * on.series / on.parallel + on.wiring_ohm
    soc, found = plan.start_soc, plan.charged
    for _ in range(PASSES):
        found = _from(on, soc)
        seen_v, seen_a = (float(np.interp(at_s, found.time_s, values)) for values in (found.voltage_v, found.current_a))
        force = (volts - seen_v) - (amps - seen_a) * ohm
        step = force / (on.series * _slope(plan, float(np.interp(at_s, found.time_s, found.soc))))
        if abs(step) < SOC_SURE:
            break
        soc = float(np.clip(soc + step, LEAST_SOC, MOST_SOC))
    return found


def watched(plan: ChargePlan, expected: Charged, came: Came) -> Watched:
    """A charge at its last reading; ``expected`` is the planned one until :func:`expected_from` is known."""
    now = came.now()
    like_s = _like(plan, expected, now)
    known = came.flows(plan) and came.seconds >= KNOWN_AFTER_S and expected is not plan.charged and expected.done
    groups = now.groups[0]
    apart = tuple(float(v) for v in groups - np.median(groups)) if len(groups) else ()
    soc = float(np.interp(like_s, expected.time_s, expected.soc))
    alarms = [
        *(Alarm(finding, stops=True) for finding in _stopping(plan, came, now)),
        *(Alarm(finding) for finding in _telling(plan, expected, came, now, like_s)),
        *(Alarm(finding) for finding in _group_apart(plan, apart, soc) if came.flows(plan)),
    ]
    return Watched(max(expected.seconds - like_s, 0.0) if known else None, like_s, apart, tuple(alarms))


def _from(on: OnCharger, soc: float) -> Charged:
    return charge(replace(on, start=replace(on.start, soc=np.full_like(on.start.soc, soc))))


def _slope(plan: ChargePlan, soc: float) -> float:
    """Of the open-circuit voltage there, V for the whole charge of one cell."""
    values = resting_curve(plan.pack.cell).values
    grid = np.linspace(0, 1, len(values))
    around = np.clip([soc - SLOPE_OVER, soc + SLOPE_OVER], 0.0, 1.0)
    low, high = np.interp(around, grid, values)
    return max(float(high - low) / float(around[1] - around[0]), LEAST_SLOPE_V)


def _like(plan: ChargePlan, expected: Charged, now: Came) -> float:
    """The moment of what is expected at which volts, or the current once the volts are held, are those of now."""
    held = expected.time_s >= expected.held_from_s
    volts = float(now.volts[0])
    if volts < plan.cells * (plan.full_v - HELD_SURE_V) or not held.any():
        rising = ~held if (~held).any() else held
        return float(np.interp(volts, np.maximum.accumulate(expected.voltage_v[rising]), expected.time_s[rising]))
    falling = expected.current_a[held]
    return float(np.interp(-float(now.amps[0]), np.maximum.accumulate(-falling), expected.time_s[held]))


def _stopping(plan: ChargePlan, came: Came, now: Came) -> Iterator[Finding]:
    """What no charge goes on after."""
    celsius, volts, amps = float(now.celsius[0]), float(now.volts[0]), float(now.amps[0])
    groups = now.groups[0]
    if celsius > HOT_C:
        yield over(
            f"The pack is at {format_celsius(celsius)}; charging ends at {format_celsius(HOT_C)}. Let it cool, and find"
            " out why.",
            f"{FIELD}.temperature_c",
        )
    if celsius < FROST_C:
        yield over(
            f"The pack is at {format_celsius(celsius)}. Never charge a cell under {format_celsius(FROST_C)}.",
            f"{FIELD}.temperature_c",
        )
    if len(groups) and groups.max() > plan.full_v + OVERFULL_V:
        place = int(groups.argmax())
        yield over(
            f"Group {place + 1} is at {format_volts(groups[place], 3)}, over the {format_volts(plan.full_v)} that are"
            " held.",
            FIELD,
        )
    elif volts > plan.cells * (plan.full_v + OVERFULL_V):
        yield over(
            f"{format_volts(volts)} are more than {plan.cells} cells may have,"
            f" {format_volts(plan.cells * plan.full_v)}: is the number of cells set right?",
            FIELD,
        )
    most = max(plan.current_a * (1 + AMPS_SHARE), plan.current_a + AMPS_SURE)
    if amps > most:
        yield over(f"{format_amps(amps)} flow; this pack takes {format_amps(plan.current_a)}.", FIELD)
    if came.put_in_mah > MOST_PUT_IN * plan.pack.label_mah:
        yield over(
            f"{format_mah(came.put_in_mah)} have gone in, more than its label of {format_mah(plan.pack.label_mah)}: a"
            " cell turns it into heat.",
            FIELD,
        )
    if len(groups) and len(groups) != plan.cells:
        yield over(f"{len(groups)} groups are told of {plan.cells}: is every balance wire on?", FIELD)


def _telling(plan: ChargePlan, expected: Charged, came: Came, now: Came, like_s: float) -> Iterator[Finding]:
    """What is told, and watched."""
    celsius = float(now.celsius[0])
    usual = float(np.interp(like_s, expected.time_s, expected.temperature_c))
    if celsius > usual + WARMER_K and celsius <= HOT_C:
        yield caution(
            f"The pack is {format_rise(celsius - usual)} warmer than expected by now: feel whether one cell is.", FIELD
        )
    if came.seconds > LATE * expected.seconds and came.flows(plan):
        yield caution(
            f"It has taken {about(came.seconds)}; {about(expected.seconds)} were expected. Something takes charge and"
            " does not keep it, or the charger gives less than it says.",
            FIELD,
        )
    if _does_not_fall(plan, expected, came, like_s):
        yield caution(
            f"The volts are held, and the current has stayed at {format_amps(float(now.amps[0]), 2)} for"
            f" {about(UNCHANGED_S)}: it should fall. A leaking cell does that; watch its warmth.",
            FIELD,
        )


def _does_not_fall(plan: ChargePlan, expected: Charged, came: Came, like_s: float) -> bool:
    begin = int(np.searchsorted(came.time_s, came.seconds - UNCHANGED_S))
    full = plan.cells * (plan.full_v - HELD_WITHIN_V)
    if came.seconds < UNCHANGED_S or not came.flows(plan) or np.median(came.volts[begin : begin + LOOKED_AT]) < full:
        return False
    before, after = (
        float(np.median(came.amps[part])) for part in (slice(begin, begin + LOOKED_AT), slice(-LOOKED_AT, None))
    )
    wanted = np.interp([like_s, like_s + UNCHANGED_S], expected.time_s, expected.current_a)
    return after > STAYS_AT * before and wanted[1] < FALLS_TO * wanted[0]


def _group_apart(plan: ChargePlan, apart: tuple[float, ...], soc: float) -> Iterator[Finding]:
    if not apart:
        return
    place = int(np.argmax(np.abs(apart)))
    share = abs(apart[place]) / _slope(plan, soc)
    if abs(apart[place]) > APART_V and share > APART_SOC:
        where = "under" if apart[place] < 0 else "over"
        yield caution(
            f"Group {place + 1} is {format_number(1000 * abs(apart[place]), 0)} mV {where} the others,"
            f" {format_share(share)} of its charge: balancing takes long, and if it comes back the group is"
            " failing.",
            FIELD,
        )
