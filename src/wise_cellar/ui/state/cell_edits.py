"""What the Cells station asks of the session: whole cell types, their discharges and their charts, one edit each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from wise_cellar.core.curves import Assembled, DischargeCurve, traced_discharge
from wise_cellar.core.documents import (
    CellType,
    DischargeRecord,
    Document,
    FormFactor,
    TracedChart,
    TracedCurve,
    blank_cell_type,
    replaced,
    with_form,
)
from wise_cellar.store import Removal
from wise_cellar.store.records import discharge_record
from wise_cellar.store.series import pack_curve, series_key, unpack_curve
from wise_cellar.ui.state.session import Session


@dataclass(frozen=True)
class CurveEntry:
    """One discharge of a cell type: a record, or one curve of a chart."""

    name: str
    source: DischargeRecord | TracedChart
    place: int
    """Which curve of a chart; 0 for a record."""
    in_fit: bool

    @property
    def traced(self) -> TracedCurve | None:
        """The curve of the chart, where it is one."""
        return self.source.curves[self.place] if isinstance(self.source, TracedChart) else None


def add_cell_type(session: Session, form: FormFactor) -> None:
    """A new cell type with values usual for its form; the present design uses it."""
    taken = {cell.name for cell in session.all(CellType).values()}
    name = next(
        candidate
        for n in range(1, len(taken) + 2)
        if (candidate := f"My {form}" + (f" {n}" if n > 1 else "")) not in taken
    )
    cell = blank_cell_type(session.free_id(CellType, name), name, form)
    design = session.complete.design.with_first(cell_type_id=cell.id)
    session.commit(f"Add {name}", [cell, design])


def change_form(session: Session, form: FormFactor) -> None:
    """Give the present cell type another form, with the sizes that the form needs."""
    cell = session.complete.pack.cell
    session.commit(f"Change the form of {cell.name}", [with_form(cell, form)])


def archive(session: Session, identifiers: Sequence[str], archived: bool) -> None:
    """Take cell types off the shelf, or put them back, as one edit; designs that use them keep them."""
    cells = [session.library.find(CellType, identifier) for identifier in identifiers]
    session.commit(
        f"{'Archive' if archived else 'Put back'} {', '.join(cell.name for cell in cells)}",
        [cell.changed(archived=archived) for cell in cells],
    )


def delete_cell_types(session: Session, identifiers: Sequence[str]) -> None:
    """Remove cell types with their discharges and charts, as one edit; refused while a design uses one."""
    removals, names = [], []
    for identifier in identifiers:
        cell = session.library.find(CellType, identifier)
        names.append(cell.name)
        removals.append(Removal("cell_type", identifier))
        removals += [Removal("discharge", record.id) for record in records_of(session, identifier)]
        removals += [Removal("chart", chart.id) for chart in charts_of(session, identifier)]
    session.commit(f"Delete {', '.join(names)}", removals)
    session.took_away.emit(f"Deleted {', '.join(names)}.")


def take_in_cells(session: Session, cells: Sequence[CellType], file_name: str) -> int:
    """Add or replace the cell types of a table; a row never touches fit, own voltage table or bench results.

    Returns how many were taken.
    """
    shelf = session.all(CellType)
    changes = []
    for cell in cells:
        present = shelf.get(cell.id)
        if present is not None:
            kept = {name: getattr(present, name) for name in ("fitted", "own_ocv", "bench_results", "sample")}
            cell = cell.changed(**kept)
        if cell != present:
            changes.append(cell)
    if changes:
        session.commit(f"Import {file_name}", changes)
    return len(cells)


def records_of(session: Session, cell_id: str) -> list[DischargeRecord]:
    """Logged discharges of a cell type."""
    return [r for r in session.all(DischargeRecord).values() if r.cell_type_id == cell_id]


def charts_of(session: Session, cell_id: str) -> list[TracedChart]:
    """Traced charts of a cell type."""
    return [c for c in session.all(TracedChart).values() if c.cell_type_id == cell_id]


def curves_of(session: Session, cell_id: str) -> list[CurveEntry]:
    """Every discharge of a cell type, logged ones first."""
    found = [CurveEntry(r.name, r, 0, r.in_fit) for r in records_of(session, cell_id)]
    for chart in charts_of(session, cell_id):
        found += [CurveEntry(curve.name, chart, place, curve.in_fit) for place, curve in enumerate(chart.curves)]
    return found


def load_curve(session: Session, entry: CurveEntry) -> DischargeCurve:
    """The arrays of a discharge; raises :class:`DocumentError` or ``WorkspaceError`` with a sentence."""
    if isinstance(entry.source, TracedChart):
        return traced_discharge(entry.source, entry.source.curves[entry.place])
    return unpack_curve(entry.name, session.workspace.series(entry.source.series_key))


def add_discharges(
    session: Session, cell_id: str, found: Sequence[tuple[Assembled, str, float]], gone: Sequence[Removal] = ()
) -> list[DischargeRecord]:
    """Keep imported discharges, each with its file name and air temperature, as one edit; ``gone`` is what they were
    made of."""
    records: list[DischargeRecord] = []
    series: dict[str, bytes] = {}
    names = {entry.name for entry in curves_of(session, cell_id)}
    for assembled, file_name, air_c in found:
        curve = replace(assembled.curve, name=_free_name(assembled.curve.name, names))
        names.add(curve.name)
        body = pack_curve(curve)
        key = series_key(body)
        taken = {r.id for r in records} | set(session.all(DischargeRecord))
        stem = session.free_id(DischargeRecord, f"{cell_id} {curve.name}")
        identifier = next(c for n in range(1, len(taken) + 2) if (c := stem if n == 1 else f"{stem}-{n}") not in taken)
        records.append(
            discharge_record(curve, cell_type_id=cell_id, identifier=identifier, series_key=key, file_name=file_name,
                             air_temperature_c=air_c)
        )  # fmt: skip
        series[key] = body
    session.commit(f"Import {', '.join(record.name for record in records)}", [*records, *gone], series=series)
    return records


def set_in_fit(session: Session, entry: CurveEntry, in_fit: bool) -> None:
    """Use a discharge in the fit, or hold it out."""
    _change_curve(session, entry, f"{'Use' if in_fit else 'Hold out'} {entry.name}", "in_fit", in_fit)


def rename_curve(session: Session, entry: CurveEntry, name: str) -> None:
    """Give a discharge another name; refused when it is empty."""
    others = {other.name for other in curves_of(session, entry.source.cell_type_id) if other != entry}
    _change_curve(session, entry, f"Rename {entry.name}", "name", _free_name(name.strip(), others))


def _change_curve(session: Session, entry: CurveEntry, label: str, field: str, value: object) -> None:
    path = f"curves.{entry.place}.{field}" if isinstance(entry.source, TracedChart) else field
    changed = replaced(entry.source, path, value)
    if changed != entry.source:
        session.commit(label, [changed])


def remove_curve(session: Session, entry: CurveEntry) -> None:
    """Remove a discharge; the last curve of a chart takes the chart with it."""
    change: Document | Removal
    if isinstance(entry.source, DischargeRecord):
        change = Removal("discharge", entry.source.id)
    else:
        curves = tuple(curve for place, curve in enumerate(entry.source.curves) if place != entry.place)
        whole = Removal("chart", entry.source.id)
        change = entry.source.changed(curves=curves) if curves else whole
    session.commit(f"Remove {entry.name}", [change])
    session.took_away.emit(f"Removed the discharge {entry.name}.")


def _free_name(name: str, taken: set[str]) -> str:
    """The name, or the name with a number that no other discharge of the cell has."""
    candidates = (name if number == 1 else f"{name}, {number}" for number in range(1, len(taken) + 2))
    return next(candidate for candidate in candidates if candidate not in taken)
