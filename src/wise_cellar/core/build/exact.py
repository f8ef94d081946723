"""Matching as integer programmes, one a wish, for trays that are small enough to prove it.

x[c, g] is 1 where cell c lies in group g. First the least group's capacity is made as great as can be; then, with that
held, the difference of the greatest and least conductance of a group is made least; then, with both held, the sum over
the groups of the ranges of capacity and conductance inside them. Source: mixed integer linear programming by branch and
bound, ``scipy.optimize.milp``.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from wise_cellar.core.build.descent import Groups
from wise_cellar.core.flight.stopping import ask
from wise_cellar.core.physics.arrays import Floats

LONGEST_S = 1.2
"""For each of the three; where it does not suffice, the tray is searched."""


def solved(
    capacity: Floats, siemens: Floats, groups: int, parallel: int, fixed: Groups, alike: float, spread_alike: float
) -> tuple[Groups, float] | None:
    """``(cells,)`` The group of each cell, −1 for those that are left, and the greatest that the least group can hold;
    none where it could not be proved in time.

    A least group within ``alike`` of the greatest counts as equal to it, a spread of conductance within
    ``spread_alike`` of a group's mean likewise.
    """
    cells = len(capacity)
    caps, flows = capacity / capacity.mean(), siemens / siemens.mean()
    programme = _Programme(cells, groups, parallel, fixed)
    least = programme.maximised_least(caps)
    if least is None:
        return None
    floor = least * (1 - alike)
    programme.hold(caps, floor)
    spread = programme.least_spread(flows)
    if spread is None:
        return None
    found = programme.alike(caps, flows, spread + spread_alike * parallel)
    return None if found is None else (found, least * float(capacity.mean()))


class _Programme:
    """x[c, g] in the first cells × groups variables; what else a wish needs comes behind."""

    def __init__(self, cells: int, groups: int, parallel: int, fixed: Groups) -> None:
        self.cells, self.groups = cells, groups
        self.size = cells * groups
        self._rows: list[tuple[Floats, float, float]] = []
        for group in range(groups):
            row = np.zeros((cells, groups))
            row[:, group] = 1
            self._rows.append((row.ravel(), parallel, parallel))
        for cell in range(cells):
            row = np.zeros((cells, groups))
            row[cell] = 1
            self._rows.append((row.ravel(), 0, 1))
        low, high = np.zeros((cells, groups)), np.ones((cells, groups))
        for cell, group in enumerate(fixed):
            if group >= 0:
                low[cell, group] = 1
        self._low, self._high = low.ravel(), high.ravel()

    def _of_group(self, values: Floats, group: int) -> Floats:
        row = np.zeros((self.cells, self.groups))
        row[:, group] = values
        return row.ravel()

    def hold(self, values: Floats, floor: float) -> None:
        """From now on no group may sum to less."""
        for group in range(self.groups):
            self._rows.append((self._of_group(values, group), floor - 1e-9, np.inf))

    def _solve(self, aim: Floats, more: list[tuple[Floats, float, float]], extra: int, most: float) -> Any:
        # Late: whoever looks at a pack comes by here, and few of them match one.
        from scipy.optimize import Bounds, LinearConstraint, milp

        ask()
        wide = [(np.append(row, np.zeros(extra)), low, high) for row, low, high in self._rows] + more
        matrix = np.array([row for row, _, _ in wide])
        limits = LinearConstraint(matrix, [low for _, low, _ in wide], [high for _, _, high in wide])
        whole = np.append(np.ones(self.size, int), np.zeros(extra, int))
        bounds = Bounds(np.append(self._low, np.zeros(extra)), np.append(self._high, np.full(extra, most)))
        found = milp(
            aim, constraints=limits, integrality=whole, bounds=bounds,
            options={"time_limit": LONGEST_S, "mip_rel_gap": 1e-9},
        )  # fmt: skip
        return found if found.status == 0 else None

    def maximised_least(self, values: Floats) -> float | None:
        """The greatest that the least sum can be."""
        aim = np.append(np.zeros(self.size), -1.0)
        more = [(np.append(self._of_group(values, group), -1.0), 0.0, np.inf) for group in range(self.groups)]
        found = self._solve(aim, more, 1, float(values.sum()))
        return None if found is None else float(-found.fun)

    def least_spread(self, values: Floats) -> float | None:
        """The least that the difference of the greatest and the least sum can be."""
        aim = np.append(np.zeros(self.size), [-1.0, 1.0])
        more = []
        for group in range(self.groups):
            row = self._of_group(values, group)
            more.append((np.append(row, [-1.0, 0.0]), 0.0, np.inf))
            more.append((np.append(row, [0.0, -1.0]), -np.inf, 0.0))
        found = self._solve(aim, more, 2, float(values.sum()))
        return None if found is None else float(found.fun)

    def alike(self, caps: Floats, flows: Floats, spread: float) -> Groups | None:
        """Groups whose cells are as alike as can be, where sums of ``flows`` differ by no more than ``spread``."""
        kinds = (caps, flows)
        extra = 2 + 2 * len(kinds) * self.groups
        aim = np.zeros(self.size + extra)
        more = []
        for group in range(self.groups):
            row = self._of_group(flows, group)
            more.append((np.concatenate([row, [-1.0, 0.0], np.zeros(extra - 2)]), 0.0, np.inf))
            more.append((np.concatenate([row, [0.0, -1.0], np.zeros(extra - 2)]), -np.inf, 0.0))
        width = np.zeros(self.size + extra)
        width[self.size], width[self.size + 1] = -1.0, 1.0
        more.append((width, 0.0, spread + 1e-9))
        for kind, values in enumerate(kinds):
            top = float(values.max())
            for group in range(self.groups):
                low = self.size + 2 + 2 * (kind * self.groups + group)
                aim[low], aim[low + 1] = -1.0, 1.0
                for cell in range(self.cells):
                    at = cell * self.groups + group
                    # low ≤ v where the cell is in the group, and v ≤ high there.
                    under, over = np.zeros(self.size + extra), np.zeros(self.size + extra)
                    under[low], under[at] = 1.0, top
                    more.append((under, -np.inf, values[cell] + top))
                    over[low + 1], over[at] = 1.0, -values[cell]
                    more.append((over, 0.0, np.inf))
        found = self._solve(aim, more, extra, 2 * max(float(values.sum()) for values in kinds))
        if found is None:
            return None
        chosen = found.x[: self.size].reshape(self.cells, self.groups) > 0.5
        return np.where(chosen.any(axis=1), chosen.argmax(axis=1), -1)
