"""One moment of a batch: what the present blocks ask for, and the currents and voltages that this draws.

The series groups of a pack carry one current, so that its volts and ohms for each cell in series are the means of its
groups', by how many there are of each. Packs in parallel share one bus voltage. Each is a Thevenin source, S·E behind
S·r/P with r the resistance of a cell and its share of the wiring; by Millman's theorem all together are one source with
E = Σ(E_b·P_b/r_b)/Σ(P_b/r_b) behind r = 1/Σ(P_b/r_b), volts and ohms for each cell in series. That source meets the
demand, and each pack gives P_b·(E_b − V)/r_b, which is negative where the others charge it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from wise_cellar.core.flight.batch import FlightBatch, first_pack, of_pack, per_pack, total
from wise_cellar.core.physics import cell as law
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.curve_bank import on_grid
from wise_cellar.core.physics.motor import throttle_current_a
from wise_cellar.core.physics.numbers import Array, is_plain, pick, places, put, where


@dataclass
class Point:
    """State of every active flight and what follows from it; shapes ``(flights,)`` where nothing else is said."""

    state: CellState
    """(packs, groups, flights)"""
    current: Floats
    """(packs, 1, flights) Of one cell."""
    cell_v: Floats
    """(packs, groups, flights)"""
    bus_v: Floats
    bus_a: Floats
    heat_w: Floats
    """(packs, groups, flights)"""
    supply: Floats
    """Discriminant of the power balance; negative where the power cannot be had."""

    def merged(self, mask: Bools, other: Point) -> Point:
        """The other's where ``mask`` is true."""
        return Point(
            self.state.merged(mask, other.state),
            where(mask, other.current, self.current),
            where(mask, other.cell_v, self.cell_v),
            where(mask, other.bus_v, self.bus_v),
            where(mask, other.bus_a, self.bus_a),
            where(mask, other.heat_w, self.heat_w),
            where(mask, other.supply, self.supply),
        )

    def take(self, flights: Ints | Bools) -> Point:
        """Of some of the flights."""
        return Point(
            self.state.take(flights), pick(self.current, flights), pick(self.cell_v, flights),
            pick(self.bus_v, flights), pick(self.bus_a, flights), pick(self.heat_w, flights),
            pick(self.supply, flights),
        )  # fmt: skip

    def with_some(self, flights: Ints, there: Point) -> Point:
        """This, with another point of some of the flights."""
        if is_plain(self.bus_v):
            return there
        mask = np.zeros(len(self.bus_v), bool)
        mask[flights] = True
        wide = np.zeros(len(mask), np.intp)
        wide[flights] = np.arange(len(flights))
        return self.merged(mask, there.take(wide))


@dataclass
class Demand:
    """What the present block of every active flight asks for."""

    power_w: Floats
    motor_v: Floats
    punch: Bools
    ground: Bools
    duty: Floats
    slip: Floats
    held_a: Floats

    def __post_init__(self) -> None:
        self.throttled: Ints = places(self.duty > 0.0)
        """Indices of the flights whose throttle is held."""
        self.holding: Ints = places(self.held_a > 0.0)
        """Indices of the flights whose cells give a held current."""

    def take(self, flights: Ints) -> Demand:
        """Of some of the flights."""
        return Demand(
            pick(self.power_w, flights), pick(self.motor_v, flights), pick(self.punch, flights),
            pick(self.ground, flights), pick(self.duty, flights), pick(self.slip, flights), pick(self.held_a, flights),
        )  # fmt: skip


class Blocks:
    """The blocks of all flights of a batch, looked up by flight; they are not copied as flights end."""

    def __init__(self, batch: FlightBatch) -> None:
        self._seconds, self._landing = _in_a_row(batch.block_s), _in_a_row(batch.block_landing)
        self._columns = [
            _in_a_row(column)
            for column in (
                batch.block_w, batch.block_motor_v, batch.block_punch, batch.block_ground, batch.block_duty,
                batch.block_slip, batch.block_cell_a,
            )
        ]  # fmt: skip
        if batch.plain_numbers:
            self.count = len(batch.block_s)
            self._first_landing: Any = next((at for at, lands in enumerate(self._landing) if lands), self.count)
        else:
            self.count = batch.block_s.shape[1]
            lands = batch.block_landing.any(axis=1)
            self._first_landing = np.where(lands, np.argmax(batch.block_landing, axis=1), self.count)

    def seconds(self, flights: Ints, block: Ints) -> Floats:
        """How long the given blocks last."""
        seconds: Floats = self._seconds[flights * self.count + block]
        return seconds

    def landing(self, flights: Ints, block: Ints) -> Bools:
        """Whether they are flown once the landing rule has called."""
        landing: Bools = self._landing[flights * self.count + block]
        return landing

    def first_landing(self, flights: Ints) -> Ints:
        """Where the landing rule leads; past the last block where nothing is flown after its call."""
        first: Ints = pick(self._first_landing, flights)
        return first

    def demand(self, flights: Ints, block: Ints) -> Demand:
        """What they ask for."""
        at = flights * self.count + block
        return Demand(*(column[at] for column in self._columns))


def _in_a_row(column: Any) -> Any:
    return column.ravel() if column.__class__ is Array else column


PASSES, PASSES_NEAR = 5, 2
"""By which the current and the resistance that it sees agree to 1e-7, as each leaves a thirtieth of the difference; and
from a current near by."""


@dataclass(frozen=True)
class _Drawn:
    """Currents and volts of the bus, and of each cell."""

    bus_a: Floats
    bus_cell_v: Floats
    supply: Floats
    current: Floats


def evaluate(
    batch: FlightBatch, state: CellState, demand: Demand, near: Floats | None = None, yielding: Floats | None = None
) -> Point:
    """Currents and voltages that the demand draws in ``state``; ``near`` is a current that is near, where one is known.

    Where the resistance falls with current, both are found together by repetition. With ``yielding``, ohms of the shape
    of the state, the state is known to hang on the current: ``near`` led to it, and for each ampere beyond that its
    voltages fall by so much (:func:`~wise_cellar.core.physics.cell.yielding_ohm`). The current is then that of the
    state to which it leads itself, the cells' volts and heat are those of ``state`` at this current.
    """
    charge = on_grid(state.soc)
    emf = law.electromotive_v(batch.cell, state)
    inner = law.resistance_ohm(batch.cell, state, charge)
    behind, more = (emf, 0.0) if yielding is None or near is None else (emf + yielding * near, yielding)
    if batch.cell.saturates:
        linear = inner
        current = _drawn(batch, demand, emf, linear).current if near is None else near
        for _ in range(PASSES if near is None else PASSES_NEAR):
            inner = linear * law.transfer_factor(batch.cell, current)
            drawn = _drawn(batch, demand, behind, inner + more)
            current = drawn.current
    else:
        drawn = _drawn(batch, demand, behind, inner + more)
    cell_v = emf - drawn.current * inner
    heat = drawn.current * (batch.cell.ocv.at(charge) - cell_v)
    bus_v = batch.series * drawn.bus_cell_v
    return Point(state, drawn.current, cell_v, bus_v, drawn.bus_a, heat, drawn.supply)


def _drawn(batch: FlightBatch, demand: Demand, emf: Floats, inner: Floats) -> _Drawn:
    """What the demand draws of cells of ``emf`` volts behind ``inner`` ohms, both ``(packs, groups, flights)``."""
    string_v = of_pack(batch.group_share, emf)
    string_ohm = of_pack(batch.group_share, inner) + batch.string_wiring_ohm
    source_v, source_ohm = _as_one(string_v, string_ohm, batch.parallel)
    bus_a, supply = law.constant_power_current(source_v, source_ohm, demand.power_w / batch.series)
    if len(demand.throttled):
        at = demand.throttled
        series, volts, ohm = pick(batch.series, at), pick(source_v, at), pick(source_ohm, at)
        drawn = throttle_current_a(
            batch.drive.take(at), pick(demand.duty, at), series * volts, series * ohm, pick(batch.load_w, at),
            pick(demand.slip, at),
        )  # fmt: skip
        bus_a = put(bus_a, at, drawn)
        supply = put(supply, at, where(drawn * ohm < volts * (1 - 1e-12), 1.0, -1.0))
    if len(demand.holding):
        at = demand.holding
        bus_a = put(bus_a, at, pick(demand.held_a, at) * pick(first_pack(batch.parallel), at))
        supply = put(supply, at, 1.0)
    bus_cell_v = source_v - bus_a * source_ohm
    if batch.packs == 1:
        current = per_pack(bus_a) / batch.parallel
    else:
        current = where(batch.parallel > 0, (string_v - per_pack(bus_cell_v)) / string_ohm, 0.0)
    return _Drawn(bus_a, bus_cell_v, supply, current)


def _as_one(string_v: Floats, string_ohm: Floats, parallel: Floats) -> tuple[Floats, Floats]:
    """The one source that all packs together are: volts and ohms for each cell in series, of shape ``(flights,)``, from
    those of strings, ``(packs, 1, flights)``."""
    if is_plain(parallel) or (parallel.__class__ is Array and len(parallel) == 1):
        return first_pack(string_v), first_pack(string_ohm / parallel)
    conductance = parallel / string_ohm
    all_of_it = total(conductance)
    return total(conductance * string_v) / all_of_it, 1.0 / all_of_it


@dataclass(frozen=True)
class RestingSource:
    """All packs as one source to a load that starts after a rest: volts of the bus and ohms behind them."""

    volts: Floats
    ohm: Floats


def at_rest(batch: FlightBatch, ocv_slope_v: Floats) -> RestingSource:
    """The packs at the start, each behind its resistance to a 10 s pulse and its wiring, of shape ``(flights,)``.

    ``ocv_slope_v``, ``(packs, groups, flights)``, is dOCV/dz of the cells at half charge.
    """
    pulse = of_pack(batch.group_share, law.pulse_resistance_ohm(batch.cell, ocv_slope_v))
    volts, ohm = _as_one(batch.rest_v, pulse + batch.string_wiring_ohm, batch.parallel)
    return RestingSource(batch.series * volts, batch.series * ohm)
