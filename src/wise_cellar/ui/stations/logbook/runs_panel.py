"""What was recorded: shown again, gone on with, saved as a table, forgotten."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import Recording, RecordingKind
from wise_cellar.store.recording_tables import write_recording
from wise_cellar.ui.state.live_run import may_go_on
from wise_cellar.ui.state.recording_edits import recorded_rows, recordings, remove_recording
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, sheet

TABLES = "Tables (*.csv)"
NONE = "Nothing was recorded yet."
CUT_OFF = "it was cut off"


class RunsPanel(QWidget):
    """``shown`` brings a recording to be drawn, ``wanted`` one that is to be gone on with."""

    shown = pyqtSignal(object)
    wanted = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._listed: list[Recording] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("Runs and flights"))
        self.runs = Chooser()
        self.runs.setAccessibleName("Runs and flights that were recorded")
        self.runs.activated.connect(lambda _place: self._show())
        self.words = Label()
        self.words.setWordWrap(True)
        inside.addWidget(self.runs)
        inside.addWidget(self.words)
        row = QHBoxLayout()
        self.go_on, self.save, self.forget = QPushButton("Go on"), QPushButton("Save as CSV…"), QPushButton("Forget it")
        self.go_on.setToolTip("With what is left of its schedule, on the instrument that is chosen above")
        self.forget.setProperty("role", "quiet")
        runs: tuple[tuple[QPushButton, Callable[[], None]], ...] = (
            (self.go_on, self._go_on), (self.save, self._ask_out), (self.forget, self._forget),
        )  # fmt: skip
        for button, run in runs:
            button.clicked.connect(lambda _on, run=run: run())
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)

    @property
    def chosen(self) -> Recording | None:
        """The one that is shown."""
        place = self.runs.currentIndex()
        return self._listed[place] if 0 <= place < len(self._listed) else None

    def refresh(self, running: Recording | None) -> None:
        """Which there are, but for the one that is ``running``."""
        kinds = (RecordingKind.BENCH, RecordingKind.FLIGHT)
        listed = [one for one in recordings(self._session, *kinds) if running is None or one.id != running.id]
        if listed != self._listed:
            self._listed = listed
            self.runs.clear()
            self.runs.addItems([f"{one.begun_at:%Y-%m-%d %H:%M}, {one.name}" for one in listed])
        self._show_words(busy=running is not None)

    def _show_words(self, *, busy: bool) -> None:
        one = self.chosen
        self.words.setText(NONE if one is None else f"{str(one.kind).capitalize()}: {one.ended or CUT_OFF}.")
        for widget in (self.runs, self.save, self.forget):
            widget.setVisible(one is not None)
        self.go_on.setVisible(one is not None and not busy and may_go_on(self._session, one))

    def _show(self) -> None:
        self._show_words(busy=False)
        if self.chosen is not None:
            self.shown.emit(self.chosen)

    def _go_on(self) -> None:
        if self.chosen is not None:
            self.wanted.emit(self.chosen)

    def _ask_out(self) -> None:
        one = self.chosen
        if one is not None:
            name, _ = QFileDialog.getSaveFileName(self, "The run as a table", f"{one.name}.csv", TABLES)
            if name:
                self.put_out(Path(name), one)

    def put_out(self, path: Path, recording: Recording) -> None:
        """Write a recording as a table."""
        rows = recorded_rows(self._session, recording)
        if self.attempt.make(lambda: write_recording(path, recording, rows)):
            self.words.setText(f"{len(rows)} readings of {recording.name} stand in {path.name}.")

    def _forget(self) -> None:
        one = self.chosen
        if one is not None and self.attempt.make(lambda: remove_recording(self._session, one)):
            self.shown.emit(None)
