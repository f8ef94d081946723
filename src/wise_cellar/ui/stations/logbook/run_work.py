"""What is run and what is expected of it, computed beside the window."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.bench import (
    RunPrediction,
    flown,
    mission_of,
    on_one_cell,
    predicted_run,
    steps_from_text,
    steps_of_answer,
    steps_of_rows,
    total_seconds,
)
from wise_cellar.core.documents import CompleteDesign, DocumentError, RunStep
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.logbook import FlightLog
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import (
    counted,
    format_amps,
    format_mah,
    format_minutes,
    format_number,
    format_share,
    format_volts,
    format_watts,
)


class Source(StrEnum):
    """Where a schedule comes from."""

    MISSION = "this design's mission"
    TYPED = "a schedule that is typed"
    RECORDED = "a recording"


@dataclass(frozen=True, eq=False)
class RunQuestion:
    """What somebody wants to run."""

    source: Source
    text: str = ""
    recorded: tuple[str, Floats, Floats, Floats] | None = None
    """Its name, and seconds, volts and amps of a recording."""
    one_cell: bool = False


@dataclass(frozen=True, eq=False)
class PlannedRun:
    """What is run: by a load in currents and powers, by hand in throttle and words; and what is expected of both."""

    question: RunQuestion
    load: tuple[RunStep, ...]
    hand: tuple[RunStep, ...]
    expected: RunPrediction
    by_hand: RunPrediction
    refused: str = ""
    """Why a load cannot run it; empty where it can."""

    def sentences(self) -> list[str]:
        """What it is, and how it is expected to end."""
        run, steps = self.expected, self.load
        if self.refused:
            return [self.refused]
        most_a, most_w = float(run.amps.max()), float((run.amps * run.volts).max())
        ends = (
            "the pack carries all of it"
            if run.completes
            else f"it ends at {format_volts(float(run.cell_v[-1]))} a cell after {format_minutes(run.seconds)}"
        )
        return [
            f"{counted(len(steps), 'step')} in {format_minutes(total_seconds(steps))}; by prediction {ends}.",
            f"{format_mah(run.given_mah)} are drawn, up to {format_amps(most_a)} and {format_watts(most_w)}.",
        ]


def planned_run(complete: CompleteDesign, answered: Answer, question: RunQuestion) -> PlannedRun:
    """Raises :class:`DocumentError` where there is nothing to run."""
    recipe = complete.pack.recipe
    if question.source is Source.RECORDED:
        if question.recorded is None:
            raise DocumentError("Choose a recording of a flight or a run, or read one from a CSV.")
        load = steps_of_rows(*question.recorded[1:])
        hand, by_hand = load, predicted_run(complete, load)
    elif question.source is Source.TYPED:
        load = steps_from_text(question.text)
        hand = load
        by_hand = None
        if any(step.throttle_percent is not None for step in load):
            complete = complete.changed(mission=mission_of(load).changed(id=complete.mission.id))
            answered = answer(complete)
            load, by_hand = steps_of_answer(complete, answered), flown(complete, answered)
    else:
        hand, by_hand = hand_steps(complete, answered), flown(complete, answered)
        try:
            load = steps_of_answer(complete, answered)
        except DocumentError as error:
            return PlannedRun(question, (), hand, by_hand, by_hand, str(error))
    if question.one_cell:
        load = on_one_cell(load, recipe.series_count, recipe.parallel_count)
    expected = predicted_run(complete, load, one_cell=question.one_cell)
    return PlannedRun(question, load, hand, expected, by_hand or expected)


def hand_steps(complete: CompleteDesign, answered: Answer) -> tuple[RunStep, ...]:
    """The blocks of a mission, each as one step with the throttle that it is expected to take."""
    series, blocks = answered.series, complete.mission.blocks
    edges = np.flatnonzero(np.diff(series.block)) + 1
    found = []
    for start, end in zip([0, *edges], [*edges, len(series.time_s)], strict=True):
        seconds = np.diff(series.time_s[start:end])
        if not seconds.sum() > 0:
            continue
        duty = series.throttle[start:end]
        mean = float((0.5 * (duty[1:] + duty[:-1]) * seconds).sum() / seconds.sum())
        label = blocks[min(int(series.block[start]), len(blocks) - 1)].label
        name = f"{label}, about {format_share(mean)} of throttle" if mean > 0 else label
        found.append(RunStep(seconds=float(seconds.sum()), name=name))
    return tuple(found)


def step_words(step: RunStep) -> str:
    """What a step holds."""
    if step.amps is not None:
        return format_amps(step.amps)
    if step.watts is not None:
        return format_watts(step.watts)
    if step.throttle_percent is not None:
        return f"{format_share(step.throttle_percent / 100)} throttle"
    return step.name or "rest"


Lines = dict[str, tuple[Floats, Floats]]
"""By plot, seconds and values."""
RunLines = Lines


def compared(one: Lines, other: Lines, name: str) -> str:
    """What another run gave more or less, and how far its volts lay apart while both ran."""
    if not {"amps", "cell", "watts"} <= (one.keys() & other.keys()):
        return f"{name} tells no volts with amps: it is only drawn."
    mah, wh = (_sum(other[plot]) - _sum(one[plot]) for plot in ("amps", "watts"))
    mah, wh = mah / 3.6, wh / 3600
    last = min(float(run["cell"][0][-1]) for run in (one, other))
    clock = np.linspace(0.0, last, 400)
    mine, theirs = (_at(clock, run["cell"]) for run in (one, other))
    apart = float(np.mean(theirs - mine))
    more = "more" if mah > 0 else "less"
    above = "above" if apart > 0 else "under"
    return (
        f"{name} gave {format_mah(abs(mah))} {more} ({format_number(abs(wh), 1)}\u00a0Wh), and lay"
        f" {format_number(1000 * abs(apart), 0)}\u00a0mV a cell {above} this one while both ran."
    )


def _sum(line: tuple[Floats, Floats]) -> float:
    """Over time; a gap counts nothing."""
    seconds, values = line
    return float((np.diff(seconds) * np.nan_to_num(values[:-1])).sum())


def _at(clock: Floats, line: tuple[Floats, Floats]) -> Floats:
    there = np.isfinite(line[1])
    return np.interp(clock, line[0][there], line[1][there])


class CameLines:
    """What a recording holds, by plot, as it grows. A device may tell of its quantities one after the other: each has
    times of its own; a row of no numbers is a gap in all of them."""

    def __init__(self, quantities: Sequence[str], series: int) -> None:
        self._places = {name: 1 + place for place, name in enumerate(quantities)}
        self._series, self._read = series, 0
        self._grown = {plot: GrowingRows(2) for plot in _DRAWN_OF}

    def read(self, rows: Floats) -> Lines:
        """All of it, where ``rows`` are all that there are by now."""
        fresh, self._read = rows[self._read :], len(rows)
        gaps = np.isnan(fresh[:, 1:]).all(axis=1)
        for plot, names in _DRAWN_OF.items():
            if not all(name in self._places for name in names):
                continue
            columns = fresh[:, [self._places[name] for name in names]]
            kept = np.isfinite(columns).all(axis=1) | gaps
            values = columns[kept].prod(axis=1) / (self._series if plot == "cell" else 1)
            self._grown[plot].extend(np.stack([fresh[kept, 0], values], axis=1))
        return {plot: (grown.rows[:, 0], grown.rows[:, 1]) for plot, grown in self._grown.items()}


def log_lines(log: FlightLog, series: int) -> Lines:
    """A log by plot; what it did not tell is not drawn."""
    values = {"amps": log.amps, "cell": log.volts / series, "watts": log.volts * log.amps, "celsius": log.celsius}
    return {name: (log.time_s, one) for name, one in values.items()}


_DRAWN_OF = {"amps": ("amps",), "cell": ("volts",), "watts": ("volts", "amps"), "celsius": ("temperature",)}
"""What is drawn in each plot: the product of these."""
