"""The course of a line in words, for whoever hears a picture instead of seeing it."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np

from wise_cellar.core.physics.arrays import Floats, Ints

TURN = 0.06
"""Share of a line's whole height that it must come back by to have turned."""
FLAT = 0.01
"""Share of its size within which a line stays where it is."""
MOST_LEGS = 4
"""More turns than these are not told one by one."""
MOST_POINTS = 240
"""Of so many a line is told; its highest and lowest are always among them."""


def course(x: Floats, y: Floats, across: Callable[[float], str], up: Callable[[float], str]) -> str:
    """How a line goes: "rises from 22 min at 1P to 41 min at 4P, then falls to 38 min at 6P".

    ``x`` and ``y``, ``(points,)`` each, are the line in its order, with gaps where one is not a number; ``across`` and
    ``up`` write a value of each. Empty where there is no point.
    """
    there = np.isfinite(x) & np.isfinite(y)
    x, y = x[there], y[there]
    if not len(y):
        return ""
    if len(y) == 1:
        return f"{up(float(y[0]))} at {across(float(x[0]))}"
    x, y = _thinned(x, y)
    low, high = float(y.min()), float(y.max())
    if high - low <= FLAT * max(abs(low), abs(high)):
        return f"stays at {up(float(np.median(y)))} from {across(float(x[0]))} to {across(float(x[-1]))}"
    turns = turning_points(y)
    if len(turns) - 1 > MOST_LEGS:
        where = f"lowest at {across(float(x[int(y.argmin())]))}, highest at {across(float(x[int(y.argmax())]))}"
        return f"goes up and down between {up(low)} and {up(high)}, {where}"
    words = f"from {up(float(y[0]))} at {across(float(x[0]))}"
    legs: list[str] = []
    for start, end in pairwise(turns):
        verb = "rises" if y[end] > y[start] else "falls"
        legs.append(f"{verb}{'' if legs else ' ' + words} to {up(float(y[end]))} at {across(float(x[end]))}")
    return ", then ".join(legs)


def turning_points(y: Floats) -> list[int]:
    """Places at which a line of two points or more begins, turns by more than :data:`TURN` of its height, and ends."""
    least = TURN * float(np.ptp(y))
    turns, extreme, way = [0], 0, 0
    for place, value in enumerate(y.tolist()):
        moved = value - float(y[extreme])
        if way == 0:
            way = 0 if abs(moved) <= least else 1 if moved > 0 else -1
            extreme = place if way else extreme
        elif moved * way >= 0:
            extreme = place
        elif abs(moved) > least:
            turns.append(extreme)
            extreme, way = place, -way
    return [*turns, len(y) - 1]


def _thinned(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    if len(y) <= MOST_POINTS:
        return x, y
    some: Ints = np.unique(
        np.append(np.linspace(0, len(y) - 1, MOST_POINTS).astype(int), [int(y.argmin()), int(y.argmax())])
    )
    return x[some], y[some]
