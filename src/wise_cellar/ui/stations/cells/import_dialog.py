"""The panel that imports discharges: a preview, what was understood, and everything to correct it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QListWidget,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wise_cellar.core.curves import Assembled, Circumstances, RestingTable, Role, units_of
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import (
    TOLD,
    QuantityError,
    format_amps,
    format_celsius,
    parse_typed,
    unit_of_field,
)
from wise_cellar.core.words import quoted
from wise_cellar.store import WorkspaceError
from wise_cellar.store.curve_files import CancelledError, TableFile, look_at_table
from wise_cellar.ui.state.cell_edits import add_discharges
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.cells.import_preview import ImportPreview
from wise_cellar.ui.stations.cells.incoming import FileState, Stop, read_one, understood
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.panel import fitted, heading, note

SIZE = (940, 620)
ROLES = tuple(Role)
SHOWN_ROWS = 6
MANY_VOLTS = 5.0


class ImportDialog(QDialog):
    """Files at the left, the chosen one at the right. Nothing is kept before Import is pressed."""

    def __init__(self, parent: QWidget, session: Session, paths: Sequence[Path]) -> None:
        super().__init__(parent)
        self._session = session
        self._cell = session.complete.pack.cell
        self.setWindowTitle("Import discharges")
        self.resize(*SIZE)
        self.files = [self._look(path) for path in paths]
        self._stop = Stop()
        self._reading: FileState | None = None
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(self._failed)
        self._build()
        self._timer = QTimer(self)
        self._timer.setInterval(60)
        self._timer.timeout.connect(self._show_progress)
        self.list.setCurrentRow(0)
        self._read_next()

    # Building

    def _build(self) -> None:
        column = QVBoxLayout(fitted(self))
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(8)
        column.addWidget(heading(f"Discharges of {self._cell.name}"))
        row = QHBoxLayout()
        row.setSpacing(14)
        self.list = QListWidget()
        self.list.setAccessibleName("Files")
        self.list.setFixedWidth(190)
        self.list.setVisible(len(self.files) > 1)
        self.list.currentRowChanged.connect(self._show)
        for state in self.files:
            self.list.addItem(state.path.name)
        row.addWidget(self.list)
        row.addLayout(self._right(), 1)
        column.addLayout(row, 1)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(6)
        self.progress.hide()
        column.addWidget(self.progress)
        buttons = QHBoxLayout()
        self.stop_button = QPushButton("Stop reading")
        self.stop_button.clicked.connect(self.stop_reading)
        self.stop_button.hide()
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self.reject)
        self.take = QPushButton("Import")
        self.take.setDefault(True)
        self.take.clicked.connect(self.import_ready)
        buttons.addWidget(self.stop_button)
        buttons.addStretch(1)
        buttons.addWidget(self.cancel)
        buttons.addWidget(self.take)
        column.addLayout(buttons)

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        self.layout_words = note()
        column.addWidget(self.layout_words)
        self.grid = QTableWidget()
        self.grid.setAccessibleName("Columns of the file: what each is, its unit, and the first rows")
        self.grid.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.grid.setShowGrid(False)
        self.grid.setFixedHeight(44 + 34 * 2 + 22 * SHOWN_ROWS)
        side = self.grid.verticalHeader()
        if side is not None:
            side.hide()
        column.addWidget(self.grid)
        fields = QHBoxLayout()
        fields.setSpacing(18)
        self.name, self.current, self.air, self.series = QLineEdit(), QLineEdit(), QLineEdit(), QLineEdit()
        for line, words, width in (
            (self.name, "Name", 150), (self.current, "Held current", 70), (self.air, "Air", 64),
            (self.series, "Cells in series", 40),
        ):  # fmt: skip
            form = QFormLayout()
            form.addRow(words, line)
            line.setAccessibleName(words)
            line.setFixedWidth(width)
            line.editingFinished.connect(self._given_changed)
            fields.addLayout(form)
        fields.addStretch(1)
        column.addLayout(fields)
        self.preview = ImportPreview()
        column.addWidget(self.preview, 1)
        self.remarks = note()
        column.addWidget(self.remarks)
        self.error = note(role="error")
        self.error.setFont(font(13))
        column.addWidget(self.error)
        return column

    # Files

    def _look(self, path: Path) -> FileState:
        given = Circumstances(path.stem or path.name, air_temperature_c=25.0)
        try:
            table = look_at_table(path)
        except DocumentError as error:
            return FileState(path, None, given, error=str(error), stale=False)
        return FileState(path, table, replace(given, cells_in_series=self._series(table)))

    def _series(self, table: TableFile) -> int:
        """The cells in series whose volts were logged: those of a whole pack, where the figures are of a pack."""
        place = next((n for n, column in enumerate(table.columns) if column.role is Role.VOLTAGE), None)
        if place is None or self._cell.cells_in_series == 1:
            return 1
        text = table.preview[0][place].replace(table.decimal, ".")
        volts = float(text) * table.columns[place].factor if text.replace(".", "", 1).isdigit() else 0.0
        return self._cell.cells_in_series if volts > MANY_VOLTS else 1

    @property
    def present(self) -> FileState:
        """The file that is shown."""
        return self.files[max(self.list.currentRow(), 0)]

    @property
    def busy(self) -> bool:
        """Whether a file is being read."""
        return self._worker.busy

    def _read_next(self) -> None:
        """Read the next file that is not read as it is understood now, the shown one first."""
        order = [self.present, *self.files]
        state = next((s for s in order if s.stale), None)
        if state is None:
            self._timer.stop()
            self._show_progress()
            return
        self._stop.asked = True
        self._stop = Stop()
        self._timer.start()
        self._reading = state
        self._worker.run(partial(read_one, self.files.index(state), state, self._cell.min_voltage_v, self._stop))

    def _take(self, found: tuple[int, Any]) -> None:
        place, result = found
        state = self.files[place]
        state.stale, state.result, state.error = False, None, ""
        if isinstance(result, CancelledError):
            state.error = "Reading was stopped; change anything here, or open the file again, to read it."
        elif isinstance(result, Exception):
            state.error = str(result)
        else:
            state.result = result
        self._show_result()
        self._read_next()

    def _failed(self, refusal: DocumentError) -> None:
        """The file that was being read is marked, and the others are read."""
        place = next((n for n, state in enumerate(self.files) if state is self._reading), 0)
        self._take((place, refusal))

    def _changed(self, state: FileState) -> None:
        state.stale, state.result, state.error = True, None, ""
        self._read_next()
        self._show_result()

    def stop_reading(self) -> None:
        """Stop the reading that is under way."""
        self._stop.asked = True

    # Showing

    def _show(self, _row: int = 0) -> None:
        state = self.present
        self.name.setText(state.given.name)
        self.current.setText("" if state.given.current_a is None else format_amps(state.given.current_a, TOLD))
        self.air.setText(format_celsius(state.given.air_temperature_c, TOLD))
        self.series.setText(str(state.given.cells_in_series))
        self._show_grid(state)
        self._show_result()

    def _show_grid(self, state: FileState) -> None:
        self.grid.clear()
        table = state.table
        if table is None:
            self.grid.setRowCount(0)
            self.grid.setColumnCount(0)
            self.layout_words.setText("")
            return
        self.layout_words.setText(f"{state.path.name}: {table.words}")
        self.grid.setColumnCount(len(table.columns))
        self.grid.setRowCount(2 + min(len(table.preview), SHOWN_ROWS))
        self.grid.setHorizontalHeaderLabels([column.name for column in table.columns])
        head = self.grid.horizontalHeader()
        if head is not None:
            head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            head.setFont(font(11.5))
        for place, column in enumerate(table.columns):
            role = _chooser([str(role) for role in ROLES], ROLES.index(column.role), f"{column.name} is")
            role.activated.connect(partial(self._set_role, place))
            units = units_of(column.role)
            at = units.index(column.unit) if column.unit in units else -1
            unit = _chooser(units, at, f"Unit of {column.name}")
            unit.setEnabled(bool(units))
            unit.activated.connect(partial(self._set_unit, place))
            self.grid.setCellWidget(0, place, role)
            self.grid.setCellWidget(1, place, unit)
            for number, row in enumerate(table.preview[:SHOWN_ROWS]):
                item = QTableWidgetItem(row[place] if place < len(row) else "")
                item.setTextAlignment(int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter))
                item.setFont(font(11.5))
                self.grid.setItem(2 + number, place, item)
        for number in range(self.grid.rowCount()):
            self.grid.setRowHeight(number, 34 if number < 2 else 22)

    def _show_result(self) -> None:
        state = self.present
        self.preview.show_result(state.result)
        self.error.setText(state.error)
        self.error.setVisible(bool(state.error))
        self.remarks.setText(understood(state))
        roles = {column.role for column in state.table.columns} if state.table is not None else set()
        self.current.setEnabled(Role.CURRENT not in roles and not state.resting)
        for place, one in enumerate(self.files):
            item = self.list.item(place)
            if item is not None:
                item.setText(f"{one.path.name}\n{one.words}")
        ready = [one for one in self.files if one.result is not None]
        self.take.setEnabled(bool(ready) and not any(one.stale for one in self.files))
        if len(self.files) == 1:
            self.take.setText("Use as its own voltage table" if state.resting else "Import")
        else:
            self.take.setText(f"Import {len(ready)} of {len(self.files)}")
        self._show_progress()

    def _show_progress(self) -> None:
        reading = any(state.stale for state in self.files)
        self.progress.setVisible(reading)
        self.stop_button.setVisible(reading)
        self.progress.setValue(round(100 * self._stop.share))

    # Correcting

    def _set_role(self, place: int, index: int) -> None:
        state = self.present
        if state.table is None:
            return
        column = state.table.columns[place].with_role(ROLES[index])
        table = state.table.with_column(place, column)
        for other, old in enumerate(table.columns):
            # A role is given once; the column that had it is left aside.
            if other != place and old.role is column.role and column.role is not Role.IGNORED:
                table = table.with_column(other, old.with_role(Role.IGNORED))
        state.table = table
        self._show_grid(state)
        self._changed(state)

    def _set_unit(self, place: int, index: int) -> None:
        state = self.present
        if state.table is None:
            return
        column = state.table.columns[place]
        state.table = state.table.with_column(place, replace(column, unit=units_of(column.role)[index]))
        self._changed(state)

    def _given_changed(self) -> None:
        state = self.present
        try:
            given = Circumstances(
                name=self.name.text().strip() or state.path.stem,
                current_a=_quantity(self.current.text(), "current_a") if self.current.text().strip() else None,
                air_temperature_c=_quantity(self.air.text(), "air_temperature_c"),
                cells_in_series=_count(self.series.text()),
            )
        except (QuantityError, DocumentError) as error:
            state.error = str(error)
            self._show_result()
            return
        if given.current_a is not None and given.current_a <= 0:
            state.error = "The held current must be more than 0; discharge is positive."
            self._show_result()
            return
        if given != state.given and state.table is not None:
            state.given = given
            self._changed(state)

    # Ending

    def import_ready(self) -> None:
        """Keep everything that is ready, as one edit."""
        ready = [state for state in self.files if state.result is not None]
        found = [
            (s.result, s.path.name, s.given.air_temperature_c) for s in ready if isinstance(s.result, Assembled)
        ]  # fmt: skip
        table = next((s.result.table for s in ready if isinstance(s.result, RestingTable)), None)
        try:
            if found:
                add_discharges(self._session, self._cell.id, found)
            if table is not None:
                self._session.edit("cells.0.own_ocv", table, "Own voltage table")
        except (DocumentError, WorkspaceError) as error:
            self.error.setText(str(error))
            self.error.show()
            return
        self.accept()

    def done(self, result: int) -> None:
        """Stop reading, however the panel is left."""
        self._stop.asked = True
        self._timer.stop()
        self._worker.close()
        super().done(result)


def _chooser(words: Sequence[str], at: int, name: str) -> Chooser:
    box = Chooser()
    box.addItems(list(words))
    box.setCurrentIndex(at)
    box.setAccessibleName(name)
    return box


def _quantity(text: str, field: str) -> float:
    return parse_typed(text, unit_of_field(field))


def _count(text: str) -> int:
    number = text.strip()
    if not number.isdecimal() or len(number) > 3 or not 1 <= int(number) <= 20:
        raise DocumentError(f"{quoted(number)} cells in series were not logged; write a number from 1 to 20.")
    return int(number)
