"""A pack on a charger: constant current, then constant voltage until the current has tapered, by the cell's own law.

The current of one cell, counted into it, is the least of three: the charger's current over the cells in parallel; what
its power gives, i = (−E + √(E² + 4·r·p))/(2r) with p the power for each cell; and what the held voltage drives,
i = (V − E)/r. E = OCV(z − w) − v₁ is the cell's electromotive force and r its resistance with its share of the wiring,
so the voltage is held at the plug. It ends when the held voltage drives no more than the tapered current.

Discharging, to store a pack, is a power drawn until so much charge is left. Not modelled: imbalance of the groups, and
what a charger does in steps.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.physics import cell as law
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import CellParameters, CellState

VOLTAGE_TOLERANCE, TEMPERATURE_TOLERANCE = 5e-5, 0.05
"""Difference of predictor and corrector allowed in a step: of the electromotive force, volts, and of warmth, K."""
FIRST_STEP_S, LEAST_STEP_S, MOST_STEP_S = 1.0, 1e-3, 120.0
LONGEST_S = 48 * 3600.0


@dataclass(frozen=True)
class OnCharger:
    """One pack and what it is charged with. ``cell``, ``start`` and ``group_share`` are those of one flight,
    ``(1, groups, 1)``."""

    cell: CellParameters
    start: CellState
    group_share: Floats
    series: int
    parallel: int
    wiring_ohm: float
    current_a: float
    """Of the pack, at the most."""
    power_w: float
    voltage_v: float
    """Held at the plug, a cell."""
    taper_a: float
    """Of the pack: done when the held voltage drives no more."""
    until_soc: float | None = None
    """Ends at this state of charge, which may be lower than the start; none: full."""
    discharge_w: float = 0.0


class Held(StrEnum):
    """Which of the three currents is the least; as the volts rise they follow each other in this order."""

    CURRENT = "the current"
    POWER = "the power"
    VOLTAGE = "the voltage"


@dataclass(frozen=True)
class Phase:
    """A stretch of a charge with one limit, and the amps at its start and its end."""

    held: Held
    seconds: float
    start_a: float
    end_a: float


@dataclass(frozen=True)
class Charged:
    """A charge from start to end, arrays of shape ``(points,)``, of the whole pack."""

    time_s: Floats
    current_a: Floats
    """Into the pack; negative where it is discharged."""
    voltage_v: Floats
    """At the plug."""
    soc: Floats
    temperature_c: Floats
    energy_j: float
    """At the plug; negative where it is discharged."""
    charge_c: float
    power_from_s: float
    """When the charger's power first gives less than its current; as the next where it never does."""
    held_from_s: float
    """When the voltage is first held; the end where it never is."""
    done: bool
    """Whether it came to its end within two days."""

    @property
    def seconds(self) -> float:
        """All of it."""
        return float(self.time_s[-1])

    @property
    def phases(self) -> tuple[Phase, ...]:
        """What the current is held down by, in the order in which it comes; those of a second or less left out."""
        edges = (0.0, self.power_from_s, self.held_from_s, self.seconds)
        found = []
        for held, start, end in zip(Held, edges, edges[1:], strict=False):
            if end - start > 1.0:
                amps = np.interp((start, end), self.time_s, self.current_a)
                found.append(Phase(held, end - start, float(amps[0]), float(amps[1])))
        return tuple(found)


def charge(pack: OnCharger) -> Charged:
    """Charge, or discharge, one pack."""
    state, now, step = pack.start, 0.0, FIRST_STEP_S
    drain = pack.until_soc is not None and pack.until_soc < _mean(pack, state.soc)
    times, states, amps = [now], [state], [_current(pack, state, drain=drain)]
    done = _over(pack, state, amps[0], drain=drain)
    while not done and now < LONGEST_S:
        length = min(step, LONGEST_S - now)
        end, error = _step(pack, state, amps[-1], length, drain=drain)
        if error > 1.0 and length > LEAST_STEP_S:
            step = max(length * max(0.9 / error**0.5, 0.2), LEAST_STEP_S)
            continue
        current = _current(pack, end, drain=drain)
        if _over(pack, end, current, drain=drain):
            length, end = _last(pack, state, amps[-1], length, drain=drain)
            current, done = _current(pack, end, drain=drain), True
        now, state = now + length, end
        times.append(now)
        states.append(state)
        amps.append(current)
        step = min(max(length * min(0.9 / max(error, 1e-9) ** 0.5, 2.0), LEAST_STEP_S), MOST_STEP_S)
    return _told(pack, np.array(times), states, np.array(amps), done=done)


def _source(pack: OnCharger, state: CellState) -> tuple[float, float]:
    """Electromotive force and resistance of one cell with its share of the wiring."""
    outer = pack.wiring_ohm * pack.parallel / pack.series
    emf = _mean(pack, law.electromotive_v(pack.cell, state))
    return emf, _mean(pack, law.resistance_ohm(pack.cell, state)) + outer


def _mean(pack: OnCharger, values: Floats) -> float:
    """Over the groups of the pack, by how many there are of each."""
    return float((pack.group_share * values).sum())


def _current(pack: OnCharger, state: CellState, *, drain: bool) -> float:
    """Into one cell."""
    emf, ohm = _source(pack, state)
    cells = pack.series * pack.parallel
    if drain:
        amps, _ = law.constant_power_current(np.array([emf]), np.array([ohm]), np.array([pack.discharge_w / cells]))
        return -float(amps[0])
    by_power = (-emf + math.sqrt(emf**2 + 4 * ohm * pack.power_w / cells)) / (2 * ohm)
    return max(min(pack.current_a / pack.parallel, by_power, (pack.voltage_v - emf) / ohm), 0.0)


def _holds(pack: OnCharger, state: CellState, amps: float) -> bool:
    """Whether the voltage is held."""
    emf, ohm = _source(pack, state)
    return amps >= (pack.voltage_v - emf) / ohm - 1e-9


def _margin(pack: OnCharger, state: CellState, *, drain: bool) -> float:
    """Positive until it is over: state of charge still to go, or the held current over the tapered one, in shares."""
    if pack.until_soc is not None:
        away = pack.until_soc - _mean(pack, state.soc)
        return -away if drain else away
    emf, ohm = _source(pack, state)
    return ((pack.voltage_v - emf) / ohm * pack.parallel - pack.taper_a) / pack.taper_a


def _over(pack: OnCharger, state: CellState, amps: float, *, drain: bool) -> bool:
    tapered = (
        pack.until_soc is not None and not drain and _holds(pack, state, amps) and amps * pack.parallel < pack.taper_a
    )
    return tapered or _margin(pack, state, drain=drain) <= 0.0


def _step(pack: OnCharger, state: CellState, amps: float, length: float, *, drain: bool) -> tuple[CellState, float]:
    """State after ``length``, and the error over what is tolerated: predicted with the current kept, then corrected
    with it running straight to what the predicted state takes, twice."""
    step, start = np.array([length]), np.array([-amps])
    heat = _heat(pack, state, start)
    filters = law.step_filters(pack.cell, step, state.temperature_k)
    end = law.advance(pack.cell, state, step, start, start, heat, heat, filters)
    for _ in range(2):
        there = np.array([-_current(pack, end, drain=drain)])
        filters = law.step_filters(pack.cell, step, 0.5 * (state.temperature_k + end.temperature_k), filters)
        before, end = end, law.advance(pack.cell, state, step, start, there, heat, _heat(pack, end, there), filters)
    force = abs(_mean(pack, law.electromotive_v(pack.cell, end) - law.electromotive_v(pack.cell, before)))
    warmth = abs(_mean(pack, end.temperature_k - before.temperature_k))
    return end, max(force / VOLTAGE_TOLERANCE, warmth / TEMPERATURE_TOLERANCE)


def _heat(pack: OnCharger, state: CellState, current: Floats) -> Floats:
    """I·(OCV − V), W, of one cell; the current counted out of it."""
    emf, ohm = law.electromotive_v(pack.cell, state), law.resistance_ohm(pack.cell, state)
    return current * (pack.cell.ocv(state.soc) - emf + current * ohm)


def _last(pack: OnCharger, state: CellState, amps: float, length: float, *, drain: bool) -> tuple[float, CellState]:
    """The shortened step at whose end it is over, by halving."""
    low, high = 0.0, length
    end, _ = _step(pack, state, amps, high, drain=drain)
    while high - low > 1e-3 + 1e-9 * length:
        middle = 0.5 * (low + high)
        trial, _ = _step(pack, state, amps, middle, drain=drain)
        if _over(pack, trial, _current(pack, trial, drain=drain), drain=drain):
            high, end = middle, trial
        else:
            low = middle
    return high, end


def _told(pack: OnCharger, time_s: Floats, states: list[CellState], amps: Floats, *, done: bool) -> Charged:
    sources = np.array([_source(pack, state) for state in states])
    cell_v = sources[:, 0] + amps * sources[:, 1]
    holding = np.flatnonzero(cell_v >= pack.voltage_v - 1e-6)
    held_from = float(time_s[holding[0]]) if len(holding) else float(time_s[-1])
    weak = np.flatnonzero((amps < pack.current_a / pack.parallel * (1 - 1e-6)) & (time_s < held_from))
    current, volts = amps * pack.parallel, cell_v * pack.series
    soc = np.array([_mean(pack, state.soc) for state in states])
    power = current * volts
    return Charged(
        time_s=time_s,
        current_a=current,
        voltage_v=volts,
        soc=soc,
        temperature_c=np.array([_mean(pack, state.temperature_k) for state in states]) - ZERO_CELSIUS_K,
        energy_j=float((0.5 * (power[1:] + power[:-1]) * np.diff(time_s)).sum()),
        charge_c=float(((states[-1].soc - states[0].soc) * pack.cell.charge_c)[0, 0, 0] * pack.parallel),
        power_from_s=float(time_s[weak[0]]) if len(weak) else held_from,
        held_from_s=held_from,
        done=done,
    )
