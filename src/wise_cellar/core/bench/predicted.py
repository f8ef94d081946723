"""What a pack is expected to do under a load that runs a schedule: by the integrator that flies, with no craft."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign, DocumentError, RunStep
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats


@dataclass(frozen=True)
class RunPrediction:
    """A run over time, every array of shape ``(points,)``; a step in a value stands as two points of one time."""

    time_s: Floats
    amps: Floats
    volts: Floats
    """At the plug; of one cell, at its ends."""
    cell_v: Floats
    """Of the weakest cell."""
    celsius: Floats
    given_mah: float
    completes: bool
    """Whether the schedule ends it, not the pack."""
    series: int
    """Cells that are in series on the load."""

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return float(self.time_s[-1])


def predicted_run(complete: CompleteDesign, steps: Sequence[RunStep], *, one_cell: bool = False) -> RunPrediction:
    """The design's pack on a load, from the charge and the warmth that it has, down to its cells' minimum; or one of
    its cells as they are, with no wiring.

    Throttle is none that a load knows: raises :class:`DocumentError` where a step has one, and where several packs are
    on the bus.
    """
    if any(step.throttle_percent is not None for step in steps):
        raise DocumentError("A load knows no throttle: fly the mission first, and take its powers.")
    if len(complete.packs) > 1:
        raise DocumentError("Several packs are on the bus; a load hangs on one. Take a design with one pack.")
    if not steps:
        raise DocumentError("Nothing flies by this mission, so there is nothing to run: see Flight for why.")
    batch = lower([lower_one(complete, 1.0)])
    recipe = complete.pack.recipe
    cells = recipe.series_count * recipe.parallel_count
    parallel = recipe.parallel_count
    alone = batch.one_block(np.inf, cell_current_a=np.zeros(1))
    if one_cell:
        alone = replace(alone, wiring_ohm=np.zeros_like(alone.wiring_ohm))
    watts = np.array([[step.watts or 0.0 for step in steps]]) * (cells if one_cell else 1.0)
    amps = np.array([[step.amps or 0.0 for step in steps]]) / (1.0 if one_cell else parallel)
    like = np.zeros_like(watts)
    traces = fly(
        replace(
            alone, block_s=np.array([[step.seconds for step in steps]]), block_w=watts, block_cell_a=amps,
            block_motor_v=like, block_duty=like, block_slip=like, block_punch=like > 0, block_landing=like > 0,
            block_ground=like > 0,
        ),
        record=True,
    )  # fmt: skip
    trace = traces.trace[0]
    cell_v = trace.cell_v[0].min(axis=0)
    share_a, share_v = (1 / parallel, 1 / recipe.series_count) if one_cell else (1.0, 1.0)
    given = np.diff(trace.time_s) * 0.5 * (trace.bus_a[1:] + trace.bus_a[:-1])
    return RunPrediction(
        time_s=trace.time_s, amps=trace.bus_a * share_a, volts=trace.bus_v * share_v, cell_v=cell_v,
        celsius=trace.state.temperature_k[0].max(axis=0) - ZERO_CELSIUS_K, given_mah=float(given.sum()) / 3.6 * share_a,
        completes=Ending(int(traces.ending[0])) is Ending.MISSION_COMPLETE,
        series=1 if one_cell else recipe.series_count,
    )  # fmt: skip


def flown(complete: CompleteDesign, answered: Answer) -> RunPrediction:
    """A mission, in the air or by hand on the bench, told as a run."""
    series, pack, packs = answered.series, answered.packs[0].series, answered.packs
    return RunPrediction(
        time_s=series.time_s, amps=series.pack_a, volts=series.loaded_v * complete.pack.recipe.series_count,
        cell_v=pack.cell_v, celsius=series.temperature_c, given_mah=sum(one.given_mah for one in packs),
        completes=answered.reason.ending is Ending.MISSION_COMPLETE, series=complete.pack.recipe.series_count,
    )  # fmt: skip
