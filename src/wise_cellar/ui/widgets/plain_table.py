"""A table in the product's look: rows without a grid, Enter takes one, Ctrl+C copies all that is shown."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView

from wise_cellar.ui.theme import colours_of, font

BAR_PX = 3
"""Of the bar beside a row that is chosen."""
INDENT = "\u2005"
"""Before the words of the first column, which the bar does not touch then."""
APART = "\u2003"
"""Before the words of a column that follows one of numbers."""


def sorted_head(head: str, *, downwards: bool) -> str:
    """The head of the column that a table is sorted by."""
    return head + ("\u00a0▾" if downwards else "\u00a0▴")


class Indented(QStyledItemDelegate):
    """Words of some columns begin a little further in.

    One for a whole table where its cells are typed into: the toolkit loses the editor of a column's own when the rows
    are told anew.
    """

    def __init__(self, table: QTableView, indents: Mapping[int, str]) -> None:
        super().__init__(table)
        self._indents = indents

    def initStyleOption(self, option: QStyleOptionViewItem | None, index: QModelIndex) -> None:
        """The words."""
        super().initStyleOption(option, index)
        if option is not None and index.column() in self._indents:
            option.text = self._indents[index.column()] + (option.text or "")


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
        self.setItemDelegateForColumn(0, Indented(self, {0: INDENT}))
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

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """A bar beside each row that is chosen: its ground alone differs little from the others'."""
        super().paintEvent(event)
        selection = self.selectionModel()
        if selection is None or not selection.hasSelection():
            return
        painter, colour = QPainter(self.viewport()), colours_of(self).colour("verdigris")
        for index in selection.selectedRows():
            row = self.visualRect(index)
            painter.fillRect(row.x(), row.y() + 1, BAR_PX, row.height() - 2, colour)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Share the width anew."""
        self.make_room()
        super().resizeEvent(event)
