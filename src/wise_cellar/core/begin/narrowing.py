"""What each filled gap of a sentence did to the minutes and their range."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from wise_cellar.core.answer import answer, spread
from wise_cellar.core.begin.beginning import Beginning
from wise_cellar.core.begin.making import make
from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError

UNFELT = ("name",)
"""Gaps that tell nothing of the flight."""


@dataclass(frozen=True)
class Narrowed:
    """The answer once a gap is filled, with those before it: seconds, the range from 10th to 90th percentile."""

    gap: str
    """Empty: of the open sentence."""
    duration_s: float
    low_s: float
    high_s: float


def narrowing(said: Beginning, known_cells: Mapping[str, CellType]) -> tuple[Narrowed, ...]:
    """The answers as gap after gap is filled, in the order of the sentence; first that of the open one.

    Gaps that mean nothing without a later one leave the answer as it is. Source: the same flights as any answer's.
    """
    felt = tuple(name for name in said.filled if name not in UNFELT)
    found = []
    for count in range(len(felt) + 1):
        gap = felt[count - 1] if count else ""
        try:
            seconds, low, high = _minutes_of(make(said.only(felt[:count]), _plain_id, known_cells).complete)
        except DocumentError:
            continue  # only with a later gap does it go together
        found.append(Narrowed(gap, seconds, low, high))
    return tuple(found)


@lru_cache(maxsize=64)
def _minutes_of(complete: CompleteDesign) -> tuple[float, float, float]:
    """Seconds, and their range; the next gap asks for all of those before it again."""
    answered = answer(complete)
    return (answered.duration_s, *spread(complete, answered).duration_s)


def _plain_id(_model: type[Any], name: str) -> str:
    return name
