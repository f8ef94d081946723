"""A search run beside the window: parts come as they are flown, the newest search wins, and it can be stopped."""

from __future__ import annotations

import contextlib
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.search import Flyers, Space
from wise_cellar.ui.state.carrier import way_to
from wise_cellar.ui.unforeseen import refusal_of


class SearchRunner(QObject):
    """``came`` brings each part, ``ended`` says that all came, ``failed`` why it was refused; in the window's
    thread."""

    came = pyqtSignal(object)
    ended = pyqtSignal()
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._flyers = Flyers()
        self._executor: ThreadPoolExecutor | None = None
        self._newest = 0
        self.busy = False
        self._tell = way_to(self._take)

    def run(self, space: Space, factor: float) -> None:
        """Fly a space; whatever is being flown is dropped."""
        if self._executor is None:
            self._executor = ThreadPoolExecutor(max_workers=1)
        self._newest += 1
        self.busy = True
        self._executor.submit(self._work, self._newest, space, factor)

    def stop(self) -> None:
        """Drop what is being flown; what came already stays with whoever took it."""
        self._newest += 1
        self.busy = False

    def close(self) -> None:
        """Stop, and end thread and processes."""
        self.stop()
        if self._executor is not None:
            self._executor.shutdown(wait=True, cancel_futures=True)
            self._executor = None
        self._flyers.close()

    def _work(self, number: int, space: Space, factor: float) -> None:
        error: Exception | None = None
        try:
            with contextlib.closing(self._flyers.fly(space, factor)) as parts:
                for part in parts:
                    if number != self._newest:
                        return
                    self._tell(number, part, None)
        except Exception as raised:
            error = raised
        self._tell(number, None, error)

    def _take(self, number: int, part: Any, error: Any) -> None:
        if number != self._newest:
            return
        if part is not None:
            self.came.emit(part)
            return
        self.busy = False
        if error is not None:
            self.failed.emit(refusal_of(error))
        else:
            self.ended.emit()
