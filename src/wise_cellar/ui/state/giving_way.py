"""What is computed beside the window waits while the window does what it was asked for.

Only one of them runs at a time. A window that is drawn while something is computed would have to ask for its turn at
every cell of a table, and wait for most of them: three times as long as it takes by itself.
"""

from __future__ import annotations

from threading import Event

from PyQt6.QtCore import QEvent, QObject, QTimer

PAINTED_MS = 10
"""So long after it was asked for something, as soon as its loop comes round to it, a window is painted."""
LONGEST_S = 0.5
"""No longer does anything wait: a loop may stand still."""
INPUTS = {
    QEvent.Type.KeyPress, QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease, QEvent.Type.Wheel,
    QEvent.Type.Resize, QEvent.Type.Expose, QEvent.Type.Drop,
}  # fmt: skip

_free = Event()
_free.set()


def window_first() -> None:
    """Called in the window's thread, before it does something: all that is beside it waits until that is painted."""
    if _free.is_set():
        _free.clear()
        QTimer.singleShot(PAINTED_MS, _free.set)


def go_on() -> None:
    """Let what waits go on: the window waits for it."""
    _free.set()


def give_way() -> None:
    """Called beside the window, often: wait while the window has something to do."""
    if not _free.is_set():
        _free.wait(LONGEST_S)


class InputsFirst(QObject):
    """Watches a window of the desktop: what its user does goes first."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Note what was done, and let it pass."""
        if event is not None and event.type() in INPUTS:
            window_first()
        return super().eventFilter(watched, event)
