"""The arrays a batch of flights is flown from, and the arrays it leaves behind.

An array's shape follows from what its values belong to, never from how many there are: ``(flights,)``; of steps
``(flights, blocks)``; of a pack or of what is in it ``(packs, groups, flights)``, so that every law broadcasts. Packs
share one bus. *Groups* are series groups of a pack that differ from one another; each stands for ``group_share`` of all
groups in series. What belongs to a pack as a whole has one group. Flights with fewer packs, or packs with fewer groups,
than others of their batch have some that are not there: nothing in parallel, no share. A group that is not there is
otherwise like the first of its pack.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from enum import IntEnum
from functools import cached_property
from typing import Any

import numpy as np

from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellParameters, CellState
from wise_cellar.core.physics.motor import Drive
from wise_cellar.core.physics.numbers import Array, is_plain, is_two, pair, plain, some


class Ending(IntEnum):
    """Why a flight ended."""

    MISSION_COMPLETE = 0
    RESERVE_REACHED = 1
    CELL_CUT_OFF = 2
    BROWN_OUT = 3
    OUT_OF_THRUST = 4
    NO_POWER = 5


PER_PACK = ("group_share", "parallel", "wiring_ohm", "cut_off_v", "counted", "carrier_s", "lasting_a", "burst_s")


@dataclass(frozen=True)
class FlightBatch:
    """Flights ready to be flown, SI. Shapes: ``(flights,)`` where nothing else is said."""

    cell: CellParameters
    """(packs, groups, flights)"""
    start: CellState
    """(packs, groups, flights)"""
    drive: Drive
    series: Floats
    group_share: Floats
    """(packs, groups, flights) Share of the pack's series groups that are like this one; 1 in all."""
    parallel: Floats
    """(packs, 1, flights) Cells in parallel; 0 of a pack that is not there."""
    wiring_ohm: Floats
    """(packs, 1, flights) Between the cells and the bus, at pack level."""
    carrier_s: Floats
    """(packs, carriers, flights) Time constants by which what carries a pack's current warms."""
    lasting_a: Floats
    """(packs, 1, flights) What one cell, the mean of its group, may give for good, ``burst_s`` how long it may give
    more."""
    burst_s: Floats
    """(packs, 1, flights)"""
    weight_n: Floats
    thrust_wanted_n: Floats
    """What the thrust margin is counted over: the weight, or the drag of a wing in its cruise."""
    most_duty: Floats
    """Full throttle, as far as the flight controller lets it, 1 = all."""
    cruising_slip: Floats
    """Propeller speed without thrust at the flight's own airspeed, rev/s; 0 of rotors."""
    load_w: Floats
    """Power of everything besides the motors."""
    cut_off_v: Floats
    """(packs, groups, flights) Least loaded volts of a cell; minus infinity of what is not there."""
    strict: Bools
    """Whether the least volts end a flight in a burst too."""
    brown_out_v: Floats
    """Bus voltage under which the first other load stops."""
    landing_v: Floats
    """Loaded volts a cell, as the craft sees them, at which the landing rule calls."""
    landing_in_bursts: Bools
    """Whether those volts are the ones seen in bursts, and no others."""
    landing_hold_s: Floats
    landing_rest_v: Floats
    """Resting volts of a cell at which it calls; minus infinity where it goes by something else, as below."""
    landing_soc: Floats
    """State of charge at which it calls, the mean of the packs that are counted by what each holds."""
    counted: Floats
    """(packs, groups, flights) What each counts in it, 1 in all."""
    block_s: Floats
    """(flights, blocks) Duration; infinite for "until landing"; 0 for a block that pads a shorter mission."""
    block_w: Floats
    """(flights, blocks) Power at the bus; not used where throttle is held."""
    block_motor_v: Floats
    """(flights, blocks) Volts each motor needs; 0 where throttle is held."""
    block_cell_a: Floats
    """(flights, blocks) Current of one cell held whatever the voltage, as on a bench; 0 where power is held."""
    block_duty: Floats
    """(flights, blocks) Throttle held whatever it draws, 1 = full; 0 where power is held."""
    block_punch: Bools
    """(flights, blocks) A burst: the landing rule does not listen, and its currents are told apart from cruise."""
    block_landing: Bools
    """(flights, blocks) Flown once the landing rule has called."""
    block_ground: Bools
    """(flights, blocks) Spent on the ground or the bench, and no part of the minutes in the air."""
    block_slip: Floats
    """(flights, blocks) Propeller speed without thrust, rev/s, where throttle is held; 0 of rotors."""

    @property
    def flights(self) -> int:
        """How many."""
        return len(self.series)

    @cached_property
    def packs(self) -> int:
        """The most that any flight has."""
        if self.plain_numbers:
            return 2 if is_two(self.parallel) else 1
        return len(self.parallel)

    @cached_property
    def plain_numbers(self) -> bool:
        """Whether it is one flight alone, in plain numbers."""
        return is_plain(self.series)

    @property
    def can_be_plain(self) -> bool:
        """Whether each flight has one pack of one group, or two of them, and so one number of each kind, or two."""
        packs, groups = self.group_share.shape[:2]
        return groups == 1 and (packs == 1 or (packs == 2 and bool((self.parallel > 0).all())))

    def plain(self, flight: int) -> FlightBatch:
        """One flight alone in plain numbers, lists of them by block, and arrays of its carriers."""
        changed: dict[str, Any] = {}
        for field in fields(self):
            value = getattr(self, field.name)
            if field.name.startswith("block_"):
                changed[field.name] = value[flight].tolist()
            elif field.name == "carrier_s":
                changed[field.name] = value[..., flight]
            else:
                changed[field.name] = plain(value, flight)
        return FlightBatch(**changed)

    @cached_property
    def rests_to_land(self) -> bool:
        """Whether any lands by resting volts."""
        return some(self.landing_rest_v > -np.inf)

    @cached_property
    def string_wiring_ohm(self) -> Floats:
        """(packs, 1, flights) The share of the wiring behind every cell of a string."""
        return self.wiring_ohm * self.parallel / self.series

    @property
    def rest_v(self) -> Floats:
        """(packs, 1, flights) Resting volts a cell of every pack at the start, the mean of its groups."""
        return of_pack(self.group_share, self.cell.ocv(self.start.soc))

    @property
    def there(self) -> Bools:
        """(packs, groups, flights) Which of the packs and groups there are."""
        return (self.parallel > 0) & (self.group_share > 0)

    def take(self, flights: Ints) -> FlightBatch:
        """Some of the flights."""
        if self.plain_numbers:
            return self
        changed: dict[str, Any] = {}
        for field in fields(self):
            value = getattr(self, field.name)
            if not isinstance(value, np.ndarray):
                changed[field.name] = value.take(flights)
            elif field.name in PER_PACK:
                changed[field.name] = value[..., flights]
            else:
                changed[field.name] = value[flights]
        return replace(self, **changed)

    def of_pack(self, place: int) -> FlightBatch:
        """The same flights with one of their packs alone on the bus."""
        own = {name: getattr(self, name)[place : place + 1] for name in PER_PACK}
        own["counted"] = own["group_share"]
        return replace(self, cell=self.cell.of_pack(place), start=self.start.of_pack(place), **own)

    @cached_property
    def carriers_alike(self) -> Ints:
        """(carriers,) For each carrier the first that warms as quickly as it in every flight."""
        found: list[int] = []
        for carrier in range(self.carrier_s.shape[1]):
            time_s = self.carrier_s[:, carrier]
            same = (other for other in dict.fromkeys(found) if np.array_equal(time_s, self.carrier_s[:, other]))
            found.append(next(same, carrier))
        return np.array(found, np.intp)

    def lean(self) -> FlightBatch:
        """The same flights with no block, and of :attr:`carriers_alike` the first alone: cheap to :meth:`take` from."""
        blocks = {f.name: getattr(self, f.name)[:, :0] for f in fields(self) if f.name.startswith("block_")}
        return replace(self, **blocks, carrier_s=self.carrier_s[:, np.unique(self.carriers_alike)])

    def one_block(
        self,
        seconds: float,
        power_w: Floats | None = None,
        cell_current_a: Floats | None = None,
        slip_rev_s: Floats | None = None,
    ) -> FlightBatch:
        """The same flights with one block of ``seconds`` and no limit but the cell's own minimum; what carries their
        current is not watched.

        ``power_w``, shape ``(flights,)``, is held at the bus, or ``cell_current_a`` by each cell of the first pack,
        times as many as it has in parallel, by all packs together; without either the block is full throttle, at the
        flight's own airspeed unless ``slip_rev_s`` says another.
        """
        throttle = power_w is None and cell_current_a is None
        shape, never = (self.flights, 1), np.full(self.flights, -np.inf)
        return replace(
            self,
            carrier_s=self.carrier_s[:, :0],
            brown_out_v=never,
            landing_v=never,
            landing_rest_v=never,
            landing_soc=never,
            block_s=np.full(shape, seconds),
            block_w=np.zeros(shape) if power_w is None else power_w[:, None],
            block_motor_v=np.zeros(shape),
            block_cell_a=np.zeros(shape) if cell_current_a is None else cell_current_a[:, None],
            block_duty=self.most_duty[:, None] * float(throttle),
            block_punch=np.full(shape, throttle),
            block_landing=np.zeros(shape, bool),
            block_ground=np.zeros(shape, bool),
            block_slip=(self.cruising_slip if slip_rev_s is None else slip_rev_s)[:, None],
        )


@dataclass(frozen=True)
class Trace:
    """One recorded flight, every array of shape ``(points,)`` where nothing else is said; a step in a value stands as
    two points of one time."""

    time_s: Floats
    block: Ints
    state: CellState
    """(packs, groups, points)"""
    current_a: Floats
    """(packs, 1, points) Of one cell."""
    cell_v: Floats
    """(packs, groups, points) Under load, at the cell."""
    bus_v: Floats
    """Under load, at the craft's side of the connector."""
    bus_a: Floats
    """Of all packs together."""


@dataclass(frozen=True)
class FlightTraces:
    """What a batch leaves behind. Shapes ``(flights,)`` where nothing else is said."""

    end_s: Floats
    lasted_s: Floats
    """In the air; of one that never leaves the ground or the bench, all of it."""
    ending: Ints
    """Values of :class:`Ending`."""
    end_state: CellState
    """(packs, groups, flights)"""
    landing_call_s: Floats
    """When the landing rule called; the end where it never did."""
    late_state: CellState
    """(packs, groups, flights) State at that moment."""
    end_cell_v: Floats
    """(packs, groups, flights) Under load, at the end."""
    end_bus_v: Floats
    cruise_current_a: Floats
    """(packs, 1, flights) Greatest current of one cell in any block but a punch."""
    punch_current_a: Floats
    """(packs, 1, flights) Greatest current of one cell in a punch; 0 where none was flown."""
    taken_current_a: Floats
    """(packs, 1, flights) Greatest current that one cell took back from the other packs; 0 where none did."""
    held_current_a: Floats
    """(packs, 1, flights) Greatest current of one cell above what it may give for good, held longer than a burst may
    last; as long a rest between bursts as they lasted parts them."""
    felt_a2: Floats
    """(packs, carriers, flights) Greatest square of one cell's current as each carrier feels it."""
    dip_s: Floats
    """(packs, 1, flights) Seconds of bursts in which a cell was under its least volts, ``dip_v`` at the lowest."""
    dip_v: Floats
    """(packs, 1, flights) Infinite where none was."""
    cruise_bus_a: Floats
    """Greatest current of all packs together in any block but a punch."""
    punch_bus_a: Floats
    hottest_k: Floats
    """(packs, groups, flights)"""
    coldest_k: Floats
    """(packs, groups, flights)"""
    charge_c: Floats
    """(packs, 1, flights) Charge given by one cell, less what it took back."""
    energy_j: Floats
    """(packs, 1, flights) Energy that a pack gave at the craft's side of the connector, less what it took back."""
    steps: int
    trace: tuple[Trace, ...] = ()
    """Recorded flights, in order; empty unless asked for."""

    def take(self, flights: Ints) -> FlightTraces:
        """Of some of the flights."""
        changed: dict[str, Any] = {}
        for field in fields(self):
            value = getattr(self, field.name)
            if isinstance(value, np.ndarray):
                changed[field.name] = value[..., flights]
            elif isinstance(value, CellState):
                changed[field.name] = value.take(flights)
        trace = tuple(self.trace[flight] for flight in flights) if self.trace else ()
        return replace(self, **changed, trace=trace)

    @property
    def bus_energy_j(self) -> Floats:
        """Energy of all packs together."""
        return np.asarray(self.energy_j.sum(axis=(0, 1)))


def of_pack(group_share: Floats, values: Floats) -> Floats:
    """(packs, 1, flights) The mean of values over the series groups of each pack, by how many there are of each."""
    if values.__class__ is not Array or values.shape[1] == 1:
        return values
    return np.asarray((group_share * values).sum(axis=1, keepdims=True))


def per_pack(values: Floats) -> Floats:
    """Of shape ``(flights,)`` in that of what belongs to packs: numpy is quicker where shapes are the same."""
    return values if is_plain(values) else values[None, None]


def first_pack(values: Floats) -> Floats:
    """(flights,) Of the first pack, from what has one group."""
    if is_two(values):
        first: Floats = pair(values)[0]
        return first
    return values if is_plain(values) else values[0, 0]


def least(values: Floats) -> Floats:
    """(flights,) The least value of any pack and group."""
    if is_plain(values):
        return values
    if is_two(values):
        least_one: Floats = min(pair(values))
        return least_one
    if values.shape[:2] == (1, 1):
        return np.asarray(values[0, 0])
    return np.asarray(values.min(axis=(0, 1)))


def total(values: Floats) -> Floats:
    """(flights,) The sum over packs and groups."""
    if is_plain(values):
        return values
    if is_two(values):
        both: Floats = sum(pair(values))
        return both
    if values.shape[:2] == (1, 1):
        return np.asarray(values[0, 0])
    return np.asarray(values.sum(axis=(0, 1)))
