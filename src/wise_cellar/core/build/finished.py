"""A finished pack as it is today, by what its cells were measured at and what was read of it since."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wise_cellar.core.build.as_built import LEAST_PERCENT, MOST_PERCENT, unlike_groups
from wise_cellar.core.build.making import cells_in
from wise_cellar.core.build.matching import bench
from wise_cellar.core.cells import capacity_mah, electrical, resistance_mohm, resting_curve
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    DocumentError,
    LearnedOf,
    LearnedValue,
    NumberedCell,
    PackCheck,
    PackRecipe,
    PackState,
)
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.pack import build_pack
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.cell import arrhenius
from wise_cellar.core.units import (
    format_share,
)

READING_V = 0.005
LEAST_SHARE = 0.2
"""Of what is predicted of its cells: a pack that resists less was not measured as a whole."""
LEAST_USED = 0.3
"""Share of its charge that has to be used before resting volts tell what a group holds."""


def charge_of(cell_type: CellType, volts: float) -> float:
    """State of charge at which a cell rests at so many volts, by its open-circuit voltage."""
    curve = resting_curve(cell_type)
    return float(np.interp(volts, curve.values, np.linspace(0.0, 1.0, len(curve.values))))


def resting_at(cell_type: CellType, charge: float) -> float:
    """Volts at which a cell rests at a state of charge."""
    curve = resting_curve(cell_type)
    return float(np.interp(charge, np.linspace(0.0, 1.0, len(curve.values)), curve.values))


def group_capacities(cell_type: CellType, check: PackCheck) -> tuple[Floats, Floats] | None:
    """What every group holds, mAh, and how far that may be off, from the charge used since full and its resting volts.

    C = Q ÷ (1 − s(V)), with s the state of charge whose resting voltage is V; the doubt is that of the reading through
    the slope there. None where too little was used to tell. Source: the open-circuit voltage as a gauge of charge. Not
    modelled: a pack that was not quite full, an hour that was too short.
    """
    if not check.group_v or check.used_mah is None:
        return None
    left = np.array([charge_of(cell_type, volts) for volts in check.group_v])
    if 1.0 - left.mean() < LEAST_USED:
        return None
    above, below = (
        np.array([charge_of(cell_type, volts + sign * READING_V) for volts in check.group_v]) for sign in (1, -1)
    )
    held = check.used_mah / (1.0 - left)
    return held, held * (above - below) / 2 / (1.0 - left)


def cells_mohm(recipe: PackRecipe, cell_type: CellType, celsius: float) -> float:
    """The cells' share of a pack's resistance at a temperature, mΩ: S·R ÷ P, by Arrhenius from 25 °C."""
    factor = float(
        arrhenius(np.array(electrical(cell_type)["resistance_activation_j_mol"]), np.array(celsius + 273.15))
    )
    return recipe.series_count * resistance_mohm(cell_type) / recipe.parallel_count * factor


def state_now(pack: BuiltPack, cell_type: CellType, cells: Sequence[NumberedCell]) -> PackState:
    """The pack as it is today: what its cells were measured at, and what was read of the pack since.

    Readings are taken in the order of their days; a repair makes its group that of its new cells again.
    """
    recipe = pack.recipe
    held, ohm = as_it_was(pack, cell_type, cells)
    fresh = held.copy()
    inside = [cell for group in cells_in(pack, cells) for cell in group]
    whole = len(inside) == recipe.series_count * recipe.parallel_count
    known_mah = whole and all(cell.capacity_mah is not None for cell in inside)
    known_mohm = whole and all(cell.dcir_mohm is not None for cell in inside)
    share = 1.0
    repaired = [(repair.done_on, repair.group - 1) for repair in pack.repairs if repair.done_on is not None]
    for check in sorted(pack.checks, key=lambda one: one.day):
        read = group_capacities(cell_type, check)
        if read is not None:
            held, known_mah = read[0], True
        if check.resistance_mohm is not None:
            wiring = 1e3 * build_pack(recipe, cell_type).wiring_ohm
            predicted = cells_mohm(recipe, cell_type, check.temperature_c) * float(ohm.mean())
            share, known_mohm = max(check.resistance_mohm - wiring, LEAST_SHARE * predicted) / predicted, True
        for day, group in repaired:
            if day >= check.day:
                held[group] = fresh[group]
    new_mah = recipe.parallel_count * capacity_mah(cell_type)
    taught = _taught(pack, cell_type)
    if LearnedOf.CAPACITY in taught:
        held = held * (taught[LearnedOf.CAPACITY].value / 100 * new_mah / held.mean())
    percent = round(100 * float(held.mean()) / new_mah, 3)
    if not LEAST_PERCENT <= percent <= MOST_PERCENT:
        raise DocumentError(
            f"These readings say that the pack holds {format_share(percent / 100)} of new: was it full before, and is"
            " the charge used right?"
        )
    resistance = round(float(np.clip(100 * float(ohm.mean()) * share, 80.0, 400.0)), 3)
    if LearnedOf.RESISTANCE in taught:
        resistance = round(taught[LearnedOf.RESISTANCE].value, 3)
    present = {LearnedOf.CAPACITY: percent, LearnedOf.RESISTANCE: resistance}
    return PackState(
        learned=tuple(one.changed(value=present.get(one.of, one.value)) for one in taught.values()),
        capacity_percent=percent, capacity_measured_percent=percent if known_mah else None,
        resistance_percent=resistance, resistance_measured_percent=resistance if known_mohm else None,
        groups=unlike_groups(held, ohm),
    )  # fmt: skip


def _taught(pack: BuiltPack, cell_type: CellType) -> dict[LearnedOf, LearnedValue]:
    """The latest that flights taught of it, each where no reading has told the same since."""
    read: dict[LearnedOf, Day] = {}
    for check in sorted(pack.checks, key=lambda one: one.day):
        if group_capacities(cell_type, check) is not None:
            read[LearnedOf.CAPACITY] = check.day
        if check.resistance_mohm is not None:
            read[LearnedOf.RESISTANCE] = check.day
    found: dict[LearnedOf, LearnedValue] = {}
    for value in sorted(pack.learned, key=lambda one: one.learned_on):
        if value.of not in read or value.learned_on >= read[value.of]:
            found[value.of] = value
    return found


def as_it_was(pack: BuiltPack, cell_type: CellType, cells: Sequence[NumberedCell]) -> tuple[Floats, Floats]:
    """When it was built, (groups,) each: capacity, mAh, and resistance over that of the type's cells side by side."""
    groups, recipe = cells_in(pack, cells), pack.recipe
    series, parallel = recipe.series_count, recipe.parallel_count
    if [len(group) for group in groups] != [parallel] * series:
        return np.full(series, parallel * capacity_mah(cell_type)), np.ones(series)
    held = bench(cell_type, [cell for group in groups for cell in group])
    siemens = held.siemens.reshape(series, parallel).sum(axis=1)
    alone = parallel * 1e3 / resistance_mohm(cell_type)
    return held.capacity_mah.reshape(series, parallel).sum(axis=1), alone / siemens
