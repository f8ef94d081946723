"""A box that opens a list to choose from."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QToolTip

from wise_cellar.ui.theme import colours_of

EDGES = 4
"""Pixels of the text's room that the style keeps free."""


class Chooser(QComboBox):
    """A combo box that leaves the wheel to the page until it has the focus."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def setAccessibleName(self, name: str | None) -> None:
        """What is chosen by it; told as its description too, since the toolkit gives out what is chosen as its name."""
        super().setAccessibleName(name)
        super().setAccessibleDescription(name)

    def setAccessibleDescription(self, words: str | None) -> None:
        """More about what is chosen by it."""
        super().setAccessibleDescription(". ".join(part for part in (self.accessibleName(), words) if part))

    def event(self, event: QEvent | None) -> bool:
        """What is cut in the box is whole in its tooltip."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.is_cut:
            QToolTip.showText(event.globalPos(), self.currentText(), self)
            return True
        return super().event(event)

    @property
    def is_cut(self) -> bool:
        """Whether what is chosen is longer than the box."""
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        style = self.style()
        assert style is not None, "every widget has a style"
        room = style.subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        ).width()
        return self.fontMetrics().horizontalAdvance(self.currentText()) > room - EDGES

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
