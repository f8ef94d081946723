"""What an instrument sends, written down as it comes: rows are kept once a second, limits watched at every reading."""

from __future__ import annotations

import time
from contextlib import suppress
from datetime import datetime
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.documents import DocumentError, Recording, RecordingKind
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_amps
from wise_cellar.core.words import one_line
from wise_cellar.instruments import Event, EventKind, Reading
from wise_cellar.instruments.guard import AMPS_SURE
from wise_cellar.store import WorkspaceError
from wise_cellar.store.series import growing_key
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.session import Session

KEEP_S, LOOK_MS = 1.0, 200
"""Rows are written down once a second; whether readings still come is looked at as often."""
OFF_AFTER_S = 1.0
"""So long after it was told a load should be off."""
STILL_DRAWS = "{} was told to stop, and {} still flow: switch it off by its own switch, or unplug it."
LEFT = "another workspace was opened"
ENDS = {EventKind.LOST: "the link was lost", EventKind.CLOSED: "the instrument was closed"}


class Recorder(QObject):
    """One recording, from :meth:`begin` until what it watches, the user or the window ends it. Kinds of recordings say
    what they need, when they begin, and why they end.

    ``grew`` tells that rows have come, ``ended`` why it is over, ``drew_on`` how many amps still flow although the
    device was told to stop.
    """

    grew = pyqtSignal()
    ended = pyqtSignal(str)
    drew_on = pyqtSignal(float)
    kind: RecordingKind
    needed: tuple[str, ...] = ("volts", "amps")

    def __init__(self, session: Session, device: Device, parent: QObject | None = None) -> None:
        super().__init__(parent)
        if device.last is None:
            raise DocumentError(f"Nothing has come of {device.name} yet: is it on, and is this its port?")
        self._channels = device.channels
        self._names = [channel.quantity for channel in self._channels]
        missing = [name for name in self.needed if name not in self._names]
        if missing:
            raise DocumentError(
                f"{device.name} tells no {' and no '.join(missing)}; a {self.kind} needs {' and '.join(self.needed)}."
            )
        self._session, self._device = session, device
        self.recording: Recording | None = None
        self._widen(self._names)
        self._kept, self._kept_at = 0, 0.0
        self.drawn_mah = 0.0
        """That has flowed by the amps that were told."""
        self._flowed: tuple[float, float] | None = None
        self._begun_s: float | None = None
        self._heard = self._told_s = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        session.leaving.connect(self._leave)

    def _widen(self, quantities: list[str]) -> None:
        """Keep these columns after the time."""
        self._names, self._rows = quantities, GrowingRows(1 + len(quantities))

    @property
    def running(self) -> bool:
        """Whether it goes on."""
        return self._timer.isActive()

    @property
    def device(self) -> Device:
        """What sends."""
        return self._device

    @property
    def rows(self) -> Floats:
        """(rows, 1 + channels) Seconds and what was told, not a number where nothing was."""
        return self._rows.rows

    @property
    def quantities(self) -> list[str]:
        """Of the columns after the time."""
        return self._names

    def _write_down(self, name: str, **more: Any) -> None:
        """Begin a recording and listen; raises ``WorkspaceError``."""
        recording = Recording(
            **{
                "id": self._session.free_id(Recording, name), "name": one_line(name, 60), "kind": self.kind,
                "cell_type_id": self._session.complete.pack.cell.id, "device": self._device.profile.name,
                "series_key": growing_key(), "begun_at": datetime.now().replace(microsecond=0),
                "channels": self._channels, **more,
            }
        )  # fmt: skip
        self._session.commit(f"Record {recording.name}", [recording])
        self._go_on_with(recording)

    def _go_on_with(self, recording: Recording) -> None:
        self.recording = recording
        self._told_s = self._device.listener.now()
        self._heard = self._kept_at = time.monotonic()
        self._device.watchers.append(self._hear)
        self._timer.start()

    # What kinds of recordings say

    def _begins(self, reading: Reading) -> bool:
        """Whether the recording begins with this reading."""
        return True

    def _take(self, elapsed: float, reading: Reading) -> None:
        """Keep more than the row of it."""

    def _row(self, reading: Reading) -> list[float]:
        """The numbers of a reading, a column each."""
        return [reading.values.get(name, np.nan) for name in self._names]

    def _why_over(self, elapsed: float, reading: Reading) -> str:
        """Why it is over with this reading; empty where it goes on."""
        return ""

    def _silent(self, silent_s: float) -> str:
        """Why it is over when nothing has come for so long; empty where it waits."""
        return ""

    def _switches_off(self) -> bool:
        """Whether the device is switched off whenever it is over."""
        return True

    def _lost(self, why: str) -> None:
        """The link was lost, or closed."""
        self.stop(why)

    # How it goes

    def _leave(self) -> None:
        """What comes belongs into the workspace that is left."""
        self.stop(LEFT)

    def _hear(self, event: Event) -> None:
        if event.kind in ENDS:
            self._lost(ENDS[event.kind])
            return
        reading = event.reading
        if reading is None or not self.running:
            return
        if self._begun_s is None:
            if reading.at_s < self._told_s or not self._begins(reading):
                return
            self._begun_s = reading.at_s
        elapsed = self._elapsed(reading.at_s)
        self._rows.append([elapsed, *self._row(reading)])
        self._count(elapsed, reading.values.get("amps"))
        if all(name in reading.values for name in self.needed):
            self._hear_it()
            self._take(elapsed, reading)
        why = self._why_over(elapsed, reading)
        self.grew.emit()
        if why:
            self.stop(why)

    def _count(self, elapsed: float, amps: float | None) -> None:
        if amps is None:
            return
        if self._flowed is not None:
            before_s, before_a = self._flowed
            self.drawn_mah += (elapsed - before_s) * 0.5 * (before_a + amps) / 3.6
        self._flowed = (elapsed, amps)

    def _hear_it(self) -> None:
        """Something has come, whether it is kept or not."""
        self._heard = time.monotonic()

    def _elapsed(self, at_s: float) -> float:
        return (at_s - (self._begun_s or 0.0)) * self._device.speed

    def _look(self) -> None:
        now = time.monotonic()
        why = self._silent(now - self._heard)
        if why:
            self.stop(why)
        elif now - self._kept_at >= KEEP_S:
            try:
                self._keep()
            except WorkspaceError as error:
                self.stop(f"what comes cannot be written down: {error}")

    def _keep(self) -> None:
        """Write down the rows that have come since; raises :class:`WorkspaceError`."""
        fresh, self._kept_at = self.rows[self._kept :], time.monotonic()
        if len(fresh) and self.recording is not None:
            body = fresh.astype("<f8").tobytes()
            self._session.workspace.grow_series(self.recording.series_key, [body])
            self._kept += len(fresh)

    def stop(self, why: str) -> None:
        """Switch the device off where it can be told, and write down why, where that can be written."""
        if not self.running:
            return
        self._timer.stop()
        self._device.watchers.remove(self._hear)
        if self._switches_off():
            self.switch_off()
        if self.recording is not None:
            self.recording = self.recording.changed(ended=one_line(why, 80))
            with suppress(WorkspaceError):  # it is off, and why is told; it may have been this
                self._keep()
                self._session.commit(f"{self.recording.name} has ended", [self.recording])
        self.ended.emit(why)

    def forget(self) -> None:
        """Hold no rows any more, of one that is over: they are in the workspace."""
        if not self.running:
            self._rows = GrowingRows(1 + len(self._names))

    def switch_off(self) -> None:
        """Tell the device to stop, and again until it says that nothing flows."""
        if not self._device.profile.told.off:
            return
        self._device.listener.send(self._device.profile.told.off, last_word=True)
        self._told_s = self._device.listener.now()
        if self._see_it_off not in self._device.watchers:
            self._device.watchers.append(self._see_it_off)

    def _never_mind_off(self) -> None:
        """It may draw again."""
        if self._see_it_off in self._device.watchers:
            self._device.watchers.remove(self._see_it_off)

    def _see_it_off(self, event: Event) -> None:
        """It is believed to be off when it says so."""
        amps = None if event.reading is None else event.reading.values.get("amps")
        if amps is None or event.at_s < self._told_s + OFF_AFTER_S:
            return
        if amps < AMPS_SURE:
            self._device.watchers.remove(self._see_it_off)
        else:
            self.switch_off()
            self.drew_on.emit(amps)
            self._session.desk.warned.emit(STILL_DRAWS.format(self._device.name, format_amps(amps)))
