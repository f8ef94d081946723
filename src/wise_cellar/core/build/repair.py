"""A group that fell behind: which cells of the tray fit its fellows as they are now, and whether it is worth it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.build.as_built import LEAST_PERCENT, MOST_PERCENT, unlike_groups
from wise_cellar.core.build.matching import bench
from wise_cellar.core.build.steps.repairing import REPAIR_KEY
from wise_cellar.core.cells import capacity_mah, resistance_mohm
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    CompleteDesign,
    DocumentError,
    NumberedCell,
    PackRepair,
    PackState,
)
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_mah, format_minutes, format_number, format_share

BEHIND = 0.02
"""Share under the middle of the others from which on a group has fallen behind."""
WORN = 0.80
"""Of new: others that hold less make a repair a waste of good cells."""
LEAST_GAIN = 0.02
"""Of the minutes: less is not worth heat and risk."""
RESISTANCE_COUNTS = 0.3
"""What a like resistance counts beside a like capacity, in choosing cells: our estimate."""


@dataclass(frozen=True)
class RepairPlan:
    """Cells that would replace those of a group, and what that brings."""

    group: int
    """Counted from 0."""
    cells: tuple[NumberedCell, ...]
    state: PackState
    """Of the repaired pack."""
    now_s: float
    then_s: float
    others_share: float
    """What the other groups hold of new."""
    price: float | None
    """Of the new cells, in the currency of their type."""
    held_mah: float
    others_mah: float

    @property
    def worth_it(self) -> bool:
        """Whether it brings enough, and the others are good enough."""
        return self.others_share >= WORN and self.then_s >= (1 + LEAST_GAIN) * self.now_s

    def sentences(self) -> list[str]:
        """Verdict first, then what it brings and what it takes."""
        gain = format_minutes(max(self.then_s - self.now_s, 0.0))
        numbers = ", ".join(str(cell.number) for cell in self.cells)
        cost = "" if self.price is None else f", cells for {format_number(self.price, 2)}"
        brings = (
            f"Cells {numbers} hold {format_mah(self.held_mah)} together, the other groups {format_mah(self.others_mah)}"
            f" each. It would fly {format_minutes(self.then_s)} instead of {format_minutes(self.now_s)}{cost}."
        )
        if self.worth_it:
            return [f"Worth it: {gain} more a flight.", brings]
        if self.others_share < WORN:
            why = (
                f"Not worth it: the other groups hold {format_share(self.others_share)} of new themselves. Build a new"
            )
            return [f"{why} pack of these cells.", brings]
        return [f"Not worth it: {gain} more a flight do not pay for heat at a sound pack.", brings]


def behind(state: PackState, series: int) -> int | None:
    """The group that fell behind, counted from 0; none where all hold about as much."""
    held = held_shares(state, series)
    weak = int(held.argmin())
    others = np.delete(held, weak)
    if not len(others) or held[weak] >= (1 - BEHIND) * np.median(others):
        return None
    return weak


def held_shares(state: PackState, series: int) -> Floats:
    """(groups,) What every group holds over the mean."""
    held = np.ones(series)
    for group in state.groups:
        if group.group <= series:
            held[group.group - 1] = group.capacity_percent / 100
    return held


def plan_repair(
    complete: CompleteDesign, pack: BuiltPack, cell_type: CellType, state: PackState, usable: Sequence[NumberedCell],
    group: int | None = None,
) -> RepairPlan:  # fmt: skip
    """Choose cells for a group that fell behind and fly the pack before and after, on the design at hand.

    Those are chosen that hold and resist most nearly what the cells of the other groups do now. ``state`` is the pack
    today. Raises :class:`DocumentError` where no group fell behind, or the tray has too few cells.
    """
    recipe = pack.recipe
    series, parallel = recipe.series_count, recipe.parallel_count
    if cell_type.whole_pack:
        raise DocumentError(f"{pack.name} was bought whole: a pack bought whole is not opened.")
    weak = behind(state, series) if group is None else group
    if weak is None or series == 1:
        raise DocumentError(f"No group of {pack.name} has fallen behind: there is nothing to repair.")
    if len(usable) < parallel:
        raise DocumentError(
            f"The tray has {len(usable)} free cells of {cell_type.name} to use, and a group of {pack.name} takes"
            f" {parallel}."
        )
    mean_mah = parallel * capacity_mah(cell_type) * state.capacity_percent / 100
    held = held_shares(state, series) * mean_mah
    others_mah = float(np.median(np.delete(held, weak)))
    others_mohm = resistance_mohm(cell_type) * state.resistance_percent / 100
    chosen = _nearest(cell_type, usable, parallel, others_mah / parallel, others_mohm)
    measured = bench(cell_type, chosen)
    held[weak] = float(measured.capacity_mah.sum())
    ohm = np.full(series, others_mohm / parallel)
    ohm[weak] = 1e3 / float(measured.siemens.sum())
    after = _after(state, cell_type, held, ohm, parallel)
    flown = [_flown(complete, pack, cell_type, one).duration_s for one in (state, after)]
    return RepairPlan(
        weak, chosen, after, flown[0], flown[1], others_mah / (parallel * capacity_mah(cell_type)),
        None if cell_type.price is None else parallel * cell_type.price, held[weak], others_mah,
    )  # fmt: skip


def _nearest(
    cell_type: CellType, usable: Sequence[NumberedCell], count: int, mah: float, mohm: float
) -> tuple[NumberedCell, ...]:
    measured = bench(cell_type, usable)
    away = np.hypot(
        measured.capacity_mah / mah - 1, RESISTANCE_COUNTS * (1e3 / measured.siemens / mohm - 1)
    )  # fmt: skip
    nearest = np.argsort(away, kind="stable")[:count]
    return tuple(sorted((measured.cells[place] for place in nearest.tolist()), key=lambda cell: cell.number))


def _after(state: PackState, cell_type: CellType, held: Floats, ohm: Floats, parallel: int) -> PackState:
    percent = 100 * float(held.mean()) / (parallel * capacity_mah(cell_type))
    resistance = 100 * float(ohm.mean()) * parallel / resistance_mohm(cell_type)
    return state.changed(
        capacity_percent=round(float(np.clip(percent, LEAST_PERCENT, MOST_PERCENT)), 3),
        resistance_percent=round(float(np.clip(resistance, 80.0, 400.0)), 3), groups=unlike_groups(held, ohm),
    )  # fmt: skip


def _flown(complete: CompleteDesign, pack: BuiltPack, cell_type: CellType, state: PackState) -> Answer:
    """The pack, in some state, on the design at hand."""
    kept = complete.pack.state
    state = state.changed(start_charge_percent=kept.start_charge_percent, temperature_c=kept.temperature_c)
    return answer(complete.with_pack(cell_type, recipe=pack.recipe, state=state))


def repaired(pack: BuiltPack, repair: PackRepair, day: Day) -> BuiltPack:
    """The pack with the cells of an open repair in their place; its steps of the repair are closed with it."""
    groups = tuple(repair.put_in if place == repair.group - 1 else group for place, group in enumerate(pack.groups))
    done = repair.changed(done_on=day)
    kept = tuple(step for step in pack.steps if not step.key.startswith(REPAIR_KEY))
    return pack.changed(groups=groups, repairs=(*pack.repairs[:-1], done), steps=kept)
