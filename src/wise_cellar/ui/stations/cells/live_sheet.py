"""A discharge recorded live: a load is told what to draw and when to stop, and what comes is drawn as it comes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from wise_cellar.core.cells import lasting_limit_a
from wise_cellar.core.documents import CellType, DocumentError, Recording
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.recorded import TIME
from wise_cellar.core.shelf import bench_discharge
from wise_cellar.core.units import (
    QuantityError,
    counted,
    entry_text,
    format_amps,
    format_mah,
    format_minutes,
    format_volts,
    parse_typed,
    unit_of_field,
)
from wise_cellar.instruments.guard import Guard
from wise_cellar.store.recording_tables import write_recording
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.live_discharge import DischargeRecorder
from wise_cellar.ui.state.recording_edits import (
    as_discharge,
    discharges_recorded,
    keep_as_discharge,
    recorded_rows,
    remove_recording,
    take_recording,
)
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.cells.measured_panel import TEST_CAUTION
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import dialog_column, note
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Level, Stroke
from wise_cellar.ui.widgets.plots import ThemedPlots, title_text

WIDTH, PLOT_PX, MOST_POINTS = 620, 230, 1500
ROOM_C = 23.0
"""Of the air on the bench, where nothing tells it."""
TABLES = "Tables (*.csv *.txt)"
USUAL_RATE, LONGEST_TIMES = 0.2, 1.3
"""Of the one-hour current; and how many times longer than the charge should last it may go on."""
AMPS, VOLTS = unit_of_field("current_a"), unit_of_field("least_v")
NO_LOAD = "No load is listened to yet: open one under View › Instruments, or start a stand-in there."
WARM = "It ends at the cut-off, when the cell is too warm where the load tells it, or when a reading is missing."
TITLE = "Volts at the load; dashed, as a new cell of this model gives"
CLOSED = "the window of the discharge was closed"
BY_ITS_SWITCH = "switch it off by its own switch, or take the cell off."
BY_HAND = "it was stopped by hand"


class LivePlot(ThemedPlots):
    """Volts over charge, as they come."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(PLOT_PX)
        self.setAccessibleName("Volts over charge of the discharge that is recorded")
        self.plot = Plot("mAh")
        self.plot.name_axes("Volts", "V")
        self.addItem(self.plot, 0, 0)
        self.mah: Floats = np.zeros(0)
        self.volts: Floats = np.zeros(0)
        self._expected: tuple[Floats, Floats] = np.zeros(0), np.zeros(0)
        self._least = 0.0
        self.redraw()

    def show_rows(self, mah: Floats, volts: Floats, least_v: float) -> None:
        """Draw these."""
        step = max(len(mah) // MOST_POINTS, 1)
        self.mah, self.volts, self._least = mah[::step], volts[::step], least_v
        self.redraw()

    def expect(self, mah: Floats, volts: Floats, least_v: float) -> None:
        """Draw what the cell's model expects under what comes."""
        self._expected, self._least = (mah, volts), least_v
        self.redraw()

    def expected_v(self, mah: float) -> float:
        """Volts of the model when so much was given; not a number past its end."""
        return float(np.interp(mah, *self._expected, right=np.nan)) if len(self._expected[0]) else np.nan

    def draw(self, colours: Colours) -> None:
        """The curve over what is expected, and where it will end."""
        self.plot.dress(colours)
        self.plot.show_title(title_text(TITLE, colours))
        curves = [(self._expected, Stroke(colours.faint, 1.4, DASHED), "expected"),
                  ((self.mah, self.volts), Stroke(colours.verdigris, 2.0), "as it comes")]  # fmt: skip
        drawn = [(line, stroke, name) for line, stroke, name in curves if len(line[0]) >= 2]
        self.plot.show_empty(not drawn)
        if not drawn:
            return
        self.plot.show_parts([
            *(Curve(*line, stroke, name) for line, stroke, name in drawn),
            Level(self._least, Stroke(colours.brick, 1.2, DOTTED), "end"),
        ])  # fmt: skip
        volts = np.concatenate([line[1] for line, _, _ in drawn])
        self.plot.box.setXRange(0, max(float(line[0][-1]) for line, _, _ in drawn), padding=0.02)
        self.plot.box.setYRange(min(self._least, float(volts.min())), float(volts.max()), padding=0.05)


class LiveSheet(QDialog):
    """``kept`` tells that a recording became a discharge."""

    kept = pyqtSignal()

    def __init__(self, owner: QWidget, session: Session) -> None:
        super().__init__(owner)
        self._session = session
        self.recorder: DischargeRecorder | None = None
        self._loads: list[Device] = []
        column = dialog_column(self, "A discharge, recorded live", f"A discharge of {self.cell.name}", WIDTH)
        column.addLayout(self._made_entries())
        self.plot = LivePlot()
        column.addWidget(self.plot)
        self.words = Lines()
        column.addLayout(self.words)
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        row = QHBoxLayout()
        self.start, self.stop_it = QPushButton("Start"), QPushButton("Stop now")
        self.keep, self.forget = QPushButton("Keep it as a discharge"), QPushButton("Forget it")
        self.save, self.read = QPushButton("Save as CSV…"), QPushButton("Read a CSV…")
        self.read.setToolTip(f"A recording that was saved here, or with wise-cellar record: {TIME}, volts_V, amps_A")
        self.forget.setProperty("role", "quiet")
        for button, run in (
            (self.start, self._start), (self.read, self._ask_in), (self.stop_it, self._stop), (self.keep, self._keep),
            (self.save, self._ask_out), (self.forget, self._forget),
        ):  # fmt: skip
            button.setAutoDefault(False)
            button.clicked.connect(lambda _on, run=run: run())
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(note(WARM))
        column.addWidget(note(TEST_CAUTION, "caution"))
        for entry in (self.amps, self.least):
            entry.submitted.connect(lambda _text: self._expect())
        session.desk.changed.connect(self._show_loads)
        self._show_loads()
        self._expect()
        self._show_left()

    @property
    def cell(self) -> CellType:
        """What is discharged."""
        return self._session.complete.pack.cell

    def _made_entries(self) -> QGridLayout:
        cell = self.cell
        grid = QGridLayout()
        self.loads = Chooser()
        self.loads.setAccessibleName("Load")
        self.amps, self.least, self.name = EntryLine(), EntryLine(), EntryLine()
        self.amps.accept_shown(entry_text(round(USUAL_RATE * cell.capacity_mah / 1000, 2), AMPS))
        self.least.accept_shown(entry_text(cell.min_voltage_v, VOLTS))
        self.name.setPlaceholderText("by its current")
        for row, (title, widget) in enumerate((
            ("Load", self.loads), ("Amps", self.amps), ("Until volts", self.least), ("Name", self.name),
        )):  # fmt: skip
            widget.setAccessibleName(title)
            grid.addWidget(Label(title), row // 2, 2 * (row % 2))
            grid.addWidget(widget, row // 2, 2 * (row % 2) + 1)
        return grid

    def _show_loads(self) -> None:
        devices = [one for one in self._session.desk.devices if one.profile.told.off and one.profile.told.amps]
        if devices != self._loads:
            self._loads = devices
            self.loads.clear()
            self.loads.addItems([f"{one.name}, {one.address}" for one in devices])
        self._show_buttons()

    def _left(self) -> Recording | None:
        """A recording of this cell that is no discharge yet: the last one."""
        return next(iter(discharges_recorded(self._session, self.cell.id)), None)

    def _show_left(self) -> None:
        """What was recorded and not kept, as after a crash."""
        left = self._left()
        if left is not None and (self.recorder is None or not self.recorder.running):
            why = left.ended or "it was cut off"
            told = f"{left.name}, begun {left.begun_at:%Y-%m-%d %H:%M}, is recorded: {why}."
            self.words.show_lines([Line(told), Line("Keep it as a discharge, or forget it.", "faint", 11.5)])
            self._draw_left(left)
        self._show_buttons()

    def _draw_left(self, left: Recording) -> None:
        rows = recorded_rows(self._session, left)
        try:
            curve = as_discharge(left, rows, ROOM_C, left.least_v).curve
        except DocumentError as error:
            self.words.show_lines([*self.words.lines, Line(str(error), "", 11.5)])
            return
        self.plot.show_rows(curve.charge_c / 3.6, curve.voltage_v, left.least_v)
        self._expect()

    def _show_buttons(self) -> None:
        running = self.recorder is not None and self.recorder.running
        left = self._left() is not None and not running
        self.start.setVisible(not running)
        self.start.setEnabled(bool(self._loads) and not left)
        self.stop_it.setVisible(running)
        self.read.setVisible(not running and not left)
        self.keep.setVisible(left)
        self.save.setVisible(left)
        self.forget.setVisible(left)
        if not self._loads and not running and not left:
            self.words.show_lines([Line(NO_LOAD, "faint")])

    def _guard(self) -> Guard:
        """The limits, as they were typed; raises :class:`DocumentError` where they are none of this cell's."""
        cell = self.cell
        amps, least = parse_typed(self.amps.text(), AMPS), parse_typed(self.least.text(), VOLTS)
        most = lasting_limit_a(cell)
        if not 0 < amps <= most:
            raise DocumentError(f"{cell.name} may give up to {format_amps(most)} for good; {format_amps(amps)} is not.")
        if not cell.min_voltage_v <= least < cell.max_voltage_v:
            raise DocumentError(
                f"A discharge of {cell.name} ends at {format_volts(cell.min_voltage_v)} or above; write"
                " volts of one cell."
            )
        lasts = 3.6 * cell.capacity_mah / amps
        return Guard(amps, least, cell.max_temperature_c or 60.0, LONGEST_TIMES * lasts)

    def _expect(self) -> None:
        """Draw what the model gives at the current that is typed, where that may be drawn."""
        if self.recorder is not None and self.recorder.running:
            return
        left = self._left()
        try:
            guard = self._guard()
        except (DocumentError, QuantityError):
            self.plot.expect(np.zeros(0), np.zeros(0), 0.0)
            return
        found = bench_discharge(self._session.complete, left.amps if left else guard.amps, ROOM_C)
        self.plot.expect(1000 * found.charge_ah, found.voltage_v, left.least_v if left else guard.least_v)

    def _start(self) -> None:
        place = self.loads.currentIndex()
        if not 0 <= place < len(self._loads):
            return

        def start() -> None:
            guard = self._guard()
            recorder = DischargeRecorder(self._session, self._loads[place], guard, self._session.desk)
            recorder.grew.connect(self._show_rows)
            recorder.ended.connect(self._show_ended)
            recorder.drew_on.connect(self._warn)
            recorder.begin(self.name.text().strip() or f"{format_amps(guard.amps)} live")
            self.recorder = recorder

        try:
            self.attempt.make(start)
        except QuantityError as error:
            self.attempt.say(str(error))
        self._show_buttons()

    def _stop(self) -> None:
        if self.recorder is not None:
            self.recorder.stop(BY_HAND)

    def _show_rows(self) -> None:
        recorder = self.recorder
        if recorder is None:
            return
        mah, volts = recorder.curve
        if len(mah) < 2:
            return
        self.plot.show_rows(mah, volts, recorder.guard.least_v)
        elapsed, expected = recorder.rows[-1][0], self.plot.expected_v(float(mah[-1]))
        told = f"{format_volts(float(volts[-1]), 3)} after {format_minutes(elapsed)}, {format_mah(float(mah[-1]))}"
        if np.isfinite(expected):
            told += f"; a new cell of its model has {format_volts(expected, 3)} there"
        self.words.show_lines([Line(told)])

    def _show_ended(self, why: str) -> None:
        self._show_rows()
        self.words.show_lines([*self.words.lines, Line(f"The load is off: {why}.", "", 13, strong=True)])
        self._show_buttons()

    def _warn(self, amps: float) -> None:
        self.attempt.say(f"The load was told to stop and still draws {format_amps(amps)}: {BY_ITS_SWITCH}")

    def _keep(self) -> None:
        left = self._left()
        if left is None:
            return
        if self.attempt.make(lambda: keep_as_discharge(self._session, left, ROOM_C)):
            self.words.show_lines([Line(f"{left.name} is a discharge of {self.cell.name} like any other now.")])
            self.kept.emit()
        self._show_buttons()

    def _ask_out(self) -> None:
        left = self._left()
        if left is None:
            return
        name, _ = QFileDialog.getSaveFileName(self, "The recording as a table", f"{left.name}.csv", TABLES)
        if name:
            self.put_out(Path(name), left)

    def put_out(self, path: Path, recording: Recording) -> None:
        """Write a recording as a table."""
        rows = recorded_rows(self._session, recording)
        if self.attempt.make(lambda: write_recording(path, recording, rows)):
            self.words.show_lines([Line(f"{path.name} holds {counted(len(rows), 'reading')} of {recording.name} now.")])

    def _ask_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A recording", "", TABLES)
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Take a recording from a table, and draw it."""
        if self.attempt.make(lambda: take_recording(self._session, path)):
            self._show_left()

    def _forget(self) -> None:
        left = self._left()
        if left is not None:
            self.attempt.make(lambda: remove_recording(self._session, left))
            self.words.show_lines([])
            self.plot.show_rows(np.zeros(0), np.zeros(0), 0.0)
            self._expect()
        self._show_buttons()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Nothing draws from a cell that nobody watches."""
        if self.recorder is not None:
            self.recorder.stop(CLOSED)
        super().closeEvent(event)
