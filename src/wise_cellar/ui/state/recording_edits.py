"""What was recorded: its rows, the discharge in it, and how it comes and goes."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np

from wise_cellar.core.curves.assembly import Assembled, Circumstances, assemble
from wise_cellar.core.curves.columns import LogColumn, Role
from wise_cellar.core.documents import (
    DischargeRecord,
    DocumentError,
    FlightEntry,
    Recording,
    RecordingKind,
)
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import one_line
from wise_cellar.store import Removal
from wise_cellar.store.contents import KIND_OF
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
    one, rows = saved_here(path, told, RecordingKind.DISCHARGE)
    return keep_recordings(session, [(one.changed(id=session.free_id(Recording, one.name)), rows)])[0]


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


def saved_here(path: Path, told: dict[str, Any], kind: RecordingKind) -> tuple[Recording, Floats]:
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
