"""Where every cell and strip of a pack lies, seen from above, in millimetres.

Groups stand as columns side by side, in one or more bands that fold back on themselves, so that groups next to
each other in series are next to each other in space. Polarity alternates from group to group: each link lies on one
face only.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from wise_cellar.core.documents import Arrangement, Bay, CellType, PackRecipe

CELL_GAP_MM = 0.4
"""Between cells standing beside each other: their own sleeve and a film of glue."""

END_STACK_MM = 0.6
"""Insulation and wrap on each face, strips excluded."""

_STAGGERED_PITCH = math.sqrt(3) / 2


class Face(StrEnum):
    """A face of the pack."""

    TOP = "top"
    UNDERSIDE = "underside"


@dataclass(frozen=True)
class CellPlace:
    """A cell: centre, series group counted from the negative end, and which end is up."""

    x_mm: float
    y_mm: float
    group: int
    positive_up: bool


@dataclass(frozen=True)
class StripRun:
    """A straight strip between two points on one face.

    ``node`` counts the pack's nodes from 0 (negative terminal) to S (positive); ``between_groups`` tells a strip that
    carries series current from one that only ties a group together.
    """

    face: Face
    node: int
    between_groups: bool
    start_mm: tuple[float, float]
    end_mm: tuple[float, float]

    @property
    def length_mm(self) -> float:
        """Distance between the ends."""
        return math.dist(self.start_mm, self.end_mm)


@dataclass(frozen=True)
class PackLayout:
    """Cells, strips and outer size of a pack; x runs along its length, y across."""

    cells: tuple[CellPlace, ...]
    strips: tuple[StripRun, ...]
    length_mm: float
    width_mm: float
    height_mm: float
    bands: int
    folds: int
    """Series links that turn from one band to the next: there one bar carries the whole current."""
    lead_row: int
    """Row of the end groups at which the leads leave: the middle one."""
    negative_lead_mm: tuple[float, float]
    positive_lead_mm: tuple[float, float]
    negative_face: Face
    positive_face: Face

    def fits(self, bay: Bay) -> bool:
        """Whether the pack goes into the bay, lying either way round."""
        length, width = max(self.length_mm, self.width_mm), min(self.length_mm, self.width_mm)
        return (
            length <= max(bay.length_mm, bay.width_mm)
            and width <= min(bay.length_mm, bay.width_mm)
            and self.height_mm <= bay.height_mm
        )


def arrange(recipe: PackRecipe, cell: CellType, bay: Bay | None = None) -> PackLayout:
    """Layout of ``recipe``: the number of bands that fits the bay, and of those the one with the least girth."""
    candidates = [_banded(recipe, cell, bands) for bands in range(1, min(recipe.series_count, 6) + 1)]

    def preference(layout: PackLayout) -> tuple[bool, float, int]:
        return (bay is not None and not layout.fits(bay), layout.length_mm + layout.width_mm, layout.bands)

    return min(candidates, key=preference)


def _banded(recipe: PackRecipe, cell: CellType, bands: int) -> PackLayout:
    series, parallel = recipe.series_count, recipe.parallel_count
    pitch = cell.diameter_mm + CELL_GAP_MM
    columns = math.ceil(series / bands)
    used_bands = math.ceil(series / columns)
    staggered = recipe.arrangement is Arrangement.STAGGERED
    column_pitch = pitch * _STAGGERED_PITCH if staggered else pitch
    radius = cell.diameter_mm / 2

    def place(group: int, row: int) -> tuple[float, float]:
        band, step = divmod(group, columns)
        column = step if band % 2 == 0 else columns - 1 - step
        shift = pitch / 2 if staggered and column % 2 else 0.0
        return radius + column * column_pitch, radius + shift + (band * parallel + row) * pitch

    cells = tuple(
        CellPlace(*place(group, row), group, positive_up=group % 2 == 1)
        for group in range(series)
        for row in range(parallel)
    )
    strips: list[StripRun] = []
    for node in range(series + 1):
        face = Face.TOP if node % 2 == 0 else Face.UNDERSIDE
        for group in (node - 1, node):
            if parallel > 1 and 0 <= group < series:
                strips.append(StripRun(face, node, False, place(group, 0), place(group, parallel - 1)))
        if 0 < node < series:
            strips.extend(_link(place, face, node, node // columns != (node - 1) // columns, parallel))
    rows = used_bands * parallel
    shifted = pitch / 2 if staggered and columns > 1 else 0.0
    stack = 2 * (END_STACK_MM + recipe.strip.thickness_mm * recipe.strip.layers)
    middle = (parallel - 1) // 2
    return PackLayout(
        cells=cells,
        strips=tuple(strips),
        length_mm=(columns - 1) * column_pitch + cell.diameter_mm + 2 * END_STACK_MM,
        width_mm=(rows - 1) * pitch + shifted + cell.diameter_mm + 2 * END_STACK_MM,
        height_mm=cell.length_mm + stack,
        bands=used_bands,
        folds=used_bands - 1,
        lead_row=middle,
        negative_lead_mm=place(0, middle),
        positive_lead_mm=place(series - 1, middle),
        negative_face=Face.TOP,
        positive_face=Face.TOP if series % 2 == 0 else Face.UNDERSIDE,
    )


def _link(
    place: Callable[[int, int], tuple[float, float]], face: Face, node: int, fold: bool, parallel: int
) -> list[StripRun]:
    if fold:
        ends = [(place(node - 1, parallel - 1), place(node, 0))]
    else:
        ends = [(place(node - 1, row), place(node, row)) for row in range(parallel)]
    return [StripRun(face, node, True, start, end) for start, end in ends]
