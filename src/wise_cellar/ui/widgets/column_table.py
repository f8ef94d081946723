"""A table of columns held as arrays: sorted and filtered without touching a row, however many there are."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF
from PyQt6.QtWidgets import QAbstractItemView, QWidget

from wise_cellar.core.physics.arrays import Bools, Ints
from wise_cellar.core.search import DesignColumn, as_csv, as_text
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.plain_table import PlainTable, sorted_head

ROW_HEIGHT, HEAD_MARGIN, LEAST_COLUMN = 24, 22.0, 52.0
MOST_MEASURED = 40


class ColumnModel(QAbstractTableModel):
    """Rows in an order of their own, in the colours of the moment of whoever shows them."""

    def __init__(self, owner: QWidget) -> None:
        super().__init__()
        self._owner = owner
        self.columns: tuple[DesignColumn, ...] = ()
        self.order: Ints = np.zeros(0, np.intp)
        self.faint: Bools = np.zeros(0, bool)
        self.strong = -1
        self.sorted_by, self.downwards = "", True

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """Those that are shown."""
        return 0 if parent.isValid() else len(self.order)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """Those that are shown."""
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text, alignment, colour, weight."""
        column, place = self.columns[index.column()], int(self.order[index.row()])
        if role == Qt.ItemDataRole.DisplayRole:
            return column.text(column.values[place])
        if role == Qt.ItemDataRole.TextAlignmentRole and not column.words:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ForegroundRole and self.faint[place]:
            return colours_of(self._owner).colour("faint")
        if role == Qt.ItemDataRole.FontRole:
            return font(13, strong=place == self.strong)
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads and their meaning."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        column = self.columns[section]
        if role == Qt.ItemDataRole.DisplayRole:
            sorted_by = column.key == self.sorted_by
            return sorted_head(column.head, downwards=self.downwards) if sorted_by else column.head
        if role == Qt.ItemDataRole.ToolTipRole:
            return column.meaning
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignLeft if column.words else Qt.AlignmentFlag.AlignRight
            return int((side | Qt.AlignmentFlag.AlignVCenter).value)
        return None


class ColumnTable(PlainTable):
    """``chosen`` follows the current row, ``taken`` is Enter or a double click; both bring the row's place. Ctrl+C
    copies what is shown."""

    chosen = pyqtSignal(int)
    taken = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        super().__init__(name, ROW_HEIGHT)
        self._model = ColumnModel(self)
        self.setModel(self._model)
        self._rows: Ints = np.zeros(0, np.intp)
        self._sorted: tuple[str, bool] = ("", False)
        self._quiet = False
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        head = self.horizontalHeader()
        if head is not None:
            head.setSectionsClickable(True)
            head.sectionClicked.connect(self._sort_by)
        selection = self.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(lambda *_: self._current())

    @property
    def places(self) -> Ints:
        """Places of the rows that are shown, in their order."""
        return self._model.order

    @property
    def shown_columns(self) -> tuple[DesignColumn, ...]:
        """Those that have room."""
        return tuple(c for n, c in enumerate(self._model.columns) if not self.isColumnHidden(n))

    def show_columns(
        self, columns: Sequence[DesignColumn], rows: Ints, *, faint: Bools | None = None, strong: int = -1,
        sort: tuple[str, bool] = ("", False),
    ) -> None:  # fmt: skip
        """Show some rows, by their places, of these columns. ``faint`` rows are greyed, ``strong`` stands out; ``sort``
        by a key, downwards or not, until the user chooses another."""
        kept = self.current_place()
        self._quiet = True
        self._model.beginResetModel()
        self._model.columns = tuple(columns)
        self._model.faint = np.zeros(int(rows.max(initial=-1)) + 1, bool) if faint is None else faint
        self._model.strong = strong
        self._rows = rows
        if self._sorted[0] not in {column.key for column in columns}:
            self._sorted = sort
        self._model.order = self._in_order()
        self._model.endResetModel()
        self.make_room()
        if kept is not None:
            self.go_to(kept)
        self._quiet = False

    def current_place(self) -> int | None:
        """Place of the current row."""
        index = self.currentIndex()
        valid = index.isValid() and index.row() < len(self._model.order)
        return int(self._model.order[index.row()]) if valid else None

    def go_to(self, place: int) -> None:
        """Make a row the current one and bring it into view, saying nothing."""
        at = np.flatnonzero(self._model.order == place)
        quiet, self._quiet = self._quiet, True
        if len(at):
            index = self._model.index(int(at[0]), 0)
            self.setCurrentIndex(index)
            self.scrollTo(index)
        else:
            self.clearSelection()
        self._quiet = quiet

    def as_text(self) -> str:
        """What is shown, as tab-separated lines."""
        return as_text(self.shown_columns, self.places)

    def as_csv(self) -> str:
        """All columns given, of the rows shown."""
        return as_csv(self._model.columns, self.places)

    def _in_order(self) -> Ints:
        key, down = self._sorted
        self._model.sorted_by, self._model.downwards = key, down
        column = next((c for c in self._model.columns if c.key == key), None)
        if column is None or not len(self._rows):
            return self._rows
        values = column.values[self._rows]
        if column.words:
            _, values = np.unique(values.astype(str), return_inverse=True)
        order = np.argsort(-values.astype(float) if down else values.astype(float), kind="stable")
        return np.asarray(self._rows[order])

    def _sort_by(self, section: int) -> None:
        key = self._model.columns[section].key
        words = self._model.columns[section].words
        self._sorted = (key, not self._sorted[1]) if key == self._sorted[0] else (key, not words)
        kept = self.current_place()
        self._model.layoutAboutToBeChanged.emit()
        self._model.order = self._in_order()
        self._model.layoutChanged.emit()
        self._model.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(self._model.columns) - 1)
        if kept is not None:
            self.go_to(kept)

    def _current(self) -> None:
        place = self.current_place()
        if place is not None and not self._quiet:
            self.chosen.emit(place)

    def take_current(self) -> None:
        """Take the current row."""
        place = self.current_place()
        if place is not None:
            self.taken.emit(place)

    def make_room(self) -> None:
        """Every column what its texts need; the last ones are hidden where that is too much, the rest shared out."""
        viewport, head = self.viewport(), self.horizontalHeader()
        if viewport is None or head is None or not self._model.columns:
            return
        metrics, heads = QFontMetricsF(font(13)), QFontMetricsF(head.font())
        needs = []
        for column in self._model.columns:
            sample = column.values[self._model.order[:MOST_MEASURED]].tolist()
            texts = [metrics.horizontalAdvance(column.text(value)) + 14 for value in sample]
            needs.append(max([heads.horizontalAdvance(column.head) + HEAD_MARGIN, LEAST_COLUMN, *texts]))
        room, shown = float(viewport.width()), len(needs)
        while shown > 1 and sum(needs[:shown]) > room:
            shown -= 1
        extra = max(0.0, room - sum(needs[:shown])) / shown
        for place, need in enumerate(needs):
            self.setColumnHidden(place, place >= shown)
            self.setColumnWidth(place, int(need + extra))
