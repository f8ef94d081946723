"""Large logs read beside the window: how far it is, stopped when asked, all or none."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.documents import DocumentError
from wise_cellar.store.curve_files import CancelledError
from wise_cellar.ui.state.carrier import way_to
from wise_cellar.ui.state.flight_logs import ReadLog, read_logs
from wise_cellar.ui.state.work import Worker

LARGE_BYTES = 3_000_000
"""Together; what is smaller is read at once, in less than half a second."""


def are_large(paths: Sequence[Path]) -> bool:
    """Whether reading them would keep the window waiting."""
    return sum(path.stat().st_size for path in paths if path.is_file()) > LARGE_BYTES


class LogReading(QObject):
    """``read`` brings what was read, ``failed`` why nothing was (empty: it was stopped), ``share`` how far it is."""

    read = pyqtSignal(object)
    failed = pyqtSignal(str)
    share = pyqtSignal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wanted = True
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(lambda error: self.failed.emit(str(error)))
        self._tell = way_to(self._say)

    @property
    def busy(self) -> bool:
        """Whether something is read."""
        return self._worker.busy

    def run(self, paths: Sequence[Path], told: dict[str, Any]) -> None:
        """Read these."""
        self._wanted = True
        self._worker.run(partial(_read, tuple(paths), told, self._heard))

    def stop(self) -> None:
        """Read no further; nothing is kept."""
        self._wanted = False

    def close(self) -> None:
        """Stop, and wait for the thread."""
        self.stop()
        self._worker.close()

    def _heard(self, share: float) -> bool:
        self._tell(share)
        return self._wanted

    def _say(self, share: float) -> None:
        if self.busy:
            self.share.emit(share)

    def _take(self, found: ReadLog | None) -> None:
        if found is None:
            self.failed.emit("")
        else:
            self.read.emit(found)


def _read(paths: tuple[Path, ...], told: dict[str, Any], heard: Any) -> ReadLog | None:
    try:
        return read_logs(paths, told, heard)
    except CancelledError:
        return None
    except MemoryError as error:
        raise DocumentError("This machine has not enough memory for these logs: log at a lower rate.") from error
