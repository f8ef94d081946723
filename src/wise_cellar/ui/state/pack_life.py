"""Edits of finished packs: measured, flown by designs, built again, repaired."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from wise_cellar.core.build import Asked, judge, match
from wise_cellar.core.build.finished import state_now
from wise_cellar.core.build.making import whereabouts
from wise_cellar.core.build.repair import RepairPlan, repaired
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    Design,
    Document,
    DocumentError,
    NumberedCell,
    Pack,
    PackCharge,
    PackCheck,
    PackRepair,
    PackState,
)
from wise_cellar.core.words import quoted
from wise_cellar.ui.state.pack_making import begin_of_recipe, built_packs
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of


def type_of(session: Session, pack: BuiltPack) -> CellType:
    """The cell type of a pack; raises :class:`DocumentError` where it is gone."""
    found = session.all(CellType).get(pack.cell_type_id)
    if found is None:
        raise DocumentError(f"{pack.name} is built of a cell type that is not in the workspace any more.")
    return found  # type: ignore[no-any-return]


def today(session: Session, pack: BuiltPack) -> PackState:
    """The pack as it is now; raises :class:`DocumentError` where its readings cannot be."""
    return state_now(pack, type_of(session, pack), cells_of(session, pack.cell_type_id))


def free_cells(session: Session, cell_type: CellType) -> tuple[NumberedCell, ...]:
    """Sound cells of the tray that are in no pack."""
    where = whereabouts(built_packs(session), cell_type.id)
    return judge(cell_type, cells_of(session, cell_type.id), where).usable


def flown_by(session: Session, pack: BuiltPack) -> tuple[Design, ...]:
    """Designs of which a pack is this one."""
    return tuple(
        design
        for design in session.all(Design).values()
        if any(one.flies is not None and one.flies.id == pack.id for one in design.packs)
    )


def as_flown(present: Pack, pack: BuiltPack, state: PackState) -> Pack:
    """A pack of a design as the built one is today; charge and warmth at take-off stay those of the design."""
    kept = {name: getattr(present.state, name) for name in ("start_charge_percent", "temperature_c")}
    return present.changed(
        cell_type_id=pack.cell_type_id, recipe=pack.recipe, state=state.changed(**kept), built=pack.as_flown
    )


def _change(session: Session, label: str, pack: BuiltPack) -> None:
    """Make one edit of a pack, and of all designs that fly it."""
    session.commit(label, with_designs(session, pack))


def with_designs(session: Session, pack: BuiltPack) -> list[Document]:
    """A pack as it is to be, and all designs that fly it, as they then are."""
    state = today(session, pack)
    changes: list[Document] = [pack]
    for design in flown_by(session, pack):
        packs = [
            as_flown(one, pack, state) if one.flies is not None and one.flies.id == pack.id else one
            for one in design.packs
        ]
        changes.append(design.changed(packs=packs))
    return changes


def fly_pack(session: Session, pack: BuiltPack) -> None:
    """The present design flies this pack, as it is today; raises :class:`DocumentError` where it cannot."""
    if not pack.finished:
        raise DocumentError(f"{pack.name} is half built: finish it before it flies.")
    if pack.retired:
        raise DocumentError(f"{pack.name} is retired: it does not fly any more.")
    if pack.repair is not None:
        raise DocumentError(f"{pack.name} is being repaired: finish that before it flies.")
    first = session.complete.design.packs[0]
    flies = as_flown(first, pack, today(session, pack))
    design = session.complete.design.changed(packs=(flies, *session.complete.design.packs[1:]))
    session.commit(f"Fly {pack.name}", [design])


def fly_as_designed(session: Session) -> None:
    """The present design flies no built pack: its recipe, with cells as their type says."""
    first = session.complete.design.packs[0]
    plain = first.state.changed(capacity_percent=100.0, resistance_percent=100.0, groups=())
    recipe = first.recipe.changed(weighed_g=None)
    session.commit("Fly it as designed", [session.complete.design.with_first(built=None, state=plain, recipe=recipe)])


def weigh_pack(session: Session, pack: BuiltPack, grams: float | None) -> None:
    """Write down what the scale says."""
    if grams != pack.recipe.weighed_g:
        _change(session, f"Weigh {pack.name}", pack.changed(recipe=pack.recipe.changed(weighed_g=grams)))


def check_pack(session: Session, pack: BuiltPack, check: PackCheck) -> None:
    """Write down what was read of a pack on a day; an earlier reading of that day is replaced."""
    others = [one for one in pack.checks if one.day != check.day]
    _change(session, f"Read {pack.name}", pack.changed(checks=sorted([*others, check], key=lambda one: one.day)))


def uncheck_pack(session: Session, pack: BuiltPack) -> None:
    """Take the latest readings back."""
    _change(session, f"Take the last readings of {pack.name} back", pack.changed(checks=pack.checks[:-1]))


def charge_pack(session: Session, pack: BuiltPack, charge: PackCharge) -> None:
    """Write down what was put into a pack on a day."""
    charges = sorted([*pack.charges, charge], key=lambda one: one.day)
    _change(session, f"Charge {pack.name}", pack.changed(charges=tuple(charges)))


def uncharge_pack(session: Session, pack: BuiltPack) -> None:
    """Take the latest charge back."""
    _change(session, f"Take the last charge of {pack.name} back", pack.changed(charges=pack.charges[:-1]))


def groups_like(
    pack: BuiltPack, cell_type: CellType, free: Sequence[NumberedCell]
) -> tuple[tuple[NumberedCell, ...], ...]:
    """Cells for another pack like this one, matched; raises :class:`DocumentError` where there are too few."""
    if cell_type.whole_pack:
        return ()
    return match(cell_type, free, Asked(pack.recipe.series_count, pack.recipe.parallel_count)).groups


def begin_like(session: Session, pack: BuiltPack, groups: Sequence[Sequence[NumberedCell]]) -> BuiltPack:
    """Begin another pack like this one, of these cells."""
    names = {one.name for one in built_packs(session)}
    stem = pack.name.rstrip("0123456789 ")[:30] or pack.name[:30]
    name = next(name for number in range(2, len(names) + 3) if (name := f"{stem} {number}") not in names)
    return begin_of_recipe(session, name, pack.recipe.changed(weighed_g=None), pack.cell_type_id, groups)


def begin_repair(session: Session, pack: BuiltPack, plan: RepairPlan) -> None:
    """Take cells of the tray for a group that fell behind; the steps of the repair are shown from then on."""
    repair = PackRepair(
        group=plan.group + 1, taken_out=pack.groups[plan.group] if pack.groups else (),
        put_in=tuple(cell.number for cell in plan.cells), begun_on=date.today(),
    )  # fmt: skip
    session.commit(f"Begin to repair {pack.name}", [pack.changed(repairs=(*pack.repairs, repair))])


def finish_repair(session: Session, pack: BuiltPack) -> None:
    """Its new cells are in."""
    if pack.repair is not None:
        _change(session, f"{pack.name} is repaired", repaired(pack, pack.repair, date.today()))


def give_repair_up(session: Session, pack: BuiltPack) -> None:
    """The open repair is not made; its cells are free again."""
    if pack.repair is not None:
        session.commit(f"{pack.name} is not repaired", [pack.changed(repairs=pack.repairs[:-1])])


def retire_pack(session: Session, pack: BuiltPack, *, retired: bool = True) -> None:
    """It flies no more, or does again."""
    session.commit(f"{pack.name} is {'retired' if retired else 'used again'}", [pack.changed(retired=retired)])


def rename_pack(session: Session, pack: BuiltPack, name: str) -> None:
    """Give a pack another name, in the designs that fly it too; raises :class:`DocumentError` where it is taken."""
    name = name.strip()
    if any(one.name == name and one.id != pack.id for one in built_packs(session)):
        raise DocumentError(f"There is a pack {quoted(name)} already; write another name.")
    if name != pack.name:
        _change(session, f"Rename {pack.name}", pack.changed(name=name))
