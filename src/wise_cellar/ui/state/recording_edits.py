"""What was recorded: its rows, the discharge in it, and how it comes and goes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np

from wise_cellar.core.curves.assembly import Assembled, Circumstances, assemble
from wise_cellar.core.curves.columns import LogColumn, Role
from wise_cellar.core.documents import (
    DischargeRecord,
    DocumentError,
    FlightEntry,
    RecordedChannel,
    Recording,
    RecordingKind,
)
from wise_cellar.core.logbook import flights_in, rows_of
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import one_line
from wise_cellar.store import Removal
from wise_cellar.store.contents import KIND_OF
from wise_cellar.store.curve_files import look_at_table
from wise_cellar.store.logs import OTHER_SUFFIXES, read_flights
from wise_cellar.store.recording_tables import read_recording
from wise_cellar.store.series import growing_key
from wise_cellar.ui.state.cell_edits import add_discharges
from wise_cellar.ui.state.session import Session

ROLES = {"volts": (Role.VOLTAGE, "V"), "amps": (Role.CURRENT, "A"), "temperature": (Role.TEMPERATURE, "°C")}
NEEDED = ("volts", "amps")


def recorded_rows(session: Session, recording: Recording) -> Floats:
    """(rows, 1 + channels) Seconds and the channels of a recording, as far as they were kept."""
    wide = 1 + len(recording.channels)
    body = b"".join(session.workspace.series_parts(recording.series_key))
    rows = np.frombuffer(body[: len(body) // (8 * wide) * 8 * wide], "<f8")
    return rows.reshape(-1, wide)


def as_discharge(recording: Recording, rows: Floats, air_c: float, cut_off_v: float) -> Assembled:
    """The discharge in a recording, by the rules by which logs are read; raises :class:`DocumentError`."""
    names = recording.quantities
    columns = [LogColumn("time_s", Role.TIME, "s")]
    figures = {Role.TIME: rows[:, 0]}
    there = np.isfinite(rows[:, [1 + names.index(name) for name in NEEDED if name in names]]).all(axis=1)
    for place, name in enumerate(names, 1):
        if name in ROLES and np.isfinite(rows[there, place]).all():
            role, unit = ROLES[name]
            columns.append(LogColumn(name, role, unit))
            figures[role] = rows[there, place]
    figures[Role.TIME] = rows[there, 0]
    return assemble(columns, figures, Circumstances(recording.name, air_temperature_c=air_c), cut_off_v)


def keep_as_discharge(session: Session, recording: Recording, air_c: float) -> DischargeRecord:
    """Put a discharge like any other in the place of a recording; raises :class:`DocumentError` where it holds none."""
    cut_off = session.complete.pack.cell.min_voltage_v
    found = as_discharge(recording, recorded_rows(session, recording), air_c, cut_off)
    gone = [Removal(KIND_OF[Recording], recording.id)]
    return add_discharges(session, recording.cell_type_id, [(found, recording.device, air_c)], gone)[0]


def discharges_recorded(session: Session, cell_id: str) -> list[Recording]:
    """Discharges of a cell type that were recorded and not kept as curves, the latest first."""
    return [one for one in recordings(session, RecordingKind.DISCHARGE) if one.cell_type_id == cell_id]


def recordings(session: Session, *kinds: RecordingKind) -> list[Recording]:
    """What was recorded of some kinds, the latest first."""
    found = [one for one in session.all(Recording).values() if one.kind in kinds]
    return sorted(found, key=lambda one: one.begun_at, reverse=True)


def take_recording(session: Session, path: Path) -> Recording:
    """Put the discharge in a CSV beside those of the present cell; raises :class:`DocumentError`."""
    told = told_of(session) | {"cell_min_v": session.complete.pack.cell.min_voltage_v}
    one, rows = _saved_here(path, told, RecordingKind.DISCHARGE)
    return keep_recordings(session, [(one.changed(id=session.free_id(Recording, one.name)), rows)])[0]


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
                saved.append(_saved_here(path, dict(told), RecordingKind.FLIGHT))
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


def keep_recordings(
    session: Session, found: Sequence[tuple[Recording, Floats]], entries: Sequence[FlightEntry] = ()
) -> list[Recording]:
    """Put recordings with their rows, and lines of the logbook, into the workspace, in one edit; raises
    ``WorkspaceError``."""
    kept = [one for one, _ in found]
    label = f"Take in {kept[0].name}" if len(kept) == 1 else f"Take in {len(kept)} recordings"
    session.commit(label, [*kept, *entries])
    for one, rows in found:
        session.workspace.grow_series(one.series_key, [rows.astype("<f8").tobytes()])
    return kept


def _saved_here(path: Path, told: dict[str, Any], kind: RecordingKind) -> tuple[Recording, Floats]:
    """A recording in a CSV as it is saved here, of a kind where it does not tell its own: of the present cell, or of
    the present pack, as ``told``."""
    given = {key: value for key, value in told.items() if key != "cell_min_v"}
    given |= {"kind": kind, "id": "saved", "name": one_line(path.stem, 60), "series_key": growing_key(),
              "ended": one_line(f"as {path.name} has it", 80)}  # fmt: skip
    if kind is RecordingKind.DISCHARGE:
        given |= {"series_count": 1, "parallel_count": 1, "least_v": told["cell_min_v"]}
    recording, rows = read_recording(path, given, NEEDED)
    if recording.kind is RecordingKind.CHARGE:
        raise DocumentError(f"{path.name} holds a charge; a discharge, a run or a flight is wanted.")
    return recording, rows


def told_of(session: Session) -> dict[str, Any]:
    """What no table tells of a recording, of the present design."""
    pack, recipe = session.complete.pack, session.complete.pack.recipe
    return {
        "cell_type_id": pack.cell.id, "least_v": 0.0, "amps": 0.0, "series_count": recipe.series_count,
        "parallel_count": recipe.parallel_count, "begun_at": datetime.now().replace(microsecond=0),
    }  # fmt: skip


def remove_recording(session: Session, recording: Recording) -> None:
    """Forget a recording."""
    session.commit(f"Remove {recording.name}", [Removal(KIND_OF[Recording], recording.id)])
    session.took_away.emit(f"Removed the recording {recording.name}.")
