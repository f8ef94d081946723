"""A schedule for a load: from a flight that was answered, or from one that was recorded."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import Block, BlockKind, CompleteDesign, DocumentError, Mission, RunStep
from wise_cellar.core.documents.recording import MOST_STEPS
from wise_cellar.core.physics.arrays import Floats

LONGEST_PIECE_S, LEAST_PIECE_S = 15.0, 1.0
"""A power that changes slowly is held for so long at the most; and no piece is shorter than the second."""
ALIKE_SHARE, ALIKE_W = 0.03, 2.0
"""Powers within the first of each other, or within the second, are one step."""
MOST_BLOCKS = 200
LEAST_W = 0.5
"""Less is a rest."""
WIDER = 1.5


def total_seconds(steps: Sequence[RunStep]) -> float:
    """How long a schedule lasts."""
    return sum(step.seconds for step in steps)


def mission_of(steps: Sequence[RunStep]) -> Mission:
    """A schedule as a mission on the bench, by which throttle becomes a current. Raises :class:`DocumentError` where
    it is longer than a mission may be."""
    if len(steps) > MOST_BLOCKS:
        raise DocumentError(f"A schedule with throttle has up to {MOST_BLOCKS} steps; this one has {len(steps)}.")
    blocks = [
        Block(kind=BlockKind.PAUSE, duration_s=step.seconds)
        if step.rests
        else Block(
            kind=BlockKind.THROTTLE, duration_s=step.seconds, bench_current_a=step.amps, bench_power_w=step.watts,
            throttle_percent=step.throttle_percent or 1.0,
        )
        for step in steps
    ]  # fmt: skip
    return Mission(id="bench", name="bench", blocks=tuple(blocks))


def on_one_cell(steps: Sequence[RunStep], series: int, parallel: int) -> tuple[RunStep, ...]:
    """The same for one of the cells: its share of the current, and of the power."""
    return tuple(
        step.changed(
            amps=None if step.amps is None else step.amps / parallel,
            watts=None if step.watts is None else step.watts / (series * parallel),
        )
        for step in steps
    )


def steps_of_answer(complete: CompleteDesign, answered: Answer) -> tuple[RunStep, ...]:
    """What a load has to draw to do to the pack what a flight does, in powers at the plug; a bench run's held currents
    as they are. Raises :class:`DocumentError` where the design flies several packs, as a load hangs on one, or where it
    takes too many steps."""
    if len(complete.packs) > 1:
        raise DocumentError("Several packs share this flight; a load hangs on one. Take a design with one pack.")
    series, blocks = answered.series, complete.mission.blocks
    watts = series.pack_a * series.loaded_v * complete.pack.recipe.series_count
    found: list[RunStep] = []
    # A change of block stands as two points of one time: each run of one block is cut by itself.
    edges = np.flatnonzero(np.diff(series.block)) + 1
    for start, end in zip([0, *edges], [*edges, len(series.time_s)], strict=True):
        block = blocks[min(int(series.block[start]), len(blocks) - 1)]
        if block.bench_current_a is not None:
            lasts = float(series.time_s[end - 1] - series.time_s[start])
            found += [RunStep(seconds=lasts, amps=block.bench_current_a)] if lasts > 0 else []
        else:
            found += steps_of_power(series.time_s[start:end], watts[start:end])
    if len(found) > MOST_STEPS:
        raise DocumentError(f"This flight is more than {MOST_STEPS} steps of a load; run a shorter mission.")
    return tuple(found)


def steps_of_rows(time_s: Floats, volts: Floats, amps: Floats) -> tuple[RunStep, ...]:
    """The same of a flight that was recorded. Raises :class:`DocumentError` where nothing flowed."""
    there = np.isfinite(time_s) & np.isfinite(volts) & np.isfinite(amps)
    time_s, watts = time_s[there], volts[there] * np.maximum(amps[there], 0.0)
    if len(time_s) < 2 or not (watts > LEAST_W).any():
        raise DocumentError("Nothing flows in this recording: it has no volts with amps.")
    share, found = ALIKE_SHARE, steps_of_power(time_s, watts)
    while len(found) > MOST_STEPS:
        share *= WIDER
        found = steps_of_power(time_s, watts, share, LONGEST_PIECE_S * share / ALIKE_SHARE)
    return tuple(found)


def steps_of_power(
    time_s: Floats, watts: Floats, alike: float = ALIKE_SHARE, longest_s: float = LONGEST_PIECE_S
) -> list[RunStep]:
    """A power over time as steps that hold its energy: neighbours that are alike are one."""
    energy = np.concatenate([np.zeros(1), np.cumsum(0.5 * (watts[1:] + watts[:-1]) * np.diff(time_s))])
    found: list[RunStep] = []
    start = 0
    while start < len(time_s) - 1:
        end = start + 1
        while end < len(time_s) - 1 and (
            time_s[end] - time_s[start] < LEAST_PIECE_S
            or (
                time_s[end + 1] - time_s[start] <= longest_s
                and abs(watts[end + 1] - watts[start]) <= max(alike * watts[start], ALIKE_W)
            )
        ):
            end += 1
        lasts = float(time_s[end] - time_s[start])
        if lasts > 0:
            mean = float(energy[end] - energy[start]) / lasts
            found.append(RunStep(seconds=lasts, watts=mean if mean > LEAST_W else None))
        start = end
    return found
