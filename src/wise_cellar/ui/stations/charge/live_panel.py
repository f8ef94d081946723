"""A charge that is watched: which charger, what comes of it, what is wrong, when it will be done, and a stop."""

from __future__ import annotations

from datetime import datetime, timedelta
from functools import partial

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

from wise_cellar.core.answer import Severity
from wise_cellar.core.charge import APART_V, KNOWN_AFTER_S, Alarm, Came, Charged, ChargePlan, about, expected_from
from wise_cellar.core.documents import Recording, RecordingKind
from wise_cellar.core.units import (
    format_amps,
    format_celsius,
    format_mah,
    format_number,
    format_volts,
)
from wise_cellar.instruments import Profile
from wise_cellar.instruments.profile import Form
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.live_charge import ChargeRecorder, came_of, charge_name
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import button_row, heading, note, paragraph, sheet
from wise_cellar.ui.widgets.picture import Picture
from wise_cellar.ui.widgets.recorded import RecordedList
from wise_cellar.ui.widgets.tick_box import TickBox

NO_CHARGER = "Open a charger under View › Instruments, or start the one that stands in, and its charge is watched here."
WAITS = "Watching. Start the charge at the charger: it is recorded from the first current on."
TURN_MS = 1000
STICK_PX, HIGH_PX, WORDS_PX = 26, 64, 16


class GroupSticks(Picture):
    """How far each group is over or under the middle of all, a stick each."""

    def __init__(self) -> None:
        super().__init__("Groups, each over or under the middle of all")
        self.apart: tuple[float, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HIGH_PX + 2 * WORDS_PX)

    def sizeHint(self) -> QSize:
        """Wide enough for its sticks."""
        return QSize(STICK_PX * max(len(self.apart), 4), self.height())

    def show_groups(self, apart: tuple[float, ...]) -> None:
        """Volts of each group over the middle."""
        self.apart = apart
        told = [f"group {place} {_mv(volts)}" for place, volts in enumerate(apart, 1)]
        self.tell(", ".join(told), told)
        self.setVisible(bool(apart))
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """A line in the middle, and the sticks with their numbers."""
        if not self.apart:
            return
        colours, painter = colours_of(self), QPainter(self)
        painter.setFont(font(11.5))
        most = max(*map(abs, self.apart), APART_V)
        wide = min(self.width() / len(self.apart), 2.0 * STICK_PX)
        middle = WORDS_PX + HIGH_PX / 2
        farthest = int(np.argmax(np.abs(self.apart)))
        for place, volts in enumerate(self.apart):
            high = -volts / most * HIGH_PX / 2
            left = place * wide
            colour = colours.colour("ochre" if abs(volts) > APART_V else "verdigris")
            painter.fillRect(QRectF(left + 0.25 * wide, middle, 0.5 * wide, high or 1.0), colour)
            painter.setPen(colours.colour("faint"))
            box = QRectF(left, WORDS_PX + HIGH_PX, wide, WORDS_PX)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(place + 1))
            if place == farthest:
                painter.setPen(colours.colour("ink"))
                painter.drawText(QRectF(left - wide, 0, 3 * wide, WORDS_PX), Qt.AlignmentFlag.AlignCenter, _mv(volts))
        painter.setPen(colours.colour("rule"))
        painter.drawLine(0, int(middle), int(wide * len(self.apart)), int(middle))


def _mv(volts: float) -> str:
    return f"{format_number(1000 * volts, 0, signed=True)} mV"


class LivePanel(QWidget):
    """``came`` brings a plan, what is expected and what has come, to be drawn; or nothing, to draw the plan alone."""

    came = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._plan: ChargePlan | None = None
        self._chargers: list[Device] = []
        self.recorder: ChargeRecorder | None = None
        self._worker = Worker(self)
        self._worker.finished.connect(self._expect)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("What comes"))
        self.chargers = Chooser()
        self.chargers.setAccessibleName("Charger that is watched")
        self.hint = note(NO_CHARGER)
        inside.addWidget(self.hint)
        inside.addWidget(self.chargers)
        self.watch, self.stop_it, self.leave = (
            QPushButton("Watch the charge"), QPushButton("Stop the charge"), QPushButton("Stop watching")
        )  # fmt: skip
        self.leave.setProperty("role", "quiet")
        inside.addLayout(button_row((self.watch, self._watch), (self.stop_it, self._stop), (self.leave, self._leave)))
        self.at_alarm = TickBox("Stop it by itself where that is over a limit")
        self.at_alarm.clicked.connect(self._choose_at_alarm)
        inside.addWidget(self.at_alarm)
        self.alarms, self.words = Lines(paragraph), Lines(paragraph)
        inside.addLayout(self.alarms)
        inside.addLayout(self.words)
        self.sticks = GroupSticks()
        inside.addWidget(self.sticks)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self.kept = RecordedList(session, RecordingKind.CHARGE)
        self.kept.shown.connect(self._show_kept)
        inside.addWidget(self.kept)
        self.sticks.hide()
        self._turn = QTimer(self)
        self._turn.setInterval(TURN_MS)
        self._turn.timeout.connect(self._show_now)
        session.desk.changed.connect(self.refresh)
        for recorder in session.desk.findChildren(ChargeRecorder):
            if recorder.running:
                self._follow(recorder)
        self.refresh()

    def _follow(self, recorder: ChargeRecorder) -> None:
        if self.recorder is not None:
            self.recorder.forget()
        self._worker.forget()  # what is still computed is of the one before
        self.recorder = recorder
        recorder.ended.connect(self._show_ended)
        self.at_alarm.setChecked(recorder.stops_at_alarm)
        self._turn.start()

    @property
    def settled(self) -> bool:
        """Whether nothing is computed."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop computing."""
        self._worker.close()

    @property
    def running(self) -> bool:
        """Whether a charge is watched."""
        return self.recorder is not None and self.recorder.running

    def show_plan(self, plan: ChargePlan) -> None:
        """What would be watched, from now on."""
        self._plan = plan
        self.refresh()

    def begin_anew(self) -> None:
        """Another workspace is shown: nothing of a charge in this one."""
        self._worker.forget()
        self.recorder = None
        self.attempt.hide()
        for lines in (self.words, self.alarms):
            lines.show_lines([])
        self.sticks.show_groups(())

    def refresh(self) -> None:
        """Which chargers and which recordings there are."""
        devices = [one for one in self._session.desk.devices if _may_charge(one.profile)]
        if devices != self._chargers:
            self._chargers = devices
            self.chargers.clear()
            self.chargers.addItems([f"{one.name}, {one.address}" for one in devices])
        plan, running = self._plan, self.running
        may = plan is not None and not plan.refused and not plan.drains
        self.hint.setVisible(not devices and not running)
        for widget, seen in (
            (self.chargers, bool(devices) and not running), (self.watch, bool(devices) and not running and may),
            (self.stop_it, running and self._may_stop()), (self.leave, running),
            (self.at_alarm, running and self._may_stop()),
        ):  # fmt: skip
            widget.setVisible(seen)
        self.kept.refresh(self.recorder.recording if running and self.recorder is not None else None)

    def _may_stop(self) -> bool:
        return self.recorder is not None and bool(self.recorder.device.profile.told.off)

    def _watch(self) -> None:
        place, plan = self.chargers.currentIndex(), self._plan
        if plan is None or not 0 <= place < len(self._chargers):
            return

        def start() -> None:
            recorder = ChargeRecorder(self._session, self._chargers[place], plan, self._session.desk)
            recorder.begin(charge_name(plan))
            self._follow(recorder)

        if self.attempt.make(start):
            self.words.show_lines([Line(WAITS)])
            self.alarms.show_lines([])
        self.refresh()

    def _choose_at_alarm(self, on: bool) -> None:
        if self.recorder is not None:
            self.recorder.stops_at_alarm = on

    def _stop(self) -> None:
        if self.recorder is not None:
            self.recorder.stop_the_charge("it was stopped by hand")

    def _leave(self) -> None:
        if self.recorder is not None:
            self.recorder.stop("nobody watches any more; the charger goes on")

    def _expect(self, expected: Charged) -> None:
        if self.recorder is not None:
            self.recorder.expect(expected)
            self._show_now()

    def _show_now(self) -> None:
        """The last that came, once a second."""
        recorder = self.recorder
        if recorder is None:
            return
        came = recorder.came
        silent = [Line(f"Nothing has come for {about(recorder.silent_s)}: look at the charger.", "error")]
        if not len(came):
            if recorder.silent_s:
                self.alarms.show_lines(silent)
            return
        if recorder.expected is recorder.plan.charged and came.seconds >= KNOWN_AFTER_S and not self._worker.busy:
            self._worker.run(partial(expected_from, recorder.plan, came))
        found = recorder.watched
        alarms = [_alarm_line(alarm) for alarm in (found.alarms if found is not None else ())]
        self.alarms.show_lines([*(silent if recorder.silent_s else []), *alarms])
        left = found.left_s if found is not None else None
        self.words.show_lines(
            [
                Line(_done_words(left, recorder.device.speed), "", 15, strong=True),
                *_now_lines(came, recorder.plan.cells),
            ]
        )
        self.sticks.show_groups(found.apart if found is not None else ())
        self.came.emit((recorder.plan, recorder.expected, came))

    def _show_ended(self, why: str) -> None:
        self._turn.stop()
        self._show_now()
        recorder = self.recorder
        lines = [Line(f"It is over: {why}.", "", 13, strong=True)]
        if recorder is not None and len(recorder.came):
            lines += _end_lines(recorder.came, recorder.plan.cells)
        self.words.show_lines(lines)
        self.refresh()

    def _show_kept(self, one: Recording | None) -> None:
        """A charge that was recorded, over what is planned now; the plan alone where there is none."""
        plan = self._plan
        if self.running or plan is None:
            return
        self.alarms.show_lines([])
        self.sticks.show_groups(())
        came = came_of(one.quantities, recorded_rows(self._session, one)) if one is not None else None
        if one is None or came is None or not len(came):
            self.words.show_lines([])
            self.came.emit(None)
            return
        self.words.show_lines(_end_lines(came, one.series_count))
        self.came.emit((plan, plan.charged, came))


def _may_charge(profile: Profile) -> bool:
    """Whether what talks so may be a charger: it tells volts and amps, and is neither a load nor a craft."""
    draws = bool(profile.told.amps or profile.told.watts)
    return {"volts", "amps"} <= set(profile.quantities) and not draws and profile.lines.form is not Form.MAVLINK


def _alarm_line(alarm: Alarm) -> Line:
    return Line(alarm.finding.sentence, "error" if alarm.finding.severity is Severity.OVER else "caution")


def _done_words(left_s: float | None, speed: float) -> str:
    """When it will be done, where that is known."""
    if left_s is None:
        return f"When it is done is known after {about(KNOWN_AFTER_S)}"
    at = datetime.now() + timedelta(seconds=left_s / speed)
    return f"Done in {about(left_s)}, about {at:%H:%M}"


def _now_lines(came: Came, cells: int) -> list[Line]:
    now = came.now()
    told = [f"{format_volts(float(now.volts[0]) / cells, 3)} a cell", format_amps(float(now.amps[0]), 2)]
    if np.isfinite(now.celsius[0]):
        told.append(format_celsius(float(now.celsius[0])))
    balancing = [Line("Balancing may add some minutes at the end.", "faint", 11.5)] if cells > 1 else []
    lines = [", ".join(told), f"{format_mah(came.put_in_mah)} in after {about(came.seconds)}"]
    return [*map(Line, lines), *balancing]


def _end_lines(came: Came, cells: int) -> list[Line]:
    lines = [Line(f"{format_mah(came.put_in_mah)} went in, in {about(came.seconds)}.")]
    groups = came.now().groups[0]
    if len(groups):
        low, high = float(groups.min()), float(groups.max())
        lines.append(Line(f"Groups at {format_volts(low, 3)} to {format_volts(high, 3)}."))
    else:
        lines.append(Line(f"{format_volts(float(came.now().volts[0]) / cells, 3)} a cell at the end."))
    return lines
