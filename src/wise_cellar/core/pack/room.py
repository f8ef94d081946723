"""Whether a pack goes into a bay, and where it then lies."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import permutations, product
from typing import Protocol

from wise_cellar.core.documents import Bay


class Sized(Protocol):
    """Anything with an outer size: a layout, or its outline."""

    @property
    def length_mm(self) -> float:
        """Along."""

    @property
    def width_mm(self) -> float:
        """Across."""

    @property
    def height_mm(self) -> float:
        """Up."""

    @property
    def any_way_up(self) -> bool:
        """Whether it may lie on any of its sides."""


@dataclass(frozen=True)
class Stowed:
    """A pack in a bay: its nearest corner from the rear and the left wall, and what it takes along, across and up."""

    x_mm: float
    y_mm: float
    size_mm: tuple[float, float, float]
    ahead: tuple[int, int, int]
    """Which of the pack's own length, width and height lie along, across and up: 0, 1, 2."""
    spare_mm: float
    """Least room left, keeping out aside."""

    def centre_mm(self, bay: Bay) -> float:
        """Middle of the pack ahead of the middle of the bay."""
        return self.x_mm + self.size_mm[0] / 2 - bay.length_mm / 2


def ways_to_lie(layout: Sized) -> Iterator[tuple[tuple[int, int, int], tuple[float, float, float]]]:
    """Orders of the pack's own sides along, across and up in which it may lie, with the sizes."""
    sides = (layout.length_mm, layout.width_mm, layout.height_mm)
    orders = permutations(range(3)) if layout.any_way_up else iter([(0, 1, 2), (1, 0, 2)])
    for a, b, c in orders:
        yield (a, b, c), (sides[a], sides[b], sides[c])


def spare_mm(layout: Sized, bay: Bay) -> float:
    """Least room left in the bay the way the pack goes in best; negative: does not go in. Keeping out aside."""
    room = (bay.length_mm, bay.width_mm, bay.height_mm)
    return max(min(its - one for one, its in zip(size, room, strict=True)) for _, size in ways_to_lie(layout))


def lying_mm(layout: Sized, bay: Bay | None) -> tuple[float, float, float]:
    """What a pack takes along, across and up: as it lies in the bay, else as it is laid out, along its length."""
    stowed = stow(layout, bay) if bay is not None else None
    return (layout.length_mm, layout.width_mm, layout.height_mm) if stowed is None else stowed.size_mm


def stow(layout: Sized, bay: Bay, shift_mm: float = 0.0) -> Stowed | None:
    """The pack in the bay, as near as it goes to ``shift_mm`` ahead of its middle; none where it does not go in.

    Where it goes in both ways round, the roomier one is taken. What is kept free is free over the bay's whole height.
    """
    best: tuple[tuple[float, float], Stowed] | None = None
    for order, (along, across, up) in ways_to_lie(layout):
        if along > bay.length_mm or across > bay.width_mm or up > bay.height_mm:
            continue
        spare = min(bay.length_mm - along, bay.width_mm - across, bay.height_mm - up)
        wanted_x, wanted_y = (bay.length_mm - along) / 2 + shift_mm, (bay.width_mm - across) / 2
        for x, y in product(
            _places(wanted_x, along, bay.length_mm, [(k.x_mm, k.length_mm) for k in bay.keep_outs]),
            _places(wanted_y, across, bay.width_mm, [(k.y_mm, k.width_mm) for k in bay.keep_outs]),
        ):
            if any(
                x < k.x_mm + k.length_mm and k.x_mm < x + along and y < k.y_mm + k.width_mm and k.y_mm < y + across
                for k in bay.keep_outs
            ):
                continue
            rank = (round(abs(x - wanted_x) + 0.1 * abs(y - wanted_y), 3), -spare)
            if best is None or rank < best[0]:
                best = (rank, Stowed(x, y, (along, across, up), order, spare))
    return best[1] if best is not None else None


def _places(wanted: float, size: float, room: float, kept: list[tuple[float, float]]) -> set[float]:
    """Where a pack may start along one side: as wanted, or against something that must stay free."""
    spots = [wanted, *(start - size for start, _ in kept), *(start + length for start, length in kept)]
    return {min(max(spot, 0.0), room - size) for spot in spots}
