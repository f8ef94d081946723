"""The flights of the Logbook: which are shown, which one is chosen, and what is asked of it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from wise_cellar.core.bench import flown
from wise_cellar.core.documents import DocumentError, FlightEntry, PhaseEdge
from wise_cellar.core.logbook import FlownFlight
from wise_cellar.core.logbook.season import OVER, SeasonRow, picked, totals
from wise_cellar.core.units import format_minutes
from wise_cellar.ui.state.flight_facts import Facts, Shown, show_one
from wise_cellar.ui.state.flight_logs import ReadLog, keep_logs, may_be_a_log, read_logs
from wise_cellar.ui.state.log_reading import LogReading, are_large
from wise_cellar.ui.state.logbook_edits import (
    flights,
    flown_of,
    keep_mission,
    new_flight,
    remember_sensors,
    remove_flight,
    write_flight,
)
from wise_cellar.ui.state.recording_edits import told_of
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.logbook.entry_panel import EntryPanel
from wise_cellar.ui.stations.logbook.flight_report import FlightReport
from wise_cellar.ui.stations.logbook.flights_out import FlightsOut
from wise_cellar.ui.stations.logbook.phase_strip import PhaseStrip
from wise_cellar.ui.stations.logbook.run_picture import RunPicture
from wise_cellar.ui.stations.logbook.run_work import log_lines
from wise_cellar.ui.stations.logbook.season_picture import SeasonPicture
from wise_cellar.ui.stations.logbook.season_rows import SeasonRows, row_lines, row_tip
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.panel import heading, note, scrolling, sheet
from wise_cellar.ui.widgets.row_table import ROW_PX, RowTable

HEADS = ("Flown on", "Flight", "Minutes")
SHARES = (0.27, 0.54, 0.19)
ROWS = 7
OVER_MASS = "over take-off mass"
NONE = "No flight is written down yet: write one down, or drop its log here."
NOT_COMPARED = "not compared"
LOGS = "Logs (*.csv *.txt *.ulg *.bin *.tlog *.gpx);;All files (*)"
CHANNELS_AT = "Amps, volts, watts and warmth: as logged over as expected"


class FlightsWork(QObject):
    """Keeps :attr:`page` and :attr:`panels` with the chosen flight."""

    said = pyqtSignal()
    """Its headline is another."""
    mission_made = pyqtSignal(str)
    """What was flown is a mission now, by its identifier."""

    def __init__(self, session: Session, facts: Facts, parent: QObject) -> None:
        super().__init__(parent)
        self.session, self._facts = session, facts
        self.headline = ""
        self.rows: list[SeasonRow] = []
        self.chosen_id = ""
        self._season = SeasonRows(session)
        self.shown: Shown | None = None
        self._reader = Worker(self)
        self._reader.finished.connect(self._take)
        self._reader.failed.connect(lambda error: self._refuse(str(error)))
        self._logs = LogReading(self)
        self.page = QWidget()
        self.picture = SeasonPicture()
        self.table = RowTable("Flights", HEADS, SHARES)
        self.filter, self.over = EntryLine(), Chooser()
        self.strip, self.traces, self.report = PhaseStrip(), RunPicture("as logged"), FlightReport()
        self._lay_out()
        self.panel = EntryPanel(session)
        self.other = Chooser()
        self.out = FlightsOut(lambda: self.rows, lambda: self.shown, self.traces)
        self.panels: tuple[QWidget, ...] = (self._list_panel(), self.panel, self._season_panel())
        self._connect()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self.page)
        column.setContentsMargins(0, 4, 0, 0)
        self.totals = note()
        above = QWidget()
        inside = QVBoxLayout(above)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(2)
        row = QHBoxLayout()
        row.addWidget(self.picture.key, 1)
        self.over.setAccessibleName("Minutes over")
        self.over.addItems([f"over {one}" for one in OVER])
        row.addWidget(self.over)
        inside.addLayout(row)
        inside.addWidget(self.picture, 1)
        below = QWidget()
        under = QVBoxLayout(below)
        under.setContentsMargins(0, 4, 10, 0)
        self.traces.setAccessibleName(CHANNELS_AT)
        under.addWidget(self.traces.key)
        under.addWidget(self.strip)
        under.addWidget(self.traces)
        under.addWidget(self.report)
        under.addStretch(1)
        divided = Divided("flights", above, scrolling(below))
        divided.share(30, 70)
        column.addWidget(divided, 1)

    def _list_panel(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        inside.addWidget(heading("Flights"))
        self.filter.setAccessibleName("Show only flights with")
        self.filter.setPlaceholderText("show only: whimbrel marsh wind>6")
        inside.addWidget(self.filter)
        self.refused = Attempt()
        inside.addWidget(self.refused)
        self.table.setFixedHeight(ROW_PX * (ROWS + 1) + 6)
        inside.addWidget(self.table)
        inside.addWidget(self.totals)
        return panel

    def _season_panel(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        inside.addWidget(heading("Compare it fairly with"))
        self.other.setAccessibleName("Flight that it is compared with")
        inside.addWidget(self.other)
        inside.addWidget(note("What was not alike is taken out, one thing after the other; what is left is told."))
        inside.addWidget(heading("The season on paper and in files"))
        inside.addWidget(self.out)
        return panel

    def _connect(self) -> None:
        self.table.chosen.connect(self._choose_place)
        self.picture.chosen.connect(self._choose_place)
        self.filter.submitted.connect(self._filter)
        self.filter.textEdited.connect(self._filter)
        self.panel.began.connect(self._begin)
        self.panel.read.connect(self._ask_in)
        self.panel.removed.connect(self._remove)
        self.panel.stop.clicked.connect(lambda _on: self._logs.stop())
        self._logs.share.connect(self.panel.show_reading)
        self._logs.read.connect(self._keep_read)
        self._logs.failed.connect(self._not_read)
        self.strip.moved.connect(self._move_edge)
        self.report.mission_wanted.connect(self._make_mission)
        self.report.sensor_wanted.connect(self._remember_sensor)
        self.report.found_wanted.connect(self._as_found)
        self.other.activated.connect(lambda _place: self._ask())
        self.over.activated.connect(lambda _place: self._list())
        self.out.said.connect(self.totals.setText)

    @property
    def settled(self) -> bool:
        """Whether the chosen flight has been judged."""
        return not self._reader.busy and not self._logs.busy

    @property
    def entry(self) -> FlightEntry | None:
        """The chosen one."""
        return next((one for one in flights(self.session) if one.id == self.chosen_id), None)

    def close_work(self) -> None:
        """Stop judging, and reading."""
        self._reader.close()
        self._logs.close()

    def leave_workspace(self) -> None:
        """Choose nothing of the present one."""
        self._reader.forget()
        self._logs.stop()
        self.chosen_id, self.shown = "", None
        self.filter.accept_shown("")
        self.panel.show_entry(None)

    def refresh(self) -> None:
        """Show the flights as they are now."""
        self._list()
        self._show_chosen()

    def _list(self) -> None:
        every = self._season.every(weighed=self.over.currentText() == OVER_MASS)
        try:
            self.rows = picked(every, self.filter.text())
            self.refused.hide()
        except DocumentError as error:
            self.refused.say(str(error))
            self.rows = every
        if all(row.entry.id != self.chosen_id for row in self.rows):
            self.chosen_id = self.rows[-1].entry.id if self.rows else ""
        place = self._place()
        self.table.show_rows([row_lines(row) for row in self.rows], [row_tip(row) for row in self.rows])
        self.table.choose(place) if place >= 0 else None
        self.picture.show_rows(self.rows, place, tuple(OVER)[self.over.currentIndex()])
        self.totals.setText(f"{totals(self.rows)}." if self.rows else "")
        others = [(row.entry.id, f"{row.entry.flown_at:%Y-%m-%d}, {row.entry.name}") for row in every]
        others = [("", NOT_COMPARED), *(one for one in others if one[0] != self.chosen_id)]
        self._others = [identifier for identifier, _ in others]
        words = [text for _, text in others]
        if [self.other.itemText(place) for place in range(self.other.count())] != words:
            kept = self.other.currentText()
            self.other.clear()
            self.other.addItems(words)
            self.other.setCurrentIndex(words.index(kept) if kept in words else 0)

    def _place(self) -> int:
        return next((place for place, row in enumerate(self.rows) if row.entry.id == self.chosen_id), -1)

    def choose(self, identifier: str) -> None:
        """Show a flight."""
        self.chosen_id = identifier
        self.refresh()

    def _choose_place(self, place: int) -> None:
        if 0 <= place < len(self.rows) and self.rows[place].entry.id != self.chosen_id:
            self.choose(self.rows[place].entry.id)

    def _filter(self, text: str) -> None:
        self.filter.accept_shown(text) if not self.filter.hasFocus() else None
        self.refresh()

    def _show_chosen(self) -> None:
        entry = self.entry
        self.panel.show_entry(entry)
        self._say("Flights" if entry is None else entry.name)
        if entry is None:
            self.shown = None
            self._reader.forget()
            self._put_away()
            self.report.show_error(NONE, "faint")
            return
        self._ask()

    def _put_away(self) -> None:
        for widget in (self.strip, self.traces, self.traces.key):
            widget.hide()

    def _ask(self) -> None:
        entry = self.entry
        if entry is None:
            return
        other = next((one for one in flights(self.session) if one.id == self._other_id), None)
        try:
            mine = flown_of(self.session, self._facts, entry)
            theirs = None if other is None else flown_of(self.session, self._facts, other)
        except DocumentError as error:
            self._refuse(str(error))
            return
        if self.shown is None or self.shown.flown.entry.id != entry.id:
            self._put_away()
            self.report.show_error("Reading the flight…", "faint")
        of = (mine.of, None if theirs is None else theirs.of)
        self._reader.run(partial(show_one, self._facts, mine, theirs), of=of)

    @property
    def _other_id(self) -> str:
        place = self.other.currentIndex()
        return self._others[place] if 0 <= place < len(self._others) else ""

    def _refuse(self, sentence: str) -> None:
        self.shown = None
        self._put_away()
        self.report.show_error(sentence)

    def _take(self, shown: Shown) -> None:
        self.shown = shown
        fact, parts = shown.fact, shown.parts
        name = shown.flown.entry.name
        self._say(f"{name}: {format_minutes(parts.last_s)} flown, {format_minutes(parts.first_s)} planned")
        self.report.show_flight(shown, self.other.currentText())
        logged = isinstance(fact, FlownFlight)
        for widget in (self.strip, self.traces, self.traces.key):
            widget.setVisible(logged)
        if isinstance(fact, FlownFlight):
            self.strip.show_phases(fact.phases)
            run = flown(shown.flown.complete, fact.answered)
            recording = shown.flown.recording
            assert recording is not None, "what was logged has a recording"
            self.traces.expect(replace(run, time_s=run.time_s + fact.took_off_s), 0.0)
            self.traces.show_came(log_lines(fact.log, recording.series_count))

    def _say(self, headline: str) -> None:
        self.headline = headline
        self.said.emit()

    # What is asked of a flight

    def _begin(self) -> None:
        entry = new_flight(self.session, datetime.now().replace(second=0, microsecond=0))
        if self.panel.attempt.make(lambda: write_flight(self.session, entry)):
            self.filter.accept_shown("")
            self.choose(entry.id)
            self.panel.lines["duration_min"].setFocus()

    def _ask_in(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self.page, "Logs of flights", "", LOGS)
        if names:
            self.panel.attempt.make(lambda: self.take([Path(name) for name in names]))

    def take(self, paths: list[Path]) -> None:
        """Take logs, all or none, and show the last; large ones beside the window. Raises :class:`DocumentError`."""
        if are_large(paths):
            if not all(may_be_a_log(path) for path in paths):
                raise DocumentError("One of these tells no amps: a flight needs volts and amps.")
            self.panel.show_reading(0.0)
            self._logs.run(paths, told_of(self.session))
            return
        self._keep(read_logs(paths, told_of(self.session)))

    def _keep(self, read: ReadLog) -> None:
        self.panel.show_reading(None)
        taken = keep_logs(self.session, read)
        self.filter.accept_shown("")
        self._list()
        mine = [one for one in flights(self.session) if one.recording_id == taken[-1].id]
        if mine:
            self.choose(mine[0].id)

    def _keep_read(self, read: ReadLog) -> None:
        self.panel.attempt.make(lambda: self._keep(read))

    def _not_read(self, sentence: str) -> None:
        self.panel.show_reading(None)
        if sentence:
            self.panel.attempt.say(sentence)

    def _remove(self) -> None:
        entry = self.entry
        if entry is not None:
            self.panel.attempt.make(lambda: remove_flight(self.session, entry))

    def _move_edge(self, place: int, second: float) -> None:
        entry, shown = self.entry, self.shown
        if entry is None or shown is None or not isinstance(shown.fact, FlownFlight):
            return
        edges = [PhaseEdge(from_s=round(phase.from_s, 1), kind=str(phase.kind)) for phase in shown.fact.phases]
        edges[place] = edges[place].changed(from_s=round(second, 1))
        self.panel.attempt.make(
            lambda: write_flight(self.session, entry.changed(edges=tuple(edges)), "phases put right")
        )

    def _as_found(self) -> None:
        entry = self.entry
        if entry is not None:
            self.panel.attempt.make(lambda: write_flight(self.session, entry.changed(edges=()), "phases as found"))

    def _make_mission(self) -> None:
        entry, shown = self.entry, self.shown
        if entry is None or shown is None:
            return
        made: list[str] = []
        if self.report.attempt.make(lambda: made.append(keep_mission(self.session, entry, shown.fact).id)):
            self.mission_made.emit(made[0])

    def _remember_sensor(self) -> None:
        entry, shown = self.entry, self.shown
        if entry is not None and shown is not None and isinstance(shown.fact, FlownFlight):
            fact = shown.fact
            self.report.attempt.make(lambda: remember_sensors(self.session, fact, entry.name))
