"""What is computed of a tray beside the window: its groups, and what they fly."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.build import (
    Asked,
    Imbalance,
    Matched,
    Tray,
    as_built,
    as_they_came,
    imbalance,
    in_minutes,
    match,
    worst_order,
)
from wise_cellar.core.build.steps import group_rests
from wise_cellar.core.build.tray import Fate
from wise_cellar.core.documents import CompleteDesign, DocumentError, NumberedCell, PackState
from wise_cellar.core.units import format_minutes
from wise_cellar.core.words import quoted

WAYS = ("Matched", "As they came", "Worst order")


@dataclass(frozen=True)
class Wanted:
    """What is asked of a tray, as it was typed."""

    packs: int = 1
    apart_too: bool = False
    forbidden: str = ""
    fixed: str = ""


@dataclass(frozen=True)
class Built:
    """The groups of a tray in three orders, each flown."""

    ways: tuple[Matched, Matched, Matched]
    designed: Answer
    """With all groups as the cell type says."""
    flown: tuple[Answer, Answer, Answer]
    designs: tuple[CompleteDesign, CompleteDesign, CompleteDesign]
    """The design with the groups of each order."""
    imbalance: Imbalance

    def state(self, way: int) -> PackState:
        """Of the pack that is built in an order."""
        return self.designs[way].pack.state

    def sentences(self, way: int) -> list[str]:
        """What these groups are, and what they come to."""
        shown, told = self.ways[way], [in_minutes(self.designed, self.flown[way])]
        if way == 0:
            told.insert(0, shown.words())
            gained = [self.flown[0].duration_s - other.duration_s for other in self.flown[1:]]
            brought = (
                f"Matching brings {format_minutes(gained[0])} over the order in which they came, and"
                f" {format_minutes(gained[1])} over the worst order of the same cells."
            )
            told.append(brought if max(gained) >= 1.0 else "With cells so alike their order hardly tells in minutes.")
            told += self.imbalance.sentences(float(shown.capacity_mah.mean()))
        return told


def read_wanted(complete: CompleteDesign, wanted: Wanted) -> Asked:
    """Numbers of cells as they were typed: "3, 17" stay in the tray, "7 in 2, 8 in 2" are settled.

    Raises :class:`DocumentError` with a sentence.
    """
    recipe = complete.pack.recipe
    forbidden = set()
    for word in re.split(r"[,;\s]+", wanted.forbidden.strip()):
        if word:
            if not word.isdecimal():
                raise DocumentError(f"{quoted(word)} is no number of a cell; write such as 3, 17.")
            forbidden.add(int(word))
    fixed: dict[int, int] = {}
    for part in re.split(r"[,;]+", wanted.fixed.strip()):
        if not part.strip():
            continue
        told = re.fullmatch(r"\s*(\d+)\s+(?:in\s+)?(?:group\s+)?(\d+)\s*", part)
        if told is None:
            raise DocumentError(f"{quoted(part.strip())} settles no cell; write such as 7 in 2, 8 in 2.")
        number, group = int(told[1]), int(told[2])
        if number in fixed and fixed[number] != group - 1:
            raise DocumentError(
                f"Cell {number} is settled in two groups, {fixed[number] + 1} and {group}; leave one out."
            )
        if number in forbidden:
            raise DocumentError(f"Cell {number} stays in the tray and is settled in group {group}; leave one out.")
        fixed[number] = group - 1
    return Asked(recipe.series_count, recipe.parallel_count, wanted.packs, fixed, frozenset(forbidden))


def to_use(tray: Tray, *, apart_too: bool) -> tuple[NumberedCell, ...]:
    """The cells that may go into a pack."""
    most = Fate.APART if apart_too else Fate.USE
    return tuple(one.cell for one in tray.cells if one.fate <= most and not one.whereabouts)


def resting_volts(tray: Tray, groups: Sequence[Sequence[NumberedCell]], series: int) -> tuple[float, ...]:
    """Volts at rest to expect of every group, by the cells of the tray where its own were not read."""
    others = [one.cell for one in tray.cells if one.fate is not Fate.NEVER]
    return tuple(rest.volts for rest in group_rests(tray.cell_type, groups, series, others))


def as_designed(complete: CompleteDesign) -> CompleteDesign:
    """The design with all groups as its cell type says."""
    first = complete.design.packs[0]
    plain = first.state.changed(capacity_percent=100.0, resistance_percent=100.0, groups=())
    return complete.with_design(packs=(first.changed(state=plain), *complete.design.packs[1:]))


def build_all(complete: CompleteDesign, tray: Tray, asked: Asked, *, apart_too: bool) -> Built:
    """Match, and fly each order; raises :class:`DocumentError` where it cannot be."""
    cells = to_use(tray, apart_too=apart_too)
    cell_type = complete.pack.cell
    best = match(cell_type, cells, asked)
    ways = (best, as_they_came(cell_type, cells, asked), worst_order(cell_type, best))
    plain = as_designed(complete)
    designs = tuple(as_built(plain, way) for way in ways)
    flown = tuple(answer(design) for design in designs)
    return Built(ways, answer(plain), flown, designs, imbalance(cell_type, best, flown[0]))  # type: ignore[arg-type]
