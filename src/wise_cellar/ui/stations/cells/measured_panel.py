"""Bench results of single specimens, held against the label."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QPushButton, QTableView, QVBoxLayout, QWidget

from wise_cellar.core.cells import measured
from wise_cellar.core.documents import BenchResult, CellType, DocumentError, SourceKind, ValueSource
from wise_cellar.core.shown import shown
from wise_cellar.core.units import (
    QuantityError,
    Unit,
    entry_text,
    format_mah,
    format_number,
    format_quantity,
    parse_typed,
    unit_of_field,
)
from wise_cellar.core.words import quoted
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.panel import heading, note, sheet
from wise_cellar.ui.widgets.plain_table import APART, INDENT, Indented

ROW_HEIGHT = 26
TEST_CAUTION = "A discharge test heats a cell: stay within its limits, on a surface that cannot burn, and stay with it."
QUANTITIES = ("capacity_mah", "dcir_mohm", "mass_g")


@dataclass(frozen=True)
class _Column:
    field: str
    head: str
    """Empty where it is the unit."""
    width: int

    @property
    def words(self) -> str:
        """What stands over it."""
        return self.head or shown(unit_of_field(self.field).symbol).symbol

    @property
    def side(self) -> int:
        """Numbers end below each other, words begin so."""
        words = self.field in ("label", "day")
        side = Qt.AlignmentFlag.AlignLeft if words else Qt.AlignmentFlag.AlignRight
        return int((side | Qt.AlignmentFlag.AlignVCenter).value)


COLUMNS = (
    _Column("label", "Specimen", 74),
    _Column("capacity_mah", "", 46),
    _Column("load_a", "at A", 38),
    _Column("dcir_mohm", "", 42),
    _Column("mass_g", "", 38),
    _Column("day", "Date", 84),
)
LABEL, DAY = 0, len(COLUMNS) - 1


class BenchModel(QAbstractTableModel):
    """Bench results, and an empty row at the end that makes another one."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.results: tuple[BenchResult, ...] = ()

    def show_results(self, results: tuple[BenchResult, ...]) -> None:
        """Show these results."""
        self.beginResetModel()
        self.results = results
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a specimen, and the empty one."""
        return 0 if parent.isValid() else len(self.results) + 1

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a column."""
        return 0 if parent.isValid() else len(COLUMNS)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Everything can be typed over."""
        return super().flags(index) | Qt.ItemFlag.ItemIsEditable

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads, over what stands below them."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return APART + COLUMNS[section].words if section == DAY else COLUMNS[section].words
        return COLUMNS[section].side if role == Qt.ItemDataRole.TextAlignmentRole else None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text of a value."""
        column = COLUMNS[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if index.row() == len(self.results):
                return "another" if column.field == "label" and role == Qt.ItemDataRole.DisplayRole else ""
            return _shown(getattr(self.results[index.row()], column.field), unit_of_field(column.field))
        if role == Qt.ItemDataRole.FontRole:
            return font(11.5)
        return column.side if role == Qt.ItemDataRole.TextAlignmentRole else None

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Take what was typed, as one edit; a refusal leaves everything as it was."""
        if role != Qt.ItemDataRole.EditRole or str(value).strip() == str(self.data(index, role)):
            return False
        try:
            self._set(index.row(), COLUMNS[index.column()], str(value).strip())
        except (DocumentError, QuantityError, WorkspaceError) as error:
            self.refused.emit(str(error))
            return False
        self.refused.emit("")
        return True

    def _set(self, row: int, column: _Column, text: str) -> None:
        results = list(self.results)
        value: Any = text or None
        if column.field == "day" and text:
            try:
                value = date.fromisoformat(text)
            except ValueError:
                raise DocumentError(f"{quoted(text)} is no date; write one such as 2026-03-14.") from None
        elif column.field not in ("label", "day") and text:
            value = parse_typed(text, unit_of_field(column.field))
        if row == len(results):
            label = f"specimen {row + 1}"
            if column.field in ("label", "day", "load_a"):
                raise DocumentError("Type a measured capacity, resistance or mass first; that makes the specimen.")
            results.append(BenchResult.from_data({"label": label, column.field: value}))
        else:
            data = results[row].model_dump() | {column.field: value}
            results[row] = BenchResult.from_data(data)
        self._session.edit("cells.0.bench_results", tuple(results), "Change bench results")

    def remove(self, rows: set[int]) -> None:
        """Remove specimens."""
        kept = tuple(result for place, result in enumerate(self.results) if place not in rows)
        if kept != self.results:
            names = ", ".join(self.results[place].label for place in sorted(rows) if place < len(self.results))
            self._session.edit("cells.0.bench_results", kept, "Remove bench results", f"Removed {names}.")


class _BenchTable(QTableView):
    """Typing edits, Delete removes the chosen specimens."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Delete removes."""
        model, selection = self.model(), self.selectionModel()
        if event is not None and event.key() == Qt.Key.Key_Delete and isinstance(model, BenchModel) and selection:
            model.remove({index.row() for index in selection.selectedIndexes()})
            return
        super().keyPressEvent(event)


class MeasuredPanel(QWidget):
    """Specimens of the present cell type, what they come to, and the way to use their medians."""

    def __init__(self, session: Session, attempt: Callable[[Callable[[], object]], bool]) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=8)
        column.addWidget(panel)
        self._title = heading("")
        inside.addWidget(self._title)
        self.model = BenchModel(session)
        self.table = _BenchTable()
        self.table.setModel(self.model)
        self.table.setItemDelegate(Indented(self.table, {LABEL: INDENT, DAY: APART}))
        self.table.setAccessibleName("Bench results of single cells")
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(True)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.AllEditTriggers)
        self.table.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        head, side = self.table.horizontalHeader(), self.table.verticalHeader()
        if head is not None and side is not None:
            head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            head.setStretchLastSection(True)
            head.setFont(font(11.5))
            side.hide()
            side.setDefaultSectionSize(ROW_HEIGHT)
        for place, wanted in enumerate(COLUMNS):
            self.table.setColumnWidth(place, wanted.width)
        inside.addWidget(self.table)
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)
        self.said = note(role="")
        inside.addWidget(self.said)
        self.use = QPushButton("Use the medians as the cell's values")
        self.use.clicked.connect(lambda: attempt(self._use_medians))
        inside.addWidget(self.use, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addWidget(
            note(
                "Capacity at a slow discharge, resistance as a 10 s pulse at half charge and 25\u00a0°C. From three"
                " specimens on, their spread takes the place of the usual doubt in the range of the answer."
            )
        )
        inside.addWidget(note(TEST_CAUTION, "caution"))
        self.model.refused.connect(self._say)

    def refresh(self) -> None:
        """Show the present cell's specimens."""
        cell = self._session.complete.pack.cell
        self._title.setText(f"{cell.name} on the bench")
        self.model.show_results(cell.bench_results)
        self.said.setText(summary(cell))
        self.use.setVisible(bool(cell.bench_results) and bool(_medians(cell)))
        self.table.setFixedHeight(34 + ROW_HEIGHT * (len(cell.bench_results) + 1))

    def _say(self, sentence: str) -> None:
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))

    def _use_medians(self) -> None:
        cell = self._session.complete.pack.cell
        found = _medians(cell)
        days = [result.day for result in cell.bench_results if result.day is not None]
        day = max(days) if days else None
        others = tuple(source for source in cell.sources if source.field not in found)
        mine = tuple(ValueSource(field=name, kind=SourceKind.MEASURED, day=day) for name in found)
        data = cell.model_dump() | found | {"sources": (*others, *mine)}
        self._session.commit(f"Use what was measured of {cell.name}", [CellType.from_data(data)])


def summary(cell: CellType) -> str:
    """Medians and spread of what was measured, in words."""
    if not cell.bench_results:
        return "Nothing was measured yet: type a capacity, resistance or mass into the last row."
    parts = []
    for quantity in QUANTITIES:
        found = measured(cell.bench_results, quantity)
        if found is not None:
            spread = f" ± {format_number(100 * found.spread, 1)} %" if found.count > 1 else ""
            parts.append(f"{format_quantity(found.median, unit_of_field(quantity))}{spread} ({found.count})")
    return f"Median and spread: {', '.join(parts)}. Label: {format_mah(cell.capacity_mah)}."


def _medians(cell: CellType) -> dict[str, float]:
    """What the cell's values would become, where that is another value."""
    found = {}
    for quantity in QUANTITIES:
        known = measured(cell.bench_results, quantity)
        if known is not None and abs(known.median - (getattr(cell, quantity) or 0.0)) > 1e-9:
            found[quantity] = known.median
    return found


def _shown(value: Any, unit: Unit) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return entry_text(value, unit)
    return value.isoformat() if isinstance(value, date) else str(value)
