"""A user's own placement: cells on a grid of half a pitch, and the strips that can join them.

A strip reaches from a cell to its neighbour only, because beyond it would cross a cell of another node. Cells of one
node that no strip can join are bridged by a wire, so that the pack still computes, and the fault is told.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from wise_cellar.core.documents import OwnPlace, PackRecipe
from wise_cellar.core.pack.layout import CellPlace, PackLayout, RunKind, StripRun, Terminal, node_of

NEIGHBOUR, REACH = 1.15, 1.5
"""Pitches to a neighbour, straight or half a step off; and the furthest that a strip goes where it must."""
WIRE_SLACK_MM = 20.0


def own_cells(
    recipe: PackRecipe, square: PackLayout, pitch_mm: float, diameter_mm: float
) -> tuple[tuple[CellPlace, ...], int]:
    """Cells in order of their groups, and how many of them the placement does not name.

    Those are put on the free spot nearest to their group. Without any placement it is ``square`` rows.
    """
    if not recipe.own_places:
        return square.cells, 0
    series, parallel = recipe.series_count, recipe.parallel_count
    groups: list[list[OwnPlace]] = [[] for _ in range(series)]
    for place in recipe.own_places:
        if place.group < series and len(groups[place.group]) < parallel:
            groups[place.group].append(place)
    if not any(groups):
        return square.cells, series * parallel
    taken = {(place.x, place.y) for group in groups for place in group}
    unplaced = 0
    for number, group in enumerate(groups):
        while len(group) < parallel:
            beside = group or groups[number - 1] or next(g for g in groups if g)
            up = group[0].positive_up if group else not beside[0].positive_up
            x, y = _free_spot(beside, taken)
            taken.add((x, y))
            group.append(OwnPlace(x=x, y=y, group=number, positive_up=up))
            unplaced += 1
    left = min(place.x for group in groups for place in group)
    near = min(place.y for group in groups for place in group)
    cells = tuple(
        CellPlace(
            diameter_mm / 2 + (place.x - left) * pitch_mm / 2, diameter_mm / 2 + (place.y - near) * pitch_mm / 2,
            place.group, place.positive_up,
        )
        for group in groups
        for place in group
    )  # fmt: skip
    return cells, unplaced


def placed_as(layout: PackLayout, staggered: bool = False) -> tuple[OwnPlace, ...]:
    """The cells of a layout of one layer as an own placement, from which the user goes on.

    Staggered columns stand nearer than a pitch; on the grid they are moved apart to one.
    """
    xs, ys = sorted({round(c.x_mm, 3) for c in layout.cells}), [c.y_mm for c in layout.cells]
    half = layout.pitch_mm / 2

    def along(x_mm: float) -> int:
        return 2 * xs.index(round(x_mm, 3)) if staggered else round((x_mm - xs[0]) / half)

    return tuple(
        OwnPlace(x=along(c.x_mm), y=round((c.y_mm - min(ys)) / half), group=c.group, positive_up=c.positive_up)
        for c in layout.cells
    )


def is_free(x: int, y: int, taken: Iterable[tuple[int, int]]) -> bool:
    """Whether a cell can stand at a spot of the grid beside those at the ``taken`` ones."""
    return all(abs(x - other_x) > 1 or abs(y - other_y) > 1 for other_x, other_y in taken)


def _free_spot(beside: list[OwnPlace], taken: set[tuple[int, int]]) -> tuple[int, int]:
    """The free spot nearest to the given cells, whole pitches away from the first."""
    x, y = sum(p.x for p in beside) / len(beside), sum(p.y for p in beside) / len(beside)
    odd_x, odd_y = beside[0].x % 2, beside[0].y % 2
    reach = 4
    while True:
        spots = [
            (a, b)
            for a in range(max(int(x) - reach, 0) // 2 * 2 + odd_x, int(x) + reach + 1, 2)
            for b in range(max(int(y) - reach, 0) // 2 * 2 + odd_y, int(y) + reach + 1, 2)
            if is_free(a, b, taken)
        ]
        near = [spot for spot in spots if math.dist(spot, (x, y)) <= reach]
        if near:
            return min(near, key=lambda spot: (math.dist(spot, (x, y)), spot))
        reach *= 2


def own_runs(layout: PackLayout, series: int, cell_length_mm: float) -> tuple[StripRun, ...]:
    """Strips of every node: between all neighbours; then what else it takes to join the node."""
    runs: list[StripRun] = []
    for node in range(series + 1):
        ends = [
            Terminal(place, positive)
            for place, cell in enumerate(layout.cells)
            for positive in (False, True)
            if node_of(cell, positive) == node
        ]
        runs += _join(layout, node, ends, cell_length_mm, len(runs))
    return tuple(runs)


def _join(layout: PackLayout, node: int, ends: list[Terminal], cell_length_mm: float, pieces: int) -> list[StripRun]:
    pairs = sorted(
        (_way_mm(layout, one, other, cell_length_mm), i, j)
        for j, other in enumerate(ends)
        for i, one in enumerate(ends[:j])
    )
    part = list(range(len(ends)))
    found: list[StripRun] = []

    def take(length: float, i: int, j: int, kind: RunKind) -> None:
        one, other = ends[i], ends[j]
        tier, face = layout.face_of(one)
        found.append(
            StripRun(node, kind, one, other, layout.point_of(one), layout.point_of(other), face, tier,
                     pieces + len(found), length)
        )  # fmt: skip
        old, new = part[j], part[i]
        part[:] = [new if p == old else p for p in part]

    for length, i, j in pairs:
        same_face = layout.face_of(ends[i]) == layout.face_of(ends[j])
        kind = RunKind.TIE if ends[i].positive == ends[j].positive else RunKind.LINK
        if same_face and length <= NEIGHBOUR * layout.pitch_mm:
            take(length, i, j, kind)
        elif part[i] != part[j]:
            reaches = same_face and length <= REACH * layout.pitch_mm
            take(length if reaches else length + WIRE_SLACK_MM, i, j, kind if reaches else RunKind.WIRE)
    return found


def _way_mm(layout: PackLayout, one: Terminal, other: Terminal, cell_length_mm: float) -> float:
    """Along the faces: straight on one face, round the side of a cell to the other."""
    apart = math.dist(layout.point_of(one), layout.point_of(other))
    if layout.face_of(one) == layout.face_of(other):
        return apart
    return apart + cell_length_mm + layout.pitch_mm
