"""The one integrator: flies a batch of designs through their missions.

Each flight steps at its own pace. A step predicts with the current continued on its last slope, evaluates the current
at the end, corrects with the current running straight from start to end (exactly integrated, see
:func:`~wise_cellar.core.physics.cell.advance`), and evaluates again. The difference of the two ends bounds the error
and sets the next step. A limit crossed inside a step is located by repeating the step shortened, until the crossing is
within a hundredth of a millivolt. Few flights of one pack or two, of one group each, go one by one in plain
numbers, by the same lines (:mod:`~wise_cellar.core.physics.numbers`).
"""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import numpy as np

from wise_cellar.core.flight.balance import Blocks, Demand, Point, evaluate
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces, least, per_pack
from wise_cellar.core.flight.books import Books, Recorder, Summary, store, write
from wise_cellar.core.flight.margins import Standing, hard_ending
from wise_cellar.core.flight.stopping import ask
from wise_cellar.core.physics import cell as law
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.numbers import (
    alike,
    every,
    held_between,
    larger,
    no,
    pick,
    places,
    put,
    smaller,
    smaller_index,
    some,
    square_root,
    unset,
    where,
)

VOLTAGE_TOLERANCE = 0.7e-3
"""Bound on the predictor-corrector difference of the cell voltage over one step, volts."""
TEMPERATURE_TOLERANCE = 0.05
"""The same for the temperature, K, and more where more is allowed of the voltage."""
CROSSING_TOLERANCE = 1.0e-5
"""Margin at which a limit counts as met, volts a cell or of the whole charge: 1e-4 is half a second of an hour."""
FIRST_STEP_S = 2.0
LEAST_STEP_S = 1.0e-3
MOST_STEP_S = 120.0
LEAST_GROWTH, MOST_GROWTH = 0.2, 10.0
"""Of one step over the one before."""
_MOST_STEPS = 20_000


def _step(
    batch: FlightBatch, at: Point, demand: Demand, step_s: Floats, slope: Floats, voltage_v: float
) -> tuple[Point, Floats]:
    """The point after ``step_s``, and the difference of predictor and corrector over what is tolerated: of the voltage
    ``voltage_v``, of the temperature as much more as is of the voltage."""
    step_s = per_pack(step_s)
    ahead = at.current + slope * step_s
    start = at.state.temperature_k
    filters = law.step_filters(batch.cell, step_s, start)
    predicted = law.advance(batch.cell, at.state, step_s, at.current, ahead, at.heat_w, at.heat_w, filters)
    # What flows from pack to pack hangs on small differences of voltage, which it makes itself within a step.
    yielding = law.yielding_ohm(batch.cell, predicted, step_s, filters)
    guess = evaluate(batch, predicted, demand, ahead, yielding)
    filters = law.step_filters(batch.cell, step_s, 0.5 * (start + predicted.temperature_k), filters)
    corrected = law.advance(batch.cell, at.state, step_s, at.current, guess.current, at.heat_w, guess.heat_w, filters)
    end = evaluate(batch, corrected, demand, guess.current)
    voltage = abs(end.cell_v - guess.cell_v) / voltage_v
    warmth_k = TEMPERATURE_TOLERANCE * max(voltage_v / VOLTAGE_TOLERANCE, 1.0)
    error = larger(voltage, abs(corrected.temperature_k - predicted.temperature_k) / warmth_k)
    return end, -least(-error)


def _locate(
    batch: FlightBatch,
    at: Point,
    demand: Demand,
    rule_idle: Bools,
    slope: Floats,
    step: Floats,
    margin_end: Floats,
    crossing_v: float,
) -> tuple[Floats, Point]:
    """Step length and point at which the watched margin of every given flight crosses zero (Illinois method)."""
    low, high = alike(step, 0.0), step
    value_low, value_high = Standing(batch, at, demand).watched(rule_idle), margin_end
    trial, there, done = high, at, alike(step, False)
    for _ in range(40):
        # A flight that has its crossing keeps it, so that it ends the same whatever else is in the batch.
        trial = where(done, trial, high - value_high * (high - low) / (value_high - value_low))
        there, _ = _step(batch, at, demand, trial, slope, VOLTAGE_TOLERANCE)
        value = Standing(batch, there, demand).watched(rule_idle)
        done = done | (abs(value) <= crossing_v)
        if every(done):
            break
        above = value > 0.0
        value_high = where(above, value_high * 0.5, value)
        value_low = where(above, value, value_low * 0.5)
        low, high = where(above, trial, low), where(above, high, trial)
    return trial, there


_PER_FLIGHT = (
    "index", "time", "block", "block_end", "pace", "slope", "below_since", "called", "by_rule", "parked",
    "parked_step", "parked_margin",
)  # fmt: skip
MOST_PARKED, LEAST_PARKED = 1 / 8, 200
"""Flights that have crossed a limit wait, in the state before that step, until this share of all, and at least so many,
can be located together, or nothing else moves: one crossing in many small calls costs as much as a hundred."""


class _Flying:
    """The active flights of a batch: their clocks, blocks and points. Ended flights are dropped.

    ``at`` says which of the batch fly: some, in arrays, or one alone, in plain numbers.
    """

    def __init__(self, batch: FlightBatch, keeping: _Keeping, voltage_v: float, at: Ints | int) -> None:
        # What allows more error in a step allows as much more at its ends.
        coarser = max(voltage_v / VOLTAGE_TOLERANCE, 1.0)
        self.voltage_v, self.crossing_v = voltage_v, CROSSING_TOLERANCE * coarser
        self.first_step_s = FIRST_STEP_S * coarser
        self.summary, self.recorder = keeping.summary, keeping.recorder
        own = batch.plain(at) if isinstance(at, int) else batch if len(at) == batch.flights else batch.take(at)
        self.at, self.blocks = at, Blocks(own)
        index: Any = 0 if own.plain_numbers else np.arange(own.flights)
        self.index: Ints = index
        self.active = 1 if own.plain_numbers else own.flights
        self.batch = own if own.plain_numbers else own.lean()
        alike_carriers = np.arange(own.carrier_s.shape[1]) if own.plain_numbers else own.carriers_alike
        self.carriers: Ints = np.unique(alike_carriers, return_inverse=True)[1]
        self.time = alike(own.series, 0.0)
        self.block: Ints = index * 0
        self.block_end = self.blocks.seconds(self.index, self.block)
        self.pace = alike(own.series, self.first_step_s)
        self.slope = alike(own.parallel, 0.0)
        self.below_since = alike(own.series, np.nan)
        self.called = self.blocks.landing(self.index, self.block)
        self.by_rule = self.parked = alike(own.series, False)
        self.parked_step = self.parked_margin = alike(own.series, 0.0)
        self.books = Books.begun(self.batch)
        self.state = own.start
        self.demand = self.blocks.demand(self.index, self.block)
        self.point = evaluate(self.batch, self.state, self.demand)
        self.enter_block(alike(own.series, True))

    def enter_block(self, mask: Bools) -> None:
        """Begin the present block for the flights in ``mask``: skip empty ones, jump the current, check limits."""
        last = self.blocks.count - 1
        complete = alike(mask, False)
        while True:
            empty = mask & no(complete) & (self.blocks.seconds(self.index, smaller_index(self.block, last)) <= 0.0)
            if not some(empty):
                break
            self.block = self.block + empty
            complete = complete | (mask & (self.block > last))
            self.block = smaller_index(self.block, last)
        self.block_end = where(mask, self.time + self.blocks.seconds(self.index, self.block), self.block_end)
        self.demand = self.blocks.demand(self.index, self.block)
        self.point = self._jumped(mask)
        self.pace = where(mask, self.first_step_s, self.pace)
        self.slope = where(mask, 0.0, self.slope)
        landing = self.blocks.landing(self.index, self.block)
        self._note_call(mask & landing & no(self.called))
        self.called = self.called | (mask & landing)
        entered = mask & no(complete)
        self._write_down(entered)
        standing = Standing(self.batch, self.point, self.demand)
        self._judge_landing(mask, standing)
        failed = entered & (standing.least < 0.0)
        ended = complete | failed
        if some(ended):
            self.finish(ended, where(complete, self._completed(), hard_ending(standing.hard)))

    def _jumped(self, mask: Bools) -> Point:
        """The point of all, after the current of those in ``mask`` jumped to what their block asks for."""
        if 2 * len(at := places(mask)) >= self.active:
            point = evaluate(self.batch, self.state, self.demand)
            return point if every(mask) else self.point.merged(mask, point)
        return self.point.with_some(at, evaluate(self.batch.take(at), self.state.take(at), self.demand.take(at)))

    def _completed(self) -> Ints:
        """Reserve reached where the rule brought the flight down, mission complete elsewhere."""
        return where(self.by_rule, Ending.RESERVE_REACHED, Ending.MISSION_COMPLETE)

    def _write_down(self, mask: Bools) -> None:
        """The point at which the flights in ``mask`` are."""
        self.books.note(self.point, self.demand, mask)
        if self.recorder:
            self.recorder.add(self._where(mask), self.time, self.block, self.point, mask)

    def _where(self, mask: Bools) -> Any:
        """The places of the flights in ``mask`` in the batch."""
        return [self.at] if isinstance(self.at, int) else self.at[self.index[mask]]

    def _note_call(self, mask: Bools) -> None:
        if some(mask):
            at = self._where(mask)
            self.summary.call_s[at] = pick(self.time, mask)
            store(self.summary.late, at, self.state, mask)

    def _judge_landing(self, mask: Bools, standing: Standing) -> None:
        """Start or stop the clock of the landing rule, which does not run where it is deaf or once it has called."""
        deaf = self._deaf()
        waits = mask & no(self.called)
        below = no(deaf) & (standing.landing <= self.crossing_v)
        begun = waits & below & unset(self.below_since)
        self.below_since = where(begun, self.time, where(waits & no(below), np.nan, self.below_since))

    def _deaf(self) -> Bools:
        """Where the landing rule does not listen: in bursts, or to nothing but them."""
        deaf: Bools = self.demand.punch != self.batch.landing_in_bursts
        return deaf

    def step(self) -> None:
        """One step of every active flight, each with its own length."""
        batch, demand = self.batch, self.demand
        off = unset(self.below_since)
        rule_end = where(self.called | off, np.inf, self.below_since + batch.landing_hold_s)
        room = smaller(self.block_end, rule_end) - self.time
        # Two half steps to the target waste less than a full one and a crumb.
        wanted = where(self.pace > 0.6 * room, 0.5 * room, self.pace)
        step = where(self.pace >= room, room, wanted)
        end, error = _step(batch, self.point, demand, step, self.slope, self.voltage_v)
        moved = ((error <= 1.0) | (step <= LEAST_STEP_S)) & no(self.parked)
        growth = held_between(0.9 / square_root(larger(error, 1e-9)), LEAST_GROWTH, MOST_GROWTH)
        self.pace = where(self.parked, self.pace, held_between(step * growth, LEAST_STEP_S, MOST_STEP_S))

        idle = self.called | self._deaf() | no(off)
        standing = Standing(batch, end, demand)
        margin = standing.watched(idle)
        crossing = moved & (margin < 0.0)
        if some(crossing):
            self.parked = self.parked | crossing
            self.parked_step = where(crossing, step, self.parked_step)
            self.parked_margin = where(crossing, margin, self.parked_margin)
            moved = moved & no(crossing)
        waiting = len(at := places(self.parked))
        if waiting and (waiting >= max(MOST_PARKED * self.active, LEAST_PARKED) or not some(moved)):
            found, there = _locate(
                batch.take(at), self.point.take(at), demand.take(at), pick(idle, at), pick(self.slope, at),
                pick(self.parked_step, at), pick(self.parked_margin, at), self.crossing_v,
            )  # fmt: skip
            step = put(step, at, found)
            end = end.with_some(at, there)
            moved = moved | self.parked
            self.parked = alike(step, False)
        self._commit(moved, step, end)
        if self.point is not standing.point:
            standing = Standing(batch, self.point, demand)
        self._judge(moved, rule_end, standing)

    def _judge(self, moved: Bools, rule_end: Floats, standing: Standing) -> None:
        """Where the flights stand after a step: at a limit, called home, at the end of a block, or on their way."""
        failed = moved & (standing.least <= self.crossing_v)
        going = moved & no(failed)
        self._judge_landing(going, standing)
        lands = going & (self.time >= rule_end - 1e-9) & no(unset(self.below_since))
        over = going & no(lands) & (self.time >= self.block_end - 1e-9)
        blocks = self.blocks.count
        if some(lands):
            self._note_call(lands)
            self.called = self.called | lands
            self.by_rule = self.by_rule | lands
            self.block = where(lands, self.blocks.first_landing(self.index), self.block)
        self.block = self.block + over
        changed = lands | over
        complete = changed & (self.block >= blocks)
        self.block = smaller_index(self.block, blocks - 1)
        changed = changed & no(complete)
        ended = failed | complete
        if some(ended):
            kept = no(ended)
            self.finish(ended, where(failed, hard_ending(standing.hard), self._completed()))
            changed = pick(changed, kept)
        if self.active and some(changed):
            self.enter_block(changed)

    def _commit(self, moved: Bools, step: Floats, end: Point) -> None:
        point = end if every(moved) else self.point.merged(moved, end)
        self.books.add(self.batch, self.demand, step, self.point, point, moved)
        safe = per_pack(larger(step, LEAST_STEP_S))
        self.slope = where(moved, (point.current - self.point.current) / safe, self.slope)
        self.time = where(moved, self.time + step, self.time)
        self.point, self.state = point, point.state
        self._write_down(moved)

    def finish(self, mask: Bools, ending: Ints) -> None:
        """Write down the flights in ``mask`` and drop them."""
        at = self._where(mask)
        self.summary.end_s[at] = pick(self.time, mask)
        self.summary.ending[at] = pick(ending, mask)
        write(self.summary.end_cell_v, at, pick(self.point.cell_v, mask))
        self.summary.end_bus_v[at] = pick(self.point.bus_v, mask)
        self.books.store(self.summary.books, at, mask, self.carriers)
        store(self.summary.end, at, self.state, mask)
        if self.batch.plain_numbers:
            self.active = 0
            return
        keep = np.flatnonzero(~mask)
        self.active = len(keep)
        self.batch = self.batch.take(keep)
        for name in _PER_FLIGHT:
            setattr(self, name, getattr(self, name)[..., keep])
        self.books = self.books.take(keep)
        self.point = self.point.take(keep)
        self.state = self.point.state
        if self.active:
            self.demand = self.blocks.demand(self.index, self.block)


@dataclass(frozen=True)
class _Keeping:
    """Where what is flown is written down."""

    summary: Summary
    recorder: Recorder | None

    @classmethod
    def of(cls, batch: FlightBatch, record: bool, plain: bool) -> _Keeping:
        return cls(Summary(batch), Recorder(batch, plain) if record else None)


MOST_ALONE, MOST_OF_TWO, LEAST_PARTED = 9, 3, 1000
"""So many flights cost as much one after the other in plain numbers as together in arrays, of one pack and of two; and
so many, parted by what their cells ask for, no more than together."""


def fly(batch: FlightBatch, *, record: bool = False, tolerance_v: float = VOLTAGE_TOLERANCE) -> FlightTraces:
    """Fly every flight of the batch to its end.

    ``record`` keeps every step of every flight, for plots; leave it off for large batches. ``tolerance_v`` is the error
    allowed in a step: less of it where what flows between packs at rest is asked for. Raises
    ``RuntimeError`` if a flight needs more steps than any sound one does, and :class:`UnwantedError` where its caller
    has said that nobody waits for it any more.
    """
    if batch.can_be_plain and batch.flights <= (MOST_ALONE if batch.packs == 1 else MOST_OF_TWO):
        keeping = _Keeping.of(batch, record, plain=True)
        # What has no plain number, as an infinity does, is left to arrays.
        with suppress(ArithmeticError, ValueError):
            steps = max(_flown(_Flying(batch, keeping, tolerance_v, at)) for at in range(batch.flights))
            return keeping.summary.traces(batch, steps, keeping.recorder)
    keeping = _Keeping.of(batch, record, plain=False)
    steps = max(_flown(_Flying(batch, keeping, tolerance_v, at)) for at in _alike(batch))
    return keeping.summary.traces(batch, steps, keeping.recorder)


def _alike(batch: FlightBatch) -> list[Ints]:
    """Which flights go together: where there are many, those whose cells ask for more than others' by themselves."""
    asks = ((batch.cell.transfer_share > 0) | (batch.cell.lag_exponent > 0)).any(axis=(0, 1))
    if batch.flights < LEAST_PARTED or asks.all() or not asks.any():
        return [np.arange(batch.flights)]
    return [np.flatnonzero(~asks), np.flatnonzero(asks)]


def _flown(flying: _Flying) -> int:
    """Flown to the end of all; in how many steps."""
    steps = 0
    while flying.active:
        ask()
        flying.step()
        steps += 1
        if steps > _MOST_STEPS:
            raise RuntimeError("A flight did not end within the greatest number of steps.")
    return steps
