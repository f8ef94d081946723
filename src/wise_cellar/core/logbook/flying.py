"""Flights flown only for what is held against a record: many at once, and nothing of an answer besides."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight.batch import least
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.lowering.designs import lower, lower_one
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.propulsion.calibration import calibrate


@dataclass(frozen=True)
class Along:
    """A flight over its time, arrays of shape ``(points,)``."""

    lasted_s: float
    """Until it landed."""
    time_s: Floats
    drawn_mah: Floats
    """From all packs together."""
    loaded_v: Floats
    """Volts a cell."""
    resting_v: Floats
    """Volts a cell of the first pack after a long rest, the mean of its groups."""
    watts: Floats
    celsius: Floats
    """Of the warmest cells."""


def fly_many(flights: Sequence[tuple[CompleteDesign, float]]) -> list[Along]:
    """Designs, each with how much of its power it needs, flown in one batch."""
    lowered = []
    for complete, power in flights:
        calibration = calibrate(complete.craft)
        lowered.append(lower_one(complete, (1.0 if calibration is None else calibration.factor) * power))
    batch = lower(lowered)
    flown, found = fly(batch, record=True), []
    shape = batch.start.soc.shape
    share, parallel = (np.broadcast_to(values, shape) for values in (batch.group_share, batch.parallel))
    for row, trace in enumerate(flown.trace):
        used = (batch.start.soc[:, :1, row : row + 1] - trace.state.soc[:, :1])[:, 0]
        held = np.broadcast_to(batch.cell.charge_c, shape)[:, 0, row] * parallel[:, 0, row]
        rest = batch.cell.ocv[..., np.full(len(trace.time_s), row)](trace.state.soc)[0]
        mine = share[0, :, row : row + 1]
        found.append(Along(
            float(flown.lasted_s[row]), trace.time_s, (used * held[:, None]).sum(axis=0) / 3.6,
            trace.bus_v / float(batch.series[row]), (rest * mine).sum(axis=0) / mine.sum(),
            trace.bus_a * trace.bus_v, -least(-trace.state.temperature_k) - ZERO_CELSIUS_K,
        ))  # fmt: skip
    return found
