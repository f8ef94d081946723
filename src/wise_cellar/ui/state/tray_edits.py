"""Edits of the tray: numbered cells of a type, each a document."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any

from wise_cellar.core.build import Tray
from wise_cellar.core.documents import CellType, DocumentError, NumberedCell, PackState, field_info
from wise_cellar.core.units import format_significant
from wise_cellar.store import Removal
from wise_cellar.store.contents import KIND_OF
from wise_cellar.ui.state.pack_making import in_packs
from wise_cellar.ui.state.session import Session

SURELY_MV = 100.0
"""So many volts are none of a cell: they were read in millivolts."""


def cells_of(session: Session, cell_type_id: str) -> tuple[NumberedCell, ...]:
    """The numbered cells of a type, by their numbers."""
    every = session.all(NumberedCell).values()
    return tuple(sorted((one for one in every if one.cell_type_id == cell_type_id), key=lambda one: one.number))


def next_number(cells: Iterable[NumberedCell]) -> int:
    """The first number behind all of a tray."""
    return max((cell.number for cell in cells), default=0) + 1


def _checked(session: Session, cell_type_id: str, own: str, values: dict[str, Any]) -> None:
    """Refuse what only a person could mean otherwise: a number that is there already, volts that are millivolts."""
    if "number" in values:
        taken = next((one for one in cells_of(session, cell_type_id) if one.number == values["number"]), None)
        if taken is not None and taken.id != own:
            raise DocumentError(f"Cell {taken.number} is in this tray already; write another number.", "number")
    for name in ("arrival_v", "rested_v"):
        volts = values.get(name)
        if volts is not None and volts > SURELY_MV:
            told = format_significant(volts)
            raise DocumentError(f"{told} V is no voltage of one cell; millivolts are written {told} mV.", name)


def _not_in_a_pack(session: Session, cell: NumberedCell, doing: str) -> None:
    pack = in_packs(session, cell.cell_type_id).get(cell.number)
    if pack is not None:
        raise DocumentError(f"Cell {cell.number} is in {pack.name}: {doing} it once that pack is removed or retired.")


def _dated(values: dict[str, Any], known: NumberedCell | None) -> dict[str, Any]:
    """A reading is of today, unless its date is told."""
    for volts, day in (("arrival_v", "arrived_on"), ("rested_v", "rested_on")):
        if values.get(volts) is not None and day not in values and getattr(known, day, None) is None:
            values = {**values, day: date.today()}
    return values


def add_cell(session: Session, cell_type_id: str, **values: Any) -> NumberedCell:
    """Put another cell into the tray, under the next number where none is told.

    Raises :class:`DocumentError` where a value cannot be.
    """
    values = {"number": next_number(cells_of(session, cell_type_id))} | values
    _checked(session, cell_type_id, "", values)
    number = values["number"]
    made = NumberedCell.from_data({
        "id": session.free_id(NumberedCell, f"{cell_type_id} {number}"), "cell_type_id": cell_type_id,
        **_dated(values, None),
    })  # fmt: skip
    session.commit(f"Add cell {number}", [made])
    return made


def change_cell(session: Session, cell: NumberedCell, **values: Any) -> None:
    """Write down what was read of a cell; raises :class:`DocumentError` where it cannot be."""
    _checked(session, cell.cell_type_id, cell.id, values)
    if values.get("number", cell.number) != cell.number:
        _not_in_a_pack(session, cell, "renumber")
    changed = cell.changed(**_dated(values, cell))
    if changed != cell:
        title = field_info(NumberedCell, next(iter(values))).title
        session.commit(f"Change {title} of cell {cell.number}", [changed])


def take_in(session: Session, cell_type_id: str, cells: Sequence[NumberedCell], source: str) -> tuple[int, int]:
    """Put read cells into the tray, as one edit: how many are new, and of how many that were there more is known now.

    What a cell that is there already was not read of before is added, and what was read anew counts.
    """
    here = {cell.number: cell for cell in cells_of(session, cell_type_id)}
    taken: list[NumberedCell] = []
    new = 0
    for cell in cells:
        known = here.get(cell.number)
        if known is None:
            stem = f"{cell_type_id} {cell.number}"
            taken.append(cell.changed(id=session.free_id(NumberedCell, stem), cell_type_id=cell_type_id))
            new += 1
            continue
        told = {name: value for name in READ if (value := getattr(cell, name)) not in (None, "", ())}
        changed = known.changed(**told)
        if changed != known:
            taken.append(changed)
    if taken:
        session.commit(f"Take in a tray from {source}", taken)
    return new, len(taken) - new


READ = tuple(name for name in NumberedCell.model_fields
             if name not in ("schema_version", "id", "number", "cell_type_id", "sample"))  # fmt: skip


def remove_cells(session: Session, cells: Iterable[NumberedCell]) -> None:
    """Take cells out of the tray; raises :class:`DocumentError` where one is in a pack."""
    cells = list(cells)
    for cell in cells:
        _not_in_a_pack(session, cell, "remove")
    gone = [Removal(KIND_OF[NumberedCell], cell.id) for cell in cells]
    numbers = ", ".join(str(cell.number) for cell in cells)
    if gone:
        session.commit(f"Remove {'cell' if len(gone) == 1 else 'cells'} {numbers}", gone)
        session.took_away.emit(f"Removed {'cell' if len(gone) == 1 else 'cells'} {numbers}.")


def speak_for_type(session: Session, tray: Tray) -> None:
    """Let the usable cells of a tray be the bench results of their type: its spread then is the range's."""
    cell_type: CellType = session.all(CellType)[tray.cell_type.id]
    changed = cell_type.changed(bench_results=tray.bench_results())
    session.commit(f"Take {cell_type.name} from its tray", [changed])


def fly_as_built(session: Session, state: PackState) -> None:
    """Fly the present design with the groups that were matched."""
    session.edit("design.packs.0.state", state, "Fly the pack as it is built")
