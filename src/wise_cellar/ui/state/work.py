"""Slow computations beside the window: one at a time, the newest wins, a stale result is dropped."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.flight import ask, while_wanted
from wise_cellar.ui.state.carrier import way_to
from wise_cellar.ui.state.giving_way import give_way, go_on
from wise_cellar.ui.state.memory import Memory
from wise_cellar.ui.unforeseen import refusal_of

PAUSE_MS = 10
"""A job begins this long after it was asked for: first the window is painted, and a held key has been heard out."""


class Worker(QObject):
    """Runs pure functions on values in one thread. Of several asked for meanwhile, only the last is run.

    ``finished`` brings the result of the newest job, ``failed`` what it was refused for; both in the window's thread. A
    failure that nobody foresaw is logged and told, and comes as a refusal too.
    """

    finished = pyqtSignal(object)
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._executor: ThreadPoolExecutor | None = None
        self._newest = _Order()
        self._running = False
        self._pending: tuple[_Order, Callable[[], Any]] | None = None
        self._known = Memory()
        self._take_here = way_to(self._take)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._paused)

    @property
    def busy(self) -> bool:
        """Whether a result is still to come."""
        return self._running or self._pending is not None

    def run(self, job: Callable[[], Any], of: Any = None) -> None:
        """Run ``job``, and forget any asked for before.

        ``of`` is a value that holds all that the result hangs on: what came of an equal one before, as after undo or
        when a design is shown again, is brought again.
        """
        self.forget()
        self._newest.of = of
        self._pending = (self._newest, job)
        self._pause.start(PAUSE_MS)

    def forget(self) -> None:
        """Drop what was asked for; its result is not brought any more, and its flights end."""
        self._newest.wanted = False
        self._newest = _Order()
        self._pending = None

    def forget_all(self) -> None:
        """Compute anew what is asked for from now on: what its results say in words would be said otherwise."""
        self.forget()
        self._known = Memory()

    def close(self) -> None:
        """Forget everything and wait for the thread."""
        self.forget()
        if self._executor is not None:
            go_on()
            self._executor.shutdown(wait=True)
            self._executor = None
        self._running = False

    def _take(self, order: _Order, result: Any, error: Exception | None) -> None:
        self._running = False
        if error is None and order.of is not None:
            self._known.keep(order.of, result)
        if order is self._newest:
            if error is None:
                self.finished.emit(result)
            else:
                self.failed.emit(refusal_of(error))
        if not self._pause.isActive():
            self._start()

    def _paused(self) -> None:
        """A held key that was due at the same moment goes first, and asks anew."""
        if self._pause.interval() > 0:
            self._pause.start(0)
        else:
            self._start()

    def _start(self) -> None:
        if self._pending is None or self._running:
            return
        (order, job), self._pending = self._pending, None
        known = self._known.get(order.of)
        if known is not None:
            self.finished.emit(known)
            return
        if self._executor is None:
            self._executor = ThreadPoolExecutor(max_workers=1)
        self._running = True
        self._executor.submit(_work, self._take_here, order, job)


@dataclass(eq=False)
class _Order:
    """A job that was asked for, and whether it still is."""

    wanted: bool = True
    of: Any = None

    def still_wanted(self) -> bool:
        """Asked in the job's thread, between its steps; the window goes first."""
        give_way()
        return self.wanted


def _work(take: Callable[..., None], order: _Order, job: Callable[[], Any]) -> None:
    """Run a job in the thread, which knows nothing of the worker but the way to it."""
    result, error = None, None
    try:
        with while_wanted(order.still_wanted):
            ask()
            result = job()
    except Exception as raised:
        error = raised
    take(order, result, error)
