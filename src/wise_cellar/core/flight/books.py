"""What is written down of flights: their books while they fly, their points, and what is left at their end."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from wise_cellar.core.flight.balance import Demand, Point
from wise_cellar.core.flight.batch import FlightBatch, FlightTraces, Trace, per_pack, total
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.conductor import felt
from wise_cellar.core.physics.numbers import (
    Array,
    alike,
    as_column,
    held_between,
    highest,
    is_two,
    larger,
    lowest,
    no,
    pair,
    pick,
    smaller,
    some,
    where,
)

FAR_V = 1e3
MOMENT_S = 1e-3
"""A burst is not longer than it may be by less than this."""


@dataclass
class Books:
    """What is summed up of every flight, and its extremes; the shapes of :class:`FlightTraces`."""

    airborne_s: Floats
    energy_j: Floats
    cruise_a: Floats
    punch_a: Floats
    taken_a: Floats
    cruise_bus_a: Floats
    punch_bus_a: Floats
    hottest_k: Floats
    coldest_k: Floats
    feels_a2: Floats
    """(packs, carriers, flights) What each carrier feels now, ``felt_a2`` at the most."""
    felt_a2: Floats
    dip_s: Floats
    dip_v: Floats
    above_s: Floats
    """(packs, 1, flights) How long a cell has given more than it may for good, less as long a rest."""
    held_a: Floats

    @classmethod
    def begun(cls, batch: FlightBatch) -> Books:
        """At take-off."""
        airborne, cruise_bus, punch_bus = (alike(batch.series, 0.0) for _ in range(3))
        energy, cruise, punch, taken, above, held, dip = (alike(batch.parallel, 0.0) for _ in range(7))
        feels, felt_a2 = (alike(batch.carrier_s, 0.0) for _ in range(2))
        hottest, coldest = (batch.start.temperature_k + 0.0 for _ in range(2))
        return cls(airborne, energy, cruise, punch, taken, cruise_bus, punch_bus, hottest, coldest, feels, felt_a2,
                   dip, dip + np.inf, above, held)  # fmt: skip

    def add(self, batch: FlightBatch, demand: Demand, step: Floats, before: Point, after: Point, moved: Bools) -> None:
        """Sum up a step of the flights in ``moved``."""
        step = where(moved, step, 0.0)
        watts = before.current * per_pack(before.bus_v) + after.current * per_pack(after.bus_v)
        self.energy_j = self.energy_j + 0.5 * per_pack(step) * batch.parallel * watts
        self.airborne_s = self.airborne_s + where(demand.ground, 0.0, step)
        if batch.carrier_s.size:
            self._carry(batch, per_pack(step), before.current, after.current)
            bursting = moved & demand.punch
            if some(bursting):
                self._dip(batch, per_pack(step), before.cell_v, after.cell_v, bursting)

    def _carry(self, batch: FlightBatch, step: Floats, start_a: Floats, end_a: Floats) -> None:
        """What the step does to carriers, and to cells above what they may give for good."""
        self.feels_a2 = felt(self.feels_a2, as_column(start_a**2), as_column(end_a**2), step, batch.carrier_s)
        self.felt_a2 = highest(self.felt_a2, self.feels_a2)
        least_a = smaller(start_a, end_a)
        above = least_a > batch.lasting_a
        if not (some(above) or some(self.above_s)):
            return
        self.above_s = larger(self.above_s + where(above, step, -step), 0.0)
        too_long = (step > 0.0) & above & (self.above_s > batch.burst_s + MOMENT_S)
        self.held_a = highest(self.held_a, least_a, too_long)

    def _dip(self, batch: FlightBatch, step: Floats, before_v: Floats, after_v: Floats, bursting: Bools) -> None:
        """Count how long bursts pull cells under their least volts; volts run straight along a step."""
        # What is not there has no least volts, and never dips.
        start, end = (_lowest_group(smaller(volts - batch.cut_off_v, FAR_V)) for volts in (before_v, after_v))
        span = larger(abs(end - start), 1e-12)
        share = held_between(larger(-smaller(start, end), 0.0) / span, 0.0, 1.0)
        self.dip_s = self.dip_s + where(bursting, share * step, 0.0)
        self.dip_v = lowest(self.dip_v, _lowest_group(smaller(before_v, after_v)), bursting & (share > 0))

    def note(self, point: Point, demand: Demand, moved: Bools) -> None:
        """Hold on to the extremes of the flights in ``moved``."""
        punching = moved & demand.punch
        cruising = moved & no(demand.punch)
        self.cruise_a = highest(self.cruise_a, point.current, cruising)
        self.punch_a = highest(self.punch_a, point.current, punching)
        if is_two(point.current) or (point.current.__class__ is Array and len(point.current) > 1):
            self.taken_a = highest(self.taken_a, -point.current, moved)
            self.cruise_bus_a = highest(self.cruise_bus_a, point.bus_a, cruising)
            self.punch_bus_a = highest(self.punch_bus_a, point.bus_a, punching)
        self.hottest_k = highest(self.hottest_k, point.state.temperature_k)
        self.coldest_k = lowest(self.coldest_k, point.state.temperature_k)

    def take(self, flights: Ints) -> Books:
        """Those of some of the flights."""
        return Books(*(pick(getattr(self, field.name), flights) for field in fields(self)))

    def store(self, into: Books, flights: Ints, mask: Bools, carriers: Ints) -> None:
        """Write those in ``mask`` into the books of all, at ``flights``; ``carriers`` tells which here stands for each
        there."""
        for field in fields(self):
            values = pick(getattr(self, field.name), mask)
            write(getattr(into, field.name), flights, values[:, carriers] if field.name in _OF_CARRIERS else values)


_OF_CARRIERS = ("feels_a2", "felt_a2")


def _lowest_group(volts: Floats) -> Floats:
    """(packs, 1, flights) Of each pack."""
    return volts if volts.__class__ is not Array else volts.min(axis=1, keepdims=True)


class Recorder:
    """Collects the points of every flight, to be sorted by flight at the end."""

    def __init__(self, batch: FlightBatch, plain: bool) -> None:
        self._count, self._shape = batch.flights, batch.start.soc.shape[:2]
        self._plain = plain
        self._flights: list[Any] = []
        self._tables: list[Any] = []

    def add(self, flights: Ints, time_s: Floats, block: Ints, point: Point, mask: Bools) -> None:
        """A point of the flights in ``mask``, which are ``flights`` of the batch."""
        state = point.state
        cells = (state.soc, state.lag, state.v1, state.temperature_k, point.cell_v, point.current)
        if self._plain:
            if mask:
                self._flights.extend(flights)
                each = [value for values in cells for value in pair(values)] if is_two(point.current) else cells
                self._tables.append((time_s, block, point.bus_v, point.bus_a, *each))
            return
        columns = (time_s, block, point.bus_v, point.bus_a, *(values.ravel() for values in cells))
        table = np.concatenate(columns).reshape(-1, len(time_s)).T
        self._flights.append(flights)
        self._tables.append(table[mask])

    def traces(self) -> tuple[Trace, ...]:
        """Of every flight, in order."""
        if self._plain:
            flights, table = np.array(self._flights), np.array(self._tables, float)
        else:
            flights, table = np.concatenate(self._flights), np.concatenate(self._tables)
        order = np.argsort(flights, kind="stable")
        bounds = np.searchsorted(flights[order], np.arange(1, self._count))
        result = []
        for rows in np.split(table[order], bounds):
            columns = rows.T.copy()
            t, block, bus_v, bus_a = columns[:4]
            packs, groups = self._shape
            *state, cell_v = columns[4 : 4 + 5 * packs * groups].reshape(5, packs, groups, len(t))
            current = columns[4 + 5 * packs * groups :].reshape(packs, 1, len(t))
            result.append(Trace(t, block.astype(np.intp), CellState(*state), current, cell_v, bus_v, bus_a))
        return tuple(result)


class Summary:
    """Results of all flights, filled as they end."""

    def __init__(self, batch: FlightBatch) -> None:
        n = batch.flights
        self.books = Books.begun(batch)
        self.grounded = (batch.block_ground | (batch.block_s <= 0)).all(axis=1)
        self.end_s, self.end_bus_v = np.zeros((2, n))
        self.ending = np.zeros(n, np.intp)
        self.call_s = np.full(n, np.nan)
        self.end, self.late = batch.start.copy(), batch.start.copy()
        self.end_cell_v = np.zeros(batch.start.soc.shape)

    def traces(self, batch: FlightBatch, steps: int, recorder: Recorder | None) -> FlightTraces:
        """All of them, in the order of the batch."""
        never = np.isnan(self.call_s)
        late, several = self.late.merged(never, self.end), len(batch.parallel) > 1
        return FlightTraces(
            end_s=self.end_s,
            lasted_s=np.where(self.grounded, self.end_s, self.books.airborne_s),
            ending=self.ending,
            end_state=self.end,
            landing_call_s=np.where(never, self.end_s, self.call_s),
            late_state=late,
            end_cell_v=self.end_cell_v,
            end_bus_v=self.end_bus_v,
            cruise_current_a=self.books.cruise_a,
            punch_current_a=self.books.punch_a,
            taken_current_a=self.books.taken_a,
            held_current_a=self.books.held_a,
            felt_a2=self.books.felt_a2,
            dip_s=self.books.dip_s,
            dip_v=self.books.dip_v,
            cruise_bus_a=self.books.cruise_bus_a if several else total(self.books.cruise_a * batch.parallel),
            punch_bus_a=self.books.punch_bus_a if several else total(self.books.punch_a * batch.parallel),
            hottest_k=self.books.hottest_k,
            coldest_k=self.books.coldest_k,
            charge_c=((batch.start.soc - self.end.soc) * batch.cell.charge_c)[:, :1],
            energy_j=self.books.energy_j,
            steps=steps,
            trace=recorder.traces() if recorder else (),
        )


def store(into: CellState, flights: Ints, state: CellState, mask: Bools) -> None:
    """Write the states in ``mask`` into those of all, at ``flights``."""
    for field in fields(CellState):
        write(getattr(into, field.name), flights, pick(getattr(state, field.name), mask))


def write(into: Floats, flights: Ints, values: Floats) -> None:
    """Write the values of some flights into those of all."""
    into[..., flights] = as_column(values)[..., None] if is_two(values) else values
