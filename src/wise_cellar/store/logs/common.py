"""What every kind of log is read by."""

from __future__ import annotations

import contextlib
import io
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook import log_of_series
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.store.curve_files import CancelledError
from wise_cellar.store.reading import told

Progress = Callable[[float], bool]
"""Hears the share that is read, and answers whether to go on."""
Series = dict[str, tuple[Floats, Floats]]
"""By field of a flight log: seconds and values."""
EPOCH_S = 1e8
"""A clock beyond this counts from 1970."""


def moment(seconds: float) -> datetime | None:
    """The day and hour of a clock that counts from 1970; none of another."""
    if not EPOCH_S < seconds < 1e10:
        return None
    return datetime.fromtimestamp(seconds, UTC).replace(tzinfo=None, microsecond=0)


@contextlib.contextmanager
def quietly() -> Iterator[None]:
    """Libraries print what is damaged: it is told in a sentence instead."""
    with contextlib.redirect_stderr(io.StringIO()), contextlib.redirect_stdout(io.StringIO()):
        yield


def damaged(path: Path, what: str, error: object = "") -> DocumentError:
    """A file that a library cannot read, in a sentence."""
    because = f" ({error})" if str(error) else ""
    return DocumentError(f"{told(path.name)} is no {what} log, or it is cut off before anything is told{because}.")


def made(path: Path, series: Series, clock_s: float | None, remarks: tuple[str, ...] = ()) -> Piece:
    """A piece of what was told; ``clock_s`` is the second since 1970 at the log's own nought."""
    log, starts = log_of_series(series, path.name)
    at = starts if clock_s is None else clock_s + starts
    return Piece(path.stem, log, at, moment(at), remarks)


def of_several(batteries: int) -> tuple[str, ...]:
    """What to say where several batteries are told of."""
    if batteries < 2:
        return ()
    return (f"The log tells of {batteries} batteries; the first is taken.",)


def stop(progress: Progress, share: float) -> None:
    """Raises :class:`CancelledError` where nobody waits any more."""
    if not progress(share):
        raise CancelledError
