"""The phases of a flight as a strip over its time; an edge between two of them can be dragged, or moved by keys."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.logbook import Phase, PhaseKind
from wise_cellar.core.units import format_minutes
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.hatching import hatch
from wise_cellar.ui.widgets.picture import Picture

HEIGHT, GRAB_PX = 30, 5
LEAST_S, STEP_S, BIG_STEP_S = 1.0, 1.0, 10.0
SHADES = {
    PhaseKind.GROUND: 0, PhaseKind.REST: 0, PhaseKind.CLIMB: 2, PhaseKind.DESCENT: 2, PhaseKind.HOVER: 1,
    PhaseKind.CRUISE: 3, PhaseKind.FLIGHT: 3, PhaseKind.BURST: 4,
}  # fmt: skip
"""How dark each kind is; its name stands in it where it has room."""


class PhaseStrip(Picture):
    """``moved`` brings the place of the phase that begins elsewhere now, and where, s."""

    moved = pyqtSignal(int, float)

    def __init__(self) -> None:
        super().__init__("Phases of the flight")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setToolTip(
            "Drag an edge; or up and down choose one, left and right move it by a second, with Shift by ten"
        )
        self.phases: tuple[Phase, ...] = ()
        self.edge = -1
        """The phase whose beginning is chosen; −1: none."""
        self._dragged: float | None = None

    def sizeHint(self) -> QSize:
        """One line."""
        return QSize(200, HEIGHT)

    def show_phases(self, phases: Sequence[Phase]) -> None:
        """Show these; an edge stays chosen."""
        self.phases = tuple(phases)
        self._dragged = None
        if self.edge >= len(self.phases):
            self.edge = -1
        self.tell("; ".join(f"{one.kind} from {format_minutes(one.from_s)}" for one in self.phases))
        self._read_edge()
        self.update()

    def _read_edge(self) -> None:
        """Say which edge is chosen."""
        one = self.phases[self.edge] if self.edge > 0 else None
        self.read(f"{one.kind} begins at {format_minutes(one.from_s)}." if one is not None else "")

    @property
    def _span(self) -> tuple[float, float]:
        return self.phases[0].from_s, max(self.phases[-1].to_s, self.phases[0].from_s + LEAST_S)

    def x_of(self, second: float) -> float:
        """Where a second is, px."""
        first, last = self._span
        return (second - first) / (last - first) * (self.width() - 1)

    def _second_at(self, x: float) -> float:
        first, last = self._span
        return first + x / max(self.width() - 1, 1) * (last - first)

    def _begins(self, place: int) -> float:
        moved = self._dragged is not None and place == self.edge
        return self._dragged if moved and self._dragged is not None else self.phases[place].from_s

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """A box a phase, with its name where there is room."""
        painter, colours = QPainter(self), colours_of(self)
        painter.setFont(font(11.5))
        for place, phase in enumerate(self.phases):
            left = self.x_of(self._begins(place))
            right = self.x_of(self._begins(place + 1) if place + 1 < len(self.phases) else phase.to_s)
            box = QRectF(left, 2, max(right - left, 1.0), HEIGHT - 4)
            shade = colours.shade("verdigris", (28 + 30 * SHADES[phase.kind]) / 255)
            painter.fillRect(box, shade)
            if phase.kind is PhaseKind.BURST:
                path = QPainterPath()
                path.addRect(box)
                hatch(painter, path, colours.colour("ink"))
            painter.fillRect(QRectF(left, 2, 1, HEIGHT - 4), colours.colour("rule"))
            words = str(phase.kind)
            if painter.fontMetrics().horizontalAdvance(words) < box.width() - 6:
                painter.setPen(colours.colour("ink"))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if 0 < self.edge < len(self.phases):
            painter.fillRect(QRectF(self.x_of(self._begins(self.edge)) - 1.5, 0, 3, HEIGHT), colours.colour("ink"))
        if self.hasFocus():
            painter.setPen(QPen(colours.colour("verdigris"), 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _edge_at(self, x: float) -> int:
        near = [(abs(self.x_of(phase.from_s) - x), place) for place, phase in enumerate(self.phases) if place]
        return min((one for one in near if one[0] <= GRAB_PX), default=(0.0, -1))[1]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take an edge."""
        if event is not None and self.phases:
            self.edge = self._edge_at(event.position().x())
            self._dragged = self.phases[self.edge].from_s if self.edge > 0 else None
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Move it, between its neighbours; or tell what is under the pointer."""
        if event is None or not self.phases:
            return
        x = event.position().x()
        if self._dragged is not None:
            self._dragged = self._within(self._second_at(x))
            self.update()
            return
        over = self._edge_at(x) > 0
        self.setCursor(Qt.CursorShape.SplitHCursor if over else Qt.CursorShape.ArrowCursor)
        second = self._second_at(x)
        phase = next((one for one in self.phases if one.from_s <= second < one.to_s), None)
        if phase is not None:
            self.setToolTip(f"{phase.kind}, from {format_minutes(phase.from_s)}, {format_minutes(phase.seconds)}")

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        """It stays there."""
        moved, self._dragged = self._dragged, None
        if moved is not None and abs(moved - self.phases[self.edge].from_s) >= 0.5:
            self.moved.emit(self.edge, moved)
        self.update()

    def _within(self, second: float) -> float:
        before, mine = self.phases[self.edge - 1], self.phases[self.edge]
        return min(max(second, before.from_s + LEAST_S), mine.to_s - LEAST_S)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Choose an edge, and move it."""
        key = Qt.Key(event.key()) if event is not None else None
        turn = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(key) if key is not None else None
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key) if key is not None else None
        if turn is not None and len(self.phases) > 1:
            self.edge = min(max(self.edge + turn, 1), len(self.phases) - 1)
            self._read_edge()
            self.update()
        elif by is not None and event is not None and self.edge > 0:
            big = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.moved.emit(
                self.edge, self._within(self.phases[self.edge].from_s + by * (BIG_STEP_S if big else STEP_S))
            )
        else:
            super().keyPressEvent(event)
