"""What the Extend station and the recipe line ask of the session where packs share a bus, one edit each."""

from __future__ import annotations

from wise_cellar.core.answer.joining import charge_percent_at
from wise_cellar.core.documents import Branch, CellType, Design, DocumentError, Fittings, Leads, PackRecipe, Strip
from wise_cellar.ui.state.session import Session

OWN_NAME = "own battery"
AUXILIARY_LEADS = Leads(gauge_awg=18, length_mm=140)


def whole_packs(session: Session) -> list[CellType]:
    """Packs bought whole that are on the shelf."""
    return [cell for cell in session.all(CellType).values() if cell.whole_pack and not cell.archived]


def put_own_battery(session: Session, cell_id: str) -> None:
    """Carry the craft's own battery beside the recipe's pack, or make another type of it.

    A recipe that is alone with it takes its count in series; packs beside already hold the bus to theirs, and a battery
    that does not fit it is refused.
    """
    design = session.complete.design
    battery = session.library.find(CellType, cell_id)
    present = design.own_battery
    if present is not None and present.cell_type_id == cell_id:
        return
    others = tuple(branch for branch in design.beside if not branch.own)
    series = design.recipe.series_count
    fits = series % battery.cells_in_series == 0 and present is not None
    count = series if fits else battery.cells_in_series
    own = present or Branch(name=OWN_NAME, own=True, cell_type_id=cell_id, recipe=PackRecipe())
    own = own.model_copy(
        update={"cell_type_id": cell_id, "recipe": own.recipe.model_copy(update={"series_count": count})}
    )
    recipe = design.recipe if others else design.recipe.model_copy(update={"series_count": count})
    session.edit(
        "design", _changed(design, beside=(own, *others), recipe=recipe), f"Carry {battery.name} as the own battery"
    )


def wire_auxiliary(session: Session) -> None:
    """Where the recipe's pack is bought whole it becomes the craft's own battery, and an auxiliary is built beside
    it."""
    complete = session.complete
    design, battery = complete.design, complete.cell_type
    cells = [cell for cell in session.all(CellType).values() if not (cell.whole_pack or cell.archived)]
    if not cells:
        raise DocumentError("There is no single cell on the shelf to build an auxiliary of; add one at Cells.")
    cell = min(cells, key=lambda one: (one.charge_current_a is None, one.mass_g))
    conditions = design.conditions
    own = Branch(
        name=OWN_NAME, own=True, cell_type_id=battery.id, recipe=design.recipe,
        start_charge_percent=conditions.start_charge_percent, pack_temperature_c=conditions.pack_temperature_c,
        capacity_percent=conditions.capacity_percent, resistance_percent=conditions.resistance_percent,
        cooling=conditions.cooling,
    )  # fmt: skip
    recipe = PackRecipe(
        series_count=design.recipe.series_count, parallel_count=1, strip=Strip(layers=2), leads=AUXILIARY_LEADS,
        fittings=Fittings(straps=1),
    )  # fmt: skip
    fresh = conditions.model_copy(
        update={"start_charge_percent": 100.0, "capacity_percent": 100.0, "resistance_percent": 100.0}
    )
    session.edit(
        "design", _changed(design, beside=(own,), recipe=recipe, cell_type_id=cell.id, conditions=fresh),
        f"Wire an auxiliary beside {battery.name}",
    )  # fmt: skip


def add_equal(session: Session) -> None:
    """One more pack like the recipe's on the bus, as a parallel adaptor joins them."""
    design, conditions = session.complete.design, session.complete.design.conditions
    more = Branch(
        name=_free_name(design), cell_type_id=design.cell_type_id, recipe=design.recipe,
        start_charge_percent=conditions.start_charge_percent, pack_temperature_c=conditions.pack_temperature_c,
        capacity_percent=conditions.capacity_percent, resistance_percent=conditions.resistance_percent,
        cooling=conditions.cooling,
    )  # fmt: skip
    session.edit("design.beside", (*design.beside, more), "Add a pack to the bus")


def remove(session: Session, place: int) -> None:
    """Take a pack beside off the bus."""
    beside = list(session.complete.design.beside)
    gone = beside.pop(place)
    label = f"Take the {gone.name} off the bus"
    session.edit("design.beside", tuple(beside), label, f"Took the {gone.name} off the bus.")


def charge_all_to(session: Session, volts: float) -> None:
    """Start with every pack charged to ``volts`` a cell, as they come to rest together."""
    complete = session.complete
    design = complete.design
    first, *others = complete.carried
    conditions = design.conditions.model_copy(
        update={"start_charge_percent": _percent(charge_percent_at(first, volts))}
    )
    beside = tuple(
        branch.model_copy(update={"start_charge_percent": _percent(charge_percent_at(pack, volts))})
        for branch, pack in zip(design.beside, others, strict=True)
    )
    session.edit("design", _changed(design, conditions=conditions, beside=beside), f"Charge all packs to {volts:.2f} V")


def _percent(value: float) -> float:
    return round(max(value, 6.0), 1)


def _changed(design: Design, **changes: object) -> Design:
    """Validated whole, so that a refusal is a sentence."""
    return Design.from_data(design.model_copy(update=changes).model_dump())


def _free_name(design: Design) -> str:
    names = {branch.name for branch in design.beside}
    options = ("second auxiliary", "third auxiliary", "fourth auxiliary", "fifth auxiliary")
    return next((name for name in options if name not in names), "one more auxiliary")
