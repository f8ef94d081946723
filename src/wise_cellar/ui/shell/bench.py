"""Instruments and the window: the sheet of what is listened to, and the way of a reading into the field in focus."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Protocol, runtime_checkable

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.ui.shell.notice import NoticeLine
from wise_cellar.ui.state.session import Session

if TYPE_CHECKING:
    from wise_cellar.ui.state.desk import Desk

NOTHING_SETTLED = "No reading has settled: put the probe on, and wait until it stands still. See View › Instruments."
NOWHERE = "{} has settled; put the focus where it goes: a cell of the tray, or a line for volts or mass."


@runtime_checkable
class TakesReadings(Protocol):
    """What a reading can go into."""

    def take_readings(self, settled: Mapping[str, str]) -> set[str]:
        """Take what fits of settled readings, by quantity as they would be typed; which were taken."""


class Bench(QObject):
    """Nothing of instruments is imported before they are asked for."""

    def __init__(self, window: QWidget, session: Session, notice: NoticeLine) -> None:
        super().__init__(window)
        self._window, self._session, self._notice = window, session, notice

    @cached_property
    def desk(self) -> Desk:
        """What is listened to."""
        desk = self._session.desk
        desk.settled.connect(lambda: self._take(quietly=True) if desk.at_once else None)
        desk.warned.connect(lambda sentence: self._notice.say(sentence, error=True))
        return desk

    def show(self) -> None:
        """What is listened to, in a sheet beside the window."""
        from wise_cellar.ui.shell.instruments_sheet import InstrumentsSheet

        InstrumentsSheet(self._window, self.desk, lambda: self._session.complete).show()

    def take(self) -> None:
        """What an instrument read, once it has settled, goes into the field in focus."""
        self._take(quietly=False)

    def _take(self, *, quietly: bool) -> None:
        ready, widget = self.desk.ready, QApplication.focusWidget()
        while widget is not None and not isinstance(widget, TakesReadings):
            widget = widget.parentWidget()
        taken = widget.take_readings(ready) if isinstance(widget, TakesReadings) and ready else set()
        self.desk.taken(taken)
        if not taken and not quietly:
            self._notice.say(NOWHERE.format(", ".join(ready.values())) if ready else NOTHING_SETTLED, error=True)
