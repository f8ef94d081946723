"""What nobody foresaw: logged to a file of the user's, told in a sentence, and the window goes on."""

from __future__ import annotations

import logging
import sys
import threading
import time
import traceback
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from platformdirs import user_state_path
from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar import __version__
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import one_line
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.carrier import way_to

LOG_BYTES = 1_000_000
AGAIN_S = 10.0
"""The same fault within this time is the same event: a fault in drawing comes at every frame."""
_log = logging.getLogger("wise_cellar")


def log_path() -> Path:
    """Where the log is."""
    return user_state_path("wise-cellar") / "wise-cellar.log"


def unforeseen_words(error: BaseException) -> str:
    """What happened, in a sentence."""
    said = one_line(f"{type(error).__name__}: {error}".removesuffix(": "), 120)
    return f"Something went wrong here that nobody foresaw ({said}). All edits made before it are kept."


def refusal_of(error: Exception) -> DocumentError | WorkspaceError:
    """A refusal as it is; any other failure logged and told, and as a refusal."""
    if isinstance(error, DocumentError | WorkspaceError):
        return error
    sys.excepthook(type(error), error, error.__traceback__)
    return DocumentError(unforeseen_words(error))


class Unforeseen(QObject):
    """Takes every exception that nobody caught, of any thread. ``happened`` brings a sentence and the details."""

    happened = pyqtSignal(str, str)

    def __init__(self, path: Path | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._last: tuple[str, float] = ("", 0.0)
        self._tell = way_to(self._told)
        self._handler = _handler(path or log_path())

    def install(self) -> None:
        """Take over from the interpreter, until :meth:`remove`."""
        self._before = sys.excepthook, threading.excepthook
        sys.excepthook = self.take
        threading.excepthook = lambda caught: self.take(
            caught.exc_type, caught.exc_value or caught.exc_type(), caught.exc_traceback
        )

    def remove(self) -> None:
        """Give back to whoever had it."""
        sys.excepthook, threading.excepthook = self._before
        _log.removeHandler(self._handler)
        self._handler.close()

    def take(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Log and tell an exception; an interruption from the keyboard ends the process as ever."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        details = "".join(traceback.format_exception(kind, error, trace))
        now = time.monotonic()
        if (self._last[0], now - self._last[1] < AGAIN_S) == (details, True):
            return
        self._last = details, now
        _log.error("%s\n%s", __version__, details)
        self._tell(unforeseen_words(error), f"Wise Cellar {__version__}, Python {sys.version.split()[0]}\n{details}")

    def _told(self, sentence: str, details: str) -> None:
        self.happened.emit(sentence, details)


def _handler(path: Path) -> logging.Handler:
    """A rotating file, or standard error where there can be none."""
    handler: logging.Handler
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(path, maxBytes=LOG_BYTES, backupCount=1, encoding="utf-8", errors="replace")
    except OSError:
        handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    _log.addHandler(handler)
    _log.propagate = False
    return handler
