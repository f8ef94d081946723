"""Edits of packs that are built: begun, made step by step, finished, measured, flown."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime

from wise_cellar.core.build.making import Making, making_of, recipe_to_keep, taken, with_reading
from wise_cellar.core.documents import BuiltPack, CellType, DocumentError, NumberedCell, PackRecipe
from wise_cellar.core.pack import PackBuild
from wise_cellar.core.words import quoted
from wise_cellar.store import Removal
from wise_cellar.store.contents import KIND_OF
from wise_cellar.ui.state.session import Session


def built_packs(session: Session) -> tuple[BuiltPack, ...]:
    """Every pack that is built or being built: those not finished first, then by name."""
    every = session.all(BuiltPack).values()
    return tuple(sorted(every, key=lambda pack: (pack.retired, pack.finished, pack.name.lower())))


def in_packs(session: Session, cell_type_id: str) -> Mapping[int, BuiltPack]:
    """Numbers of the cells of a type that are in a pack."""
    return taken(built_packs(session), cell_type_id)


def making(session: Session, pack: BuiltPack) -> Making:
    """The steps of a pack that was begun; raises :class:`DocumentError` where its cell type is gone."""
    cell_type = session.all(CellType).get(pack.cell_type_id)
    if cell_type is None:
        raise DocumentError(f"{pack.name} is built of a cell type that is not in the workspace any more.")
    return making_of(pack, cell_type, tuple(session.all(NumberedCell).values()))


def usual_name(session: Session) -> str:
    """A name that no pack has: the craft's with a number."""
    names = {pack.name for pack in built_packs(session)}
    stem = session.complete.craft.name[:30]
    return next(name for number in range(1, len(names) + 2) if (name := f"{stem} {number}") not in names)


def begin_pack(session: Session, name: str, build: PackBuild, groups: Sequence[Sequence[NumberedCell]]) -> BuiltPack:
    """Begin a pack of these cells; raises :class:`DocumentError` where it cannot be."""
    return begin_of_recipe(session, name, recipe_to_keep(build), build.cell.id, groups)


def begin_of_recipe(
    session: Session, name: str, recipe: PackRecipe, cell_type_id: str, groups: Sequence[Sequence[NumberedCell]]
) -> BuiltPack:
    """Begin a pack of a recipe whose layout is settled; raises :class:`DocumentError` where it cannot be."""
    name = name.strip()
    if not name:
        raise DocumentError("A pack that is begun has a name; write one.")
    if any(pack.name == name for pack in built_packs(session)):
        raise DocumentError(f"There is a pack {quoted(name)} already; write another name.")
    there = in_packs(session, cell_type_id)
    numbers = tuple(tuple(cell.number for cell in group) for group in groups)
    twice = next((number for group in numbers for number in group if number in there), None)
    if twice is not None:
        raise DocumentError(f"Cell {twice} is in {there[twice].name} already; choose another.")
    pack = BuiltPack(
        id=session.free_id(BuiltPack, name), name=name, cell_type_id=cell_type_id, recipe=recipe, groups=numbers,
        begun_on=date.today(),
    )  # fmt: skip
    session.commit(f"Begin the pack {name}", [pack])
    return pack


def read_step(session: Session, pack: BuiltPack, step: str, of: str, volts: float | None) -> None:
    """Write down a reading, or take it back."""
    changed = with_reading(pack, step, of, volts)
    if changed != pack:
        session.commit(f"Write down a reading of {pack.name}", [changed])


def close_step(session: Session, pack: BuiltPack, step: str, title: str, *, left_out: bool = False) -> None:
    """A step is done, or left out, now."""
    record = pack.record(step).changed(at=datetime.now().replace(microsecond=0), left_out=left_out)
    session.commit(f"{'Leave out' if left_out else 'Done'}: {title}", [pack.with_record(record)])


def open_step(session: Session, pack: BuiltPack, step: str, title: str) -> None:
    """A step is to be done again; its readings and its note stay."""
    record = pack.record(step).changed(at=None, left_out=False)
    session.commit(f"Open again: {title}", [pack.with_record(record)])


def note_step(session: Session, pack: BuiltPack, step: str, note: str) -> None:
    """Write a note at a step."""
    changed = pack.with_record(pack.record(step).changed(note=note.strip()))
    if changed.record(step).note != pack.record(step).note:
        session.commit(f"Note on {pack.name}", [changed])


def finish_pack(session: Session, pack: BuiltPack, *, finished: bool = True) -> None:
    """The pack is built; or is worked on again."""
    day = date.today() if finished else None
    session.commit(f"{pack.name} is {'finished' if finished else 'worked on again'}", [pack.changed(finished_on=day)])


def remove_pack(session: Session, pack: BuiltPack) -> None:
    """Take a pack out of the workspace; its cells are free again."""
    session.commit(f"Remove the pack {pack.name}", [Removal(KIND_OF[BuiltPack], pack.id)])
    session.took_away.emit(f"Removed the pack {pack.name}; its cells are in the tray again.")
