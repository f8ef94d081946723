"""The flights of the Logbook: which are shown, which one is chosen, and what is asked of it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.bench import flown
from wise_cellar.core.documents import BuiltPack, Craft, Design, DocumentError, FlightEntry, PhaseEdge
from wise_cellar.core.logbook import FlownFlight
from wise_cellar.core.logbook.season import OVER, SeasonRow, picked, season_to_csv, season_to_json, totals
from wise_cellar.core.lowering.designs import lower_one
from wise_cellar.core.units import format_celsius, format_mah, format_minutes, format_number, format_speed
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.flight_facts import Facts, Shown, show_one
from wise_cellar.ui.state.flight_logs import ReadLog, keep_logs, may_be_a_log, read_logs
from wise_cellar.ui.state.log_reading import LogReading, are_large
from wise_cellar.ui.state.logbook_edits import (
    complete_of,
    flights,
    flown_of,
    keep_mission,
    new_flight,
    remember_sensors,
    remove_flight,
    write_flight,
)
from wise_cellar.ui.state.memory import Memory
from wise_cellar.ui.state.recording_edits import told_of
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.logbook.entry_panel import EntryPanel
from wise_cellar.ui.stations.logbook.flight_report import FlightReport
from wise_cellar.ui.stations.logbook.phase_strip import PhaseStrip
from wise_cellar.ui.stations.logbook.run_picture import RunPicture
from wise_cellar.ui.stations.logbook.run_work import log_lines
from wise_cellar.ui.stations.logbook.season_picture import SeasonPicture
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.lines import Line
from wise_cellar.ui.widgets.panel import button_row, heading, note, scrolling, sheet
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
        self._masses = Memory()
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
        self.out = Attempt()
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
        self.as_csv, self.as_json = QPushButton("Flights as CSV…"), QPushButton("As JSON…")
        self.as_pdf = QPushButton("This flight as PDF…")
        inside.addLayout(button_row((self.as_csv, self._ask_csv), (self.as_json, self._ask_json)))
        inside.addLayout(button_row((self.as_pdf, self._ask_pdf)))
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
        every = self._season()
        try:
            self.rows = picked(every, self.filter.text())
            self.refused.hide()
        except DocumentError as error:
            self.refused.say(str(error))
            self.rows = every
        if all(row.entry.id != self.chosen_id for row in self.rows):
            self.chosen_id = self.rows[-1].entry.id if self.rows else ""
        place = self._place()
        self.table.show_rows([_row(row) for row in self.rows], [_tip(row) for row in self.rows])
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

    def _season(self) -> list[SeasonRow]:
        session = self.session
        designs, crafts, packs = session.all(Design), session.all(Craft), session.all(BuiltPack)
        found = []
        for entry in flights(session):
            design, pack = designs.get(entry.design_id), packs.get(entry.pack_id)
            craft = None if design is None else crafts.get(design.craft_id)
            found.append(SeasonRow(
                entry, "" if craft is None else craft.name, "" if design is None else design.name,
                "" if pack is None else pack.name, self._takeoff_g(entry),
            ))  # fmt: skip
        return found

    def _takeoff_g(self, entry: FlightEntry) -> float | None:
        """What took off, where minutes are shown over it: it is told by the whole design."""
        if self.over.currentText() != OVER_MASS:
            return None
        try:
            complete = complete_of(self.session, entry)
        except DocumentError:
            return None
        known: float | None = self._masses.get(complete)
        if known is None:
            known = lower_one(complete, 1.0).takeoff_mass_g
            self._masses.keep(complete, known)
        return known

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

    # Files

    def _ask_csv(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self.page, "Flights as a table", "flights.csv", "Tables (*.csv)")
        if name:
            self.put_out(Path(name), season_to_csv(self.rows))

    def _ask_json(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self.page, "Flights as JSON", "flights.json", "JSON (*.json)")
        if name:
            self.put_out(Path(name), season_to_json(self.rows))

    def put_out(self, path: Path, text: str) -> None:
        """Write a file, and say so."""
        if self.out.make(lambda: write_whole(path, text)):
            self.totals.setText(f"{len(self.rows)} flights stand in {path.name}.")

    def _ask_pdf(self) -> None:
        entry = self.entry
        if entry is None:
            return
        name, _ = QFileDialog.getSaveFileName(self.page, "The flight on paper", f"{entry.id}.pdf", "PDF (*.pdf)")
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write the chosen flight as a page of PDF."""
        from wise_cellar.ui.stations.logbook.flight_sheet import write_flight_sheet

        shown = self.shown
        if shown is None:
            self.out.say("This flight is not judged yet: wait until it is read.")
        elif self.out.make(lambda: write_flight_sheet(path, shown, self.traces)):
            self.totals.setText(f"{shown.flown.entry.name} stands in {path.name}.")


def _row(row: SeasonRow) -> tuple[Line, ...]:
    entry = row.entry
    minutes = "" if entry.duration_min is None else format_number(entry.duration_min, 1)
    told = (f"{entry.flown_at:%Y-%m-%d}", entry.name, minutes)
    return tuple(Line(text, "" if entry.teaches else "faint", 11.5) for text in told)


def _tip(row: SeasonRow) -> str:
    """What has no room in its row."""
    entry = row.entry
    told = [
        f"{entry.flown_at:%Y-%m-%d %H:%M}", entry.name, row.pack or row.design, entry.place,
        "" if entry.returned_mah is None else f"{format_mah(entry.returned_mah)} put back",
        "" if entry.wind_m_s is None else f"wind {format_speed(entry.wind_m_s)}",
        "" if entry.air_temperature_c is None else format_celsius(entry.air_temperature_c),
        "logged" if entry.recording_id else "by hand", entry.note,
    ]  # fmt: skip
    return ", ".join(word for word in told if word)
