"""A small frame that opens beside its owner and closes on Escape or a click elsewhere."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget


class Popover(QFrame):
    """Frame with a column; :meth:`open_below` places it under a widget, inside the window."""

    def __init__(self, owner: QWidget) -> None:
        super().__init__(owner, Qt.WindowType.Popup | Qt.WindowType.FramelessWindowHint)
        self.setObjectName("popover")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(12, 10, 12, 12)
        self.column.setSpacing(6)

    def open_below(self, owner: QWidget) -> None:
        """Show under ``owner``, moved left where the window would be left otherwise."""
        self.adjustSize()
        at = owner.mapToGlobal(QPoint(0, owner.height() + 4))
        window = owner.window()
        if window is not None:
            right = window.mapToGlobal(QPoint(window.width() - 8, 0)).x()
            at.setX(max(min(at.x(), right - self.width()), window.mapToGlobal(QPoint(8, 0)).x()))
        self.move(at)
        self.show()
