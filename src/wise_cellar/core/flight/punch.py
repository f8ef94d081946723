"""What a full-throttle burst would do from given states: the same integrator, one block of full throttle."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.physics.arrays import Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.motor import full_throttle_thrust_n


@dataclass(frozen=True)
class PunchOutcome:
    """At the end of a burst from each state, shape ``(states,)``."""

    cell_v: Floats
    bus_v: Floats
    current_a: Floats
    """Greatest current of one cell during the burst."""
    thrust_margin: Floats
    """Full-throttle thrust at the sagged voltage over weight."""


def punch_from(batch: FlightBatch, states: CellState, seconds: float, flights: Ints | None = None) -> PunchOutcome:
    """Burst of ``seconds`` from each of ``states``, which belong to ``flights`` of the batch, or all to its first.

    No limit ends the burst, so that a voltage under a limit is reported, not hidden.
    """
    count = len(states.soc)
    wide = batch.take(np.zeros(count, np.intp) if flights is None else flights)
    probe = replace(wide.one_block(seconds), start=states, cut_off_v=np.full(count, -np.inf))
    flown = fly(probe)
    thrust = full_throttle_thrust_n(probe.drive, flown.end_bus_v)
    return PunchOutcome(flown.end_cell_v, flown.end_bus_v, flown.punch_current_a, thrust / probe.weight_n)
