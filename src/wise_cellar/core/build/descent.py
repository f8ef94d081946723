"""Matching by search: swaps of two cells, the best first, until none helps; from several beginnings.

All quantities of a group are sums over its cells, so what a swap does to two groups is known for every pair of cells at
once. Source: steepest descent over pairwise exchanges, as for number partitioning with equal counts.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.flight.stopping import ask
from wise_cellar.core.physics.arrays import Bools, Floats, Ints

Groups = Ints
"""(cells,) The group of each cell, −1 for those that are left."""
BEGINNINGS, MOST_SWAPS = 6, 600
TINY = 1e-12

Cost = Callable[[Floats], tuple[Floats, Bools]]
"""Of sums of capacity and conductance and of their squares, ``(4, …)``: the cost of a group, and whether it may be."""


@dataclass
class _State:
    """Cells in groups, with each group's sums."""

    values: Floats
    """(4, cells) Capacity and conductance, each over its mean, and their squares."""
    group: Groups
    sums: Floats
    """(4, groups)"""

    @classmethod
    def of(cls, values: Floats, group: Groups, groups: int) -> _State:
        sums = np.stack([np.bincount(group[group >= 0], row[group >= 0], groups) for row in values]).astype(float)
        return cls(values, np.array(group), sums)


def descend(
    capacity: Floats, siemens: Floats, groups: int, parallel: int, fixed: Groups, bound: float, alike: float,
    spread_alike: float, seed: int,
) -> Groups:  # fmt: skip
    """Groups by search: least capacity first, then equal resistance, then like cells. See :func:`exact.solved`."""
    scaled = np.stack([capacity / capacity.mean(), siemens / siemens.mean()])
    values = np.concatenate([scaled, scaled**2])
    random = np.random.default_rng(seed)
    target = bound / capacity.mean()
    best: _State | None = None
    for turn in range(BEGINNINGS):
        state = _State.of(values, _begin(capacity, groups, parallel, fixed, random if turn else None), groups)
        _swap(state, fixed, lambda sums: (np.maximum(target - sums[0], 0.0) ** 4, np.ones(sums[0].shape, bool)))
        if best is None or state.sums[0].min() > best.sums[0].min() + TINY:
            best = state
        if best.sums[0].min() >= target * (1 - 0.1 * alike):
            break
    assert best is not None
    floor = best.sums[0].min() * (1 - alike) - TINY
    even = float(best.sums[1].mean())
    _swap(best, fixed, lambda sums: ((sums[1] - even) ** 2, sums[0] >= floor))
    away = np.abs(best.sums[1] - even).max() + spread_alike * even / 2
    _swap(
        best, fixed,
        lambda sums: (_unlike(sums, parallel), (sums[0] >= floor) & (np.abs(sums[1] - even) <= away)),
    )  # fmt: skip
    return best.group


def _unlike(sums: Floats, parallel: int) -> Floats:
    """Squares of capacity and conductance about the group's mean, summed over its cells."""
    return np.asarray(sums[2] - sums[0] ** 2 / parallel + sums[3] - sums[1] ** 2 / parallel)


def unlikeness(capacity: Floats, siemens: Floats, group: Groups, groups: int) -> float:
    """Root mean square distance of cells from their group's mean, as a share of the mean of all."""
    scaled = np.stack([capacity / capacity.mean(), siemens / siemens.mean()])
    state = _State.of(np.concatenate([scaled, scaled**2]), group, groups)
    parallel = len(group) // groups
    return float(np.sqrt(max(_unlike(state.sums, parallel).sum(), 0.0) / (2 * len(group))))


def _begin(
    capacity: Floats, groups: int, parallel: int, fixed: Groups, random: np.random.Generator | None
) -> Groups:  # fmt: skip
    """The greatest cells dealt out to and fro, or in any order; settled ones where they are."""
    group = fixed.copy()
    room = parallel - np.bincount(fixed[fixed >= 0], minlength=groups)
    order = np.argsort(-capacity, kind="stable")
    order = order[fixed[order] < 0][: int(room.sum())]
    if random is not None:
        order = random.permutation(order)
    places = []
    for lap in range(parallel):
        row = [number for number in range(groups) if room[number] > lap]
        places += row if lap % 2 == 0 else row[::-1]
    group[order] = places
    return group


def _swap(state: _State, fixed: Groups, cost: Cost) -> None:
    """Swap two cells of different groups, or one of a group with one that is left, as long as it helps."""
    free = np.flatnonzero(fixed < 0)
    for _ in range(MOST_SWAPS):
        ask()
        group = state.group[free]
        mine = np.flatnonzero(group >= 0)
        first, second = free[mine][:, None], free[None, :]
        of_first, of_second = state.group[first], state.group[second]
        change = state.values[:, second] - state.values[:, first]
        into_first = state.sums[:, of_first] + change
        into_second = state.sums[:, of_second] - change
        now, _ = cost(state.sums)
        cost_first, may_first = cost(into_first)
        cost_second, may_second = cost(into_second)
        left = of_second < 0
        cost_second = np.where(left, 0.0, cost_second - now[of_second])
        gain = cost_first - now[of_first] + cost_second
        may = may_first & (may_second | left) & (of_first != of_second)
        gain = np.where(may, gain, np.inf)
        at = int(np.argmin(gain))
        if gain.flat[at] >= -TINY:
            return
        row, column = divmod(at, gain.shape[1])
        one, other = int(free[mine][row]), int(free[column])
        difference = state.values[:, other] - state.values[:, one]
        a, b = int(state.group[one]), int(state.group[other])
        state.sums[:, a] += difference
        if b >= 0:
            state.sums[:, b] -= difference
        state.group[one], state.group[other] = b, a
