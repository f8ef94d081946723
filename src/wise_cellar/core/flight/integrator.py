"""The one integrator: flies a batch of designs through their missions.

Each flight steps at its own pace. A step predicts with the current continued on its last slope, evaluates the current
at the end, corrects with the current running straight from start to end (exactly integrated, see
:func:`~wise_cellar.core.physics.cell.advance`), and evaluates again. The difference of the two ends bounds the error
and sets the next step. A limit crossed inside a step is located by repeating the step shortened, until the crossing is
within a tenth of a millivolt.
"""

from __future__ import annotations

import numpy as np

from wise_cellar.core.flight.balance import Blocks, Demand, Point, evaluate
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces, least, total
from wise_cellar.core.flight.books import Books, Recorder, Summary, store
from wise_cellar.core.flight.stopping import ask
from wise_cellar.core.physics import cell as law
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.motor import MOST_DUTY

VOLTAGE_TOLERANCE = 1.0e-3
"""Bound on the predictor-corrector difference of the cell voltage over one step, volts."""
TEMPERATURE_TOLERANCE = 0.05
"""The same for the temperature, K, and more where more is allowed of the voltage."""
CROSSING_TOLERANCE = 1.0e-5
"""Margin at which a limit counts as met, volts a cell or of the whole charge: 1e-4 is half a second of an hour."""
FIRST_STEP_S = 1.0
LEAST_STEP_S = 1.0e-3
MOST_STEP_S = 120.0
_MOST_STEPS = 20_000


def _step(
    batch: FlightBatch, at: Point, demand: Demand, step_s: Floats, slope: Floats, voltage_v: float
) -> tuple[Point, Floats]:
    """The point after ``step_s``, and the difference of predictor and corrector over what is tolerated: of the voltage
    ``voltage_v``, of the temperature as much more as is of the voltage."""
    # In the shape of what belongs to packs: numpy is quicker where shapes are the same.
    step_s = step_s[None, None]
    ahead = at.current + slope * step_s
    start = at.state.temperature_k
    steady = law.steady_filters(batch.cell, step_s)
    predicted = law.advance(
        batch.cell, at.state, step_s, at.current, ahead, at.heat_w, at.heat_w, start, steady
    )  # fmt: skip
    guess = evaluate(batch, predicted, demand, ahead)
    middle = 0.5 * (start + predicted.temperature_k)
    corrected = law.advance(
        batch.cell, at.state, step_s, at.current, guess.current, at.heat_w, guess.heat_w, middle, steady
    )  # fmt: skip
    end = evaluate(batch, corrected, demand, guess.current)
    if len(end.current) > 1:
        # What flows from pack to pack hangs on small differences of voltage, and is corrected once more; what they give
        # together is corrected once, as that of one pack is.
        strings = total(batch.parallel)
        apart = np.where(batch.parallel > 0, end.current + (guess.bus_a - end.bus_a) / strings, 0.0)
        corrected = law.advance(
            batch.cell, at.state, step_s, at.current, apart, at.heat_w, guess.heat_w, middle, steady
        )  # fmt: skip
        end = evaluate(batch, corrected, demand, end.current)
    voltage = np.abs(end.cell_v - guess.cell_v) / voltage_v
    warmth_k = TEMPERATURE_TOLERANCE * max(voltage_v / VOLTAGE_TOLERANCE, 1.0)
    error = np.maximum(voltage, np.abs(corrected.temperature_k - predicted.temperature_k) / warmth_k)
    return end, -least(-error)


_Margins = tuple[Floats, Floats, Floats, Floats]


def _hard_margins(batch: FlightBatch, point: Point, demand: Demand) -> _Margins:
    """Distance to each hard limit, positive while it holds.

    Cell cut-off, brown-out and out of thrust in volts a cell; cannot supply as the discriminant. A dip of the cells in
    a burst is flown through, unless the flight is strict.
    """
    cut_off = least(point.cell_v - batch.cut_off_v)
    return (
        np.where(demand.punch & ~batch.strict, np.inf, cut_off),
        (point.bus_v - batch.brown_out_v) / batch.series,
        (point.bus_v - demand.motor_v / np.minimum(batch.most_duty, MOST_DUTY)) / batch.series,
        point.supply,
    )


def _least(margins: _Margins) -> Floats:
    cut_off, brown_out, thrust, supply = margins
    return np.minimum(np.minimum(cut_off, brown_out), np.minimum(thrust, supply))


_HARD_ENDINGS = np.array([Ending.CELL_CUT_OFF, Ending.BROWN_OUT, Ending.OUT_OF_THRUST])


def _landing_margin(batch: FlightBatch, point: Point) -> Floats:
    """Distance to the landing rule, whichever it goes by: volts, or state of charge."""
    loaded = point.bus_v / batch.series - batch.landing_v
    margin = np.minimum(loaded, total(batch.counted * point.state.soc) - batch.landing_soc)
    if np.isfinite(batch.landing_rest_v).any():
        rest = np.where(batch.there, batch.cell.ocv(point.state.soc), np.inf)
        margin = np.minimum(margin, least(rest) - batch.landing_rest_v)
    return margin


class _Standing:
    """How far a point is from its limits, each looked at once."""

    def __init__(self, batch: FlightBatch, point: Point, demand: Demand) -> None:
        self.point = point
        self.hard = _hard_margins(batch, point, demand)
        self.least = _least(self.hard)
        self.landing = _landing_margin(batch, point)

    def watched(self, rule_idle: Bools) -> Floats:
        """Least margin of what a step may cross: the hard limits, and the landing threshold unless ``rule_idle``."""
        return np.minimum(self.least, np.where(rule_idle, np.inf, self.landing))


def _hard_ending(margins: _Margins) -> Ints:
    """The limit that was met: no power to be had before all, else the one that lies highest in voltage."""
    return np.where(margins[3] < 0.0, Ending.NO_POWER, _HARD_ENDINGS[np.argmin(margins[:3], axis=0)])


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
    low, high = np.zeros_like(step), step.copy()
    value_low, value_high = _Standing(batch, at, demand).watched(rule_idle), margin_end.copy()
    trial, there = high, at
    done = np.zeros(len(step), bool)
    for _ in range(40):
        # A flight that has its crossing keeps it, so that it ends the same whatever else is in the batch.
        trial = np.where(done, trial, high - value_high * (high - low) / (value_high - value_low))
        there, _ = _step(batch, at, demand, trial, slope, VOLTAGE_TOLERANCE)
        value = _Standing(batch, there, demand).watched(rule_idle)
        done = done | (np.abs(value) <= crossing_v)
        if done.all():
            break
        above = value > 0.0
        value_high = np.where(above, value_high * 0.5, value)
        value_low = np.where(above, value, value_low * 0.5)
        low, high = np.where(above, trial, low), np.where(above, high, trial)
    return trial, there


_PER_FLIGHT = (
    "index", "time", "block", "block_end", "pace", "slope", "below_since", "called", "by_rule", "parked",
    "parked_step", "parked_margin",
)  # fmt: skip
MOST_PARKED = 1 / 8
"""Flights that have crossed a limit wait, in the state before that step, until this share of all can be located
together: one crossing in many small calls costs as much as a hundred."""


class _Flying:
    """The active flights of a batch: their clocks, blocks and points. Ended flights are dropped."""

    def __init__(self, batch: FlightBatch, recorder: Recorder | None, voltage_v: float) -> None:
        # What allows more error in a step allows as much more at its ends.
        coarser = max(voltage_v / VOLTAGE_TOLERANCE, 1.0)
        self.voltage_v, self.crossing_v = voltage_v, CROSSING_TOLERANCE * coarser
        self.first_step_s = FIRST_STEP_S * coarser
        self.blocks = Blocks(batch)
        self.batch = batch.without_blocks()
        self.summary = Summary(batch)
        self.recorder = recorder
        n = batch.flights
        self.index = np.arange(n)
        self.time = np.zeros(n)
        self.block = np.zeros(n, np.intp)
        self.block_end = batch.block_s[:, 0].copy()
        self.pace = np.full(n, self.first_step_s)
        self.slope = np.zeros(batch.parallel.shape)
        self.below_since = np.full(n, np.nan)
        self.called = batch.block_landing[:, 0].copy()
        self.by_rule = np.zeros(n, bool)
        self.parked = np.zeros(n, bool)
        self.parked_step, self.parked_margin = np.zeros((2, n))
        self.books = Books.begun(batch)
        self.state = batch.start.copy()
        self.demand = self.blocks.demand(self.index, self.block)
        self.point = evaluate(self.batch, self.state, self.demand)
        self.enter_block(np.ones(n, bool))

    @property
    def active(self) -> int:
        return len(self.index)

    def enter_block(self, mask: Bools) -> None:
        """Begin the present block for the flights in ``mask``: skip empty ones, jump the current, check limits."""
        last = self.blocks.count - 1
        complete = np.zeros(self.active, bool)
        while True:
            empty = mask & ~complete & (self.blocks.seconds(self.index, np.minimum(self.block, last)) <= 0.0)
            if not empty.any():
                break
            self.block[empty] += 1
            complete |= mask & (self.block > last)
            self.block = np.minimum(self.block, last)
        self.block_end = np.where(mask, self.time + self.blocks.seconds(self.index, self.block), self.block_end)
        self.demand = self.blocks.demand(self.index, self.block)
        point = evaluate(self.batch, self.state, self.demand)
        self.point = point if mask.all() else self.point.merged(mask, point)
        self.pace = np.where(mask, self.first_step_s, self.pace)
        self.slope = np.where(mask, 0.0, self.slope)
        landing = self.blocks.landing(self.index, self.block)
        self._note_call(mask & landing & ~self.called)
        self.called = self.called | (mask & landing)
        self.books.note(self.point, self.demand, mask & ~complete)
        if self.recorder:
            self.recorder.add(self.index, self.time, self.block, self.point, mask & ~complete)
        standing = _Standing(self.batch, self.point, self.demand)
        self._judge_landing(mask, standing)
        failed = mask & ~complete & (standing.least < 0.0)
        ended = complete | failed
        if ended.any():
            self.finish(ended, np.where(complete, self._completed(), _hard_ending(standing.hard)))

    def _completed(self) -> Ints:
        """Reserve reached where the rule brought the flight down, mission complete elsewhere."""
        return np.where(self.by_rule, Ending.RESERVE_REACHED, Ending.MISSION_COMPLETE)

    def _note_call(self, mask: Bools) -> None:
        self.summary.call_s[self.index[mask]] = self.time[mask]
        store(self.summary.late, self.index[mask], self.state, mask)

    def _judge_landing(self, mask: Bools, standing: _Standing) -> None:
        """Start or stop the clock of the landing rule, which does not run where it is deaf or once it has called."""
        deaf = self._deaf()
        applies = mask & ~self.called & ~deaf
        below = standing.landing <= self.crossing_v
        begun = applies & below & np.isnan(self.below_since)
        self.below_since[begun] = self.time[begun]
        cleared = mask & ~self.called & (deaf | ~below)
        self.below_since[cleared] = np.nan

    def _deaf(self) -> Bools:
        """Where the landing rule does not listen: in bursts, or to nothing but them."""
        return np.asarray(self.demand.punch != self.batch.landing_in_bursts)

    def step(self) -> None:
        """One step of every active flight, each with its own length."""
        batch, demand = self.batch, self.demand
        off = np.isnan(self.below_since)
        rule_end = np.where(self.called | off, np.inf, self.below_since + batch.landing_hold_s)
        target = np.minimum(self.block_end, rule_end)
        room = target - self.time
        # Two half steps to the target waste less than a full one and a crumb.
        wanted = np.where(self.pace > 0.6 * room, 0.5 * room, self.pace)
        step = np.where(self.pace >= room, room, wanted)
        end, error = _step(batch, self.point, demand, step, self.slope, self.voltage_v)
        moved = ((error <= 1.0) | (step <= LEAST_STEP_S)) & ~self.parked
        growth = 0.9 / np.sqrt(np.maximum(error, 1e-9))
        growth = np.minimum(np.maximum(growth, 0.2), 3.0)
        pace = np.minimum(np.maximum(step * growth, LEAST_STEP_S), MOST_STEP_S)
        self.pace = np.where(self.parked, self.pace, pace)

        idle = self.called | self._deaf() | ~off
        standing = _Standing(batch, end, demand)
        margin = standing.watched(idle)
        crossing = moved & (margin < 0.0)
        if crossing.any():
            self.parked |= crossing
            self.parked_step = np.where(crossing, step, self.parked_step)
            self.parked_margin = np.where(crossing, margin, self.parked_margin)
            moved &= ~crossing
        waiting = np.count_nonzero(self.parked)
        if waiting and (waiting >= MOST_PARKED * self.active or not moved.any()):
            some = np.flatnonzero(self.parked)
            step[some], there = _locate(
                batch.take(some), self.point.take(some), demand.take(some), idle[some], self.slope[..., some],
                self.parked_step[some], self.parked_margin[some], self.crossing_v,
            )  # fmt: skip
            end = _scattered(end, some, there)
            moved |= self.parked
            self.parked[:] = False
        self._commit(moved, step, end)
        if self.point is not standing.point:
            standing = _Standing(batch, self.point, demand)
        self._judge(moved, rule_end, standing)

    def _judge(self, moved: Bools, rule_end: Floats, standing: _Standing) -> None:
        """Where the flights stand after a step: at a limit, called home, at the end of a block, or on their way."""
        failed = moved & (standing.least <= self.crossing_v)
        self._judge_landing(moved & ~failed, standing)
        lands = moved & ~failed & (self.time >= rule_end - 1e-9) & ~np.isnan(self.below_since)
        over = moved & ~failed & ~lands & (self.time >= self.block_end - 1e-9)
        blocks = self.blocks.count
        if lands.any():
            self._note_call(lands)
            self.called |= lands
            self.by_rule |= lands
            self.block = np.where(lands, self.blocks.first_landing(self.index), self.block)
        self.block[over] += 1
        changed = lands | over
        complete = changed & (self.block >= blocks)
        self.block = np.minimum(self.block, blocks - 1)
        changed &= ~complete
        ended = failed | complete
        if ended.any():
            kept = ~ended
            self.finish(ended, np.where(failed, _hard_ending(standing.hard), self._completed()))
            changed = changed[kept]
        if self.active and changed.any():
            self.enter_block(changed)

    def _commit(self, moved: Bools, step: Floats, end: Point) -> None:
        self.books.add(self.batch, self.demand, step, self.point, end, moved)
        safe = np.maximum(step, LEAST_STEP_S)[None, None]
        self.slope = np.where(moved[None, None], (end.current - self.point.current) / safe, self.slope)
        self.time = np.where(moved, self.time + step, self.time)
        self.point = end if moved.all() else self.point.merged(moved, end)
        self.state = self.point.state
        self.books.note(self.point, self.demand, moved)
        if self.recorder:
            self.recorder.add(self.index, self.time, self.block, self.point, moved)

    def finish(self, mask: Bools, ending: Ints) -> None:
        """Write down the flights in ``mask`` and drop them."""
        where = self.index[mask]
        self.summary.end_s[where] = self.time[mask]
        self.summary.ending[where] = ending[mask]
        self.summary.end_cell_v[..., where] = self.point.cell_v[..., mask]
        self.summary.end_bus_v[where] = self.point.bus_v[mask]
        self.books.store(self.summary.books, where, mask)
        store(self.summary.end, where, self.state, mask)
        keep = np.flatnonzero(~mask)
        self.batch = self.batch.take(keep)
        for name in _PER_FLIGHT:
            setattr(self, name, getattr(self, name)[..., keep])
        self.books = self.books.take(keep)
        self.point = self.point.take(keep)
        self.state = self.point.state
        if len(keep):
            self.demand = self.blocks.demand(self.index, self.block)


def _scattered(into: Point, some: Ints, part: Point) -> Point:
    mask = np.zeros(len(into.bus_v), bool)
    mask[some] = True
    wide = np.zeros(len(mask), np.intp)
    wide[some] = np.arange(len(some))
    return into.merged(mask, part.take(wide))


def fly(batch: FlightBatch, *, record: bool = False, tolerance_v: float = VOLTAGE_TOLERANCE) -> FlightTraces:
    """Fly every flight of the batch to its end.

    ``record`` keeps every step of every flight, for plots; leave it off for large batches. ``tolerance_v`` is the error
    allowed in a step: less of it where what flows between packs at rest is asked for. Raises
    ``RuntimeError`` if a flight needs more steps than any sound one does, and :class:`UnwantedError` where its caller
    has said that nobody waits for it any more.
    """
    flying = _Flying(batch, Recorder(batch) if record else None, tolerance_v)
    steps = 0
    while flying.active:
        ask()
        flying.step()
        steps += 1
        if steps > _MOST_STEPS:
            raise RuntimeError("A flight did not end within the greatest number of steps.")
    return flying.summary.traces(batch, steps, flying.recorder)
