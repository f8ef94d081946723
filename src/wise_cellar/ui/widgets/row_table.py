"""A table of rows of words, of which one is chosen; it is told again and again what to say."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QWidget

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.lines import Line
from wise_cellar.ui.widgets.plain_table import PlainTable

ROW_PX = 24
ROLES = {"faint": "faint", "error": "brick", "caution": "ochre"}
"""Colours of the roles of a line."""
LEFT = int((Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter).value)


class _RowModel(QAbstractTableModel):
    """A line a cell of the table, and a tip a row."""

    def __init__(self, owner: QWidget, heads: Sequence[str]) -> None:
        super().__init__(owner)
        self._owner = owner
        self.heads = tuple(heads)
        self.rows: tuple[tuple[Line, ...], ...] = ()
        self.tips: tuple[str, ...] = ()

    def show_rows(self, rows: Sequence[Sequence[Line]], tips: Sequence[str]) -> None:
        """Say these rows; as many as before keep their place."""
        same = len(rows) == len(self.rows)
        if not same:
            self.beginResetModel()
        self.rows, self.tips = tuple(tuple(row) for row in rows), tuple(tips)
        if not same:
            self.endResetModel()
        elif rows:
            self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(self.heads) - 1))

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """All of them."""
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a head."""
        return 0 if parent.isValid() else len(self.heads)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads, on the left."""
        if orientation is Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                return self.heads[section]
            if role == Qt.ItemDataRole.TextAlignmentRole:
                return LEFT
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Words and their looks."""
        line = self.rows[index.row()][index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return line.text
        if role == Qt.ItemDataRole.ToolTipRole:
            return (self.tips[index.row()] if index.row() < len(self.tips) else "") or None
        if role == Qt.ItemDataRole.FontRole:
            return font(line.size, strong=line.strong)
        if role == Qt.ItemDataRole.ForegroundRole and line.role:
            return colours_of(self._owner).colour(ROLES[line.role])
        return None


class RowTable(PlainTable):
    """``chosen`` follows the current row, ``taken`` is Enter or a double click. ``shares`` are of its width."""

    chosen = pyqtSignal(int)
    taken = pyqtSignal()

    def __init__(self, name: str, heads: Sequence[str], shares: Sequence[float]) -> None:
        super().__init__(name, ROW_PX)
        self._shares = tuple(shares)
        self._model = _RowModel(self, heads)
        self.setModel(self._model)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        selection = self.selectionModel()
        assert selection is not None, "a view with a model has one"
        selection.currentRowChanged.connect(lambda now, _before: self.chosen.emit(now.row()))

    @property
    def rows(self) -> tuple[tuple[Line, ...], ...]:
        """What is said."""
        return self._model.rows

    @property
    def place(self) -> int:
        """Of the current row; −1 where there is none."""
        return self.currentIndex().row()

    def show_rows(self, rows: Sequence[Sequence[Line]], tips: Sequence[str] = ()) -> None:
        """Say these rows and nothing else."""
        self._model.show_rows(rows, tips)

    def choose(self, place: int) -> None:
        """Choose a row."""
        place = min(max(place, 0), len(self.rows) - 1)
        if place != self.place:
            self.setCurrentIndex(self._model.index(place, 0))

    def showEvent(self, event: QShowEvent | None) -> None:
        """What was chosen before anybody saw it is scrolled to."""
        super().showEvent(event)
        self.scrollTo(self.currentIndex())

    def take_current(self) -> None:
        """Go on with the current row."""
        self.taken.emit()

    def as_text(self) -> str:
        """Every row, tab-separated."""
        return "\n".join(
            "\t".join(row) for row in [self._model.heads, *([one.text for one in row] for row in self.rows)]
        )

    def make_room(self) -> None:
        """By fixed shares."""
        port = self.viewport()
        width = port.width() if port is not None else self.width()
        for column, share in enumerate(self._shares):
            self.setColumnWidth(column, int(share * width))
