"""What is written down of flights: their books while they fly, their points, and what is left at their end."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np

from wise_cellar.core.flight.balance import Demand, Point
from wise_cellar.core.flight.batch import FlightBatch, FlightTraces, Trace, total
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.conductor import felt

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
        airborne, cruise_bus, punch_bus = np.zeros((3, batch.flights))
        energy, cruise, punch, taken = np.zeros((4, *batch.parallel.shape))
        above, held, dip = np.zeros((3, *batch.parallel.shape))
        feels, felt_a2 = np.zeros((2, *batch.carrier_s.shape))
        kelvin = batch.start.temperature_k
        return cls(airborne, energy, cruise, punch, taken, cruise_bus, punch_bus, kelvin.copy(), kelvin.copy(),
                   feels, felt_a2, dip, np.full_like(dip, np.inf), above, held)  # fmt: skip

    def add(self, batch: FlightBatch, demand: Demand, step: Floats, before: Point, after: Point, moved: Bools) -> None:
        """Sum up a step of the flights in ``moved``."""
        parallel = batch.parallel
        watts = before.current * before.bus_v[None, None] + after.current * after.bus_v[None, None]
        np.add(self.energy_j, 0.5 * step[None, None] * parallel * watts, out=self.energy_j, where=moved)
        np.add(self.airborne_s, step, out=self.airborne_s, where=moved & ~demand.ground)
        if batch.carrier_s.shape[1]:
            self._carry(batch, step[None, None], before.current, after.current, moved)
            if (moved & demand.punch).any():
                self._dip(batch, step[None, None], before.cell_v, after.cell_v, moved & demand.punch)

    def _carry(self, batch: FlightBatch, step: Floats, start_a: Floats, end_a: Floats, moved: Bools) -> None:
        """What the step does to carriers, and to cells above what they may give for good."""
        feels = felt(self.feels_a2, start_a**2, end_a**2, step, batch.carrier_s)
        np.copyto(self.feels_a2, feels, where=moved)
        np.maximum(self.felt_a2, self.feels_a2, out=self.felt_a2)
        least_a = np.minimum(start_a, end_a)
        above = least_a > batch.lasting_a
        if not (above.any() or self.above_s.any()):
            return
        clock = np.maximum(self.above_s + np.where(above, step, -step), 0.0)
        np.copyto(self.above_s, clock, where=moved)
        np.maximum(self.held_a, least_a, out=self.held_a, where=moved & above & (clock > batch.burst_s + MOMENT_S))

    def _dip(self, batch: FlightBatch, step: Floats, before_v: Floats, after_v: Floats, bursting: Bools) -> None:
        """Count how long bursts pull cells under their least volts; volts run straight along a step."""
        # What is not there has no least volts, and never dips.
        start, end = (
            np.minimum(volts - batch.cut_off_v, FAR_V).min(axis=1, keepdims=True) for volts in (before_v, after_v)
        )
        span = np.maximum(np.abs(end - start), 1e-12)
        share = np.clip(np.maximum(-np.minimum(start, end), 0.0) / span, 0.0, 1.0)
        np.add(self.dip_s, share * step, out=self.dip_s, where=bursting)
        lowest = np.minimum(before_v, after_v).min(axis=1, keepdims=True)
        np.minimum(self.dip_v, lowest, out=self.dip_v, where=bursting & (share > 0))

    def note(self, point: Point, demand: Demand, moved: Bools) -> None:
        """Hold on to the extremes of the flights in ``moved``."""
        cruising, punching = moved & ~demand.punch, moved & demand.punch
        np.maximum(self.cruise_a, point.current, out=self.cruise_a, where=cruising)
        np.maximum(self.punch_a, point.current, out=self.punch_a, where=punching)
        if len(point.current) > 1:
            np.maximum(self.taken_a, -point.current, out=self.taken_a, where=moved)
            np.maximum(self.cruise_bus_a, point.bus_a, out=self.cruise_bus_a, where=cruising)
            np.maximum(self.punch_bus_a, point.bus_a, out=self.punch_bus_a, where=punching)
        np.maximum(self.hottest_k, point.state.temperature_k, out=self.hottest_k)
        np.minimum(self.coldest_k, point.state.temperature_k, out=self.coldest_k)

    def take(self, flights: Ints) -> Books:
        """Those of some of the flights."""
        return Books(*(getattr(self, field.name)[..., flights] for field in fields(self)))

    def store(self, into: Books, flights: Ints, mask: Bools) -> None:
        """Write those in ``mask`` into the books of all, at ``flights``."""
        for field in fields(self):
            getattr(into, field.name)[..., flights] = getattr(self, field.name)[..., mask]


class Recorder:
    """Collects the points of every flight, to be sorted by flight at the end."""

    def __init__(self, batch: FlightBatch) -> None:
        self._count, self._shape = batch.flights, batch.start.soc.shape[:2]
        self._flights: list[Ints] = []
        self._tables: list[Floats] = []

    def add(self, flights: Ints, time_s: Floats, block: Ints, point: Point, mask: Bools) -> None:
        """A point of the flights in ``mask``."""
        state = point.state
        cells = (state.soc, state.lag, state.v1, state.temperature_k, point.cell_v, point.current)
        columns = (time_s, block, point.bus_v, point.bus_a, *(values.ravel() for values in cells))
        table = np.concatenate(columns).reshape(-1, len(time_s)).T
        self._flights.append(flights[mask])
        self._tables.append(table[mask])

    def traces(self) -> tuple[Trace, ...]:
        """Of every flight, in order."""
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
        getattr(into, field.name)[..., flights] = getattr(state, field.name)[..., mask]
