"""One moment of a batch: what the present blocks ask for, and the current and voltages that this draws."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.physics import cell as law
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.motor import throttle_current_a


@dataclass
class Point:
    """State of every active flight and what follows from it."""

    state: CellState
    current: Floats
    cell_v: Floats
    bus_v: Floats
    heat_w: Floats
    supply: Floats
    """Discriminant of the power balance; negative where the power cannot be had."""

    def merged(self, mask: Bools, other: Point) -> Point:
        """The other's where ``mask`` is true."""
        pick = np.where
        return Point(
            self.state.merged(mask, other.state),
            pick(mask, other.current, self.current),
            pick(mask, other.cell_v, self.cell_v),
            pick(mask, other.bus_v, self.bus_v),
            pick(mask, other.heat_w, self.heat_w),
            pick(mask, other.supply, self.supply),
        )

    def take(self, flights: Ints | Bools) -> Point:
        """Of some of the flights."""
        return Point(
            self.state.take(flights), self.current[flights], self.cell_v[flights], self.bus_v[flights],
            self.heat_w[flights], self.supply[flights],
        )  # fmt: skip


@dataclass
class Demand:
    """What the present block of every active flight asks for."""

    power_w: Floats
    motor_v: Floats
    punch: Bools
    ground: Bools
    duty: Floats
    slip: Floats
    throttled: Ints
    """Indices of the flights whose throttle is held."""
    held_a: Floats
    holding: Ints
    """Indices of the flights whose cells give a held current."""

    def take(self, flights: Ints) -> Demand:
        """Of some of the flights."""
        duty, held = self.duty[flights], self.held_a[flights]
        return Demand(
            self.power_w[flights], self.motor_v[flights], self.punch[flights], self.ground[flights], duty,
            self.slip[flights], np.flatnonzero(duty > 0.0), held, np.flatnonzero(held > 0.0),
        )  # fmt: skip


class Blocks:
    """The blocks of all flights of a batch, looked up by flight; they are not copied as flights end."""

    def __init__(self, batch: FlightBatch) -> None:
        self.count = batch.block_s.shape[1]
        self._seconds, self._landing = batch.block_s.ravel(), batch.block_landing.ravel()
        self._columns = [
            column.ravel()
            for column in (
                batch.block_w, batch.block_motor_v, batch.block_punch, batch.block_ground, batch.block_duty,
                batch.block_slip, batch.block_cell_a,
            )
        ]  # fmt: skip
        lands = batch.block_landing.any(axis=1)
        self._first_landing = np.where(lands, np.argmax(batch.block_landing, axis=1), self.count)

    def seconds(self, flights: Ints, block: Ints) -> Floats:
        """How long the given blocks last."""
        return np.asarray(self._seconds[flights * self.count + block])

    def landing(self, flights: Ints, block: Ints) -> Bools:
        """Whether they are flown once the landing rule has called."""
        return np.asarray(self._landing[flights * self.count + block])

    def first_landing(self, flights: Ints) -> Ints:
        """Where the landing rule leads; past the last block where nothing is flown after its call."""
        return np.asarray(self._first_landing[flights])

    def demand(self, flights: Ints, block: Ints) -> Demand:
        """What they ask for."""
        at = flights * self.count + block
        power, motor_v, punch, ground, duty, slip, held = (column[at] for column in self._columns)
        throttled, holding = np.flatnonzero(duty > 0.0), np.flatnonzero(held > 0.0)
        return Demand(power, motor_v, punch, ground, duty, slip, throttled, held, holding)


def evaluate(batch: FlightBatch, state: CellState, demand: Demand) -> Point:
    """Current and voltages that the demand draws in ``state``."""
    emf = law.electromotive_v(batch.cell, state)
    inner = law.resistance_ohm(batch.cell, state)
    outer = batch.wiring_ohm * batch.parallel / batch.series
    cells = batch.series * batch.parallel
    current, supply = law.constant_power_current(emf, inner + outer, demand.power_w / cells)
    if demand.throttled.size:
        some = demand.throttled
        series, parallel = batch.series[some], batch.parallel[some]
        source = series * (inner[some] + outer[some]) / parallel
        pack_a = throttle_current_a(
            batch.drive.take(some), demand.duty[some], series * emf[some], source, batch.load_w[some],
            demand.slip[some],
        )  # fmt: skip
        current[some] = pack_a / parallel
        supply[some] = 1.0
    if demand.holding.size:
        some = demand.holding
        current[some] = demand.held_a[some]
        supply[some] = 1.0
    cell_v = emf - current * inner
    bus_v = batch.series * (cell_v - current * outer)
    heat = current * (batch.cell.ocv(state.soc) - cell_v)
    return Point(state, current, cell_v, bus_v, heat, supply)
