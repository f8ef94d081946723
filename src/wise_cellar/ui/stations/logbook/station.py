"""The Logbook station: bench runs and flights, recorded as they come over what was expected."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

from wise_cellar.core.bench import flown
from wise_cellar.core.documents import CompleteDesign, DocumentError, Recording, RecordingKind
from wise_cellar.core.logbook import FlownFlight, Noted, flown_flight, log_of_rows
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_minutes
from wise_cellar.ui.state.learned_edits import take_pack, take_power
from wise_cellar.ui.state.live_run import may_go_on
from wise_cellar.ui.state.recording_edits import recorded_rows, take_flights
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.logbook import DOORWAY
from wise_cellar.ui.stations.logbook.flight_report import FlightReport
from wise_cellar.ui.stations.logbook.run_panel import RunPanel
from wise_cellar.ui.stations.logbook.run_picture import RunPicture
from wise_cellar.ui.stations.logbook.run_work import CameLines, PlannedRun, Source, planned_run
from wise_cellar.ui.stations.logbook.what_panel import WhatPanel
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, paragraph, scrolling, sheet
from wise_cellar.ui.widgets.recorded import RecordedList

SIDE = 336


def read_flight(recording: Recording, rows: Floats, complete: CompleteDesign) -> FlownFlight:
    """A recorded flight held against a design; raises :class:`DocumentError`."""
    log = log_of_rows(recording.quantities, rows, recording.name)
    return flown_flight(log, complete, Noted(returned_mah=recording.returned_mah))


class LogbookStation(Station):
    """What comes over what is expected; beside it what is run, by what, and what was run."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.planned: PlannedRun | None = None
        self._anew = False
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(self._refuse)
        column, self.headline, side = self.lay_out(SIDE)
        self._sentences = Lines(paragraph)
        self._sentences.setSpacing(2)
        column.addLayout(self._sentences)
        self.picture = RunPicture()
        column.addWidget(self.picture.key)
        self.report = FlightReport()
        self._report_area = scrolling(self.report)
        self._report_area.hide()
        divided = Divided("logbook", self.picture, self._report_area)
        divided.share(48, 52)
        column.addWidget(divided, 1)
        self.report.told.connect(self._tell_returned)
        self.report.pack_wanted.connect(lambda: self._learn(power=False))
        self.report.power_wanted.connect(lambda: self._learn(power=True))
        self._shown: Recording | None = None
        self.flight: FlownFlight | None = None
        self._reader = Worker(self)
        self._reader.finished.connect(self._show_flight)
        self._reader.failed.connect(lambda error: self.report.show_error(str(error)))
        self.what, self.run = WhatPanel(session), RunPanel(session)
        self.runs = RecordedList(
            session, RecordingKind.BENCH, RecordingKind.FLIGHT, nothing="Nothing was recorded yet.",
            may_go_on=lambda one: may_go_on(session, one),
        )  # fmt: skip
        recorded, inside = sheet(spacing=6)
        inside.addWidget(heading("Runs and flights"))
        inside.addWidget(self.runs)
        for panel in (self.what, self.run, recorded):
            side.addWidget(panel)
        side.addStretch(1)
        self.what.asked.connect(self._ask_anew)
        self.run.came.connect(self.picture.show_came)
        self.run.changed.connect(self._expect)
        self.run.over.connect(self._begin)
        self.runs.shown.connect(self._show_recording)
        self.runs.wanted.connect(self._go_on)

    @property
    def settled(self) -> bool:
        """Whether everything has been predicted."""
        return not self._worker.busy and not self._reader.busy

    def close_work(self) -> None:
        """Stop predicting, and reading."""
        self._worker.close()
        self._reader.close()

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
            self._show_report(None)
        self.what.refresh()
        self._list()
        self._ask()
        if self._shown is not None:
            kept = self.session.all(Recording).get(self._shown.id)
            self._show_report(kept)
            if kept is None:
                self.picture.show_came({})

    def _ask(self) -> None:
        complete = self.session.complete
        self._worker.run(partial(planned_run, complete, self.session.answer, self.what.question()))

    def _ask_anew(self) -> None:
        """Something else is to be run: the flight that was shown is put away."""
        self._show_report(None)
        self.picture.show_came({})
        self._ask()

    def _take(self, planned: PlannedRun) -> None:
        self.planned = planned
        self.run.plan(planned, self.session.complete)
        self._show_plan()

    def _show_plan(self) -> None:
        """What would be run, where no flight is shown."""
        planned = self.planned
        if planned is None or self._shown is not None:
            return
        self._sentences.show_lines([Line(sentence) for sentence in planned.sentences()])
        seconds = (planned.by_hand if planned.refused else planned.expected).seconds
        self.headline.setText(f"{self._what(planned)}: {format_minutes(seconds)} by prediction")

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
        if self._shown is None:
            self.headline.setText("Nothing to run yet")
            self._sentences.show_lines([Line(str(error), "error")])

    def _expect(self) -> None:
        if self._shown is None:
            self.picture.expect(self.run.expected, self.run.least_v)

    def _show_report(self, recording: Recording | None) -> None:
        """A flight in words, under its picture; none puts it away."""
        flies = recording is not None and recording.kind is RecordingKind.FLIGHT
        self._shown = recording if flies else None
        self._report_area.setVisible(flies)
        if recording is None or not flies:
            self._reader.forget()
            self._expect()
            self._show_plan()
            return
        self.headline.setText(f"{recording.name}: a flight over what was expected of it")
        self._sentences.show_lines([])
        self.flight = None
        self.report.show_recording(recording)
        rows = recorded_rows(self.session, recording)
        self._reader.run(partial(read_flight, recording, rows, self.session.complete))

    def _show_flight(self, found: FlownFlight) -> None:
        complete, self.flight = self.session.complete, found
        run = flown(complete, found.answered)
        self.picture.expect(replace(run, time_s=run.time_s + found.took_off_s), 0.0)
        self.report.show_flight(found)

    def _learn(self, *, power: bool) -> None:
        found, shown = self.flight, self._shown
        if found is None or shown is None:
            return
        if power:
            self.report.attempt.make(lambda: take_power(self.session, found, shown))
        else:
            self.report.attempt.make(lambda: take_pack(self.session, found, shown.name))

    def take_in(self, paths: list[Path]) -> bool:
        """Take logs that were dropped on the window, and show the last; whether all of them are flights."""
        try:
            taken = take_flights(self.session, paths)
        except DocumentError:
            return False
        self._list()
        self.runs.choose(taken[-1])
        return True

    def _tell_returned(self, mah: float | None) -> None:
        shown = self._shown
        if shown is not None:
            told = shown.changed(returned_mah=mah)
            self.session.commit(f"What was put back after {shown.name}", [told])

    def _list(self) -> None:
        recorder = self.run.recorder
        self.runs.refresh(recorder.recording if recorder is not None and recorder.running else None)
        self.what.refresh()

    def _show_recording(self, recording: Recording | None) -> None:
        if self.run.running:
            return
        self._list()
        self._show_report(recording)
        if recording is None:
            self.picture.show_came({})
            return
        rows = recorded_rows(self.session, recording)
        self.picture.show_came(CameLines(recording.quantities, recording.series_count).read(rows) if len(rows) else {})

    def _begin(self) -> None:
        """Something else is recorded now."""
        if self.run.running:
            self._show_report(None)
        self._list()

    def _go_on(self, recording: Recording) -> None:
        self.run.go_on(recording)
        self._list()
