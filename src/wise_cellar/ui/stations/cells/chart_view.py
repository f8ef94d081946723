"""The picture of a printed chart with its marks: click to place, drag to correct, zoom with the wheel."""

from __future__ import annotations

from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QFrame, QGraphicsScene, QGraphicsView

from wise_cellar.core.documents import TracedChart
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.focus import draw_focus
from wise_cellar.ui.widgets.picture import Picture

NEAR_PX = 9.0
MOST_ZOOM, LEAST_ZOOM = 12.0, 0.05
AXIS_KEYS = (("x_axis", "first_px"), ("x_axis", "second_px"), ("y_axis", "first_px"), ("y_axis", "second_px"))
AXIS_WORDS = ("x first", "x second", "y first", "y second")

NAME = "The chart"


class ChartView(QGraphicsView):
    """``placed`` when an empty spot was chosen; ``moved`` while a mark is dragged (which, where to), then ``dropped``.

    Marks are numbered: 0 to 3 are the axis marks, from 4 on the points of the present curve. The arrow keys move a
    pointer by a pixel, with Shift by ten; Enter places; Delete removes the nearest point.
    """

    placed = pyqtSignal(QPointF)
    moved = pyqtSignal(int, QPointF)
    dropped = pyqtSignal()
    removed = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setViewport(Picture(NAME))
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        self.setAccessibleName(f"{NAME}; arrows move the pointer, Enter places a mark, Delete removes one")
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.AnchorUnderMouse)
        self.setMinimumSize(280, 240)
        self._scene = QGraphicsScene(self)
        self.setScene(self._scene)
        self._chart: TracedChart | None = None
        self._curve = 0
        self._dragged: int | None = None
        self._fitted = True
        self.pointer: QPointF | None = None

    def show_picture(self, picture: QPixmap) -> None:
        """Lay a picture down, as large as it goes."""
        self._scene.clear()
        self._scene.addPixmap(picture)
        self._scene.setSceneRect(QRectF(picture.rect()))
        self._fitted = True
        self._fit()

    def show_chart(self, chart: TracedChart, curve: int) -> None:
        """Show the marks of a chart, those of one curve standing out."""
        self._chart, self._curve = chart, curve
        self._update()

    def _update(self) -> None:
        viewport = self.viewport()
        if isinstance(viewport, Picture):
            axes = sum(mark is not None for mark in self.marks()[:4])
            points = max(len(self.marks()) - 4, 0)
            viewport.tell(f"{axes} of 4 marks on the axes, {points} points on the curve.")
            at = self.pointer
            viewport.read(f"Pointer at {round(at.x())} across, {round(at.y())} down." if at is not None else "")
            self.setAccessibleDescription(viewport.accessibleDescription())
            viewport.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The chart, and a hairline around it while it has the focus."""
        super().paintEvent(event)
        viewport = self.viewport()
        if viewport is not None and self.hasFocus():
            draw_focus(viewport)

    def marks(self) -> list[QPointF | None]:
        """Axis marks, none where one is missing, then the points of the present curve."""
        if self._chart is None:
            return []
        found: list[QPointF | None] = []
        for axis, name in AXIS_KEYS:
            at = getattr(getattr(self._chart, axis), name)
            found.append(None if at is None else QPointF(*at))
        if self._curve < len(self._chart.curves):
            found += [QPointF(*point) for point in self._chart.curves[self._curve].points]
        return found

    def nearest(self, at: QPointF) -> int | None:
        """The mark within reach of a point of the picture."""
        reach = NEAR_PX / max(self.transform().m11(), 1e-6)
        best = None
        for place, mark in enumerate(self.marks()):
            if mark is not None:
                away = ((mark.x() - at.x()) ** 2 + (mark.y() - at.y()) ** 2) ** 0.5
                if away <= reach:
                    best, reach = place, away
        return best

    # Pointer and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Begin to drag a mark, or place one."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        at = self.mapToScene(event.position().toPoint())
        self._dragged = self.nearest(at)
        if self._dragged is None and self._scene.sceneRect().contains(at):
            self.placed.emit(at)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag."""
        if event is not None and self._dragged is not None:
            self.moved.emit(self._dragged, self.mapToScene(event.position().toPoint()))

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        """Let go."""
        self._dragged = None
        self.dropped.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Zoom."""
        if event is not None:
            self.zoom(1.2 if event.angleDelta().y() > 0 else 1 / 1.2)

    def zoom(self, by: float) -> None:
        """Larger or smaller."""
        if LEAST_ZOOM < self.transform().m11() * by < MOST_ZOOM:
            self._fitted = False
            self.scale(by, by)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows, Enter, Delete, plus, minus, zero."""
        if event is None:
            return
        rect = self._scene.sceneRect()
        at = self.pointer or rect.center()
        step = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        moves = {Qt.Key.Key_Left: (-step, 0.0), Qt.Key.Key_Right: (step, 0.0), Qt.Key.Key_Up: (0.0, -step),
                 Qt.Key.Key_Down: (0.0, step)}  # fmt: skip
        if event.key() in moves:
            dx, dy = moves[Qt.Key(event.key())]
            x, y = min(max(at.x() + dx, 0.0), rect.width()), min(max(at.y() + dy, 0.0), rect.height())
            self.pointer = QPointF(x, y)
            self.ensureVisible(QRectF(x - 4, y - 4, 8, 8))
            self._update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.pointer is not None:
            self.placed.emit(self.pointer)
        elif event.key() == Qt.Key.Key_Delete:
            near = self.nearest(at)
            if near is not None:
                self.removed.emit(near)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self.zoom(1.2 if event.key() == Qt.Key.Key_Plus else 1 / 1.2)
        elif event.key() == Qt.Key.Key_0:
            self._fitted = True
            self._fit()
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Keep the whole picture in sight until it was zoomed."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        if self._fitted and not self._scene.sceneRect().isEmpty():
            self.fitInView(self._scene.sceneRect(), Qt.AspectRatioMode.KeepAspectRatio)

    # Drawing

    def drawForeground(self, painter: QPainter | None, _rect: QRectF) -> None:
        """The marks, in pixels of the screen."""
        if painter is None or self._chart is None:
            return
        colours = colours_of(self)
        painter.save()
        painter.resetTransform()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, curve in enumerate(self._chart.curves):
            shown = [QPointF(self.mapFromScene(QPointF(*point))) for point in curve.points]
            colour = colours.colour("brick" if place == self._curve else "faint")
            painter.setPen(QPen(colour, 1.4))
            ordered = sorted(shown, key=lambda point: point.x())
            for before, after in pairwise(ordered):
                painter.drawLine(before, after)
            painter.setBrush(colours.colour("sheet"))
            for point in shown:
                painter.drawEllipse(point, 3.5, 3.5)
        self._draw_axes(painter, colours)
        if self.pointer is not None and self.hasFocus():
            at = QPointF(self.mapFromScene(self.pointer))
            painter.setPen(QPen(colours.colour("verdigris"), 1.2))
            painter.drawLine(at - QPointF(12, 0), at + QPointF(12, 0))
            painter.drawLine(at - QPointF(0, 12), at + QPointF(0, 12))
        painter.restore()

    def _draw_axes(self, painter: QPainter, colours: Colours) -> None:
        painter.setFont(font(11.5, strong=True))
        for words, mark in zip(AXIS_WORDS, self.marks()[:4], strict=True):
            if mark is None:
                continue
            at = QPointF(self.mapFromScene(mark))
            painter.setPen(QPen(colours.colour("verdigris"), 2.0))
            painter.drawLine(at - QPointF(6, 6), at + QPointF(6, 6))
            painter.drawLine(at - QPointF(6, -6), at + QPointF(6, -6))
            width = painter.fontMetrics().horizontalAdvance(words) + 8
            label = QRectF(at.x() + 8, at.y() - 20, width, 18)
            painter.fillRect(label, colours.colour("sheet"))
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)
