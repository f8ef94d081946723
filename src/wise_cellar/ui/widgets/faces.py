"""Which faces of a pack are drawn, and where on the screen they lie."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF

from wise_cellar.core.pack import CellPlace, Face, PackBuild, PackLayout, StripRun, Terminal
from wise_cellar.core.pack.layout import node_of

MOST_SCALE = 7.0  # pixels a millimetre
MARGIN, TITLE, GAP = 26.0, 22.0, 34.0
LEAD_MM, LEAD_PX = 6.0, 18.0
"""How far a lead is drawn out of the pack, at the most: before the edge of the picture, and the next face."""


@dataclass(frozen=True)
class FaceView:
    """One face of one layer on the screen: origin in pixels, pixels a millimetre, and its extent along the screen.

    A pack that is wider than long is drawn ``turned`` by a quarter, its width along the screen.
    """

    face: Face
    tier: int
    title: str
    origin: QPointF
    scale: float
    along_mm: float
    turned: bool = False

    def at(self, point_mm: tuple[float, float]) -> QPointF:
        """Screen point of a point of the pack; the underside is seen as when the pack is turned over."""
        x, y = point_mm[::-1] if self.turned else point_mm
        if self.face is Face.UNDERSIDE:
            x = self.along_mm - x
        return QPointF(self.origin.x() + x * self.scale, self.origin.y() + y * self.scale)

    def back(self, point: QPointF) -> tuple[float, float]:
        """Point of the pack, mm, under a point of the screen."""
        x, y = (point.x() - self.origin.x()) / self.scale, (point.y() - self.origin.y()) / self.scale
        if self.face is Face.UNDERSIDE:
            x = self.along_mm - x
        return (y, x) if self.turned else (x, y)

    def body(self, layout: PackLayout, cell: CellPlace) -> QRectF:
        """Where a cell, or a pack bought whole, is drawn."""
        wide, deep = layout.body_mm
        corner = self.at((cell.x_mm - wide / 2, cell.y_mm - deep / 2))
        return QRectF(corner, self.at((cell.x_mm + wide / 2, cell.y_mm + deep / 2))).normalized()

    def shows(self, layout: PackLayout, run: StripRun) -> bool:
        """Whether a run of strip lies on this face; one between two layers shows on both that face each other."""
        return any(layout.face_of(end) == (self.tier, self.face) for end in (run.start, run.end))


def faces_of(build: PackBuild) -> list[tuple[int, Face, str]]:
    """Layer, face and title of everything worth drawing."""
    layout = build.layout
    if layout.lying:
        if layout.tiers == 1:
            return [(0, Face.TOP, "From above")]
        return [(1, Face.TOP, "Upper layer, from above"), (0, Face.TOP, "Lower layer, from above")]
    if layout.any_way_up:
        return [(0, Face.TOP, "The end with the leads" if build.cell.whole_pack else "The end with the tabs")]
    turned = "Underside, as seen when turned over"
    if layout.tiers == 1:
        return [(0, Face.TOP, "Top"), (0, Face.UNDERSIDE, turned)]
    return [
        (1, Face.TOP, "Upper layer, top"),
        (1, Face.UNDERSIDE, "Upper layer, turned over"),
        (0, Face.TOP, "Lower layer, top"),
        (0, Face.UNDERSIDE, "Lower layer, turned over"),
    ]


def place_faces(build: PackBuild, width: float, height: float) -> tuple[FaceView, ...]:
    """All faces to one scale, as large as they go, in as many columns as that takes."""
    layout, wanted = build.layout, faces_of(build)
    # Cells are placed from the outside of the first; the wrap around them is not drawn.
    length = max(c.x_mm for c in layout.cells) + layout.body_mm[0] / 2
    depth = max(c.y_mm for c in layout.cells) + layout.body_mm[1] / 2

    turned = depth > length and not layout.lying
    if turned:
        length, depth = depth, length

    def scale_for(columns: int) -> float:
        rows = math.ceil(len(wanted) / columns)
        across = (width - 2 * MARGIN - (columns - 1) * GAP) / (columns * length)
        down = (height - MARGIN - rows * TITLE - (rows - 1) * GAP) / (rows * depth)
        return min(across, down)

    columns = max(range(1, len(wanted) + 1), key=scale_for)
    scale = min(max(scale_for(columns), 0.1), MOST_SCALE)
    rows = math.ceil(len(wanted) / columns)
    wide, tall = length * scale, depth * scale
    left = (width - columns * wide - (columns - 1) * GAP) / 2
    top = max((height - rows * (tall + TITLE) - (rows - 1) * GAP) / 2, 0.0) + TITLE
    return tuple(
        FaceView(
            face, tier, title,
            QPointF(left + (place % columns) * (wide + GAP), top + (place // columns) * (tall + TITLE + GAP)),
            scale, length, turned,
        )
        for place, (tier, face, title) in enumerate(wanted)
    )  # fmt: skip


def lead_line(layout: PackLayout, view: FaceView, terminal: Terminal) -> tuple[QPointF, QPointF]:
    """Screen points of a lead: where it meets the strips, and its tip outside the nearer side of the pack."""
    long = max(cell.x_mm for cell in layout.cells) + layout.body_mm[0] / 2
    deep = max(cell.y_mm for cell in layout.cells) + layout.body_mm[1] / 2
    x, y = layout.point_of(terminal)
    out = min(LEAD_MM, LEAD_PX / view.scale)
    # To the nearest side, but rather across the screen than over the titles.
    over = layout.body_mm[1]
    sides = {
        (-out, y): x + over * view.turned, (long + out, y): long - x + over * view.turned,
        (x, -out): y + over * (not view.turned), (x, deep + out): deep - y + over * (not view.turned),
    }  # fmt: skip
    if layout.any_way_up:
        sides = {(-out, y): x, (long + out, y): long - x}
    return view.at((x, y)), view.at(min(sides, key=lambda side: sides[side]))


def tap_spots(layout: PackLayout, view: FaceView) -> dict[int, tuple[float, float]]:
    """Balance taps on a face, mm, by node from the negative end: amid the strips, or at the lead without any."""
    ends: dict[int, list[tuple[float, float]]] = {}
    for run in layout.strips:
        if (run.tier, run.face) == (view.tier, view.face):
            ends.setdefault(run.node, []).extend((run.start_mm, run.end_mm))
    for terminal in (layout.negative, layout.positive):
        if terminal is not None and layout.face_of(terminal) == (view.tier, view.face):
            node = node_of(layout.cells[terminal.cell], terminal.positive)
            ends.setdefault(node, [layout.point_of(terminal)])
    return {
        node: (sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points))
        for node, points in ends.items()
    }
