"""Where the cells of a recipe stand, and the layout that suits a bay best.

Cylinders in rows: groups stand as columns side by side, in one or more bands that fold back on themselves, so that
groups next to each other in series are next to each other in space. Polarity alternates from group to group: each
link lies on one face only. In two layers the upper one runs back over the lower, and the two meet face to face.
Sticks: cells lie end to end, one stick for each cell of a group. Pouches: one stack, seen from the end that has both
tabs. Packs bought whole: side by side, with no strips.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from itertools import pairwise

from wise_cellar.core.documents import Arrangement, Bay, CellType, Fittings, LeadExit, PackRecipe, Spacer
from wise_cellar.core.pack.layout import CellPlace, PackLayout, RunKind, StripRun, Terminal
from wise_cellar.core.pack.own import own_cells, own_runs
from wise_cellar.core.pack.room import stow

CELL_GAP_MM, FRAME_GAP_MM = 0.4, 1.0
"""Between cells standing beside each other: their own sleeve and a film of glue, or the wall of a frame."""

TAB_MM = 8.0
"""Room for the tabs of pouches, beyond their length."""

HINGE_MM = 10.0
"""Strip between the facing ends of two cells: welded flat to both, then folded."""

MOST_BANDS = 6
_USUAL = PackRecipe()
_STAGGERED_PITCH = math.sqrt(3) / 2


@dataclass(frozen=True)
class CellShape:
    """All that a layout needs of a cell type; many types share one, and so their layouts."""

    cylindrical: bool
    diameter_mm: float
    length_mm: float
    width_mm: float
    thickness_mm: float
    cells_in_series: int
    """Inside a pack bought whole; 0 of a single cell."""

    @property
    def whole_pack(self) -> bool:
        """Whether it is a pack bought whole."""
        return self.cells_in_series > 0


def shape_of(cell: CellType) -> CellShape:
    """The shape of a cell type."""
    return CellShape(
        cell.form_factor.cylindrical, cell.diameter_mm or 0.0, cell.length_mm, cell.width_mm or 0.0,
        cell.thickness_mm or 0.0, cell.cells_in_series if cell.whole_pack else 0,
    )  # fmt: skip


@dataclass(frozen=True)
class Outline:
    """The outer size of a layout. Its cells are placed when they are asked for: most outlines are only measured."""

    cells: Callable[[], tuple[CellPlace, ...]]
    body_mm: tuple[float, float]
    length_mm: float
    width_mm: float
    height_mm: float
    bands: int
    pitch_mm: float
    lying: bool = False
    any_way_up: bool = False
    unplaced: int = 0

    def layout(self) -> PackLayout:
        """With its cells, and no strip yet."""
        return PackLayout(
            self.cells(), self.body_mm, (), self.length_mm, self.width_mm, self.height_mm, self.bands, self.pitch_mm,
            lying=self.lying, any_way_up=self.any_way_up, unplaced=self.unplaced,
        )  # fmt: skip


def arrange(recipe: PackRecipe, cell: CellShape, bay: Bay | None = None) -> PackLayout:
    """Layout of ``recipe``: of the numbers of bands one that fits the bay, and of those the least girth."""
    return _arranged(_placement(recipe), cell, bay)


def _placement(recipe: PackRecipe) -> PackRecipe:
    """The recipe with only what moves cells and strips; an edit of anything else finds its layout again."""
    held = {"straps": 0, "mount_g": 0.0, "other_g": 0.0, "shift_mm": 0.0}
    return recipe.changed(
        joint=_USUAL.joint, welds=_USUAL.welds, joint_mohm=None, weighed_g=None,
        leads=_USUAL.leads.changed(exit=recipe.leads.exit), balance=_USUAL.balance,
        fittings=recipe.fittings.changed(**held),
    )  # fmt: skip


@lru_cache(maxsize=1024)
def _arranged(recipe: PackRecipe, cell: CellShape, bay: Bay | None) -> PackLayout:
    def preference(outline: Outline) -> tuple[bool, float, int]:
        return (bay is not None and stow(outline, bay) is None, outline.length_mm + outline.width_mm, outline.bands)

    return wired(min(outlines(recipe, cell), key=preference), recipe, cell)


def outlines(recipe: PackRecipe, cell: CellShape) -> Iterator[Outline]:
    """Every outline that the recipe leaves open: one for each number of bands, unless it names one."""
    series = recipe.series_count
    if cell.whole_pack:
        packs = math.ceil(series / cell.cells_in_series) * recipe.parallel_count
        yield from (_side_by_side(packs, cell, columns) for columns in range(1, min(packs, 8) + 1))
    elif not cell.cylindrical:
        yield _stack(recipe, cell)
    elif recipe.arrangement is Arrangement.OWN:
        yield _own(recipe, cell)
    else:
        build = _sticks if recipe.arrangement is Arrangement.STICKS else _rows
        # A stick has two cells at least.
        groups = math.ceil(series / (2 if build is _sticks else recipe.tiers))
        wanted = range(1, min(groups, MOST_BANDS) + 1) if recipe.bands is None else [min(recipe.bands, groups)]
        yield from (build(recipe, cell, bands) for bands in wanted)


def wired(outline: Outline, recipe: PackRecipe, cell: CellShape) -> PackLayout:
    """The layout of an outline: its cells, its strips, and its leads where the recipe wants them."""
    layout = outline.layout()
    if cell.whole_pack:
        return layout
    runs = _Runs(layout)
    if not cell.cylindrical:
        _stack_runs(runs, recipe)
    elif recipe.arrangement is Arrangement.OWN:
        runs.found += own_runs(layout, recipe.series_count, cell.length_mm)
    else:
        (_stick_runs if layout.lying else _row_runs)(runs, recipe)
    return with_leads(replace(layout, strips=tuple(runs.found)), recipe)


def pitch_mm(recipe: PackRecipe, cell: CellShape) -> float:
    """From one cell to the next beside it."""
    gap = FRAME_GAP_MM if recipe.fittings.spacer is Spacer.FRAME else CELL_GAP_MM
    return (cell.diameter_mm if cell.cylindrical else cell.thickness_mm) + gap


@dataclass
class _Runs:
    """Collects the runs of a layout that is being made."""

    layout: PackLayout
    found: list[StripRun] = field(default_factory=list)
    pieces: int = 0

    def add(self, node: int, kind: RunKind, cells: Sequence[tuple[int, bool]], length_mm: float | None = None) -> None:
        """One piece of strip over the given cell ends, in order."""
        terminals = [Terminal(*end) for end in cells]
        for start, end in pairwise(terminals):
            one, other = self.layout.point_of(start), self.layout.point_of(end)
            tier, face = self.layout.face_of(start)
            self.found.append(
                StripRun(
                    node, kind, start, end, one, other, face, tier, self.pieces, length_mm or math.dist(one, other)
                )
            )
        self.pieces += len(terminals) > 1

    def tie_groups(self, series: int, parallel: int) -> None:
        """Both ends of every group, cell by cell."""
        for group in range(series):
            self.tie(group, parallel, False)
            self.tie(group, parallel, True)

    def tie(self, group: int, parallel: int, positive: bool) -> None:
        """One end of a group, cell by cell; sticks in two layers are a pitch apart though one hides the other."""
        members = [(cell, positive) for cell in range(group * parallel, (group + 1) * parallel)]
        self.add(group + positive, RunKind.TIE, members, self.layout.pitch_mm if self.layout.lying else None)


def with_leads(layout: PackLayout, recipe: PackRecipe) -> PackLayout:
    """The layout with its leads at the cells that the recipe asks for."""
    ends = {LeadExit.MIDDLE: (0.5, 0.5), LeadExit.SAME_END: (0.0, 0.0), LeadExit.OPPOSITE_CORNERS: (0.0, 1.0)}
    first, last = ends[recipe.leads.exit]
    return replace(
        layout,
        negative=Terminal(_along(layout, 0, first), False),
        positive=Terminal(_along(layout, recipe.series_count - 1, last), True),
    )


def _along(layout: PackLayout, group: int, share: float) -> int:
    """The cell of a group that stands at ``share`` of the way along it."""
    members = [place for place, cell in enumerate(layout.cells) if cell.group == group]
    across = [layout.cells[place].y_mm for place in members]
    along = [layout.cells[place].x_mm for place in members]
    spots = along if max(along) - min(along) > max(across) - min(across) else across
    order = [place for _, place in sorted(zip(spots, members, strict=True))]
    return order[math.floor(share * (len(order) - 1))]


def _sides(fittings: Fittings) -> float:
    """What wraps a pack on its two sides."""
    return 2 * fittings.shrink_mm


def _faces(recipe: PackRecipe, faces: int = 2) -> float:
    """Strip, insulation and wrap on the faces."""
    strip = recipe.strip
    layers = max([strip.layers, *(more.layers for more in recipe.more_layers)])
    metal = strip.thickness_mm * layers + (strip.underlay_thickness_mm if strip.underlay != "nothing" else 0.0)
    return faces * (recipe.fittings.end_sheet_mm + metal) + _sides(recipe.fittings)


def _rows(recipe: PackRecipe, cell: CellShape, bands: int) -> Outline:
    series, parallel, tiers = recipe.series_count, recipe.parallel_count, min(recipe.tiers, recipe.series_count)
    diameter, pitch = cell.diameter_mm, pitch_mm(recipe, cell)
    lower = math.ceil(series / tiers)
    columns = math.ceil(lower / bands)
    used_bands = math.ceil(lower / columns)
    staggered = recipe.arrangement is Arrangement.STAGGERED
    column_pitch = pitch * _STAGGERED_PITCH if staggered else pitch

    def place(group: int, row: int) -> CellPlace:
        over = group >= lower
        # The upper layer runs back, and meets the lower one at node ``lower``.
        seen = 2 * lower - 1 - group if over else group
        band, step = divmod(seen, columns)
        column = step if band % 2 == 0 else columns - 1 - step
        shift = pitch / 2 if staggered and column % 2 else 0.0
        up = group % 2 == 1 if tiers == 1 else (group + 1 - lower) % 2 == int(over)
        return CellPlace(
            diameter / 2 + column * column_pitch, diameter / 2 + shift + (band * parallel + row) * pitch, group, up,
            int(over),
        )  # fmt: skip

    rows = used_bands * parallel
    shifted = pitch / 2 if staggered and columns > 1 else 0.0
    return Outline(
        cells=lambda: tuple(place(group, row) for group in range(series) for row in range(parallel)),
        body_mm=(diameter, diameter),
        length_mm=(columns - 1) * column_pitch + diameter + _sides(recipe.fittings),
        width_mm=(rows - 1) * pitch + shifted + diameter + _sides(recipe.fittings),
        height_mm=tiers * cell.length_mm + _faces(recipe, 2 * tiers),
        bands=used_bands,
        pitch_mm=pitch,
    )


def _row_runs(runs: _Runs, recipe: PackRecipe) -> None:
    """Ties along every group; a strip a row between groups; one at a fold; folded ones between two layers."""
    series, parallel, cells = recipe.series_count, recipe.parallel_count, runs.layout.cells
    runs.tie_groups(series, parallel)
    for node in range(1, series):
        before, after = (node - 1) * parallel, node * parallel
        hinge = cells[before].tier != cells[after].tier
        if not hinge and cells[before].x_mm == cells[after].x_mm:
            first_to_last = cells[after].y_mm > cells[before].y_mm
            ends = (parallel - 1, 0) if first_to_last else (0, parallel - 1)
            runs.add(node, RunKind.LINK, [(before + ends[0], True), (after + ends[1], False)])
            continue
        for row in range(parallel):
            runs.add(node, RunKind.LINK, [(before + row, True), (after + row, False)], HINGE_MM if hinge else None)


def _sticks(recipe: PackRecipe, cell: CellShape, bands: int) -> Outline:
    """Sticks lie side by side, those of one band together; a longer pack folds back in the next band."""
    series, parallel = recipe.series_count, recipe.parallel_count
    tiers = min(recipe.tiers, bands * parallel)
    diameter, pitch = cell.diameter_mm, pitch_mm(recipe, cell)
    each = math.ceil(series / bands)
    used_bands = math.ceil(series / each)
    step_mm = cell.length_mm + 2 * recipe.strip.thickness_mm * recipe.strip.layers + 0.5

    def place(group: int, row: int) -> CellPlace:
        band, step = divmod(group, each)
        ahead = band % 2 == 0
        stick = band * parallel + row
        slot, tier = (stick // 2, (stick + stick // 2) % 2) if tiers > 1 else (stick, 0)
        along = step if ahead else each - 1 - step
        return CellPlace(cell.length_mm / 2 + along * step_mm, diameter / 2 + slot * pitch, group, ahead, tier)

    slots = math.ceil(used_bands * parallel / tiers)
    return Outline(
        cells=lambda: tuple(place(group, row) for group in range(series) for row in range(parallel)),
        body_mm=(cell.length_mm, diameter),
        length_mm=(each - 1) * step_mm + cell.length_mm + _faces(recipe),
        width_mm=(slots - 1) * pitch + diameter + _sides(recipe.fittings),
        height_mm=(tiers - 1) * pitch + diameter + _sides(recipe.fittings),
        bands=used_bands,
        pitch_mm=pitch,
        lying=True,
        any_way_up=True,
    )


def _stick_runs(runs: _Runs, recipe: PackRecipe) -> None:
    """A folded strip from cell to cell in every stick, one tie a node across the sticks, one strip at a fold."""
    series, parallel, cells = recipe.series_count, recipe.parallel_count, runs.layout.cells

    def folds(node: int) -> bool:
        before, after = cells[(node - 1) * parallel], cells[node * parallel]
        return before.x_mm == after.x_mm

    for node in range(series + 1):
        # The folded strips join one side of a node to the other, so that the tie of one side will do.
        if node:
            runs.tie(node - 1, parallel, True)
        if node == 0 or (node < series and folds(node)):
            runs.tie(node, parallel, False)
        if not 0 < node < series:
            continue
        before, after = (node - 1) * parallel, node * parallel
        if folds(node):
            runs.add(node, RunKind.LINK, [(before + parallel - 1, True), (after, False)], runs.layout.pitch_mm)
            continue
        for row in range(parallel):
            runs.add(node, RunKind.LINK, [(before + row, True), (after + row, False)], HINGE_MM)


def _own(recipe: PackRecipe, cell: CellShape) -> Outline:
    """Cells where the user put them, on a grid of half a pitch."""
    diameter, pitch = cell.diameter_mm, pitch_mm(recipe, cell)
    cells, unplaced = own_cells(recipe, _square(recipe, cell), pitch, diameter)
    xs, ys = [c.x_mm for c in cells], [c.y_mm for c in cells]
    return Outline(
        cells=lambda: cells,
        body_mm=(diameter, diameter),
        length_mm=max(xs) - min(xs) + diameter + _sides(recipe.fittings),
        width_mm=max(ys) - min(ys) + diameter + _sides(recipe.fittings),
        height_mm=cell.length_mm + _faces(recipe),
        bands=1,
        pitch_mm=pitch,
        unplaced=unplaced,
    )


def _square(recipe: PackRecipe, cell: CellShape) -> PackLayout:
    """Square rows in one layer, from which an own placement starts."""
    square = {"arrangement": Arrangement.SQUARE, "tiers": 1, "bands": None, "own_places": ()}
    return arrange(recipe.changed(**square), cell)


def _stack(recipe: PackRecipe, cell: CellShape) -> Outline:
    """Pouches face to face, tabs at one end. A bar joins each group's tabs with the next one's, alternately left and
    right, and carries the whole current."""
    series, parallel = recipe.series_count, recipe.parallel_count
    thickness, width = cell.thickness_mm, cell.width_mm
    pitch = pitch_mm(recipe, cell)

    def place(number: int) -> CellPlace:
        group = number // parallel
        return CellPlace(thickness / 2 + number * pitch, width / 2, group, group % 2 == 1)

    sides = _sides(recipe.fittings) + 2 * recipe.fittings.end_sheet_mm
    return Outline(
        cells=lambda: tuple(place(number) for number in range(series * parallel)),
        body_mm=(thickness, width),
        length_mm=(series * parallel - 1) * pitch + thickness + sides,
        width_mm=width + sides,
        height_mm=cell.length_mm + TAB_MM + _faces(recipe, 1),
        bands=1,
        pitch_mm=pitch,
        any_way_up=True,
    )


def _stack_runs(runs: _Runs, recipe: PackRecipe) -> None:
    """A bar over the tabs of every node."""
    series, parallel = recipe.series_count, recipe.parallel_count
    for node in range(series + 1):
        if node:
            runs.tie(node - 1, parallel, True)
        if node < series:
            runs.tie(node, parallel, False)
        if 0 < node < series:
            runs.add(node, RunKind.LINK, [(node * parallel - 1, True), (node * parallel, False)])


def _side_by_side(packs: int, cell: CellShape, columns: int) -> Outline:
    """Packs bought whole, lying flat: ``columns`` beside each other, the rest on top."""
    width, thickness = cell.width_mm, cell.thickness_mm
    layers = math.ceil(packs / columns)

    def place(n: int) -> CellPlace:
        return CellPlace((n % columns + 0.5) * width, (n // columns + 0.5) * thickness, n, positive_up=True)

    return Outline(
        cells=lambda: tuple(place(n) for n in range(packs)),
        body_mm=(width, thickness),
        length_mm=columns * width,
        width_mm=layers * thickness,
        height_mm=cell.length_mm,
        bands=layers,
        pitch_mm=width,
        any_way_up=True,
    )
