"""The pack as it is being built: both faces, each cell with its number; done, coming next, and bare."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.build.steps import Scene
from wise_cellar.core.documents import MOST_SERIES
from wise_cellar.core.pack import Face, PackBuild
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.faces import FaceView, lead_line, place_faces, tap_spots
from wise_cellar.ui.widgets.hatching import hatch
from wise_cellar.ui.widgets.picture import Picture

KEY_PX, COVERED_PX, SWATCH = 20, 12, 22.0
RING, BUTTON = 0.72, 0.38
"""Radius of what is bare at a negative end, and inside the ring of a positive one, in radii of the cell."""
LEAST_NUMBER_PX = 15.0


class StepsPicture(Picture):
    """Both faces at one step."""

    def __init__(self) -> None:
        super().__init__("The pack at this step")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(280, 130)
        self.scene = Scene()
        self._build: PackBuild | None = None
        self._numbers: tuple[tuple[int, ...], ...] = ()

    def sizeHint(self) -> QSize:
        """Room for two faces side by side."""
        return QSize(560, 250)

    def show_step(self, build: PackBuild, numbers: Sequence[Sequence[int]], scene: Scene) -> None:
        """Show a pack with the numbers of its cells, by groups, at a step."""
        self._build, self._numbers, self.scene = build, tuple(tuple(group) for group in numbers), scene
        bare = ", ".join(f"{face.value} of layer {tier + 1}" for tier, face in sorted(scene.open)) or "nothing"
        joined, joining = sorted(scene.joined), sorted(scene.joining)
        told = [f"Joined: {_nodes(joined)}", f"comes next: {_nodes(joining)}", f"bare: {bare}"]
        groups = [
            f"Group {place}: cells {', '.join(str(number) for number in group)}"
            for place, group in enumerate(self._numbers, 1)
        ]
        self.tell(f"{'; '.join(told)}.", [*told, *groups])
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Faces and the key."""
        build = self._build
        if build is None:
            return
        colours, painter = colours_of(self), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for view in place_faces(build, self.width(), self.height() - KEY_PX - COVERED_PX):
            self._face(painter, colours, view, build)
        self._key(painter, colours)

    def _face(self, painter: QPainter, colours: Colours, view: FaceView, build: PackBuild) -> None:
        scene, layout = self.scene, build.layout
        bare = (view.tier, view.face) in scene.open
        painter.setFont(font(13, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QPointF(view.origin.x(), view.origin.y() - 9), view.title)
        if not bare and scene.placed and not build.cell.whole_pack:
            bottom = max(view.body(layout, cell).bottom() for cell in layout.cells if cell.tier == view.tier)
            painter.setFont(font(11.5))
            painter.setPen(colours.colour("faint"))
            painter.drawText(QPointF(view.origin.x(), bottom + 15), "covered")
        self._cells(painter, colours, view, build, bare=bare)
        if build.cell.whole_pack:
            return
        width = max(build.recipe.strip.width_mm * view.scale * 0.7, 2.5)
        for run in layout.strips:
            if not view.shows(layout, run) or run.node not in scene.joined | scene.joining:
                continue
            next_one = run.node in scene.joining
            colour = colours.shade("verdigris" if next_one else "faint", 0.95 if next_one else 0.55)
            start, end = view.at(run.start_mm), view.at(run.end_mm)
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap))
            painter.drawPoint(start) if start == end else painter.drawLine(start, end)
        self._numbered(painter, colours, view, build)
        self._wires(painter, colours, view, build)

    def _cells(self, painter: QPainter, colours: Colours, view: FaceView, build: PackBuild, *, bare: bool) -> None:
        """Bodies with polarity; what is bare of an end is hatched."""
        layout, scene = build.layout, self.scene
        outline = QPen(colours.colour("faint"), 1.2, Qt.PenStyle.SolidLine if scene.placed else Qt.PenStyle.DotLine)
        for cell in layout.cells:
            if cell.tier != view.tier:
                continue
            body = view.body(layout, cell)
            painter.setPen(outline)
            painter.setBrush(colours.colour("ground"))
            square = layout.any_way_up or layout.lying
            painter.drawRoundedRect(body, 3, 3) if square else painter.drawEllipse(body)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if square:
                if bare:
                    path = QPainterPath()
                    path.addRect(body.adjusted(2, 2, -2, -2))
                    hatch(painter, path, colours.colour("brick"))
                continue
            positive = cell.positive_up == (view.face is Face.TOP)
            radius = body.width() / 2
            if bare:
                share = BUTTON if positive and scene.ringed else RING
                path = QPainterPath()
                path.addEllipse(body.center(), radius * share, radius * share)
                hatch(painter, path, colours.colour("brick"))
            if positive and scene.ringed:
                painter.setPen(QPen(colours.colour("faint"), max(radius * 0.16, 1.5)))
                painter.drawEllipse(body.center(), radius * 0.55, radius * 0.55)

    def _numbered(self, painter: QPainter, colours: Colours, view: FaceView, build: PackBuild) -> None:
        """Number and polarity of every cell, over what lies on it."""
        layout = build.layout
        left = [list(group) for group in self._numbers]
        for cell in layout.cells:
            number = left[cell.group].pop(0) if cell.group < len(left) and left[cell.group] else 0
            if cell.tier != view.tier:
                continue
            body = view.body(layout, cell)
            up = cell.positive_up == (view.face is Face.TOP) or layout.lying or layout.any_way_up
            words = f"{number or ''} {'+' if up else '−'}".strip()
            small = min(body.width(), body.height()) < 2 * LEAST_NUMBER_PX
            painter.setFont(font(9 if small else 11.5, strong=True))
            wide = painter.fontMetrics().horizontalAdvance(words) + 6
            high = painter.fontMetrics().height()
            box = QRectF(body.center().x() - wide / 2, body.center().y() - high / 2, wide, high)
            plate = colours.shade("sheet", 0.85)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(plate)
            painter.drawRoundedRect(box, 3, 3)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(colours.colour("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _wires(self, painter: QPainter, colours: Colours, view: FaceView, build: PackBuild) -> None:
        """Leads and balance taps that are on, or come on now."""
        scene, layout = self.scene, build.layout
        for place, terminal in enumerate((layout.negative, layout.positive)):
            if terminal is None or layout.face_of(terminal) != (view.tier, view.face):
                continue
            if not scene.leads[place] and scene.lead != place:
                continue
            start, tip = lead_line(layout, view, terminal)
            colour = colours.colour("verdigris" if scene.lead == place else "ink")
            painter.setPen(QPen(colour, max(view.scale * 2.0, 3.0), cap=Qt.PenCapStyle.RoundCap))
            painter.drawLine(start, tip)
        if scene.taps or scene.tapping:
            for node, spot in tap_spots(layout, view).items():
                self._tap(
                    painter, view.at(spot), node, colours.colour("verdigris" if scene.tapping else "ink"), colours
                )

    @staticmethod
    def _tap(painter: QPainter, spot: QPointF, node: int, colour: QColor, colours: Colours) -> None:
        painter.setBrush(colours.colour("sheet"))
        painter.setPen(QPen(colour, 1.8))
        painter.drawEllipse(spot, 9.0, 9.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(11.5, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QRectF(spot.x() - 10, spot.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(node + 1))

    def _key(self, painter: QPainter, colours: Colours) -> None:
        """What solid, bright and hatched mean."""
        painter.setFont(font(11.5))
        x, y = 10.0, self.height() - KEY_PX / 2
        for words, role in (("done", "faint"), ("comes next", "verdigris"), ("bare", "brick")):
            box = QRectF(x, y - 5, SWATCH, 10)
            if role == "brick":
                path = QPainterPath()
                path.addRect(box)
                hatch(painter, path, colours.colour(role))
            else:
                colour = colours.shade(role, 0.95 if role == "verdigris" else 0.55)
                painter.fillRect(box, colour)
            painter.setPen(colours.colour("faint"))
            painter.drawText(QPointF(x + SWATCH + 6, y + 4), words)
            x += SWATCH + 6 + painter.fontMetrics().horizontalAdvance(words) + 22


def _nodes(nodes: Sequence[int]) -> str:
    return ", ".join(f"joint {node}" for node in nodes[: MOST_SERIES + 1]) or "nothing"
