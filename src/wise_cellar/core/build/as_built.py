"""A design flown with its groups as they are: what was measured of their cells stands in for what is assumed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer import Answer
from wise_cellar.core.answer.findings.groups import APART_V
from wise_cellar.core.build.matching import Matched, bench
from wise_cellar.core.build.tray import loss_mah_day
from wise_cellar.core.cells import capacity_mah, resistance_mohm
from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError, NumberedCell, PackState, UnlikeGroup
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_mah, format_minutes, format_number, format_share

LEAST_PERCENT, MOST_PERCENT = 40.0, 110.0
"""What a pack may hold of what its cell type says."""
ALIKE = 5e-4
"""A group within so much of the mean of all is not told as one that differs."""


def state_of(cell_type: CellType, groups: Sequence[Sequence[NumberedCell]], present: PackState) -> PackState:
    """The state of a pack built of these groups, from its negative end.

    Each group's capacity is the sum of its cells', its resistance that of its cells side by side: 1 ÷ Σ 1/R. The pack's
    percentages are those of the mean group over what its cell type flies with; a group's are over the mean.
    Source: parallel conductances. Not modelled: resistances between the cells of a group, which the circuit knows.
    """
    parallel = len(groups[0])
    flat = [cell for group in groups for cell in group]
    held = bench(cell_type, flat)
    capacity = held.capacity_mah.reshape(len(groups), parallel).sum(axis=1)
    ohm = 1.0 / held.siemens.reshape(len(groups), parallel).sum(axis=1)
    whole_mah = parallel * capacity_mah(cell_type)
    whole_ohm = 1e-3 * resistance_mohm(cell_type) / parallel
    percent = round(100 * float(capacity.mean()) / whole_mah, 3), round(100 * float(ohm.mean()) / whole_ohm, 3)
    if not LEAST_PERCENT <= percent[0] <= MOST_PERCENT:
        raise DocumentError(
            f"These groups hold {format_share(percent[0] / 100)} of what {cell_type.name} says; a pack of such cells is"
            " of another type. Correct the capacities, or the type's."
        )
    resistance = float(np.clip(percent[1], 80.0, 400.0))
    every_mah = all(cell.capacity_mah is not None for cell in flat)
    every_mohm = all(cell.dcir_mohm is not None for cell in flat)
    return present.changed(
        capacity_percent=percent[0], capacity_measured_percent=percent[0] if every_mah else None,
        resistance_percent=resistance, resistance_measured_percent=resistance if every_mohm else None,
        groups=unlike_groups(capacity, ohm),
    )  # fmt: skip


def unlike_groups(held: Floats, ohm: Floats) -> tuple[UnlikeGroup, ...]:
    """Groups that differ from their mean, by what each holds and resists, (groups,) each in any one unit."""
    unlike = []
    for place, (charge, resistance) in enumerate(zip(held / held.mean(), ohm / ohm.mean(), strict=True), 1):
        if max(abs(charge - 1), abs(resistance - 1)) > ALIKE:
            unlike.append(
                UnlikeGroup(group=place, capacity_percent=round(100 * float(charge), 3),
                            resistance_percent=round(100 * float(resistance), 3))
            )  # fmt: skip
    return tuple(unlike)


def as_built(complete: CompleteDesign, matched: Matched, pack: int = 0) -> CompleteDesign:
    """The design with its first pack built of matched cells; ``pack`` is which of several equal ones."""
    design = complete.design
    first = design.packs[0]
    state = state_of(complete.pack.cell, matched.pack(pack), first.state)
    return complete.with_design(packs=(first.changed(state=state), *design.packs[1:]))


@dataclass(frozen=True)
class Imbalance:
    """What becomes of a pack's groups from flight to flight."""

    left_apart: float
    """Share of the charge by which groups differ when it lands."""
    rest_apart_v: float
    """Volts a cell by which they then differ at rest."""
    lost_apart_mah_day: float
    """By which their losses at rest differ."""
    capacity_mah: Floats
    """(groups,)"""

    def sentences(self, pack_mah: float) -> list[str]:
        """What balancing mends, and what it cannot."""
        short = float(self.capacity_mah.mean() - self.capacity_mah.min())
        found = [
            f"On landing groups are {format_number(100 * self.left_apart, 1)} % of their charge apart,"
            f" {format_number(1000 * self.rest_apart_v, 0)} mV a cell at rest."
        ]
        if short > ALIKE * pack_mah:
            found.append(
                f"The least group holds {format_mah(short)} less than the mean: no balancing mends that, it ends every"
                " flight."
            )
        if self.lost_apart_mah_day >= 1.0:
            days = BALANCED_DAYS_SHARE * pack_mah / self.lost_apart_mah_day
            found.append(
                f"At rest they drift apart by {format_number(self.lost_apart_mah_day, 0)} mAh a day: balance at"
                f" the latest every {format_number(days, 0)} days. Balancing mends that, for so long."
            )
        else:
            found.append(
                "Groups that were charged full together stay together: a balanced charge now and then is enough."
            )
        return found


BALANCED_DAYS_SHARE = 0.02
"""Of the charge, by which groups may drift before a charger has to balance."""


def imbalance(cell_type: CellType, matched: Matched, answer: Answer, pack: int = 0) -> Imbalance:
    """How far the groups of the first pack are apart when they land, and how fast they drift."""
    groups = answer.packs[0].groups
    left = [group.charge_left for group in groups]
    rest = [group.resting_v for group in groups]
    losses = []
    for group in matched.pack(pack):
        told = [lost[0] for cell in group if (lost := loss_mah_day(cell_type, cell)) is not None]
        losses.append(sum(told))
    start = pack * matched.asked.series
    return Imbalance(
        max(left) - min(left), max(rest) - min(rest), max(losses) - min(losses),
        matched.capacity_mah[start : start + matched.asked.series],
    )  # fmt: skip


def in_minutes(designed: Answer, built: Answer) -> str:
    """As designed and as built, in a sentence."""
    apart = built.duration_s - designed.duration_s
    if abs(apart) < 1.0:
        return f"It flies as designed: {format_minutes(built.duration_s)}."
    less = "longer" if apart > 0 else "shorter"
    pack = built.packs[0]
    others = max((group.end_cell_v for group in pack.groups), default=0.0)
    ends = f"; {pack.weakest_words} ends it" if others - pack.weakest.end_cell_v >= APART_V else ""
    return (
        f"As built it flies {format_minutes(built.duration_s)}, {format_minutes(abs(apart))} {less} than"
        f" designed{ends}."
    )
