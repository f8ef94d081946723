"""What the Extend station and the recipe line ask of the session where packs share a bus, one edit each."""

from __future__ import annotations

from wise_cellar.core.answer.bus import charge_percent_at
from wise_cellar.core.documents import (
    CellType,
    Cooling,
    DocumentError,
    Fittings,
    Leads,
    Pack,
    PackRecipe,
    PackRole,
    PackState,
    Strip,
)
from wise_cellar.core.units import format_volts
from wise_cellar.core.words import lower_first
from wise_cellar.ui.state.session import Session

OWN_NAME = "own battery"
AUXILIARY_LEADS = Leads(gauge_awg=18, length_mm=140)
LEAST_PERCENT = 6.0


def whole_packs(session: Session) -> list[CellType]:
    """Packs bought whole that are on the shelf."""
    return [cell for cell in session.all(CellType).values() if cell.whole_pack and not cell.archived]


def put_own_battery(session: Session, cell_id: str) -> None:
    """Carry the craft's own battery beside the first pack, or make another type of it.

    A pack that is alone with it takes its count in series; others beside already hold the bus to theirs, and a battery
    that does not fit it is refused.
    """
    design, present = session.complete.design, session.complete.own_battery
    battery = session.library.find(CellType, cell_id)
    if present is not None and present.cell.id == cell_id:
        return
    first, *others = (pack for pack in design.packs if pack.role is not PackRole.OWN)
    series = first.recipe.series_count
    fits = series % battery.cells_in_series == 0 and present is not None
    count = series if fits else battery.cells_in_series
    own = (
        present.of
        if present is not None
        else Pack(role=PackRole.OWN, name=OWN_NAME, cell_type_id=cell_id, cooling=Cooling.CLOSED)
    )
    own = own.changed(cell_type_id=cell_id, recipe=own.recipe.changed(series_count=count))
    if not others:
        first = first.changed(recipe=first.recipe.changed(series_count=count))
    changed = design.with_packs([first, own, *others])
    session.edit("design", changed, f"Carry {battery.name} as the own battery")


def wire_auxiliary(session: Session) -> None:
    """Where the only pack is bought whole it becomes the craft's own battery, and an auxiliary is built beside it."""
    design, first = session.complete.design, session.complete.pack
    cells = [cell for cell in session.all(CellType).values() if not (cell.whole_pack or cell.archived)]
    if not cells:
        raise DocumentError("There is no single cell on the shelf to build an auxiliary of; add one at Cells.")
    cell = min(cells, key=lambda one: (one.charge_current_a is None, one.mass_g))
    own = first.of.changed(role=PackRole.OWN, name=OWN_NAME)
    built = Pack(
        cell_type_id=cell.id,
        recipe=PackRecipe(
            series_count=first.recipe.series_count, parallel_count=1, strip=Strip(layers=2), leads=AUXILIARY_LEADS,
            fittings=Fittings(straps=1),
        ),
        state=PackState(temperature_c=first.state.temperature_c),
        cooling=first.of.cooling,
    )  # fmt: skip
    session.edit("design", design.with_packs([built, own]), f"Wire an auxiliary beside {first.cell.name}")


def add_equal(session: Session) -> None:
    """One more pack like the first on the bus, by a parallel adaptor."""
    design = session.complete.design
    names = {pack.name for pack in design.packs}
    options = ("second auxiliary", "third auxiliary", "fourth auxiliary", "fifth auxiliary")
    name = next((name for name in options if name not in names), "one more auxiliary")
    more = design.packs[0].changed(name=name)
    session.edit("design", design.with_packs([*design.packs, more]), "Add a pack to the bus")


def remove(session: Session, place: int) -> None:
    """Take a pack off the bus; the first stays."""
    design, gone = session.complete.design, session.complete.packs[place]
    name = lower_first(gone.name)
    left = [pack for number, pack in enumerate(design.packs) if number != place]
    session.edit("design", design.with_packs(left), f"Take the {name} off the bus", f"Took the {name} off the bus.")


def charge_all_to(session: Session, volts: float) -> None:
    """Start with every pack charged to ``volts`` a cell, as they come to rest together."""
    packs = [
        pack.of.changed(state=pack.state.changed(start_charge_percent=_percent(charge_percent_at(pack, volts))))
        for pack in session.complete.packs
    ]
    session.edit("design", session.complete.design.changed(packs=packs), f"Charge all packs to {format_volts(volts)}")


def _percent(value: float) -> float:
    return round(max(value, LEAST_PERCENT), 1)
