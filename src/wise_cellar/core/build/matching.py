"""Numbered cells put into series groups: the least group holds as much as can be, then groups resist alike, then the
cells of one group are alike."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from wise_cellar.core.build.descent import Groups, descend, unlikeness
from wise_cellar.core.build.exact import solved
from wise_cellar.core.cells import capacity_mah, resistance_mohm
from wise_cellar.core.documents import CellType, DocumentError, NumberedCell
from wise_cellar.core.physics.arrays import Floats, Ints
from wise_cellar.core.units import format_mah, format_number

CAPACITY_ALIKE = 1e-3
"""Least groups within such a share of the best count as equal: a capacity is measured no better."""
SPREAD_ALIKE = 5e-3
"""And spreads of the groups' resistance within so much of each other."""
NO_GAP = 1e-6
MOST_EXACT = 160
"""Cells times groups up to which the best is proved; a search beyond."""


@dataclass(frozen=True)
class Asked:
    """What is to be built, and what is settled: ``fixed`` names the group of a cell by its number, counted from 0 over
    all packs; ``forbidden`` are numbers that stay in the tray."""

    series: int
    parallel: int
    packs: int = 1
    fixed: Mapping[int, int] = field(default_factory=dict)
    forbidden: frozenset[int] = frozenset()

    @property
    def groups(self) -> int:
        """Of all packs."""
        return self.series * self.packs

    @property
    def cells(self) -> int:
        """That are needed."""
        return self.groups * self.parallel


@dataclass(frozen=True)
class Bench:
    """What matching goes by: every cell's capacity and conductance, with what stands in where none was measured."""

    cells: tuple[NumberedCell, ...]
    capacity_mah: Floats
    """(cells,)"""
    siemens: Floats
    """(cells,)"""


def bench(cell_type: CellType, cells: Sequence[NumberedCell]) -> Bench:
    """Capacities and conductances of cells; where one was not measured, the middle of the others or the type's stands
    in."""
    by = {name: [getattr(cell, name) for cell in cells] for name in ("dcir_mohm", "ac_resistance_mohm")}
    which = max(by, key=lambda name: sum(value is not None for value in by[name]))
    told = [value for value in by[which] if value is not None]
    usual = float(np.median(told)) if told else resistance_mohm(cell_type)
    mohm = np.array([usual if value is None else value for value in by[which]], float)
    held = [cell.capacity_mah for cell in cells]
    known = [value for value in held if value is not None]
    middle = float(np.median(known)) if known else capacity_mah(cell_type)
    capacity = np.array([middle if value is None else value for value in held], float)
    if which == "ac_resistance_mohm":
        mohm = mohm / usual * resistance_mohm(cell_type)
    return Bench(tuple(cells), capacity, 1e3 / mohm)


@dataclass(frozen=True)
class Matched:
    """Cells in groups, over all packs: the first ``series`` groups are the first pack's, from its negative end."""

    asked: Asked
    groups: tuple[tuple[NumberedCell, ...], ...]
    capacity_mah: Floats
    """(groups,)"""
    siemens: Floats
    """(groups,) Of all cells of a group in parallel."""
    bound_mah: float = np.nan
    """What no choice can bring the least group over."""
    proved: bool = False
    """Whether a choice does come up to the bound."""
    unmeasured: int = 0
    """Cells in it whose capacity stands in by that of the others."""

    @property
    def least_mah(self) -> float:
        """Of the least group: what a flight can use of every one."""
        return float(self.capacity_mah.min())

    @property
    def gap(self) -> float:
        """Share by which the least group may still be under the best."""
        return max(self.bound_mah / self.least_mah - 1.0, 0.0)

    @property
    def resistance_spread(self) -> float:
        """Greatest less least resistance of the groups, over their mean."""
        ohm = 1.0 / self.siemens
        return float((ohm.max() - ohm.min()) / ohm.mean())

    @property
    def capacity_spread(self) -> float:
        """The same of their capacity."""
        return float((self.capacity_mah.max() - self.least_mah) / self.capacity_mah.mean())

    def pack(self, place: int) -> tuple[tuple[NumberedCell, ...], ...]:
        """The groups of one of the packs."""
        return self.groups[place * self.asked.series : (place + 1) * self.asked.series]

    def words(self) -> str:
        """The least group, how far groups are apart, and how far the best may lie."""
        told = (
            f"The least group holds {format_mah(self.least_mah)}; groups differ by"
            f" {format_number(100 * self.capacity_spread, 1)} % in capacity and"
            f" {format_number(100 * self.resistance_spread, 1)} % in resistance."
        )
        most = f"over {format_mah(self.bound_mah)}, {_percent(self.gap)} more"
        if self.unmeasured:
            told += f" Of {self.unmeasured} of these cells no capacity is known: the middle of the others stands in."
        if self.gap < NO_GAP:
            return f"{told} No choice has more in its least group."
        return f"{told} No choice {'brings' if self.proved else 'could bring'} it {most}."


def _percent(share: float) -> str:
    return f"{format_number(100 * share, 2 if share < 0.001 else 1)} %"


def match(cell_type: CellType, cells: Sequence[NumberedCell], asked: Asked, seed: int = 1) -> Matched:
    """The best groups that were found; raises :class:`DocumentError` where the tray is too small or a wish cannot be.

    Small trays are solved exactly, larger ones searched: see :mod:`wise_cellar.core.build.exact` and
    :mod:`wise_cellar.core.build.descent`.
    """
    free = [cell for cell in cells if cell.number not in asked.forbidden]
    held = bench(cell_type, free)
    fixed = _fixed(held, asked)
    if len(free) < asked.cells:
        lacking = asked.cells - len(free)
        raise DocumentError(
            f"{asked.series}S {asked.parallel}P{f', {asked.packs} times,' if asked.packs > 1 else ''} asks for"
            f" {asked.cells} cells; {len(free)} of this tray may be used: {lacking} more are needed."
        )
    bound = _bound(held.capacity_mah, asked, fixed)
    exact = None
    if len(free) * asked.groups <= MOST_EXACT:
        exact = solved(
            held.capacity_mah, held.siemens, asked.groups, asked.parallel, fixed, CAPACITY_ALIKE, SPREAD_ALIKE
        )
    if exact is not None:
        found, bound = exact
    else:
        found = descend(
            held.capacity_mah,
            held.siemens,
            asked.groups,
            asked.parallel,
            fixed,
            bound,
            CAPACITY_ALIKE,
            SPREAD_ALIKE,
            seed,
        )
    order = _packs_alike(found, held.capacity_mah, asked, fixed)
    members = [np.flatnonzero(found == group) for group in order]
    return _matched(held, members, asked, bound, exact is not None)


def _matched(held: Bench, members: Sequence[Ints], asked: Asked, bound: float, proved: bool) -> Matched:
    return Matched(
        asked,
        tuple(tuple(held.cells[place] for place in group) for group in members),
        np.array([held.capacity_mah[group].sum() for group in members]),
        np.array([held.siemens[group].sum() for group in members]),
        bound,
        proved,
        sum(held.cells[place].capacity_mah is None for group in members for place in group),
    )


def _fixed(held: Bench, asked: Asked) -> Groups:
    """(cells,) The group that is settled, −1 where it is open."""
    place_of = {cell.number: place for place, cell in enumerate(held.cells)}
    fixed = np.full(len(held.cells), -1)
    for number, group in asked.fixed.items():
        if number not in place_of:
            raise DocumentError(f"Cell {number} is fixed in group {group + 1}, and is not among the cells to use.")
        if not 0 <= group < asked.groups:
            raise DocumentError(f"Cell {number} is fixed in group {group + 1}; there are {asked.groups}.")
        fixed[place_of[number]] = group
    for group in range(asked.groups):
        if (count := int((fixed == group).sum())) > asked.parallel:
            raise DocumentError(f"{count} cells are fixed in group {group + 1}, which has {asked.parallel}.")
    return fixed


def _bound(capacity: Floats, asked: Asked, fixed: Groups) -> float:
    """What no choice can bring the least group over, mAh: the mean of the groups of the best cells, the least of the
    best where one cell makes a group, and what a group with settled cells can come to."""
    settled = capacity[fixed >= 0]
    rest = np.sort(capacity[fixed < 0])[::-1]
    best = np.append(settled, rest[: asked.cells - len(settled)])
    bounds = [best.sum() / asked.groups]
    if asked.parallel == 1:
        bounds.append(best.min())
    for group in range(asked.groups):
        mine = capacity[fixed == group]
        if len(mine):
            bounds.append(mine.sum() + rest[: asked.parallel - len(mine)].sum())
    return float(min(bounds))


def _packs_alike(found: Groups, capacity: Floats, asked: Asked, fixed: Groups) -> list[int]:
    """Groups in order, so that the packs are alike: the least of one goes with the greatest of another. Settled groups
    stay where they are."""
    if asked.packs == 1 or (fixed >= 0).any():
        return list(range(asked.groups))
    sums = np.array([capacity[found == group].sum() for group in range(asked.groups)])
    packs: list[list[int]] = [[] for _ in range(asked.packs)]
    for turn, group in enumerate(np.argsort(sums, kind="stable").tolist()):
        lap, place = divmod(turn, asked.packs)
        packs[place if lap % 2 == 0 else asked.packs - 1 - place].append(group)
    return [group for pack in packs for group in pack]


def as_they_came(cell_type: CellType, cells: Sequence[NumberedCell], asked: Asked) -> Matched:
    """The first cells by number, in that order."""
    free = sorted((one for one in cells if one.number not in asked.forbidden), key=lambda cell: cell.number)
    held = bench(cell_type, free[: asked.cells])
    return _matched(held, np.split(np.arange(asked.cells), asked.groups), asked, np.nan, proved=False)


def worst_order(cell_type: CellType, matched: Matched) -> Matched:
    """The same cells, the weakest together."""
    held = bench(cell_type, [cell for group in matched.groups for cell in group])
    order = np.argsort(held.capacity_mah, kind="stable")
    return _matched(held, np.split(order, matched.asked.groups), matched.asked, np.nan, proved=False)


def unlike(matched: Matched, cell_type: CellType) -> float:
    """How unlike the cells of one group are: root mean square of capacity and resistance about their group's mean, as a
    share of one."""
    held = bench(cell_type, [cell for group in matched.groups for cell in group])
    groups = np.repeat(np.arange(matched.asked.groups), matched.asked.parallel)
    return unlikeness(held.capacity_mah, held.siemens, groups, matched.asked.groups)
