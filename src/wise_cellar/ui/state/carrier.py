"""From threads into the window's thread, also when whoever waits there may be gone by then."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QObject, pyqtSignal

from wise_cellar.ui.state.giving_way import window_first


class _Carrier(QObject):
    """Lives as long as the process.

    What belongs to a window may be deleted with it at the very moment at which its thread has done; a signal of its own
    would then be sent from a place that is gone.
    """

    came = pyqtSignal(object, tuple)

    def __init__(self) -> None:
        super().__init__()
        self.came.connect(self._hand_over)

    def _hand_over(self, taker: weakref.WeakMethod[Callable[..., None]], values: tuple[Any, ...]) -> None:
        take = taker()
        owner = getattr(take, "__self__", None)
        if take is not None and isinstance(owner, QObject) and not sip.isdeleted(owner):
            window_first()
            take(*values)


_carrier: _Carrier | None = None


def way_to(take: Callable[..., None]) -> Callable[..., None]:
    """A function for a thread to call: ``take``, a method of a ``QObject``, is then called in the window's thread.

    It does not hold the object; where that is gone, nothing happens.
    """
    global _carrier
    if _carrier is None:
        _carrier = _Carrier()
        application = QCoreApplication.instance()
        if application is not None:
            _carrier.moveToThread(application.thread())
    carrier, taker = _carrier, weakref.WeakMethod(take)
    return lambda *values: carrier.came.emit(taker, values)
