"""How long something takes, as the benchmarks measure it."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def timed(run: Callable[[], object], times: int) -> list[float]:
    """Seconds of each of ``times`` runs, after one that does not count."""
    run()
    seconds = []
    for _ in range(times):
        began = time.perf_counter()
        run()
        seconds.append(time.perf_counter() - began)
    return seconds


def median_ms(run: Callable[[], object], times: int = 9) -> float:
    """The median of so many runs, in milliseconds."""
    return 1e3 * statistics.median(timed(run, times))


def milliseconds(run: Callable[[], object], times: int = 9) -> str:
    """The same in words."""
    return f"median {median_ms(run, times):.0f} ms"
