"""Slow computations beside the window: one at a time, the newest wins, a stale result is dropped."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal


class Worker(QObject):
    """Runs pure functions on values in one thread. Of several asked for meanwhile, only the last is run.

    ``finished`` brings the result of the newest job, ``failed`` its exception; both in the window's thread.
    """

    finished = pyqtSignal(object)
    failed = pyqtSignal(object)
    _came = pyqtSignal(int, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._executor: ThreadPoolExecutor | None = None
        self._newest = 0
        self._running = False
        self._pending: tuple[int, Callable[[], Any]] | None = None
        self._came.connect(self._take)

    @property
    def busy(self) -> bool:
        """Whether a result is still to come."""
        return self._running

    def run(self, job: Callable[[], Any]) -> None:
        """Run ``job``, and forget any asked for before."""
        self._newest += 1
        self._pending = (self._newest, job)
        if not self._running:
            self._start()

    def forget(self) -> None:
        """Drop whatever is running or waiting."""
        self._newest += 1
        self._pending = None

    def close(self) -> None:
        """Forget everything and wait for the thread."""
        self.forget()
        if self._executor is not None:
            self._executor.shutdown(wait=True)
            self._executor = None
        self._running = False

    def _start(self) -> None:
        if self._pending is None:
            return
        if self._executor is None:
            self._executor = ThreadPoolExecutor(max_workers=1)
        (number, job), self._pending, self._running = self._pending, None, True
        self._executor.submit(self._work, number, job)

    def _work(self, number: int, job: Callable[[], Any]) -> None:
        result, error = None, None
        try:
            result = job()
        except Exception as raised:
            error = raised
        # The window may be gone by now.
        with contextlib.suppress(RuntimeError):
            self._came.emit(number, result, error)

    def _take(self, number: int, result: Any, error: Any) -> None:
        self._running = False
        if number == self._newest:
            if error is None:
                self.finished.emit(result)
            else:
                self.failed.emit(error)
        self._start()
