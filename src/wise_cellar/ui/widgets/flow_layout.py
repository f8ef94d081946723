"""A layout that sets its items like words in a line and wraps them."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Items from left to right, wrapped at the width, centred on each line's height."""

    def __init__(self, parent: QWidget, *, gap: int, line_gap: int) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gap, self._line_gap = gap, line_gap
        self._heights: dict[int, int] = {}
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        """Add an item at the end."""
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        """How many items."""
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        """Item at a place."""
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        """Remove and return the item at a place."""
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        """It takes no more room than it needs."""
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        """Narrower is taller."""
        return True

    def heightForWidth(self, width: int) -> int:
        """Height that the lines need at a width."""
        if width not in self._heights:
            self._heights[width] = self._lay(QRect(0, 0, width, 0), move=False)
        return self._heights[width]

    def invalidate(self) -> None:
        """Forget what was found for items that may be others now."""
        self._heights.clear()
        super().invalidate()

    def setGeometry(self, rect: QRect) -> None:
        """Place the items."""
        super().setGeometry(rect)
        self._lay(rect, move=True)

    def sizeHint(self) -> QSize:
        """As small as it goes."""
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        """The widest item."""
        size = QSize(0, 0)
        for item in self._items:
            if not item.isEmpty():
                size = size.expandedTo(item.minimumSize())
        return size

    def _lay(self, rect: QRect, *, move: bool) -> int:
        x, y, line_height = rect.x(), rect.y(), 0
        for item in self._items:
            if item.isEmpty():
                continue
            hint = item.sizeHint()
            if x + hint.width() > rect.right() + 1 and x > rect.x():
                x, y, line_height = rect.x(), y + line_height + self._line_gap, 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), hint))
            x += hint.width() + self._gap
            line_height = max(line_height, hint.height())
        return y + line_height - rect.y()
