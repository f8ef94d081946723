"""Logs that crafts keep, in open formats: tables, ULog, DataFlash, telemetry logs of MAVLink, and tracks (GPX)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from wise_cellar.core.curves import Role
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook import log_of_figures
from wise_cellar.core.logbook.joining import Piece, Track, put_together, with_places
from wise_cellar.store.curve_files import check_size, look_at_table, read_figures
from wise_cellar.store.logs.common import Progress, moment
from wise_cellar.store.logs.dataflash import read_dataflash
from wise_cellar.store.logs.telemetry import read_telemetry
from wise_cellar.store.logs.tracks import read_track
from wise_cellar.store.logs.ulog import read_ulog

__all__ = ["OTHER_SUFFIXES", "Progress", "read_flights", "read_piece"]


def _read_table(path: Path, progress: Progress) -> Piece:
    table = look_at_table(path)
    try:
        read = read_figures(table, progress, of_flight=True)
    except DocumentError:
        read = read_figures(table, progress)  # one of its groups, or a place, may have told no number
    figures = read.values
    log = log_of_figures(table.columns, figures, path.name, read.groups_v)
    clock = next(column for column in table.columns if column.role is Role.TIME)
    starts = float(figures[Role.TIME][0]) * clock.factor
    piece = Piece(path.stem, log, starts, moment(starts))
    return piece if read.positions is None else with_places(piece, figures[Role.TIME] * clock.factor, read.positions)


_READERS: dict[str, Callable[[Path, Progress], Piece | Track]] = {
    ".ulg": read_ulog, ".bin": read_dataflash, ".tlog": read_telemetry, ".gpx": read_track,
}  # fmt: skip
OTHER_SUFFIXES = tuple(_READERS)
"""Of files that are no tables."""


def read_piece(path: Path, progress: Progress = lambda _share: True) -> Piece | Track:
    """What one file holds; raises :class:`DocumentError` with one sentence, and
    :class:`~wise_cellar.store.curve_files.CancelledError` where ``progress`` says so."""
    reader = _READERS.get(path.suffix.lower())
    if reader is None:
        return _read_table(path, progress)
    check_size(path, "Log fewer messages, or cut out the flight.")
    return reader(path, progress)


def read_flights(paths: Sequence[Path], progress: Progress = lambda _share: True) -> list[Piece]:
    """Flights from files: pieces of one flight joined, tracks laid over their logs; ``progress`` hears the share of all
    that is read. Raises what :func:`read_piece` raises."""

    def share_of(place: int, share: float) -> bool:
        return progress((place + share) / len(paths))

    return put_together([read_piece(path, partial(share_of, place)) for place, path in enumerate(paths)])
