"""Bench runs: a schedule of currents, powers and rests, typed or taken from a mission or a recording, and what the pack
is expected to do under it."""

from wise_cellar.core.bench.predicted import RunPrediction, flown, predicted_run
from wise_cellar.core.bench.schedule import (
    mission_of,
    on_one_cell,
    steps_of_answer,
    steps_of_rows,
    total_seconds,
)
from wise_cellar.core.bench.typed import steps_from_text, steps_text

__all__ = [
    "RunPrediction",
    "flown",
    "mission_of",
    "on_one_cell",
    "predicted_run",
    "steps_from_text",
    "steps_of_answer",
    "steps_of_rows",
    "steps_text",
    "total_seconds",
]
