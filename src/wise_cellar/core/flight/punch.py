"""What a full-throttle burst would do from given states: the same integrator, one block of full throttle."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.motor import full_throttle_thrust_n


@dataclass(frozen=True)
class PunchOutcome:
    """At the end of a burst from each state, shape ``(states,)`` where nothing else is said."""

    cell_v: Floats
    """(packs, groups, states)"""
    bus_v: Floats
    current_a: Floats
    """(packs, 1, states) Greatest current of one cell during the burst."""
    bus_a: Floats
    """Of all packs together."""
    thrust_margin: Floats
    """Full-throttle thrust at the sagged voltage over weight; of a wing, in its cruise, over drag."""


def punch_from(batch: FlightBatch, states: CellState, seconds: float, flights: Ints | None = None,
               standing: Bools | None = None) -> PunchOutcome:  # fmt: skip
    """Burst of ``seconds`` from each of ``states``, which belong to ``flights`` of the batch, or all to its first.

    No limit ends the burst, so that a voltage under a limit is reported, not hidden. ``standing`` marks those that are
    made at rest, as a launch is; the others are made at the flight's own airspeed.
    """
    count = states.soc.shape[-1]
    wide = batch.take(np.zeros(count, np.intp) if flights is None else flights)
    slip = wide.cruising_slip if standing is None else np.where(standing, 0.0, wide.cruising_slip)
    probe = replace(
        wide.one_block(seconds, slip_rev_s=slip), start=states, cut_off_v=np.full(states.soc.shape, -np.inf)
    )
    flown = fly(probe)
    thrust = full_throttle_thrust_n(probe.drive, probe.most_duty * flown.end_bus_v, slip)
    return PunchOutcome(
        flown.end_cell_v, flown.end_bus_v, flown.punch_current_a, flown.punch_bus_a, thrust / probe.thrust_wanted_n
    )
