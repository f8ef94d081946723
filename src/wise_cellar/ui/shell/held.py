"""A key that is held: it never queues up, and what is painted is always a true answer."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer


class HeldSteps(QObject):
    """Steps asked for by a key or the wheel, which may come faster than answers do.

    The first is taken at once. Those that come before its answer is painted are added up and taken as one, so that
    there is one answer for each painted window however many keys there were, and none is left when the key is let go.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._waiting: tuple[Callable[[int], None], int] | None = None
        self._painted = QTimer(self)
        self._painted.setSingleShot(True)
        self._painted.setInterval(0)  # goes off once nothing is left to lay out or to paint
        self._painted.timeout.connect(self.take)

    def ask(self, step: Callable[[int], None], by: int) -> None:
        """Take ``by`` steps, now or together with those that come meanwhile."""
        if not self._painted.isActive():
            self._painted.start()
            step(by)
            return
        if self._waiting is not None and self._waiting[0] != step:
            self.take()
        before = self._waiting[1] if self._waiting is not None else 0
        self._waiting = step, before + by

    def take(self) -> None:
        """Take what waits, now: before anything else is done, and once the window is painted."""
        if self._waiting is None:
            return
        (step, by), self._waiting = self._waiting, None
        if by:
            self._painted.start()
            step(by)
