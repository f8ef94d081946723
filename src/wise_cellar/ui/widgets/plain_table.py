"""A table in the product's look: rows without a grid, Enter takes one, Ctrl+C copies all that is shown."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from wise_cellar.ui.theme import font


class PlainTable(QTableView):
    """Whole rows are chosen; columns get their widths from :meth:`make_room`, so that nothing scrolls sideways."""

    def __init__(self, name: str, row_height: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        head, side = self.horizontalHeader(), self.verticalHeader()
        if head is not None and side is not None:
            head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            head.setMinimumSectionSize(30)
            head.setFont(font(11.5))
            side.hide()
            side.setDefaultSectionSize(row_height)
        self.doubleClicked.connect(lambda _index: self.take_current())

    def take_current(self) -> None:
        """Take the current row, if there is one."""
        raise NotImplementedError

    def as_text(self) -> str:
        """What is shown, as tab-separated lines."""
        raise NotImplementedError

    def make_room(self) -> None:
        """Share the width out among the columns."""
        raise NotImplementedError

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter takes, Ctrl+C copies."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take_current()
        elif event.matches(QKeySequence.StandardKey.Copy):
            clipboard = QGuiApplication.clipboard()
            if clipboard is not None:
                clipboard.setText(self.as_text())
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Share the width anew."""
        self.make_room()
        super().resizeEvent(event)
