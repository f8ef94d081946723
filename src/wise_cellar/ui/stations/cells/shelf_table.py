"""The shelf as a table: one row a cell type, columns at this craft's load."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QSortFilterProxyModel, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from wise_cellar.core.shelf import ShelfRow
from wise_cellar.core.units import format_number, format_share
from wise_cellar.ui.theme import LIMESTONE, colours_of, font

SORT_ROLE = Qt.ItemDataRole.UserRole
NEAR_RATING = 0.85


@dataclass(frozen=True)
class Column:
    """A column: its head, what it means, the value to sort by, and the text to show."""

    head: str
    meaning: str
    value: Callable[[ShelfRow], Any]
    text: Callable[[ShelfRow], str]


def _number(head: str, meaning: str, value: Callable[[ShelfRow], float | None], decimals: int) -> Column:
    def text(row: ShelfRow) -> str:
        found = value(row)
        return "" if found is None else format_number(found, decimals)

    def sortable(row: ShelfRow) -> float:
        found = value(row)
        return float("inf") if found is None else found

    return Column(head, meaning, sortable, text)


COLUMNS = (
    Column("Cell", "Name", lambda r: r.cell.name, lambda r: r.cell.name),
    _number("Minutes", "Flight of this craft with the same S × P", lambda r: r.duration_s / 60, 1),
    _number("Usable Wh", "Energy given at the connector until the flight ended", lambda r: r.usable_wh, 0),
    Column("Used", "Charge given over the label's", lambda r: r.used_share, lambda r: format_share(r.used_share)),
    Column("Of rating", "Current over the cell's rating, at cruise or in a first punch", lambda r: r.rating_share,
           lambda r: format_share(r.rating_share)),
    _number("Late V", "Volts a cell in a burst when the landing rule calls", lambda r: r.late_punch_v, 2),
    _number("Hottest °C", "Hottest cell of the flight", lambda r: r.hottest_c, 0),
    _number("Wh/kg", "Usable energy over the mass of the pack", lambda r: r.usable_wh_kg, 0),
    _number("Price/min", "Price of all cells over the minutes of one flight", lambda r: r.price_per_minute, 2),
)  # fmt: skip


class ShelfModel(QAbstractTableModel):
    """Rows of the shelf."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[ShelfRow] = []
        self.present_id = ""
        self.colours = LIMESTONE

    def show_rows(self, rows: Sequence[ShelfRow], present_id: str) -> None:
        """Show these rows; the present cell stands out."""
        self.beginResetModel()
        self.rows, self.present_id = list(rows), present_id
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a cell type."""
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a column."""
        return 0 if parent.isValid() else len(COLUMNS)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text, sort value, alignment, weight."""
        row, column = self.rows[index.row()], COLUMNS[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.text(row)
        if role == SORT_ROLE:
            return column.value(row)
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() > 0:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ForegroundRole and column.head == "Of rating" and row.rating_share > NEAR_RATING:
            return self.colours.colour("brick" if row.rating_share > 1 else "ochre")
        if role == Qt.ItemDataRole.FontRole:
            return font(13, strong=row.cell.id == self.present_id)
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads and their meaning."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section].head
        if role == Qt.ItemDataRole.ToolTipRole:
            return COLUMNS[section].meaning
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int((Qt.AlignmentFlag.AlignRight if section else Qt.AlignmentFlag.AlignLeft).value)
        return None


class ShelfTable(QTableView):
    """Sortable; Enter or a double click takes a cell, Ctrl+C copies all as text."""

    taken = pyqtSignal(str)
    selection_changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.shelf = ShelfModel()
        self._sorted = QSortFilterProxyModel()
        self._sorted.setSourceModel(self.shelf)
        self._sorted.setSortRole(SORT_ROLE)
        self.setModel(self._sorted)
        self.setSortingEnabled(True)
        self.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setShowGrid(False)
        self.setAccessibleName("Shelf of cells")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabKeyNavigation(False)
        head, side = self.horizontalHeader(), self.verticalHeader()
        if head is not None and side is not None:
            head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            head.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
            head.setFont(font(11.5))
            side.hide()
            side.setDefaultSectionSize(26)
        self._restoring = False
        selection = self.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(lambda *_: self._selected())
        self.doubleClicked.connect(lambda _index: self._take())

    def show_rows(self, rows: Sequence[ShelfRow], present_id: str) -> None:
        """Show these rows, the selection kept where its cells are still there."""
        kept = self.selected_ids() or [present_id]
        selection = self.selectionModel()
        self._restoring = True
        self.shelf.colours = colours_of(self)
        self.shelf.show_rows(rows, present_id)
        for place in range(self._sorted.rowCount()):
            index = self._sorted.index(place, 0)
            if selection is not None and self._row(index).cell.id in kept:
                selection.select(index, selection.SelectionFlag.Select | selection.SelectionFlag.Rows)
        self._restoring = False
        self.setStyleSheet(table_style(self))

    def _selected(self) -> None:
        if not self._restoring:
            self.selection_changed.emit()

    def selected_ids(self) -> list[str]:
        """Identifiers of the chosen cells, in the order shown."""
        selection = self.selectionModel()
        rows = selection.selectedRows() if selection is not None else []
        return [self._row(index).cell.id for index in sorted(rows, key=lambda i: i.row())]

    def as_text(self) -> str:
        """The table as tab-separated lines, in the order shown."""
        lines = ["\t".join(column.head for column in COLUMNS)]
        for place in range(self._sorted.rowCount()):
            row = self._row(self._sorted.index(place, 0))
            lines.append("\t".join(column.text(row) for column in COLUMNS))
        return "\n".join(lines).replace("\u202f", " ").replace("\u00a0", " ")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter takes, Ctrl+C copies."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take()
        elif event.matches(QKeySequence.StandardKey.Copy):
            clipboard = QGuiApplication.clipboard()
            if clipboard is not None:
                clipboard.setText(self.as_text())
        else:
            super().keyPressEvent(event)

    def _take(self) -> None:
        if self.currentIndex().isValid():
            self.taken.emit(self._row(self.currentIndex()).cell.id)

    def _row(self, index: QModelIndex) -> ShelfRow:
        return self.shelf.rows[self._sorted.mapToSource(index).row()]


def table_style(table: ShelfTable) -> str:
    """Style sheet of the table in its colour set."""
    c = colours_of(table)
    return (
        f"QTableView {{ background: {c.sheet}; border: none; selection-background-color: {c.rule};"
        f" selection-color: {c.ink}; outline: none; }}"
        f" QTableView:focus {{ border: 1px solid {c.verdigris}; }}"
        f" QHeaderView::section {{ background: {c.sheet}; color: {c.faint}; border: none;"
        f" border-bottom: 1px solid {c.rule}; padding: 3px 4px; font-weight: 400; }}"
        " QHeaderView::up-arrow, QHeaderView::down-arrow { subcontrol-position: left center; width: 8px; }"
    )
