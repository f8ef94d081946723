"""Both faces of the pack, true to scale: cells with polarity, strips, leads and balance taps."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
from PyQt6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from wise_cellar.core.pack import CellPlace, Face, Link, PackBuild
from wise_cellar.ui.session import Session
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.marks import ROLE, State

MOST_SCALE = 4.2  # pixels a millimetre
MARGIN, TITLE, GAP = 26.0, 22.0, 34.0


@dataclass(frozen=True)
class FaceView:
    """One face placed on the screen: origin in pixels, pixels a millimetre, and whether x runs backwards."""

    face: Face
    origin: QPointF
    scale: float
    length_mm: float

    def at(self, point_mm: tuple[float, float]) -> QPointF:
        """Screen point of a point of the pack; the underside is seen as when the pack is turned over."""
        x, y = point_mm
        if self.face is Face.UNDERSIDE:
            x = self.length_mm - x
        return QPointF(self.origin.x() + x * self.scale, self.origin.y() + y * self.scale)


def place_faces(build: PackBuild, width: float, height: float) -> tuple[FaceView, ...]:
    """Both faces as large as they go, side by side or one above the other; one where all lies at one end."""
    layout = build.layout
    # Cells are placed from the outside of the first; the wrap around them is not drawn.
    length = max(c.x_mm for c in layout.cells) + layout.body_mm[0] / 2
    depth = max(c.y_mm for c in layout.cells) + layout.body_mm[1] / 2
    if layout.any_way_up:
        scale = min((width - 2 * MARGIN) / length, (height - 2 * MARGIN - TITLE) / depth, MOST_SCALE)
        top = TITLE + max((height - TITLE - depth * scale) / 2, MARGIN)
        return (FaceView(Face.TOP, QPointF((width - length * scale) / 2, top), scale, length),)
    beside = min((width - 2 * MARGIN - GAP) / (2 * length), (height - 2 * MARGIN - TITLE) / depth)
    above = min((width - 2 * MARGIN) / length, (height - 2 * MARGIN - GAP - 2 * TITLE) / (2 * depth))
    scale = min(max(beside, above, 0.1), MOST_SCALE)
    wide, tall = length * scale, depth * scale
    if beside >= above:
        left = (width - 2 * wide - GAP) / 2
        top = TITLE + max((height - TITLE - tall) / 2, MARGIN)
        first, second = QPointF(left, top), QPointF(left + wide + GAP, top)
    else:
        left = (width - wide) / 2
        spare = max((height - 2 * tall - GAP - 2 * TITLE) / 2, 0.0)
        first = QPointF(left, spare + TITLE)
        second = QPointF(left, spare + TITLE + tall + GAP + TITLE)
    return FaceView(Face.TOP, first, scale, length), FaceView(Face.UNDERSIDE, second, scale, length)


class PackDrawing(QWidget):
    """The picture of the Pack station."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(280, 130)
        self.setAccessibleName("Both faces of the pack, to scale")

    def refresh(self) -> None:
        """Draw the present pack."""
        layout = self._session.answer.build.layout
        self.setAccessibleDescription(
            f"{len(layout.cells)} cells in {layout.bands} bands, {layout.length_mm:.0f} by {layout.width_mm:.0f} by"
            f" {layout.height_mm:.0f} millimetres"
        )
        self.update()

    def views(self) -> tuple[FaceView, ...]:
        """Where the faces lie now."""
        return place_faces(self._session.answer.build, self.width(), self.height() - 26)

    def event(self, event: QEvent | None) -> bool:
        """Tell what lies under the pointer."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            QToolTip.showText(event.globalPos(), self.text_at(QPointF(event.pos())), self)
            return True
        return super().event(event)

    def text_at(self, point: QPointF) -> str:
        """Words for the cell at a screen point, or nothing."""
        build = self._session.answer.build
        for view in self.views():
            for cell in build.layout.cells:
                if build.cell.whole_pack and _body(build, view, cell).contains(point):
                    return f"{build.cell.name}, pack {cell.group + 1} of {len(build.layout.cells)}"
                if _body(build, view, cell).contains(point):
                    up = cell.positive_up == (view.face is Face.TOP)
                    return (
                        f"Group {cell.group + 1} of {build.recipe.series_count}, {'positive' if up else 'negative'} end"
                    )
        return ""

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Both faces and a scale."""
        colours, answer = colours_of(self), self._session.answer
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        views, cell = self.views(), answer.build.cell
        words = ("Top", "Underside, as seen when turned over")
        if answer.build.layout.any_way_up:
            words = ("The end with the leads" if cell.whole_pack else "The end with the tabs", "")
        strip_state = _strip_state(answer.links)
        for view, title in zip(views, words, strict=False):
            self._face(painter, colours, answer.build, view, title, strip_state)
        self._scale_bar(painter, colours, views[0].scale)

    def _face(self, painter: QPainter, colours: Colours, build: PackBuild, view: FaceView, words: str,
              strip_state: State) -> None:  # fmt: skip
        painter.setFont(font(13, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QPointF(view.origin.x(), view.origin.y() - 12), words)
        if build.layout.any_way_up:
            self._flat_bodies(painter, colours, build, view)
            if build.cell.whole_pack:
                return
        else:
            self._round_bodies(painter, colours, build, view)
        self._strips(painter, colours, build, view, strip_state)
        self._ends(painter, colours, build, view)
        self._taps(painter, colours, build, view)

    @staticmethod
    def _flat_bodies(painter: QPainter, colours: Colours, build: PackBuild, view: FaceView) -> None:
        """Pouches or whole packs, the latter with what they are."""
        cell = build.cell
        for place in build.layout.cells:
            body = _body(build, view, place)
            painter.setPen(QPen(colours.colour("faint"), 1.2))
            painter.setBrush(colours.colour("ground"))
            painter.drawRoundedRect(body, 3, 3)
            if cell.whole_pack:
                painter.setPen(colours.colour("ink"))
                painter.setFont(font(11.5))
                words = f"{cell.name}\n{cell.cells_in_series} cells in series"
                painter.drawText(body, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), words)

    @staticmethod
    def _round_bodies(painter: QPainter, colours: Colours, build: PackBuild, view: FaceView) -> None:
        radius = build.layout.body_mm[0] / 2 * view.scale
        for cell in build.layout.cells:
            centre = view.at((cell.x_mm, cell.y_mm))
            painter.setPen(QPen(colours.colour("faint"), 1.2))
            painter.setBrush(colours.colour("ground"))
            painter.drawEllipse(centre, radius, radius)
            if cell.positive_up == (view.face is Face.TOP):
                painter.drawEllipse(centre, radius * 0.4, radius * 0.4)
            else:
                painter.drawLine(centre - QPointF(radius * 0.3, 0), centre + QPointF(radius * 0.3, 0))

    def _strips(self, painter: QPainter, colours: Colours, build: PackBuild, view: FaceView, state: State) -> None:
        width = build.recipe.strip.width_mm * view.scale
        carrying, tying = colours.colour(ROLE[state]), colours.colour(ROLE[state])
        carrying.setAlpha(190)
        tying.setAlpha(110)
        for run in build.layout.strips:
            if run.face is view.face:
                pen = QPen(carrying if run.between_groups else tying, width)
                pen.setCapStyle(Qt.PenCapStyle.SquareCap)
                painter.setPen(pen)
                painter.drawLine(view.at(run.start_mm), view.at(run.end_mm))

    def _taps(self, painter: QPainter, colours: Colours, build: PackBuild, view: FaceView) -> None:
        painter.setBrush(colours.colour("sheet"))
        for node in range(build.recipe.series_count + 1):
            spots = [c for c in build.layout.cells if c.group in (node - 1, node)]
            if build.layout.any_way_up:
                depth = build.layout.body_mm[1]
                y = depth * (0.25 if node % 2 == 0 else 0.75)
                self._tap(painter, colours, view, node, sum(c.x_mm for c in spots) / len(spots), y)
            elif (Face.TOP if node % 2 == 0 else Face.UNDERSIDE) is view.face:
                x, y = sum(c.x_mm for c in spots) / len(spots), sum(c.y_mm for c in spots) / len(spots)
                self._tap(painter, colours, view, node, x, y)

    @staticmethod
    def _tap(painter: QPainter, colours: Colours, view: FaceView, node: int, x: float, y: float) -> None:
        """The balance tap of a node, numbered from the negative end."""
        spot = view.at((x, y))
        painter.setPen(QPen(colours.colour("ink"), 1.2))
        painter.drawEllipse(spot, 9.5, 9.5)
        painter.setFont(font(11.5, strong=True))
        painter.drawText(QRectF(spot.x() - 10, spot.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(node))

    @staticmethod
    def _ends(painter: QPainter, colours: Colours, build: PackBuild, view: FaceView) -> None:
        """Leads, from the end groups to the nearer side of the pack."""
        layout = build.layout
        reach = build.layout.body_mm[0] / 2 + 5
        for point, face, sign in (
            (layout.negative_lead_mm, layout.negative_face, "−"),
            (layout.positive_lead_mm, layout.positive_face, "+"),
        ):
            if face is not view.face:
                continue
            outwards = -1 if point[0] < view.length_mm / 2 else 1
            tip = (point[0] + outwards * reach, point[1])
            start, end = view.at(point), view.at(tip)
            painter.setPen(QPen(colours.colour("ink"), max(view.scale * 2.0, 3.0), cap=Qt.PenCapStyle.RoundCap))
            painter.drawLine(start, end)
            painter.setFont(font(15, strong=True))
            painter.drawText(QRectF(end.x() - 10, end.y() - 25, 20, 20), Qt.AlignmentFlag.AlignCenter, sign)

    def _scale_bar(self, painter: QPainter, colours: Colours, scale: float) -> None:
        length = next(mm for mm in (10, 20, 50, 100, 200) if mm * scale > 40 or mm == 200)
        y = self.height() - 10.0
        painter.setPen(QPen(colours.colour("faint"), 1.4))
        painter.drawLine(QPointF(MARGIN, y), QPointF(MARGIN + length * scale, y))
        for x in (MARGIN, MARGIN + length * scale):
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setFont(font(11.5))
        painter.drawText(QPointF(MARGIN + length * scale + 8, y + 4), f"{length} mm")


def _body(build: PackBuild, view: FaceView, cell: CellPlace) -> QRectF:
    """Where a cell, or a pack bought whole, is drawn."""
    wide, deep = build.layout.body_mm
    corner = view.at((cell.x_mm - wide / 2, cell.y_mm - deep / 2))
    other = view.at((cell.x_mm + wide / 2, cell.y_mm + deep / 2))
    return QRectF(corner, other).normalized()


def _strip_state(links: tuple[Link, ...]) -> State:
    share = max((link.worst_share for link in links if link.name.startswith("Strip")), default=0.0)
    return State.OVER if share > 1 else State.CAUTION if share > 0.85 else State.FINE
