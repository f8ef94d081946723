"""What was recorded, to be shown again, saved as a table, forgotten, or gone on with."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import Recording, RecordingKind
from wise_cellar.core.units import counted
from wise_cellar.store.recording_tables import write_recording
from wise_cellar.ui.state.recording_edits import recorded_rows, recordings, remove_recording
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import button_row

TABLES = "Tables (*.csv)"
CUT_OFF = "it was cut off"


class RecordedList(QWidget):
    """Recordings of some kinds. ``shown`` brings the one that is to be drawn, or none when it was forgotten;
    ``wanted`` one that is to be gone on with, of those for which ``may_go_on`` says so."""

    shown = pyqtSignal(object)
    wanted = pyqtSignal(object)

    def __init__(
        self, session: Session, *kinds: RecordingKind, nothing: str = "",
        may_go_on: Callable[[Recording], bool] | None = None,
    ) -> None:  # fmt: skip
        super().__init__()
        self._session, self._kinds, self._nothing, self._may_go_on = session, kinds, nothing, may_go_on
        self._listed: list[Recording] = []
        self._running: Recording | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.chooser = Chooser()
        self.chooser.setAccessibleName(f"Recorded: {', '.join(kinds)}")
        self.words = Label()
        self.words.setWordWrap(True)
        self.go_on, self.save, self.forget = QPushButton("Go on"), QPushButton("Save as CSV…"), QPushButton("Forget it")
        self.go_on.setToolTip("With what is left of its schedule, on the instrument that is chosen")
        self.forget.setProperty("role", "quiet")
        column.addWidget(self.chooser)
        column.addWidget(self.words)
        column.addLayout(button_row((self.go_on, self._go_on), (self.save, self._ask_out), (self.forget, self._forget)))
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        self.chooser.activated.connect(lambda _place: self._show())
        self.refresh(None)

    @property
    def chosen(self) -> Recording | None:
        """The one that is shown."""
        place = self.chooser.currentIndex()
        return self._listed[place] if 0 <= place < len(self._listed) else None

    def choose(self, recording: Recording) -> None:
        """Show one of them."""
        place = next((at for at, one in enumerate(self._listed) if one.id == recording.id), None)
        if place is not None:
            self.chooser.setCurrentIndex(place)
            self._show()

    def refresh(self, running: Recording | None) -> None:
        """Which there are, but for the one that is ``running``; while one is, none is gone on with."""
        self._running = running
        found = recordings(self._session, *self._kinds)
        listed = [one for one in found if running is None or one.id != running.id]
        if listed != self._listed:
            self._listed = listed
            self.chooser.clear()
            self.chooser.addItems([f"{one.begun_at:%Y-%m-%d %H:%M}, {one.name}" for one in listed])
        self._show_words()

    def _show_words(self) -> None:
        one = self.chosen
        self.words.setText(self._nothing if one is None else f"{str(one.kind).capitalize()}: {one.ended or CUT_OFF}.")
        self.words.setVisible(bool(self.words.text()))
        for widget in (self.chooser, self.save, self.forget):
            widget.setVisible(one is not None)
        may = one is not None and self._running is None and self._may_go_on is not None and self._may_go_on(one)
        self.go_on.setVisible(may)

    def _show(self) -> None:
        self._show_words()
        if self.chosen is not None:
            self.shown.emit(self.chosen)

    def _go_on(self) -> None:
        if self.chosen is not None:
            self.wanted.emit(self.chosen)

    def _ask_out(self) -> None:
        one = self.chosen
        if one is not None:
            name, _ = QFileDialog.getSaveFileName(self, "The recording as a table", f"{one.name}.csv", TABLES)
            if name:
                self.put_out(Path(name), one)

    def put_out(self, path: Path, recording: Recording) -> None:
        """Write a recording as a table."""
        rows = recorded_rows(self._session, recording)
        if self.attempt.make(lambda: write_recording(path, recording, rows)):
            self.words.setText(f"{path.name} holds {counted(len(rows), 'reading')} of {recording.name} now.")
            self.words.show()

    def _forget(self) -> None:
        one = self.chosen
        if one is not None and self.attempt.make(lambda: remove_recording(self._session, one)):
            self.refresh(self._running)
            self.shown.emit(None)
