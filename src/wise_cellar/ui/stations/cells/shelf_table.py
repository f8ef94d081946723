"""The shelf as a table: one row a cell type, columns at this craft's load."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QSortFilterProxyModel, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontMetricsF
from PyQt6.QtWidgets import QAbstractItemView, QWidget

from wise_cellar.core.shelf import ShelfRow, Verdict
from wise_cellar.core.units import format_celsius, of_limit
from wise_cellar.ui.stations.cells.shelf_columns import COLUMNS, LINE, NAME, NEAR_LIMIT, PACK, ROW_ROLE, SORT_ROLE
from wise_cellar.ui.stations.cells.shelf_line import LineDelegate, NameDelegate, RowDelegate
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.plain_table import PlainTable, sorted_head

ROW_HEIGHT = 26
LEAST_COLUMN, LEAST_NAME, LEAST_PACK, HEAD_MARGIN = 48.0, 120.0, 74.0, 22.0


class ShelfModel(QAbstractTableModel):
    """Rows of the shelf, in the colours of the moment of whoever shows them."""

    def __init__(self, owner: QWidget) -> None:
        super().__init__()
        self._owner = owner
        self.rows: list[ShelfRow] = []
        self.present_id = ""
        role, right = Qt.ItemDataRole, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        # A table asks for eight things of each cell each time that it is painted.
        self._asked: dict[int, Callable[[ShelfRow, int], Any]] = {
            role.DisplayRole: lambda row, place: COLUMNS[place].text(row),
            SORT_ROLE: lambda row, place: COLUMNS[place].value(row),
            ROW_ROLE: lambda row, _place: row,
            role.TextAlignmentRole: lambda _row, place: right if place > LINE else None,
            role.ForegroundRole: self._colour,
            role.FontRole: self._font,
            role.ToolTipRole: lambda row, place: row_words(row) if place == NAME else None,
            role.AccessibleTextRole: lambda row, place: f"{row.cell.name}, {row_words(row)}" if place == NAME else None,
        }

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
        asked = self._asked.get(role)
        return None if asked is None else asked(self.rows[index.row()], index.column())

    def _font(self, row: ShelfRow, _place: int) -> QFont:
        return font(13, strong=row.cell.id == self.present_id)

    def _colour(self, row: ShelfRow, place: int) -> QColor | None:
        head = COLUMNS[place].name
        role = ""
        if row.cell.archived:
            role = "faint"
        elif head == "Of limit" and row.rating_share > NEAR_LIMIT:
            role = "brick" if row.rating_share > 1 else "ochre"
        elif head == "End" and row.hottest_c > row.cell.max_temperature_c:
            role = "brick"
        return colours_of(self._owner).colour(role) if role else None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads and their meaning."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section].head
        if role == Qt.ItemDataRole.ToolTipRole:
            return COLUMNS[section].meaning
        if role == Qt.ItemDataRole.TextAlignmentRole:
            left = section <= LINE
            return int((Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight).value)
        return None


def row_words(row: ShelfRow) -> str:
    """What the mark of a row stands for: how its sheet stands, and what this load asks of it."""
    load = f"{of_limit(row.rating_share)} at this load"
    hot = "" if row.hottest_c <= row.cell.max_temperature_c else f", {format_celsius(row.hottest_c)} at the end"
    return f"its sheet {row.verdict.words}; {load}{hot}"


class ShelfFilter(QSortFilterProxyModel):
    """Sorted by any column; only rows whose name, form and chemistry hold every word that was searched for."""

    def __init__(self, shelf: ShelfModel) -> None:
        super().__init__()
        self._shelf = shelf
        self.words: tuple[str, ...] = ()
        self.fine_only = False
        self.setSourceModel(shelf)
        self.setSortRole(SORT_ROLE)

    def search(self, text: str, *, fine_only: bool) -> None:
        """Show only what holds these words; ``fine_only``: and stays within its limits, its sheet not impossible."""
        self.words, self.fine_only = tuple(text.lower().split()), fine_only
        self.invalidateFilter()

    def lessThan(self, left: QModelIndex, right: QModelIndex) -> bool:  # noqa: N802
        """By the column; a cell whose sheet cannot be true is never ranked before one whose sheet can."""
        first, second = (self._shelf.rows[index.row()].verdict is Verdict.CANNOT_BE for index in (left, right))
        if first != second:
            return first if self.sortOrder() is Qt.SortOrder.DescendingOrder else second
        return super().lessThan(left, right)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads, and how it is sorted."""
        head = super().headerData(section, orientation, role)
        if role == Qt.ItemDataRole.DisplayRole and section == self.sortColumn():
            return sorted_head(head, downwards=self.sortOrder() is Qt.SortOrder.DescendingOrder)
        return head

    def filterAcceptsRow(self, source_row: int, _parent: QModelIndex) -> bool:
        """Whether a row is shown."""
        row = self._shelf.rows[source_row]
        cell = row.cell
        fine = row.rating_share <= 1 and row.hottest_c <= cell.max_temperature_c and row.verdict < Verdict.CANNOT_BE
        if self.fine_only and not fine:
            return False
        known = f"{cell.name} {cell.form_factor} {cell.ocv_family.words} {cell.notes}".lower()
        return all(word in known for word in self.words)


class ShelfTable(PlainTable):
    """Sortable; Enter or a double click takes a cell, Ctrl+C copies all as text."""

    taken = pyqtSignal(str)
    selection_changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Shelf of cells", ROW_HEIGHT)
        self.shelf = ShelfModel(self)
        self.filter = ShelfFilter(self.shelf)
        self.setModel(self.filter)
        self.setSortingEnabled(True)
        self.sortByColumn(2, Qt.SortOrder.DescendingOrder)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setItemDelegate(RowDelegate(self))
        self.setItemDelegateForColumn(NAME, NameDelegate(self))
        self.setItemDelegateForColumn(LINE, LineDelegate(self))
        self._restoring = False
        self._packs_differ = False
        selection = self.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(lambda *_: self._selected())

    def show_rows(self, rows: Sequence[ShelfRow], present_id: str) -> None:
        """Show these rows, the selection and the place kept where its cells are still there."""
        kept = self.chosen_ids(present_id)
        at = self._row(self.currentIndex()).cell.id if self.currentIndex().isValid() else present_id
        selection = self.selectionModel()
        moved = present_id != self.shelf.present_id
        self._restoring = True
        self.shelf.show_rows(rows, present_id)
        for place in range(self.filter.rowCount()):
            index = self.filter.index(place, 0)
            identifier = self._row(index).cell.id
            if selection is not None and identifier == at:
                selection.setCurrentIndex(index, selection.SelectionFlag.NoUpdate)
            if selection is not None and identifier in kept:
                selection.select(index, selection.SelectionFlag.Select | selection.SelectionFlag.Rows)
        self._restoring = False
        self.make_room()
        if moved:
            self._show_row(present_id)

    def _show_row(self, identifier: str) -> None:
        """Scroll to a cell."""
        for place in range(self.filter.rowCount()):
            index = self.filter.index(place, 0)
            if self._row(index).cell.id == identifier:
                self.scrollTo(index)

    def choose_none(self) -> None:
        """Choose no row, without a word: nothing is drawn of a workspace that is left."""
        self._restoring = True
        self.clearSelection()
        self._restoring = False

    def _selected(self) -> None:
        if not self._restoring:
            self.selection_changed.emit()

    def selected_ids(self) -> list[str]:
        """Identifiers of the chosen cells, in the order shown."""
        selection = self.selectionModel()
        rows = selection.selectedRows() if selection is not None else []
        return [self._row(index).cell.id for index in sorted(rows, key=lambda i: i.row())]

    def chosen_ids(self, present_id: str) -> list[str]:
        """The chosen cells; a choice of nothing, or of the cell that was present before, follows the present one."""
        chosen = self.selected_ids()
        return [present_id] if not chosen or chosen == [self.shelf.present_id] else chosen

    def shown_ids(self) -> list[str]:
        """Identifiers of all rows that are shown, in their order."""
        return [self._row(self.filter.index(place, 0)).cell.id for place in range(self.filter.rowCount())]

    def as_text(self) -> str:
        """The table as tab-separated lines, in the order shown."""
        columns = [column for place, column in enumerate(COLUMNS) if place != LINE]
        lines = ["\t".join(column.head for column in columns)]
        for place in range(self.filter.rowCount()):
            row = self._row(self.filter.index(place, 0))
            lines.append("\t".join(column.text(row) for column in columns))
        return "\n".join(lines).replace("\u202f", " ").replace("\u00a0", " ")

    def show_packs(self, shown: bool) -> None:
        """Whether the column of packs is worth more than others: where rows differ in their count."""
        self._packs_differ = shown
        self.make_room()

    def make_room(self) -> None:
        """Give every column what its head needs and a share of the rest; hide those that yield where that is short."""
        viewport, head = self.viewport(), self.horizontalHeader()
        if viewport is None or head is None:
            return
        metrics = QFontMetricsF(head.font())
        needs = {
            place: max(metrics.horizontalAdvance(column.head) + HEAD_MARGIN, LEAST_COLUMN)
            for place, column in enumerate(COLUMNS)
        }
        needs[NAME], needs[PACK] = max(self.sizeHintForColumn(NAME) + 4.0, LEAST_NAME), LEAST_PACK
        yields = {place: column.yields for place, column in enumerate(COLUMNS) if column.yields}
        if self._packs_differ:
            yields[PACK] = len(COLUMNS)
        room, hidden = float(viewport.width()), set()
        for place in sorted(yields, key=lambda place: yields[place]):
            if sum(needs[other] for other in needs if other not in hidden) > room:
                hidden.add(place)
        shown = [place for place in needs if place not in hidden]
        extra = max(0.0, room - sum(needs[place] for place in shown)) / (len(shown) - 1)
        for place, need in needs.items():
            self.setColumnHidden(place, place in hidden)
            self.setColumnWidth(place, int(need + (extra if place != NAME else 0.0)))

    def take_current(self) -> None:
        """Take the cell of the current row."""
        if self.currentIndex().isValid():
            self.taken.emit(self._row(self.currentIndex()).cell.id)

    def _row(self, index: QModelIndex) -> ShelfRow:
        return self.shelf.rows[self.filter.mapToSource(index).row()]
