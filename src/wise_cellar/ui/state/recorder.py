"""A discharge recorded live: rows are kept as they come, limits are watched at every reading."""

from __future__ import annotations

import time
from contextlib import suppress
from datetime import datetime
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.curves.assembly import Assembled, Circumstances, assemble
from wise_cellar.core.curves.columns import LogColumn, Role
from wise_cellar.core.documents import DischargeRecord, DocumentError, Recording
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import one_line
from wise_cellar.instruments import Event, EventKind, Reading
from wise_cellar.instruments.guard import AMPS_SURE, Guard
from wise_cellar.store import Removal, WorkspaceError
from wise_cellar.store.contents import KIND_OF
from wise_cellar.store.recording_tables import read_recording
from wise_cellar.store.series import growing_key
from wise_cellar.ui.state.cell_edits import add_discharges
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.session import Session

KEEP_S, LOOK_MS = 1.0, 200
"""Rows are written down once a second; whether readings still come is looked at as often."""
ROLES = {"volts": (Role.VOLTAGE, "V"), "amps": (Role.CURRENT, "A"), "temperature": (Role.TEMPERATURE, "°C")}
NEEDED = ("volts", "amps")
DRAWS_SHARE, LONGEST_WAIT_S = 0.5, 5.0
"""Of what it was told a load draws at least so much once it is on; and for so long that is waited for."""
OFF_AFTER_S = 1.0
"""So long after it was told a load should be off."""
NOTHING = "the load draws nothing: is the cell on it, and does it hold a current?"
ENDS = {EventKind.LOST: "the link was lost", EventKind.CLOSED: "the instrument was closed"}


class Recorder(QObject):
    """One discharge, from :meth:`begin` until its guard, the user or the window ends it.

    ``grew`` tells that rows have come, ``ended`` why it is over, ``drew_on`` how many amps still flow although the load
    was told to stop.
    """

    grew = pyqtSignal()
    ended = pyqtSignal(str)
    drew_on = pyqtSignal(float)

    def __init__(self, session: Session, device: Device, guard: Guard, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._channels = device.channels
        self._names = [channel.quantity for channel in self._channels]
        missing = [name for name in NEEDED if name not in self._names]
        if missing:
            raise DocumentError(f"{device.name} tells no {' and no '.join(missing)}; a discharge needs both.")
        told = device.profile.told
        if not told.off or not told.amps:
            raise DocumentError(f"{device.name} cannot be told what to draw, and when to stop; choose a load.")
        if device.last is None:
            raise DocumentError(f"Nothing has come of {device.name} yet: is it on, and is this its port?")
        self._session, self._device, self.guard = session, device, guard
        self.recording: Recording | None = None
        self._rows, self._curve = GrowingRows(1 + len(self._names)), GrowingRows(3)
        self._kept, self._kept_at = 0, 0.0
        self._begun_s: float | None = None
        self._heard = self._told_s = self._curve_s = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)

    @property
    def running(self) -> bool:
        """Whether the load draws."""
        return self._timer.isActive()

    @property
    def rows(self) -> Floats:
        """(rows, 1 + channels) Seconds and what was told, not a number where nothing was."""
        return self._rows.rows

    @property
    def curve(self) -> tuple[Floats, Floats]:
        """Charge that was given so far, mAh, and volts at the load, of every reading that told volts and amps."""
        return self._curve.rows[:, 0], self._curve.rows[:, 1]

    def begin(self, name: str) -> None:
        """Write down what is recorded, then switch the load on; raises ``WorkspaceError``."""
        cell = self._session.complete.pack.cell
        recording = Recording(
            id=self._session.free_id(Recording, name), name=one_line(name, 60), cell_type_id=cell.id,
            device=self._device.profile.name, series_key=growing_key(), begun_at=datetime.now().replace(microsecond=0),
            channels=self._channels,
            amps=self.guard.amps, least_v=self.guard.least_v,
        )  # fmt: skip
        self._session.commit(f"Record {recording.name}", [recording])
        self.recording = recording
        told = self._device.profile.told
        self._device.listener.send(told.amps.format(amps=self.guard.amps))
        if told.on:
            self._device.listener.send(told.on)
        self._told_s = self._device.listener.now()
        self._heard = self._kept_at = time.monotonic()
        self._device.watchers.append(self._hear)
        self._timer.start()

    def _hear(self, event: Event) -> None:
        if event.kind in ENDS:
            self.stop(ENDS[event.kind])
            return
        reading = event.reading
        if reading is None or not self.running:
            return
        if self._begun_s is None:
            self._wait(reading)
        if self._begun_s is None:
            return
        elapsed = (reading.at_s - self._begun_s) * self._device.speed
        self._rows.append([elapsed, *(reading.values.get(name, np.nan) for name in self._names)])
        if all(name in reading.values for name in NEEDED):
            self._heard = time.monotonic()
            self._grow_curve(elapsed, reading.values["volts"], max(reading.values["amps"], 0.0))
        why = self.guard.at(elapsed, reading.values)
        self.grew.emit()
        if why:
            self.stop(why)

    def _wait(self, reading: Reading) -> None:
        """Begin with the first reading in which the load draws, of those that came since it was told to."""
        if reading.at_s < self._told_s:
            return
        self._heard = time.monotonic()
        if reading.values.get("amps", 0.0) >= DRAWS_SHARE * self.guard.amps:
            self._begun_s = reading.at_s
        elif reading.at_s - self._told_s > LONGEST_WAIT_S:
            self.stop(NOTHING)

    def _grow_curve(self, elapsed: float, volts: float, amps: float) -> None:
        mah = 0.0
        if len(self._curve):
            before_mah, _, before_a = self._curve.rows[-1]
            mah = before_mah + (elapsed - self._curve_s) * 0.5 * (before_a + amps) / 3.6
        self._curve_s = elapsed
        self._curve.append([mah, volts, amps])

    def _look(self) -> None:
        now = time.monotonic()
        why = self.guard.without(now - self._heard)
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
        """Switch the load off, and write down why, where that can be written."""
        if not self.running:
            return
        self._timer.stop()
        self._device.watchers[self._device.watchers.index(self._hear)] = self._see_it_off
        self._switch_off()
        if self.recording is not None:
            self.recording = self.recording.changed(ended=one_line(why, 80))
            with suppress(WorkspaceError):  # the load is off, and why is told; it may have been this
                self._keep()
                self._session.commit(f"{self.recording.name} has ended", [self.recording])
        self.ended.emit(why)

    def _switch_off(self) -> None:
        self._device.listener.send(self._device.profile.told.off, last_word=True)
        self._told_s = self._device.listener.now()

    def _see_it_off(self, event: Event) -> None:
        """A load is believed to be off when it says so; until then it is told again."""
        amps = None if event.reading is None else event.reading.values.get("amps")
        if amps is None or event.at_s < self._told_s + OFF_AFTER_S:
            return
        if amps < AMPS_SURE:
            self._device.watchers.remove(self._see_it_off)
        else:
            self._switch_off()
            self.drew_on.emit(amps)


def recorded_rows(session: Session, recording: Recording) -> Floats:
    """(rows, 1 + channels) Seconds and the channels of a recording, as far as they were kept."""
    wide = 1 + len(recording.channels)
    body = b"".join(session.workspace.series_parts(recording.series_key))
    rows = np.frombuffer(body[: len(body) // (8 * wide) * 8 * wide], "<f8")
    return rows.reshape(-1, wide)


def as_discharge(recording: Recording, rows: Floats, air_c: float, cut_off_v: float) -> Assembled:
    """The discharge in a recording, by the rules by which logs are read; raises :class:`DocumentError`."""
    names = [channel.quantity for channel in recording.channels]
    columns = [LogColumn("time_s", Role.TIME, "s")]
    figures = {Role.TIME: rows[:, 0]}
    there = np.isfinite(rows[:, [1 + names.index(name) for name in NEEDED if name in names]]).all(axis=1)
    for place, name in enumerate(names, 1):
        if name in ROLES and np.isfinite(rows[there, place]).all():
            role, unit = ROLES[name]
            columns.append(LogColumn(name, role, unit))
            figures[role] = rows[there, place]
    figures[Role.TIME] = rows[there, 0]
    return assemble(columns, figures, Circumstances(recording.name, air_temperature_c=air_c), cut_off_v)


def keep_as_discharge(session: Session, recording: Recording, air_c: float) -> DischargeRecord:
    """Put a discharge like any other in the place of a recording; raises :class:`DocumentError` where it holds none."""
    cut_off = session.complete.pack.cell.min_voltage_v
    found = as_discharge(recording, recorded_rows(session, recording), air_c, cut_off)
    gone = [Removal(KIND_OF[Recording], recording.id)]
    return add_discharges(session, recording.cell_type_id, [(found, recording.device, air_c)], gone)[0]


def recordings_of(session: Session, cell_id: str) -> list[Recording]:
    """What was recorded of a cell type, the latest first."""
    found = [one for one in session.all(Recording).values() if one.cell_type_id == cell_id]
    return sorted(found, key=lambda one: one.begun_at, reverse=True)


def take_recording(session: Session, path: Path) -> Recording:
    """Put the recording in a CSV beside those of the present cell; raises :class:`DocumentError`."""
    cell = session.complete.pack.cell
    told = {
        "id": session.free_id(Recording, path.stem), "name": one_line(path.stem, 60), "cell_type_id": cell.id,
        "series_key": growing_key(), "least_v": cell.min_voltage_v, "amps": 0.0,
        "begun_at": datetime.now().replace(microsecond=0), "ended": one_line(f"as {path.name} has it", 80),
    }  # fmt: skip
    recording, rows = read_recording(path, told, NEEDED)
    session.commit(f"Take in {recording.name}", [recording])
    session.workspace.grow_series(recording.series_key, [rows.astype("<f8").tobytes()])
    return recording


def remove_recording(session: Session, recording: Recording) -> None:
    """Forget a recording."""
    session.commit(f"Remove {recording.name}", [Removal(KIND_OF[Recording], recording.id)])
    session.took_away.emit(f"Removed the recording {recording.name}.")
