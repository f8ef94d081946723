"""What is left to go round with: hover from where a flight ended."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from wise_cellar.core.flight.batch import FlightBatch, FlightTraces
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.lowering.designs import LoweredDesign
from wise_cellar.core.physics.arrays import Floats

COARSE_V = 0.007
"""Error allowed in a step, V a cell: within a second or two of hover, in half of the steps."""
LEAST_S = 90.0
"""Hover under which nothing is left to go round with: an estimate."""


def hover_left_s(lowered: Sequence[LoweredDesign], batch: FlightBatch, flown: FlightTraces) -> Floats:
    """(flights,) Hover until a cell meets its minimum or a load stops, s, begun where each flight ended; of a wing its
    loiter."""
    hover = np.array([float(one.propulsion.step_power(batch.weight_n[:1], one.hover)[0][0]) for one in lowered])
    going_on = replace(
        batch.one_block(np.inf, power_w=hover + batch.load_w), start=flown.end_state, brown_out_v=batch.brown_out_v
    )
    return fly(going_on, tolerance_v=COARSE_V).end_s
