"""The arrays a batch of flights is flown from, and the arrays it leaves behind.

Every array has an axis of flights; blocks are a second one after it. Where packs in parallel share the bus, what
belongs to one of them has an axis of branches *before* the flights, so that every law broadcasts; a batch of flights
with one pack each goes without it. ``np.atleast_2d`` of such an array has it always.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from enum import IntEnum
from typing import Any

import numpy as np

from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellParameters, CellState
from wise_cellar.core.physics.motor import Drive


class Ending(IntEnum):
    """Why a flight ended."""

    MISSION_COMPLETE = 0
    RESERVE_REACHED = 1
    CELL_CUT_OFF = 2
    BROWN_OUT = 3
    OUT_OF_THRUST = 4
    NO_POWER = 5


PER_BRANCH = ("parallel", "wiring_ohm", "cut_off_v", "counted")


@dataclass(frozen=True)
class FlightBatch:
    """Flights ready to be flown, SI. Shapes: ``(flights,)``, or ``(flights, blocks)`` where said.

    ``cell``, ``start``, ``parallel``, ``wiring_ohm``, ``cut_off_v`` and ``counted`` belong to a pack: ``(branches,
    flights)`` where several share the bus. A branch with nothing in parallel is not there.
    """

    cell: CellParameters
    start: CellState
    drive: Drive
    series: Floats
    parallel: Floats
    wiring_ohm: Floats
    """Between the cells and the bus, at pack level."""
    weight_n: Floats
    thrust_wanted_n: Floats
    """What the thrust margin is counted over: the weight, or the drag of a wing in its cruise."""
    cruising_slip: Floats
    """Propeller speed without thrust at the flight's own airspeed, rev/s; 0 of rotors."""
    load_w: Floats
    """Power of everything besides the motors."""
    cut_off_v: Floats
    """Least loaded volts of a cell."""
    brown_out_v: Floats
    """Bus voltage under which the first other load stops."""
    landing_v: Floats
    """Loaded volts a cell, as the craft sees them, at which the landing rule calls."""
    landing_hold_s: Floats
    landing_rest_v: Floats
    """Resting volts of a cell at which it calls; minus infinity where it goes by something else, as below."""
    landing_soc: Floats
    """State of charge at which it calls, the mean of the packs that are counted by what each holds."""
    counted: Floats
    """What each pack counts in it, 1 in all."""
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

    @property
    def rest_v(self) -> Floats:
        """Resting volts a cell of every pack at the start."""
        return self.cell.ocv(self.start.soc)

    def take(self, flights: Ints) -> FlightBatch:
        """Some of the flights."""
        changed: dict[str, Any] = {}
        for field in fields(self):
            value = getattr(self, field.name)
            if not isinstance(value, np.ndarray):
                changed[field.name] = value.take(flights)
            elif field.name in PER_BRANCH:
                changed[field.name] = value[..., flights]
            else:
                changed[field.name] = value[flights]
        return replace(self, **changed)

    def of_pack(self, place: int) -> FlightBatch:
        """The same flights with one of their packs alone on the bus."""
        if self.parallel.ndim == 1:
            return self
        own = {name: getattr(self, name)[place] for name in PER_BRANCH}
        own["counted"] = np.ones(self.flights)
        return replace(self, cell=self.cell.of_pack(place), start=self.start.of_pack(place), **own)

    def without_blocks(self) -> FlightBatch:
        """The same flights with no block: cheap to :meth:`take` from."""
        return replace(
            self, **{f.name: getattr(self, f.name)[:, :0] for f in fields(self) if f.name.startswith("block_")}
        )

    def one_block(
        self,
        seconds: float,
        power_w: Floats | None = None,
        cell_current_a: Floats | None = None,
        slip_rev_s: Floats | None = None,
    ) -> FlightBatch:
        """The same flights with one block of ``seconds`` and no limit but the cell's own minimum.

        ``power_w``, shape ``(flights,)``, is held at the bus, or ``cell_current_a`` by each cell of the first pack,
        times as many as it has in parallel, by all packs together; without either the block is full throttle, at the
        flight's own airspeed unless ``slip_rev_s`` says another.
        """
        throttle = power_w is None and cell_current_a is None
        shape, never = (self.flights, 1), np.full(self.flights, -np.inf)
        return replace(
            self,
            brown_out_v=never,
            landing_v=never,
            landing_rest_v=never,
            landing_soc=never,
            block_s=np.full(shape, seconds),
            block_w=np.zeros(shape) if power_w is None else power_w[:, None],
            block_motor_v=np.zeros(shape),
            block_cell_a=np.zeros(shape) if cell_current_a is None else cell_current_a[:, None],
            block_duty=np.full(shape, float(throttle)),
            block_punch=np.full(shape, throttle),
            block_landing=np.zeros(shape, bool),
            block_ground=np.zeros(shape, bool),
            block_slip=(self.cruising_slip if slip_rev_s is None else slip_rev_s)[:, None],
        )


@dataclass(frozen=True)
class Trace:
    """One recorded flight, every array of shape ``(points,)``, of a pack ``(branches, points)`` where there are
    several; a step in a value stands as two points of one time."""

    time_s: Floats
    block: Ints
    state: CellState
    current_a: Floats
    """Of one cell."""
    cell_v: Floats
    """Under load, at the cell."""
    bus_v: Floats
    """Under load, at the craft's side of the connector."""
    bus_a: Floats
    """Of all packs together."""


@dataclass(frozen=True)
class FlightTraces:
    """What a batch leaves behind. Shapes ``(flights,)``; of a pack ``(branches, flights)`` where there are several."""

    end_s: Floats
    airborne_s: Floats
    """Of it, the time in the air."""
    ending: Ints
    """Values of :class:`Ending`."""
    end_state: CellState
    landing_call_s: Floats
    """When the landing rule called; the end where it never did."""
    late_state: CellState
    """State at that moment."""
    end_cell_v: Floats
    """Under load, at the end."""
    end_bus_v: Floats
    cruise_current_a: Floats
    """Greatest current of one cell in any block but a punch."""
    punch_current_a: Floats
    """Greatest current of one cell in a punch; 0 where none was flown."""
    taken_current_a: Floats
    """Greatest current that one cell took back from the other packs; 0 where none did."""
    cruise_bus_a: Floats
    """Greatest current of all packs together in any block but a punch."""
    punch_bus_a: Floats
    hottest_k: Floats
    coldest_k: Floats
    charge_c: Floats
    """Charge given by one cell, less what it took back."""
    energy_j: Floats
    """Energy that a pack gave at the craft's side of the connector, less what it took back."""
    steps: int
    trace: tuple[Trace, ...] = ()
    """Recorded flights, in order; empty unless asked for."""

    @property
    def bus_energy_j(self) -> Floats:
        """Energy of all packs together."""
        return np.asarray(np.atleast_2d(self.energy_j).sum(axis=0))

    def of_pack(self, place: int) -> FlightTraces:
        """Of one of the packs, where there are several; recorded flights aside."""
        if self.energy_j.ndim == 1:
            return self
        changed: dict[str, Any] = {}
        for field in fields(self):
            value = getattr(self, field.name)
            if isinstance(value, CellState):
                changed[field.name] = value.of_pack(place)
            elif isinstance(value, np.ndarray) and value.ndim > 1:
                changed[field.name] = value[place]
        return replace(self, **changed, trace=())
