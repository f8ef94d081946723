"""The tray as a table to type into, cell after cell."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QApplication,
    QHeaderView,
    QLineEdit,
    QTableView,
    QWidget,
)

from wise_cellar.core.build import JudgedCell, Tray
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.shown import shown
from wise_cellar.core.units import QuantityError, bare_number, parse_typed, unit_of_field
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import add_cell, change_cell, remove_cells
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.plain_table import APART, Indented

ROW_PX = 24
EMPTY_ROWS = 1


@dataclass(frozen=True)
class Column:
    """A reading by its field; ``head`` takes the unit behind it."""

    field: str
    head: str
    width: int
    decimals: int = 0

    @property
    def words(self) -> str:
        """What stands over it."""
        symbol = shown(unit_of_field(self.field).symbol).symbol
        return f"{self.head}, {symbol}" if symbol else self.head

    @property
    def side(self) -> int:
        """Numbers end below each other, words begin so."""
        side = Qt.AlignmentFlag.AlignLeft if self.field == "fate" else Qt.AlignmentFlag.AlignRight
        return int((side | Qt.AlignmentFlag.AlignVCenter).value)


COLUMNS = (
    Column("number", "Cell", 52),
    Column("arrival_v", "Arrived", 78, 3),
    Column("rested_v", "Later", 70, 3),
    Column("capacity_mah", "Holds", 84),
    Column("dcir_mohm", "DC", 66, 1),
    Column("ac_resistance_mohm", "AC", 66, 1),
    Column("mass_g", "Weighs", 76, 1),
    Column("loss", "Loses a day, mAh", 112),
    Column("fate", "Verdict", 110),
)
TOLD = ("loss", "fate")
"""Columns that are reckoned, not typed."""


class TrayModel(QAbstractTableModel):
    """The judged cells, and an empty row at the end that makes another one."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, owner: QWidget) -> None:
        super().__init__(owner)
        self._session, self._owner = session, owner
        self.tray: Tray | None = None
        self.rejected = ""
        """What was typed last and refused; empty once it was shown again."""

    @property
    def cells(self) -> tuple[JudgedCell, ...]:
        """In order of their numbers."""
        return self.tray.cells if self.tray is not None else ()

    def show_tray(self, tray: Tray) -> None:
        """Show these cells; rows that stay keep their place, so that who types goes on."""
        if self.tray is not None and len(tray.cells) == len(self.cells):
            self.tray = tray
            self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, len(COLUMNS) - 1))
            return
        before = [one.cell.number for one in self.cells]
        if self.tray is not None and [one.cell.number for one in tray.cells[: len(before)]] == before:
            # What was the empty row is the first of the new ones; who typed into it stays there.
            self.beginInsertRows(QModelIndex(), len(before) + EMPTY_ROWS, len(tray.cells))
            self.tray = tray
            self.endInsertRows()
            self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, len(COLUMNS) - 1))
            return
        self.beginResetModel()
        self.tray = tray
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a cell, and the empty one."""
        return 0 if parent.isValid() else len(self.cells) + EMPTY_ROWS

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """One a reading."""
        return 0 if parent.isValid() else len(COLUMNS)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """What is read can be typed."""
        flags = super().flags(index)
        return flags if COLUMNS[index.column()].field in TOLD else flags | Qt.ItemFlag.ItemIsEditable

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads, over what stands below them."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        column = COLUMNS[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return APART + column.words if column.field == "fate" else column.words
        return column.side if role == Qt.ItemDataRole.TextAlignmentRole else None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Texts, and the colour of a verdict, which its words carry too."""
        column = COLUMNS[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if index.row() == len(self.cells):
                return "next" if column.field == "number" and role == Qt.ItemDataRole.DisplayRole else ""
            return _text(self.cells[index.row()], column)
        if role == Qt.ItemDataRole.FontRole:
            return font(11.5)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return column.side
        if role == Qt.ItemDataRole.ForegroundRole and column.field == "fate" and index.row() < len(self.cells):
            colours = colours_of(self._owner)
            fate = self.cells[index.row()].fate
            return QColor((colours.verdigris, colours.ochre, colours.brick)[fate])
        if role == Qt.ItemDataRole.ToolTipRole and index.row() < len(self.cells):
            return "\n".join(remark.sentence for remark in self.cells[index.row()].remarks) or None
        return None

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Take a reading, as one edit; a refusal leaves everything as it was."""
        text = str(value).strip()
        if role != Qt.ItemDataRole.EditRole or text == str(self.data(index, role)):
            return False
        try:
            self._set(index.row(), COLUMNS[index.column()].field, text)
        except (DocumentError, QuantityError, WorkspaceError) as error:
            self.rejected = text
            self.refused.emit(str(error))
            return False
        self.refused.emit("")
        return True

    def _set(self, row: int, field: str, text: str) -> None:
        value: Any = parse_typed(text, unit_of_field(field)) if text else None
        if field == "number" and value is not None and value == int(value):
            value = int(value)
        if row < len(self.cells):
            change_cell(self._session, self.cells[row].cell, **{field: value})
        elif value is not None and self.tray is not None:
            add_cell(self._session, self.tray.cell_type.id, **{field: value})


def _text(one: JudgedCell, column: Column) -> str:
    if column.field == "fate":
        return one.whereabouts or one.fate.words
    if column.field == "loss":
        return "" if one.loss_mah_day is None else bare_number(one.loss_mah_day, "mAh", 1)
    value = getattr(one.cell, column.field)
    return "" if value is None else bare_number(value, unit_of_field(column.field).symbol, column.decimals)


class TrayTable(QTableView):
    """Typing edits, Enter goes on to the next cell, Tab to the next reading, Delete removes the chosen cells."""

    cell_chosen = pyqtSignal(int)
    """The row in view."""

    def __init__(self, model: TrayModel, session: Session) -> None:
        super().__init__()
        self._model, self._session = model, session
        self.setModel(model)
        self.setItemDelegate(Indented(self, {len(COLUMNS) - 1: APART}))
        self.setAccessibleName("Numbered cells of the tray")
        self.setShowGrid(False)
        self.setTabKeyNavigation(True)
        self.setEditTriggers(QAbstractItemView.EditTrigger.AllEditTriggers)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        head, side = self.horizontalHeader(), self.verticalHeader()
        assert head is not None, "a table has a head"
        assert side is not None, "a table has a side"
        head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        head.setFont(font(11.5))
        side.hide()
        side.setDefaultSectionSize(ROW_PX)
        chosen = self.selectionModel()
        assert chosen is not None, "a table with a model has a selection"
        chosen.currentChanged.connect(lambda now, _before: self.cell_chosen.emit(now.row()))

    def choose(self, row: int) -> None:
        """Bring a cell into view."""
        column = max(self.currentIndex().column(), 0)
        self.setCurrentIndex(self._model.index(row, column))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Delete removes."""
        selection = self.selectionModel()
        if event is not None and event.key() == Qt.Key.Key_Delete and selection is not None:
            rows = {index.row() for index in selection.selectedIndexes()}
            try:
                remove_cells(self._session, [one.cell for row, one in enumerate(self._model.cells) if row in rows])
            except DocumentError as error:
                self._model.refused.emit(str(error))
            return
        super().keyPressEvent(event)

    def take_readings(self, settled: Mapping[str, str]) -> set[str]:
        """Write what instruments read into the current cell, all at once, and go on to the next; which were taken.

        Volts go into the column in focus where that is one of volts, else into the first of the two that is empty; a
        resistance counts as DC unless the column of AC has the focus.
        """
        at = self.currentIndex()
        if not at.isValid():
            return set()
        row, field = at.row(), COLUMNS[at.column()].field
        there = self._model.cells[row].cell if row < len(self._model.cells) else None
        arrived = there is not None and there.arrival_v is not None
        volts = field if field in ("arrival_v", "rested_v") else "rested_v" if arrived else "arrival_v"
        wanted = {"volts": volts, "resistance": "ac_resistance_mohm" if field == "ac_resistance_mohm" else "dcir_mohm",
                  "mass": "mass_g"}  # fmt: skip
        self.setFocus()  # an editor that is open closes
        taken = {name for name, field in wanted.items() if name in settled and self._write(row, field, settled[name])}
        if taken:
            self.setCurrentIndex(self._model.index(min(row + 1, self._model.rowCount() - 1), at.column()))
        return taken

    def _write(self, row: int, field: str, text: str) -> bool:
        column = next(place for place, one in enumerate(COLUMNS) if one.field == field)
        return self._model.setData(self._model.index(row, column), text)

    def closeEditor(self, editor: QWidget | None, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Enter goes on: to the same reading of the next cell."""
        at = self.currentIndex()
        super().closeEditor(editor, hint)
        if self._model.rejected:
            self._again(at, self._model.rejected)
        elif hint is QAbstractItemDelegate.EndEditHint.SubmitModelCache and at.isValid():
            below = self._model.index(min(at.row() + 1, self._model.rowCount() - 1), at.column())
            self.setCurrentIndex(below)  # which opens its editor

    def _again(self, at: QModelIndex, text: str) -> None:
        """What was refused stands where it was typed, to be corrected; Escape leaves it."""
        self._model.rejected = ""
        self.edit(at)
        entry = QApplication.focusWidget()
        if isinstance(entry, QLineEdit):
            entry.setText(text)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Share the width out among the columns."""
        room, wanted = self.viewport().width(), sum(column.width for column in COLUMNS)  # type: ignore[union-attr]
        for place, column in enumerate(COLUMNS):
            self.setColumnWidth(place, int(column.width * room / wanted))
        super().resizeEvent(event)
