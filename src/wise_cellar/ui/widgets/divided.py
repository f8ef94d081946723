"""Two parts under each other with a line between that can be dragged, by hand or by key, and is remembered."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSplitter, QSplitterHandle, QWidget

from wise_cellar.ui.theme import colours_of

GRIP, STEP, SOME = 9, 24, 10


class _Line(QSplitterHandle):
    """The line; up and down move it while it has the focus."""

    def __init__(self, orientation: Qt.Orientation, splitter: QSplitter) -> None:
        super().__init__(orientation, splitter)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Line between the parts")
        self.setToolTip("Drag the line, or move it with up and down")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Move it."""
        step = {Qt.Key.Key_Up: -STEP, Qt.Key.Key_Down: STEP}.get(Qt.Key(event.key())) if event is not None else None
        if step is None:
            super().keyPressEvent(event)
            return
        self.moveSplitter(self.pos().y() + step)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """A hairline with a grip in its middle."""
        painter, colours = QPainter(self), colours_of(self)
        middle = self.height() / 2
        painter.fillRect(QRectF(0, middle, self.width(), 1), colours.colour("rule"))
        grip = colours.colour("verdigris" if self.hasFocus() or self.underMouse() else "faint")
        painter.fillRect(QRectF(self.width() / 2 - 16, middle - 1, 32, 3), grip)


class Divided(QSplitter):
    """``name`` is what its line is remembered by."""

    def __init__(self, name: str, above: QWidget, below: QWidget) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.name = name
        self.setHandleWidth(GRIP)
        self.setChildrenCollapsible(False)
        self.addWidget(above)
        self.addWidget(below)

    def share(self, above: int, below: int) -> None:
        """Part the room so at first, in per cent."""
        for place, part in enumerate((above, below)):
            self.setStretchFactor(place, part)
        self.setSizes([SOME * above, SOME * below])

    def createHandle(self) -> QSplitterHandle:
        """Our line."""
        return _Line(self.orientation(), self)
