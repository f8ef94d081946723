"""Logs of flights taken into the workspace: read, cut into flights, and kept with a line of the logbook each."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

from wise_cellar.core.curves.columns import Role
from wise_cellar.core.documents import DocumentError, FlightEntry, RecordedChannel, Recording, RecordingKind
from wise_cellar.core.logbook import flights_in, rows_of
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import one_line
from wise_cellar.store.curve_files import look_at_table
from wise_cellar.store.logs import OTHER_SUFFIXES, read_flights
from wise_cellar.store.series import growing_key
from wise_cellar.ui.state.recording_edits import keep_recordings, saved_here, told_of
from wise_cellar.ui.state.session import Session


@dataclass(frozen=True)
class FlightsInLog:
    """A log of another maker, ready to be kept."""

    piece: Piece
    flights: tuple[tuple[float, float], ...]
    """Take-off and landing of each, s."""
    drawn_mah: tuple[float, ...]
    """In each of them."""
    channels: tuple[RecordedChannel, ...]
    rows: Floats

    @staticmethod
    def of(piece: Piece) -> FlightsInLog:
        """Raises :class:`DocumentError` where nothing flies in it."""
        flights = tuple(flights_in(piece.log))
        channels, rows = rows_of(piece.log)
        drawn = tuple(piece.log.between(*one).drawn_mah() for one in flights)
        return FlightsInLog(piece, flights, drawn, channels, rows.astype("<f8"))


@dataclass(frozen=True)
class ReadLog:
    """What files hold, read and not yet kept: recordings saved here, and flights of other logs."""

    saved: tuple[tuple[Recording, Floats], ...]
    flights: tuple[FlightsInLog, ...]


def read_logs(
    paths: Sequence[Path], told: Mapping[str, Any], progress: Callable[[float], bool] = lambda _share: True
) -> ReadLog:
    """Recordings as they are saved here, and logs of other makers, all or none; ``told`` is what no table tells. May be
    asked in a thread. Raises :class:`DocumentError`, and what a reading that is stopped raises."""
    saved, others = [], []
    for path in paths:
        try:
            if path.suffix.lower() in OTHER_SUFFIXES:
                others.append(path)
            else:
                saved.append(saved_here(path, dict(told), RecordingKind.FLIGHT))
        except DocumentError as refused:
            if not may_be_a_log(path):
                raise refused
            others.append(path)
    pieces = read_flights(others, progress) if others else []
    return ReadLog(tuple(saved), tuple(FlightsInLog.of(piece) for piece in pieces))


def may_be_a_log(path: Path) -> bool:
    """Whether a file looks like a log with amps; raises :class:`DocumentError` where it cannot be looked at."""
    if path.suffix.lower() in OTHER_SUFFIXES:
        return True
    return Role.CURRENT in {column.role for column in look_at_table(path).columns}


def take_flights(session: Session, paths: Sequence[Path]) -> list[Recording]:
    """Put flights and runs from files into the workspace, all or none. Raises :class:`DocumentError`."""
    return keep_logs(session, read_logs(paths, told_of(session)))


def keep_logs(session: Session, read: ReadLog) -> list[Recording]:
    """Put what was read into the workspace, in one edit: every recording, and a line of the logbook a flight."""
    told = told_of(session)
    found = [(one.changed(id=session.free_id(Recording, one.name)), rows) for one, rows in read.saved]
    for log in read.flights:
        piece = log.piece
        begun = {"begun_at": piece.begun_at} if piece.begun_at is not None else {}
        name = one_line(piece.name, 60)
        one = Recording(**{
            **told, **begun, "id": session.free_id(Recording, name), "name": name, "series_key": growing_key(),
            "ended": one_line(f"as {piece.name} has it", 80), "channels": log.channels, "kind": RecordingKind.FLIGHT,
            "design_id": session.complete.design.id,
        })  # fmt: skip
        found.append((one, log.rows))
    names = [one.id for one, _ in found]
    alike = {place: names[:place].count(name) for place, name in enumerate(names)}
    found = [(one.changed(id=f"{one.id}-{alike[place] + 1}") if alike[place] else one, rows)
             for place, (one, rows) in enumerate(found)]  # fmt: skip
    entries = []
    for (one, _), log in zip(found[len(read.saved) :], read.flights, strict=True):
        entries += _entries(session, one, log)
    return keep_recordings(session, found, entries)


def _entries(session: Session, recording: Recording, log: FlightsInLog) -> list[FlightEntry]:
    """A line of the logbook for every flight of a log."""
    found = []
    flies = session.complete.design.packs[0].flies
    for number, ((began, over), drawn) in enumerate(zip(log.flights, log.drawn_mah, strict=True), 1):
        name = recording.name if len(log.flights) == 1 else f"{recording.name[:50]}, flight {number}"
        identifier = f"of-{recording.id}" if number == 1 else f"of-{recording.id}-{number}"
        found.append(FlightEntry(
            id=identifier, name=name, flown_at=recording.begun_at + timedelta(seconds=began),
            design_id=recording.design_id, pack_id="" if flies is None else flies.id, recording_id=recording.id,
            of_log=number, duration_min=round((over - began) / 60, 2),
            used_mah=round(max(drawn, 0.1), 1),
            start_charge_percent=session.complete.design.packs[0].state.start_charge_percent if number == 1 else 100,
            note=" ".join(log.piece.remarks),
        ))  # fmt: skip
    return found
