"""Bench runs and flights as they come, over what was expected of them: what is run, by what, and what was run."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.documents import Recording, RecordingKind
from wise_cellar.core.units import format_minutes
from wise_cellar.ui.state.live_run import may_go_on
from wise_cellar.ui.state.recording_edits import recorded_rows, recordings
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.logbook.run_panel import RunPanel
from wise_cellar.ui.stations.logbook.run_picture import RunPicture
from wise_cellar.ui.stations.logbook.run_work import CameLines, PlannedRun, Source, compared, planned_run
from wise_cellar.ui.stations.logbook.run_work import Lines as RunLines
from wise_cellar.ui.stations.logbook.what_panel import WhatPanel
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, paragraph, sheet
from wise_cellar.ui.widgets.recorded import RecordedList

NOTHING = "nothing beside it"


class BenchWork(QObject):
    """Keeps :attr:`page` and :attr:`panels`."""

    said = pyqtSignal()
    """Its headline is another."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.planned: PlannedRun | None = None
        self.headline = ""
        self._anew = False
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(self._refuse)
        self.page = QWidget()
        column = QVBoxLayout(self.page)
        column.setContentsMargins(0, 4, 0, 0)
        self.sentences = Lines(paragraph)
        self.sentences.setSpacing(2)
        column.addLayout(self.sentences)
        self.picture = RunPicture()
        column.addWidget(self.picture.key)
        column.addWidget(self.picture, 1)
        self.what, self.run = WhatPanel(session), RunPanel(session)
        self.runs = RecordedList(
            session, RecordingKind.BENCH, nothing="Nothing was run yet.",
            may_go_on=lambda one: may_go_on(session, one),
        )  # fmt: skip
        recorded, inside = sheet(spacing=6)
        inside.addWidget(heading("Runs"))
        inside.addWidget(self.runs)
        self.beside, self.beside_words = Chooser(), note()
        self.beside.setAccessibleName("Run that is laid beside it")
        self._others: list[Recording] = []
        inside.addWidget(self.beside)
        inside.addWidget(self.beside_words)
        self.panels: tuple[QWidget, ...] = (self.what, self.run, recorded)
        self.what.asked.connect(self._ask_anew)
        self.run.came.connect(self.picture.show_came)
        self.run.changed.connect(self._expect)
        self.run.over.connect(self._list)
        self.runs.shown.connect(self._show_recording)
        self.runs.wanted.connect(self._go_on)
        self.beside.activated.connect(lambda _place: self._show_beside())

    @property
    def settled(self) -> bool:
        """Whether everything has been predicted."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop predicting."""
        self._worker.close()

    def leave_workspace(self) -> None:
        """What was run and typed belongs to the one that is left."""
        self._worker.forget()
        self._anew = True

    def refresh(self) -> None:
        """Show what is there, and predict anew."""
        if self._anew:
            self._anew = False
            self.planned = None
            self.what.begin_anew()
            self.run.begin_anew()
            self.picture.show_came({})
        self.what.refresh()
        self._list()
        self._show_beside()
        if self.runs.chosen is None and not self.run.running:
            self.picture.show_came({})
        self._ask()

    def _ask(self) -> None:
        complete = self.session.complete
        self._worker.run(partial(planned_run, complete, self.session.answer, self.what.question()))

    def _ask_anew(self) -> None:
        """Something else is to be run: what was shown is put away."""
        self.picture.show_came({})
        self._ask()

    def _take(self, planned: PlannedRun) -> None:
        self.planned = planned
        self.run.plan(planned, self.session.complete)
        self.sentences.show_lines([Line(sentence) for sentence in planned.sentences()])
        seconds = (planned.by_hand if planned.refused else planned.expected).seconds
        self._say(f"{self._what(planned)}: {format_minutes(seconds)} by prediction")

    def _say(self, headline: str) -> None:
        self.headline = headline
        self.said.emit()

    def _what(self, planned: PlannedRun) -> str:
        question = planned.question
        if question.source is Source.MISSION:
            return self.session.complete.mission.name
        if question.source is Source.TYPED or question.recorded is None:
            return "A typed schedule"
        return question.recorded[0]

    def _refuse(self, error: Exception) -> None:
        self.planned = None
        self.run.plan(None, self.session.complete)
        self.sentences.show_lines([Line(str(error), "error")])
        self._say("Nothing to run yet")

    def _expect(self) -> None:
        self.picture.expect(self.run.expected, self.run.least_v)

    def _list(self) -> None:
        recorder = self.run.recorder
        self.runs.refresh(recorder.recording if recorder is not None and recorder.running else None)
        self.what.refresh()

    def _show_recording(self, recording: Recording | None) -> None:
        if self.run.running:
            return
        self._list()
        if recording is None:
            self.picture.show_came({})
            return
        self.picture.show_came(self._lines(recording))
        self._show_beside()

    def _lines(self, recording: Recording) -> RunLines:
        rows = recorded_rows(self.session, recording)
        return CameLines(recording.quantities, recording.series_count).read(rows) if len(rows) else {}

    def _list_others(self) -> None:
        """Runs that may lie beside the chosen one."""
        chosen = self.runs.chosen
        others = [one for one in recordings(self.session, RecordingKind.BENCH) if chosen and one.id != chosen.id]
        if others != self._others:
            self._others = others
            self.beside.clear()
            self.beside.addItems([NOTHING, *(f"{one.begun_at:%Y-%m-%d %H:%M}, {one.name}" for one in others)])
        self.beside.setVisible(bool(others))

    def _show_beside(self) -> None:
        """Draw the run that is laid beside the chosen one, and say what differs."""
        self._list_others()
        place, chosen = self.beside.currentIndex() - 1, self.runs.chosen
        if chosen is None or not 0 <= place < len(self._others):
            self.picture.show_beside({})
            self.beside_words.hide()
            return
        other = self._lines(self._others[place])
        self.picture.show_beside(other)
        self.beside_words.setText(compared(self._lines(chosen), other, self._others[place].name))
        self.beside_words.show()

    def _go_on(self, recording: Recording) -> None:
        self.run.go_on(recording)
        self._list()
