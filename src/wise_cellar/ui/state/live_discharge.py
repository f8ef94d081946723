"""A discharge of one cell recorded live: a load is told what to draw and when to stop."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from wise_cellar.core.documents import DocumentError, RecordingKind
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_volts
from wise_cellar.instruments import Reading
from wise_cellar.instruments.guard import VOLTS_OVER, Guard
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.recorder import Recorder
from wise_cellar.ui.state.session import Session

DRAWS_SHARE, LONGEST_WAIT_S = 0.5, 5.0
"""Of what it was told a load draws at least so much once it is on; and for so long that is waited for."""
NOTHING = "the load draws nothing: is the cell on it, and does it hold a current?"


class DischargeRecorder(Recorder):
    """Ends when its guard says so, when a reading is missing, when the link is lost."""

    kind = RecordingKind.DISCHARGE

    def __init__(self, session: Session, device: Device, guard: Guard, parent: QObject | None = None) -> None:
        super().__init__(session, device, parent)
        told = device.profile.told
        if not told.off or not told.amps:
            raise DocumentError(f"{device.name} cannot be told what to draw, and when to stop; choose a load.")
        cell, volts = session.complete.pack.cell, device.latest.get("volts", 0.0)
        if volts > cell.max_voltage_v + VOLTS_OVER:
            raise DocumentError(
                f"It reads {format_volts(volts)}; one {cell.name} has up to {format_volts(cell.max_voltage_v)}. Put one"
                " cell on the load, not the pack."
            )
        self.guard = guard
        self._curve = GrowingRows(2)

    @property
    def curve(self) -> tuple[Floats, Floats]:
        """Charge that was given so far, mAh, and volts at the load, of every reading that told volts and amps."""
        return self._curve.rows[:, 0], self._curve.rows[:, 1]

    def begin(self, name: str) -> None:
        """Write down what is recorded, then switch the load on; raises ``WorkspaceError``."""
        self._write_down(name, amps=self.guard.amps, least_v=self.guard.least_v)
        told = self._device.profile.told
        self._device.listener.send(told.amps.format(amps=self.guard.amps))
        if told.on:
            self._device.listener.send(told.on)

    def _begins(self, reading: Reading) -> bool:
        """With the first reading in which the load draws, of those that came since it was told to."""
        self._hear_it()
        if reading.values.get("amps", 0.0) >= DRAWS_SHARE * self.guard.amps:
            return True
        if reading.at_s - self._told_s > LONGEST_WAIT_S:
            self.stop(NOTHING)
        return False

    def _take(self, elapsed: float, reading: Reading) -> None:
        self._curve.append([self.drawn_mah, reading.values["volts"]])

    def _why_over(self, elapsed: float, reading: Reading) -> str:
        return self.guard.at(elapsed, reading.values)

    def _silent(self, silent_s: float) -> str:
        return self.guard.without(silent_s)
