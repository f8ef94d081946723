"""Where the time of an answer goes. ``python -m benchmarks.parts``"""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from benchmarks.timing import median_ms
from wise_cellar.core.answer import answer
from wise_cellar.core.answer.findings import findings
from wise_cellar.core.answer.hover import hover_left_s
from wise_cellar.core.flight import fly
from wise_cellar.core.flight.integrator import MOST_ALONE
from wise_cellar.core.flight.punch import punch_from
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.propulsion.calibration import calibrate
from wise_cellar.demo import complete_sample

TIMES = 21


def main() -> None:
    """Print a table: each part of one answer, and its share of it."""
    design = complete_sample("whimbrel-transect")
    found = calibrate(design.craft)
    lowered = lower_one(design, found.factor if found else 1.0)
    batch = lower([lowered])
    flown = fly(batch, record=True)
    states, answered = flown.trace[0].state, answer(design)
    many = batch.take(np.zeros(MOST_ALONE + 1, np.intp))
    whole = median_ms(partial(answer, design), TIMES)
    print(f"| part of an answer of {whole:.1f} ms | median | share |\n|---|---|---|")
    for what, run in (
        ("documents lowered to arrays", lambda: lower([lower_one(design, lowered.factor)])),
        (f"the flight, {flown.steps} steps in plain numbers", partial(fly, batch, record=True)),
        (f"punch line: {len(flown.trace[0].time_s)} bursts in arrays", partial(punch_from, batch, states, 4.0)),
        ("hover that is left", partial(hover_left_s, [lowered], batch, flown)),
        ("findings in sentences", lambda: findings(design, replace(answered, findings=()))),
    ):
        took = median_ms(run, TIMES)
        print(f"| {what} | {took:.1f} ms | {took / whole:.0%} |")
    steps = median_ms(partial(fly, batch), TIMES) / flown.steps
    print(f"| a step in plain numbers | {1e3 * steps:.0f} µs | |")
    steps = median_ms(partial(fly, many), TIMES) / fly(many).steps
    print(f"| the same of {many.flights} flights in arrays | {1e3 * steps:.0f} µs | |")


if __name__ == "__main__":
    main()
