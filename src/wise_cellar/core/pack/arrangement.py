"""Where every cell and strip of a pack lies, seen from above, in millimetres.

Cylinders: groups stand as columns side by side, in one or more bands that fold back on themselves, so that groups next
to each other in series are next to each other in space. Polarity alternates from group to group: each link lies on one
face only. Pouches: one stack, seen from the end that has both tabs. Packs bought whole: side by side, with no strips.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from wise_cellar.core.documents import Arrangement, Bay, CellType, PackRecipe

CELL_GAP_MM = 0.4
"""Between cells standing beside each other: their own sleeve and a film of glue."""

TAB_MM = 8.0
"""Room for the tabs of pouches, beyond their length."""

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
    """Cells, or packs bought whole."""
    body_mm: tuple[float, float]
    """What each takes in x and y; a diameter twice for cylinders."""
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
    pitch_mm: float
    """From one cell to the next, which is what a strip must bridge."""
    any_way_up: bool = False
    """Whether it may lie on any of its sides: pouches and whole packs."""

    def spare_mm(self, bay: Bay) -> float:
        """Least room left in the bay, lying either way round, or any way up where it may; negative: does not go in."""
        mine, room = (self.length_mm, self.width_mm), (bay.length_mm, bay.width_mm)
        if self.any_way_up:
            pairs = zip(sorted((*mine, self.height_mm)), sorted((*room, bay.height_mm)), strict=True)
        else:
            pairs = zip((*sorted(mine), self.height_mm), (*sorted(room), bay.height_mm), strict=True)
        return min(its - one for one, its in pairs)

    def fits(self, bay: Bay) -> bool:
        """Whether the pack goes into the bay."""
        return self.spare_mm(bay) >= 0


def arrange(recipe: PackRecipe, cell: CellType, bay: Bay | None = None) -> PackLayout:
    """Layout of ``recipe``: the number of bands that fits the bay, and of those the one with the least girth."""
    if cell.whole_pack:
        packs = math.ceil(recipe.series_count / cell.cells_in_series) * recipe.parallel_count
        candidates = [_side_by_side(packs, cell, columns) for columns in range(1, min(packs, 8) + 1)]
    elif not cell.form_factor.cylindrical:
        return _stack(recipe, cell)
    else:
        candidates = [_banded(recipe, cell, bands) for bands in range(1, min(recipe.series_count, 6) + 1)]

    def preference(layout: PackLayout) -> tuple[bool, float, int]:
        return (bay is not None and not layout.fits(bay), layout.length_mm + layout.width_mm, layout.bands)

    return min(candidates, key=preference)


def _banded(recipe: PackRecipe, cell: CellType, bands: int) -> PackLayout:
    series, parallel = recipe.series_count, recipe.parallel_count
    diameter = cell.diameter_mm or 0.0
    pitch = diameter + CELL_GAP_MM
    columns = math.ceil(series / bands)
    used_bands = math.ceil(series / columns)
    staggered = recipe.arrangement is Arrangement.STAGGERED
    column_pitch = pitch * _STAGGERED_PITCH if staggered else pitch
    radius = diameter / 2

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
        body_mm=(diameter, diameter),
        strips=tuple(strips),
        length_mm=(columns - 1) * column_pitch + diameter + 2 * END_STACK_MM,
        width_mm=(rows - 1) * pitch + shifted + diameter + 2 * END_STACK_MM,
        height_mm=cell.length_mm + stack,
        bands=used_bands,
        folds=used_bands - 1,
        lead_row=middle,
        negative_lead_mm=place(0, middle),
        positive_lead_mm=place(series - 1, middle),
        negative_face=Face.TOP,
        positive_face=Face.TOP if series % 2 == 0 else Face.UNDERSIDE,
        pitch_mm=pitch,
    )


def _stack(recipe: PackRecipe, cell: CellType) -> PackLayout:
    """Pouches face to face, tabs at one end. A bar joins each group's tabs with the next one's, alternately left and
    right, and carries the whole current."""
    series, parallel = recipe.series_count, recipe.parallel_count
    thickness, width = cell.thickness_mm or 0.0, cell.width_mm or 0.0
    pitch = thickness + CELL_GAP_MM

    def centre(group: int, row: int) -> float:
        return thickness / 2 + (group * parallel + row) * pitch

    def tab_y(node: int) -> float:
        return width * (0.25 if node % 2 == 0 else 0.75)

    cells = tuple(
        CellPlace(centre(group, row), width / 2, group, positive_up=group % 2 == 1)
        for group in range(series)
        for row in range(parallel)
    )
    strips = []
    for node in range(series + 1):
        first, last = centre(max(node - 1, 0), 0), centre(min(node, series - 1), parallel - 1)
        if last > first:
            inner = 0 < node < series
            strips.append(StripRun(Face.TOP, node, inner, (first, tab_y(node)), (last, tab_y(node))))
    middle = (parallel - 1) // 2
    return PackLayout(
        cells=cells,
        body_mm=(thickness, width),
        strips=tuple(strips),
        length_mm=(series * parallel - 1) * pitch + thickness + 2 * END_STACK_MM,
        width_mm=width + 2 * END_STACK_MM,
        height_mm=cell.length_mm + TAB_MM + END_STACK_MM + recipe.strip.thickness_mm * recipe.strip.layers,
        bands=1,
        folds=series - 1,
        lead_row=middle,
        negative_lead_mm=(centre(0, 0), tab_y(0)),
        positive_lead_mm=(centre(series - 1, parallel - 1), tab_y(series)),
        negative_face=Face.TOP,
        positive_face=Face.TOP,
        pitch_mm=pitch,
        any_way_up=True,
    )


def _side_by_side(packs: int, cell: CellType, columns: int) -> PackLayout:
    """Packs bought whole, lying flat: ``columns`` beside each other, the rest on top."""
    width, thickness = cell.width_mm or 0.0, cell.thickness_mm or 0.0
    layers = math.ceil(packs / columns)
    cells = tuple(
        CellPlace(width / 2 + (n % columns) * width, thickness / 2 + (n // columns) * thickness, n, positive_up=True)
        for n in range(packs)
    )
    return PackLayout(
        cells=cells,
        body_mm=(width, thickness),
        strips=(),
        length_mm=columns * width,
        width_mm=layers * thickness,
        height_mm=cell.length_mm,
        bands=layers,
        folds=0,
        lead_row=0,
        negative_lead_mm=(0.0, 0.0),
        positive_lead_mm=(0.0, 0.0),
        negative_face=Face.TOP,
        positive_face=Face.TOP,
        pitch_mm=width,
        any_way_up=True,
    )


def _link(
    place: Callable[[int, int], tuple[float, float]], face: Face, node: int, fold: bool, parallel: int
) -> list[StripRun]:
    if fold:
        ends = [(place(node - 1, parallel - 1), place(node, 0))]
    else:
        ends = [(place(node - 1, row), place(node, row)) for row in range(parallel)]
    return [StripRun(face, node, True, start, end) for start, end in ends]
