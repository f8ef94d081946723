"""What comes in pieces from beside the window: every piece is brought, in order, until the next stream or a stop.

A :class:`~wise_cellar.ui.state.work.Worker` brings only the newest result; this brings all there is of the newest.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Generator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.flight import while_wanted
from wise_cellar.ui.state.carrier import way_to
from wise_cellar.ui.state.giving_way import give_way, go_on
from wise_cellar.ui.unforeseen import refusal_of


class Stream(QObject):
    """``came`` brings each piece, ``ended`` says that all came, ``failed`` why no more will; in the window's thread."""

    came = pyqtSignal(object)
    ended = pyqtSignal()
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._executor: ThreadPoolExecutor | None = None
        self._newest = 0
        self.busy = False
        self._tell = way_to(self._take)

    def run(self, pieces: Callable[[], Generator[Any]]) -> None:
        """Bring what ``pieces`` yields, in a thread; of what ran before nothing more is brought, and it is closed."""
        if self._executor is None:
            self._executor = ThreadPoolExecutor(max_workers=1)
        self._newest += 1
        self.busy = True
        self._executor.submit(self._work, self._newest, pieces)

    def stop(self) -> None:
        """Bring nothing more; what came already stays with whoever took it."""
        self._newest += 1
        self.busy = False

    def close(self) -> None:
        """Stop, and wait for the thread."""
        self.stop()
        if self._executor is not None:
            go_on()
            self._executor.shutdown(wait=True, cancel_futures=True)
            self._executor = None

    def _work(self, number: int, pieces: Callable[[], Generator[Any]]) -> None:
        def still_wanted() -> bool:
            give_way()
            return number == self._newest

        error: Exception | None = None
        try:
            with while_wanted(still_wanted), contextlib.closing(pieces()) as coming:
                for piece in coming:
                    if number != self._newest:
                        return
                    self._tell(number, (piece,), None)
        except Exception as raised:
            error = raised
        self._tell(number, (), error)

    def _take(self, number: int, pieces: tuple[Any, ...], error: Exception | None) -> None:
        if number != self._newest:
            return
        for piece in pieces:
            self.came.emit(piece)
        if pieces:
            return
        self.busy = False
        if error is not None:
            self.failed.emit(refusal_of(error))
        else:
            self.ended.emit()
