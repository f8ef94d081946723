"""A bench run: a schedule that a load is led through, or a pilot by hand, with limits watched at every reading."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.bench import total_seconds
from wise_cellar.core.documents import DocumentError, RecordedChannel, Recording, RecordingKind, RunStep
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_volts
from wise_cellar.instruments import EventKind, Reading
from wise_cellar.instruments.guard import RunGuard, not_so_many_cells
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.recorder import ENDS, Recorder
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.state.session import Session

SCHEDULED = "scheduled"
"""Seconds of the schedule that were done: a column of every run."""
FOLLOWS_S = 1.5
"""So long after a step began those before may still be seen."""
DRAWS_SHARE, LONGEST_WAIT_S = 0.5, 5.0
"""A load that draws less than that of what it was told, for so long, draws nothing."""
DONE = "the schedule is done"
NOTHING = "the load draws nothing: is the pack on it, and does it hold a current?"
LEAST_TURN_MS = 5


class RunRecorder(Recorder):
    """``stepped`` tells that another step has begun, or that it was paused or goes on.

    A run that was cut off goes on with :meth:`go_on`: a row of no numbers marks the gap.
    """

    kind = RecordingKind.BENCH
    stepped = pyqtSignal()

    def __init__(
        self, session: Session, device: Device, steps: Sequence[RunStep], guard: RunGuard, *, by_hand: bool,
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(session, device, parent)
        self._channels = (*self._channels, RecordedChannel(quantity=SCHEDULED, unit="s"))
        self._widen([channel.quantity for channel in self._channels])
        self.steps, self.guard, self.by_hand = tuple(steps), guard, by_hand
        if not by_hand:
            self._may_be_told()
        volts = device.latest.get("volts", 0.0)
        if volts > guard.most_v:
            raise DocumentError(f"It cannot begin: {not_so_many_cells(volts, guard.most_v)}.")
        if volts <= guard.least_v:
            raise DocumentError(
                f"It cannot begin: it reads {format_volts(volts)}, and ends at {format_volts(guard.least_v)}."
            )
        self._ends = np.cumsum([step.seconds for step in self.steps])
        self._done_s = 0.0
        self._since_s: float | None = None
        """When the present stretch began, by the clock of what is heard; none while it is paused."""
        self._step_since_s = self._drew_s = 0.0
        self.place = 0
        self._before_s = 0.0
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._go)

    def _may_be_told(self) -> None:
        told = self._device.profile.told
        for name, order in (("amps", told.amps), ("watts", told.watts)):
            if any(getattr(step, name) is not None for step in self.steps) and not order:
                raise DocumentError(f"{self._device.name} cannot be told {name}, and the schedule has some.")
        if not told.off:
            raise DocumentError(f"{self._device.name} cannot be told to stop; run it by hand, or choose a load.")

    @property
    def paused(self) -> bool:
        """Whether it waits to be gone on with."""
        return self.running and self._since_s is None

    @property
    def scheduled_s(self) -> float:
        """Seconds of the schedule that are done."""
        if self._since_s is None:
            return self._done_s
        gone = (self._device.listener.now() - self._since_s) * self._device.speed
        return min(self._done_s + gone, total_seconds(self.steps))

    @property
    def step(self) -> RunStep:
        """The one that is under way."""
        return self.steps[self.place]

    def begin(self, name: str, series: int, parallel: int) -> None:
        """Write down what is run, and begin with the first step; raises ``WorkspaceError``."""
        most_a = max((step.amps or 0.0 for step in self.steps), default=0.0)
        complete = self._session.complete
        self._write_down(
            name, design_id=complete.design.id, series_count=series, parallel_count=parallel, amps=most_a,
            least_v=self.guard.least_v, steps=self.steps,
        )  # fmt: skip
        self._start()

    def go_on(self, recording: Recording) -> None:
        """Go on with a run that was cut off, from where its schedule was; raises ``WorkspaceError``."""
        rows = recorded_rows(self._session, recording)
        self._widen(recording.quantities)
        self._channels = recording.channels
        self._rows.extend(rows)
        self._kept = len(rows)
        self._done_s = scheduled_of(recording.quantities, rows)
        if len(rows):
            last = float(rows[-1, 0])
            since = (datetime.now() - recording.begun_at).total_seconds()
            self._rows.append([last, *[np.nan] * len(self._names)])
            self._before_s = max(since, last)
        again = recording.changed(ended="")
        self._session.commit(f"Go on with {recording.name}", [again])
        self._go_on_with(again)
        self._start()

    def pause(self) -> None:
        """Draw nothing until :meth:`resume`; what comes is still recorded."""
        if self.running and self._since_s is not None:
            self._done_s, self._since_s = self.scheduled_s, None
            self._turn.stop()
            self.switch_off()
            self.stepped.emit()

    def resume(self) -> None:
        """Go on with the step that was under way."""
        if self.paused:
            self._start()

    def _start(self) -> None:
        self._since_s = self._device.listener.now()
        self.place = self._place_now()
        self._order()
        self._arm()

    def _place_now(self) -> int:
        return min(int(np.searchsorted(self._ends, self.scheduled_s, side="right")), len(self.steps) - 1)

    def _arm(self) -> None:
        left_s = (float(self._ends[self.place]) - self.scheduled_s) / self._device.speed
        self._turn.start(max(int(1000 * left_s), LEAST_TURN_MS))

    def _go(self) -> None:
        """The next step where this one is over; the end after the last."""
        if not self.running or self._since_s is None:
            return
        if self.scheduled_s >= float(self._ends[-1]) - 1e-9:
            self.stop(DONE)
            return
        place = self._place_now()
        if place != self.place:
            self.place = place
            self._order()
        self._arm()

    def _order(self) -> None:
        """Tell the load what this step draws; by hand, whoever flies is told."""
        now, step = self._device.listener.now(), self.step
        self._step_since_s = self._drew_s = now
        if not self.by_hand:
            told = self._device.profile.told
            if step.rests:
                self.switch_off()
            else:
                self._never_mind_off()
                order = told.amps.format(amps=step.amps) if step.amps else told.watts.format(watts=step.watts)
                self._device.listener.send(order)
                if told.on:
                    self._device.listener.send(told.on)
        self.stepped.emit()

    def _row(self, reading: Reading) -> list[float]:
        values = dict(reading.values) | {SCHEDULED: self.scheduled_s}
        return [values.get(name, np.nan) for name in self._names]

    def _elapsed(self, at_s: float) -> float:
        return self._before_s + super()._elapsed(at_s)

    def _told_a(self, step: RunStep, volts: float) -> float:
        return step.amps or (step.watts or 0.0) / max(volts, 0.1)

    def _why_over(self, elapsed: float, reading: Reading) -> str:
        if self.by_hand:
            return self.guard.at(reading.values, None)
        volts = reading.values.get("volts", 0.0)
        steps = [self.step]
        if reading.at_s - self._step_since_s < FOLLOWS_S:
            # Several, where they are short.
            still_s = self.scheduled_s - FOLLOWS_S * self._device.speed
            first = int(np.searchsorted(self._ends, still_s, side="right"))
            steps += self.steps[min(first, max(self.place - 1, 0)) : self.place]
        told_a = max(self._told_a(step, volts) for step in steps)
        if self.paused and reading.at_s - self._told_s > FOLLOWS_S:
            told_a = 0.0
        return self.guard.at(reading.values, told_a) or self._draws_nothing(reading, volts)

    def _draws_nothing(self, reading: Reading, volts: float) -> str:
        amps, told_a = reading.values.get("amps"), self._told_a(self.step, volts)
        if amps is None:
            return ""
        if self._since_s is None or self.step.rests or amps >= DRAWS_SHARE * told_a:
            self._drew_s = reading.at_s
        return NOTHING if reading.at_s - self._drew_s > LONGEST_WAIT_S else ""

    def _silent(self, silent_s: float) -> str:
        return self.guard.without(silent_s)

    def _switches_off(self) -> bool:
        return not self.by_hand

    def stop(self, why: str) -> None:
        """Switch the load off, and write down why."""
        if self.running:
            self._done_s, self._since_s = self.scheduled_s, None
            self._turn.stop()
        super().stop(why)


def scheduled_of(quantities: list[str], rows: Floats) -> float:
    """Seconds of its schedule that a run has done."""
    if SCHEDULED not in quantities or not len(rows):
        return 0.0
    done = rows[:, 1 + quantities.index(SCHEDULED)]
    return float(np.nanmax(done)) if np.isfinite(done).any() else 0.0


def may_go_on(session: Session, recording: Recording) -> bool:
    """Whether a run has some of its schedule left; its rows are only read where that is not known without."""
    if not recording.steps or recording.ended == DONE:
        return False
    done = scheduled_of(recording.quantities, recorded_rows(session, recording))
    return total_seconds(recording.steps) - done > 1.0


class FlightRecorder(Recorder):
    """What a craft tells while it flies: from the first current of a flight until it is ended; the link may come and
    go."""

    kind = RecordingKind.FLIGHT

    def __init__(self, session: Session, device: Device, begins_a: float, parent: QObject | None = None) -> None:
        super().__init__(session, device, parent)
        self._begins_a = begins_a

    def begin(self, name: str) -> None:
        """Write down what comes; raises ``WorkspaceError``."""
        complete = self._session.complete
        recipe = complete.pack.recipe
        self._write_down(
            name, design_id=complete.design.id, series_count=recipe.series_count,
            parallel_count=recipe.parallel_count, amps=0.0, least_v=0.0,
        )  # fmt: skip

    def _begins(self, reading: Reading) -> bool:
        self._hear_it()
        return reading.values.get("amps", 0.0) >= self._begins_a

    def _lost(self, why: str) -> None:
        if why == ENDS[EventKind.CLOSED]:
            self.stop(why)

    def _switches_off(self) -> bool:
        return False
