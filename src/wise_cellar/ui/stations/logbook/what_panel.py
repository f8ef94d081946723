"""What is run: the design's mission, what is typed, or a flight that was recorded; on the pack, or on one cell."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QFileDialog, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.bench.typed import EXAMPLE
from wise_cellar.core.documents import Recording, RecordingKind
from wise_cellar.ui.state.flight_logs import take_flights
from wise_cellar.ui.state.recording_edits import recorded_rows, recordings
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.logbook.run_work import RunQuestion, Source
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.panel import heading, sheet

TABLES = "Tables (*.csv *.txt)"
KEPT = "bench schedule"
"""Setting of the workspace: what was typed last."""
TYPED_MS, HIGH_PX = 500, 72
ON = ("on the pack", "on one cell of it")


class ScheduleText(QPlainTextEdit):
    """A schedule; ``typed`` once nothing was typed for half a second, or it is left."""

    typed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Schedule")
        self.setPlaceholderText(EXAMPLE)
        self.setTabChangesFocus(True)
        self.setFixedHeight(HIGH_PX)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(TYPED_MS)
        self._pause.timeout.connect(self.typed)
        self.textChanged.connect(self._pause.start)

    def show_text(self, text: str) -> None:
        """Show what was not typed just now."""
        self.blockSignals(True)
        self.setPlainText(text)
        self.blockSignals(False)
        self._pause.stop()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """What was typed is taken now."""
        super().focusOutEvent(event)
        if self._pause.isActive():
            self._pause.stop()
            self.typed.emit()


class WhatPanel(QWidget):
    """``asked`` tells that something else is to be run."""

    asked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._listed: list[Recording] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("What is run"))
        self.source, self.recorded, self.on = Chooser(), Chooser(), Chooser()
        for widget, name in (
            (self.source, "What is run"),
            (self.recorded, "Recording that is run again"),
            (self.on, "What is on the load"),
        ):
            widget.setAccessibleName(name)
        self.source.addItems([str(one) for one in Source])
        self.on.addItems(list(ON))
        self.text = ScheduleText()
        self.read = QPushButton("Read a CSV…")
        self.read.setToolTip("A flight or a run: a table with time, volts and amps, whatever its columns are called")
        self.attempt = Attempt()
        for shown in (self.source, self.text, self.recorded, self.read, self.on, self.attempt):
            inside.addWidget(shown)
        self.begin_anew()
        self.source.activated.connect(lambda _place: self._changed())
        self.recorded.activated.connect(lambda _place: self._changed())
        self.on.activated.connect(lambda _place: self._changed())
        self.text.typed.connect(self._typed)
        self.read.clicked.connect(lambda _on: self._ask_in())
        self.refresh()

    @property
    def chosen(self) -> Source:
        """Where the schedule comes from."""
        return list(Source)[max(self.source.currentIndex(), 0)]

    def question(self) -> RunQuestion:
        """What is asked for."""
        place = self.recorded.currentIndex()
        recorded = None
        if self.chosen is Source.RECORDED and 0 <= place < len(self._listed):
            one = self._listed[place]
            rows = recorded_rows(self._session, one)
            volts, amps = (rows[:, 1 + one.quantities.index(name)] for name in ("volts", "amps"))
            recorded = (one.name, rows[:, 0], volts, amps)
        return RunQuestion(self.chosen, self.text.toPlainText(), recorded, self.on.currentIndex() == 1)

    def refresh(self) -> None:
        """Which recordings there are."""
        kinds = (RecordingKind.FLIGHT, RecordingKind.BENCH, RecordingKind.DISCHARGE)
        listed = [one for one in recordings(self._session, *kinds) if {"volts", "amps"} <= set(one.quantities)]
        if listed != self._listed:
            self._listed = listed
            self.recorded.clear()
            self.recorded.addItems([f"{one.begun_at:%Y-%m-%d %H:%M}, {one.name}" for one in listed])
        source = self.chosen
        self.text.setVisible(source is Source.TYPED)
        self.recorded.setVisible(source is Source.RECORDED and bool(listed))
        self.read.setVisible(source is Source.RECORDED)

    def begin_anew(self) -> None:
        """Another workspace is shown: its mission, and what was typed there."""
        self.source.setCurrentIndex(0)
        self.on.setCurrentIndex(0)
        self.attempt.hide()
        self.text.show_text(self._session.workspace.setting(KEPT) or "")

    def _changed(self) -> None:
        self.refresh()
        self.asked.emit()

    def _typed(self) -> None:
        self._session.workspace.remember(KEPT, self.text.toPlainText())
        self.asked.emit()

    def _ask_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A flight or a run", "", TABLES)
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Take a recording from a table, and choose it."""

        def take() -> None:
            (one,) = take_flights(self._session, [path])
            self.refresh()
            self.recorded.setCurrentIndex(next(at for at, each in enumerate(self._listed) if each.id == one.id))

        if self.attempt.make(take):
            self._changed()
