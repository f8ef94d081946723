"""A run: on which instrument, how, within which limits; started, paused, gone on with and stopped."""

from __future__ import annotations

from enum import StrEnum

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.bench import RunPrediction, total_seconds
from wise_cellar.core.cells import burst_limit_a, burst_s
from wise_cellar.core.charge import about
from wise_cellar.core.documents import CompleteDesign, DocumentError, Recording, RunStep
from wise_cellar.core.shown import shown
from wise_cellar.core.units import (
    QuantityError,
    entry_text,
    format_amps,
    format_mah,
    format_minutes,
    format_volts,
    parse_typed,
    unit_of_field,
)
from wise_cellar.instruments.guard import VOLTS_OVER, RunGuard
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.live_run import FlightRecorder, RunRecorder
from wise_cellar.ui.state.recorder import Recorder
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.logbook.run_work import CameLines, PlannedRun, Source, step_words
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import button_row, heading, note, paragraph, sheet

NO_DEVICE = "Open a load or a craft's telemetry under View › Instruments, or start one that stands in there."
WARMEST_C = 60.0
FLIES_SHARE = 0.15
"""Of the current that is expected first: a flight has begun."""
TURN_MS = 500
VOLTS, CELSIUS, AMPS = unit_of_field("min_voltage_v"), unit_of_field("temperature_c"), unit_of_field("current_a")
LIMITS = (("Ends at volts a cell", VOLTS), ("Warmest", CELSIUS), ("Most, of all together", AMPS))
BY_HAND = "it was stopped by hand"
SAID = {
    "load": "A human stays with it, and what burns lies elsewhere. The load is switched off at any doubt; only a hand"
    " takes the pack off.",
    "hand": "Bolt the craft down, keep out of the plane of its propellers, and have a second hand on the plug."
    " Nothing here can cut its throttle.",
    "flight": "It is only listened to: nothing is sent to the craft. Keep your eyes on the craft, not on this.",
}


class How(StrEnum):
    """Who leads it."""

    LOAD = "by the load"
    HAND = "by hand, the craft held down"
    FLIGHT = "in flight, only listened to"


def current_of(recorder: Recorder) -> tuple[float, float, float]:
    """Seconds, volts and amps of the last row that told both."""
    rows, names = recorder.rows, recorder.quantities
    for row in rows[:-50:-1]:
        volts, amps = row[1 + names.index("volts")], row[1 + names.index("amps")]
        if np.isfinite(volts) and np.isfinite(amps):
            return float(row[0]), float(volts), float(amps)
    return 0.0, np.nan, np.nan


class RunPanel(QWidget):
    """``came`` brings what has come, by plot; ``over`` that a recording has ended or begun."""

    came = pyqtSignal(object)
    over = pyqtSignal()
    changed = pyqtSignal()
    """Another way, or other limits."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._planned: PlannedRun | None = None
        self._lines = CameLines((), 1)
        self._against: RunPrediction | None = None
        self._devices: list[Device] = []
        self.recorder: RunRecorder | FlightRecorder | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("Run it"))
        self.hint = note(NO_DEVICE)
        self.devices, self.how = Chooser(), Chooser()
        self.devices.setAccessibleName("Instrument that records it")
        self.how.setAccessibleName("Who leads it")
        for widget in (self.hint, self.devices, self.how):
            inside.addWidget(widget)
        self.limits = self._made_limits()
        inside.addWidget(self.limits)
        self.start, self.pause, self.stop_it = QPushButton("Start"), QPushButton("Pause"), QPushButton("Stop")
        inside.addLayout(button_row((self.start, self._start), (self.pause, self._pause), (self.stop_it, self._stop)))
        self.words = Lines(paragraph)
        inside.addLayout(self.words)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self.caution = note(SAID["load"], "caution")
        inside.addWidget(self.caution)
        self.devices.activated.connect(lambda _place: self._show_ways())
        self.how.activated.connect(lambda _place: self._show_state())
        for entry in self._entries:
            entry.submitted.connect(lambda text, entry=entry: self._type(entry, text))
        self._turn = QTimer(self)
        self._turn.setInterval(TURN_MS)
        self._turn.timeout.connect(self._show_now)
        session.desk.changed.connect(self.refresh)
        for recorder in session.desk.findChildren(Recorder):
            if recorder.running and isinstance(recorder, RunRecorder | FlightRecorder):
                self._follow(recorder)
        self.refresh()

    def _made_limits(self) -> QWidget:
        limits = QWidget()
        grid = QGridLayout(limits)
        grid.setContentsMargins(0, 0, 0, 0)
        self.least, self.warmest, self.most = EntryLine(), EntryLine(), EntryLine()
        self._entries = (self.least, self.warmest, self.most)
        for row, ((title, unit), entry) in enumerate(zip(LIMITS, self._entries, strict=True)):
            entry.setAccessibleName(title)
            grid.addWidget(Label(f"{title}, {shown(unit.symbol).symbol}"), row, 0)
            grid.addWidget(entry, row, 1)
        return limits

    def begin_anew(self) -> None:
        """Another workspace is shown: nothing of a run in this one."""
        self.recorder = None
        self.words.show_lines([])
        self.attempt.hide()
        self.how.setCurrentIndex(0)
        for entry in self._entries:
            entry.accept_shown("")

    @property
    def running(self) -> bool:
        """Whether something is recorded."""
        return self.recorder is not None and self.recorder.running

    @property
    def way(self) -> How:
        """Who would lead it."""
        return self._ways()[max(self.how.currentIndex(), 0)]

    @property
    def expected(self) -> RunPrediction | None:
        """What is expected of what is run, as it was when it began; else of what would be run."""
        if self.running:
            return self._against
        planned = self._planned
        if planned is None:
            return None
        return planned.expected if self.way is How.LOAD and not planned.refused else planned.by_hand

    @property
    def least_v(self) -> float:
        """Volts a cell at which it is ended; nought of a flight."""
        try:
            return 0.0 if self.way is How.FLIGHT else parse_typed(self.least.text(), VOLTS)
        except QuantityError:
            return 0.0

    def plan(self, planned: PlannedRun | None, complete: CompleteDesign) -> None:
        """What would be run, with limits of its cells where none were typed."""
        self._planned = planned
        cell = complete.pack.cell
        one = planned is not None and planned.question.one_cell
        most = burst_limit_a(cell, burst_s(cell)) * (1 if one else complete.pack.recipe.parallel_count)
        usual = (cell.min_voltage_v, cell.max_temperature_c or WARMEST_C, most)
        for entry, value, (_, unit) in zip(self._entries, usual, LIMITS, strict=True):
            entry.show_text(entry_text(round(value, 2), unit))
        self._show_state()

    def _type(self, entry: EntryLine, text: str) -> None:
        unit = LIMITS[self._entries.index(entry)][1]
        try:
            entry.accept_shown(entry_text(parse_typed(text, unit), unit))
            self.attempt.hide()
        except QuantityError as error:
            self.attempt.say(str(error))
        self.changed.emit()

    def refresh(self) -> None:
        """Which instruments there are."""
        devices = [one for one in self._session.desk.devices if {"volts", "amps"} <= set(one.profile.quantities)]
        if devices != self._devices:
            self._devices = devices
            self.devices.clear()
            self.devices.addItems([f"{one.name}, {one.address}" for one in devices])
            self._show_ways()
        self._show_state()

    def _ways(self) -> list[How]:
        place = self.devices.currentIndex()
        device = self._devices[place] if 0 <= place < len(self._devices) else None
        loads = device is None or bool(device.profile.told.off and device.profile.told.amps)
        return list(How) if loads else [How.HAND, How.FLIGHT]

    def _show_ways(self) -> None:
        ways = [str(way) for way in self._ways()]
        if [self.how.itemText(at) for at in range(self.how.count())] != ways:
            self.how.clear()
            self.how.addItems(ways)
        self._show_state()

    def _show_state(self) -> None:
        running, there = self.running, bool(self._devices)
        way = self.way
        self.limits.setVisible(way is not How.FLIGHT)
        self.hint.setVisible(not there and not running)
        for widget, seen in (
            (self.devices, there and not running), (self.how, there and not running),
            (self.start, there and not running), (self.pause, running and isinstance(self.recorder, RunRecorder)),
            (self.stop_it, running),
        ):  # fmt: skip
            widget.setVisible(seen)
        for entry in self._entries:
            entry.setEnabled(not running)
        self.start.setEnabled(self._planned is not None)
        self.pause.setText("Go on" if isinstance(self.recorder, RunRecorder) and self.recorder.paused else "Pause")
        self.caution.setText(SAID[way.name.lower()])
        self.changed.emit()

    def _guard(self, series: int) -> RunGuard:
        """The limits as they were typed; raises :class:`DocumentError` where they are none of these cells."""
        cell = self._session.complete.pack.cell
        try:
            least, warmest, most = (
                parse_typed(entry.text(), unit) for entry, (_, unit) in zip(self._entries, LIMITS, strict=True)
            )
        except QuantityError as error:
            raise DocumentError(str(error)) from error
        if not cell.min_voltage_v <= least < cell.max_voltage_v:
            raise DocumentError(f"A run of {cell.name} ends at {format_volts(cell.min_voltage_v)} a cell or above.")
        hottest = cell.max_temperature_c or WARMEST_C
        if not 0 < warmest <= hottest:
            raise DocumentError(f"{cell.name} may be up to {entry_text(hottest, CELSIUS)} {CELSIUS.symbol} warm.")
        if not most > 0:
            raise DocumentError("The most current must be more than 0.")
        return RunGuard(series * least, series * (cell.max_voltage_v + VOLTS_OVER), warmest, most)

    def _start(self) -> None:
        self.attempt.make(self._begin)
        self._show_state()

    def _begin(self) -> None:
        """Raises :class:`DocumentError`, ``WorkspaceError``."""
        planned, device = self._planned, self._devices[self.devices.currentIndex()]
        if planned is None:
            return
        recipe = self._session.complete.pack.recipe
        if self.way is How.FLIGHT:
            flows = planned.by_hand.amps[planned.by_hand.amps > 0]
            flight = FlightRecorder(
                self._session, device, FLIES_SHARE * float(flows[0]) if len(flows) else 0.0, self._session.desk
            )
            flight.begin(self._session.complete.mission.name)
            self._follow(flight)
            return
        load = self.way is How.LOAD
        if load and planned.refused:
            raise DocumentError(planned.refused)
        one = load and planned.question.one_cell
        series, parallel = (1, 1) if one else (recipe.series_count, recipe.parallel_count)
        guard = self._guard(series)
        steps = planned.load if load else planned.hand
        _within(steps, guard)
        run = RunRecorder(self._session, device, steps, guard, by_hand=not load, parent=self._session.desk)
        run.begin(_name(planned, self._session.complete.mission.name), series, parallel)
        self._follow(run)

    def go_on(self, recording: Recording) -> bool:
        """Go on with a run that was cut off, on the chosen instrument; whether it does."""
        place = self.devices.currentIndex()

        def go() -> None:
            if not 0 <= place < len(self._devices):
                raise DocumentError(NO_DEVICE)
            if recording.cell_type_id != self._session.complete.pack.cell.id:
                raise DocumentError(f"{recording.name} was a run of other cells: open the design that it was made of.")
            told_by_name = any(step.throttle_percent is not None or step.name for step in recording.steps)
            by_hand = self.way is not How.LOAD or told_by_name
            run = RunRecorder(
                self._session, self._devices[place], recording.steps, self._guard(recording.series_count),
                by_hand=by_hand, parent=self._session.desk,
            )  # fmt: skip
            run.go_on(recording)
            self._follow(run)

        done = self.attempt.make(go)
        self._show_state()
        return done

    def _follow(self, recorder: RunRecorder | FlightRecorder) -> None:
        self._against = self.expected
        if self.recorder is not None:
            self.recorder.forget()
        self.recorder = recorder
        series = recorder.recording.series_count if recorder.recording is not None else 1
        self._lines = CameLines(recorder.quantities, series)
        recorder.ended.connect(self._show_ended)
        if isinstance(recorder, RunRecorder):
            recorder.stepped.connect(self._show_step)
        self._turn.start()
        self.over.emit()
        self._show_now()

    def _pause(self) -> None:
        if isinstance(self.recorder, RunRecorder):
            (self.recorder.resume if self.recorder.paused else self.recorder.pause)()
        self._show_state()

    def _stop(self) -> None:
        if self.recorder is not None:
            self.recorder.stop(BY_HAND)

    def _show_step(self) -> None:
        self._show_now()
        self._show_state()

    def _show_now(self) -> None:
        recorder = self.recorder
        if recorder is None or recorder.recording is None:
            return
        lines = _step_lines(recorder) if isinstance(recorder, RunRecorder) and recorder.running else []
        if len(recorder.rows):
            lines += self._now_lines(recorder)
            self.came.emit(self._lines.read(recorder.rows))
        elif isinstance(recorder, FlightRecorder):
            lines.append(Line("Listening. It is recorded from take-off on.", "", 13, strong=True))
        self.words.show_lines(lines)

    def _now_lines(self, recorder: Recorder) -> list[Line]:
        seconds, volts, amps = current_of(recorder)
        at_s = recorder.scheduled_s if isinstance(recorder, RunRecorder) else seconds
        series = recorder.recording.series_count if recorder.recording is not None else 1
        told = f"{format_volts(volts / series, 3)} a cell"
        expected = self.expected
        if expected is not None and at_s <= expected.seconds:
            usual = float(np.interp(at_s, expected.time_s, expected.volts)) / expected.series
            told += f", {format_volts(usual, 3)} expected"
        return [
            Line(f"{told}; {format_amps(amps)}"),
            Line(f"{format_mah(recorder.drawn_mah)} drawn after {format_minutes(seconds)}"),
        ]

    def _show_ended(self, why: str) -> None:
        self._turn.stop()
        self._show_now()
        by_hand = isinstance(self.recorder, RunRecorder) and self.recorder.by_hand and why != BY_HAND
        lines = [Line(f"Throttle down now: {why}." if by_hand else f"It is over: {why}.", "", 15, strong=True)]
        if self.recorder is not None and len(self.recorder.rows):
            lines += self._now_lines(self.recorder)
        self.words.show_lines(lines)
        self._show_state()
        self.over.emit()


def _step_lines(run: RunRecorder) -> list[Line]:
    """The step that is under way, and the one after it."""
    steps, place = run.steps, run.place
    left = float(sum(step.seconds for step in steps[: place + 1])) - run.scheduled_s
    now = f"{'Paused at' if run.paused else 'Now'} {step_words(steps[place])}, {about(max(left, 0.0))} left"
    after = f"then {step_words(steps[place + 1])}" if place + 1 < len(steps) else "then it is done"
    gone = f"step {place + 1} of {len(steps)}, {about(total_seconds(steps) - run.scheduled_s)} to go"
    return [Line(now, "", 15, strong=True), Line(f"{after}; {gone}")]


def _within(steps: tuple[RunStep, ...], guard: RunGuard) -> None:
    """Raises :class:`DocumentError` where a step draws more than is allowed, before anything is drawn."""
    for place, step in enumerate(steps, 1):
        if step.amps is not None and step.amps > guard.most_a:
            raise DocumentError(
                f"Step {place} draws {format_amps(step.amps)}; {format_amps(guard.most_a)} are the most of these cells."
            )


def _name(planned: PlannedRun, mission: str) -> str:
    question = planned.question
    words = question.recorded[0] if question.recorded is not None else mission
    words = "typed run" if question.source is Source.TYPED else words
    return f"{words}, one cell" if question.one_cell else words
