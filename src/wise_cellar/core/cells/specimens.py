"""Bench results of several specimens of one cell type: their medians and their spread."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from wise_cellar.core.documents import BenchResult, CellType

TENTH_TO_NINETIETH = 1.2816
"""Standard deviations from the middle of a normal spread to its 10th or 90th percentile."""


@dataclass(frozen=True)
class Measured:
    """One quantity over the specimens: its median, and the spread of single cells about it as a share of one."""

    count: int
    median: float
    spread: float
    """10th to 90th percentile is the median ± this share; 0 for one specimen."""


LEAST_SPECIMENS = 3
"""From so many on, what was measured flies in place of the sheet."""


def believed(cell: CellType, quantity: str) -> Measured | None:
    """What at least three specimens showed; none where fewer were measured."""
    found = measured(cell.bench_results, quantity)
    return found if found is not None and found.count >= LEAST_SPECIMENS else None


def measured(results: Sequence[BenchResult], quantity: str) -> Measured | None:
    """Median and spread of ``capacity_mah``, ``dcir_mohm`` or ``mass_g``; ``None`` where nobody measured it."""
    values = [value for result in results if (value := getattr(result, quantity)) is not None]
    if not values:
        return None
    # Few values, asked for often: plain numbers.
    count, mean = len(values), math.fsum(values) / len(values)
    squares = math.fsum((value - mean) ** 2 for value in values)
    spread = TENTH_TO_NINETIETH * math.sqrt(squares / (count - 1)) / mean if count > 1 else 0.0
    return Measured(count, float(median(values)), spread)
