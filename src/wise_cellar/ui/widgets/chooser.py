"""A box that opens a list to choose from."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QComboBox

from wise_cellar.ui.theme import colours_of


class Chooser(QComboBox):
    """A combo box that leaves the wheel to the page until it has the focus."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Only with the focus."""
        if event is not None and not self.hasFocus():
            event.ignore()
            return
        super().wheelEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The box, with a mark that it opens."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colours_of(self).colour("faint"))
        x, y = self.width() - 13.0, self.height() / 2 - 2.0
        painter.drawPolygon(QPolygonF([QPointF(x - 4, y), QPointF(x + 4, y), QPointF(x, y + 5)]))
