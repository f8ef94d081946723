"""What a layout is: where every cell and strip of a pack lies, in millimetres."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property


class Face(StrEnum):
    """A face of one layer of cells; of sticks, which lie, their far and near ends do not show: all is on top."""

    TOP = "top"
    UNDERSIDE = "underside"


class RunKind(StrEnum):
    """What a run of strip does."""

    LINK = "between groups"
    """Carries series current from one group to the next."""
    TIE = "within a group"
    WIRE = "wire"
    """Bridges cells of one node that no strip can join: a fault of an own placement, drawn as what it is."""


@dataclass(frozen=True)
class CellPlace:
    """A cell: its centre seen from above, its series group from the negative end, which end is up, and its layer.

    Of a lying cell, as in sticks, ``positive_up`` says that its positive end looks along x.
    """

    x_mm: float
    y_mm: float
    group: int
    positive_up: bool
    tier: int = 0


@dataclass(frozen=True)
class Terminal:
    """One end of one cell, by its place in :attr:`PackLayout.cells`."""

    cell: int
    positive: bool


@dataclass(frozen=True)
class StripRun:
    """A straight run from one cell end to another of the same node.

    ``node`` counts the pack's nodes from 0 (negative terminal) to S (positive). Runs that are cut in one piece share
    ``piece``. A run from one layer of cells to the next has a ``face`` of the lower one.
    """

    node: int
    kind: RunKind
    start: Terminal
    end: Terminal
    start_mm: tuple[float, float]
    end_mm: tuple[float, float]
    face: Face
    tier: int
    piece: int
    length_mm: float
    """Metal from end to end; more than the distance where it is folded."""

    @property
    def between_groups(self) -> bool:
        """Whether it carries series current."""
        return self.kind is not RunKind.TIE


@dataclass(frozen=True)
class PackLayout:
    """Cells, strips and outer size of a pack; x runs along its length, y across."""

    cells: tuple[CellPlace, ...]
    """Cells, or packs bought whole."""
    body_mm: tuple[float, float]
    """What each takes in x and y; a diameter twice for standing cylinders."""
    strips: tuple[StripRun, ...]
    length_mm: float
    width_mm: float
    height_mm: float
    bands: int
    pitch_mm: float
    """From one cell to the next, which is what a strip must bridge."""
    negative: Terminal | None = None
    """Where the negative lead meets the strips; none for packs bought whole."""
    positive: Terminal | None = None
    lying: bool = False
    """Sticks: cells lie along x."""
    any_way_up: bool = False
    """Whether it may lie on any of its sides: pouches and whole packs."""
    unplaced: int = 0
    """Cells that an own placement does not name, put where there was room."""

    @property
    def stacked(self) -> bool:
        """Pouches, or packs bought whole: all that is joined lies at one end."""
        return self.any_way_up and not self.lying

    @cached_property
    def tiers(self) -> int:
        """Layers of cells."""
        return 1 + max(cell.tier for cell in self.cells)

    @cached_property
    def middle_mm(self) -> tuple[float, float]:
        """Centre of mass of the cells, from the centre of the pack: along and across."""
        xs, ys = [cell.x_mm for cell in self.cells], [cell.y_mm for cell in self.cells]
        return (
            sum(xs) / len(xs) - (min(xs) + max(xs)) / 2,
            sum(ys) / len(ys) - (min(ys) + max(ys)) / 2,
        )

    def face_of(self, terminal: Terminal) -> tuple[int, Face]:
        """Layer and face on which a terminal lies; of sticks and stacks always the top."""
        cell = self.cells[terminal.cell]
        up = self.lying or self.any_way_up or cell.positive_up == terminal.positive
        return cell.tier, Face.TOP if up else Face.UNDERSIDE

    def point_of(self, terminal: Terminal) -> tuple[float, float]:
        """Where a terminal is seen from above."""
        cell = self.cells[terminal.cell]
        if self.stacked:
            # The tabs of a pouch, alternately left and right from node to node.
            return cell.x_mm, self.body_mm[1] * (0.25 if node_of(cell, terminal.positive) % 2 == 0 else 0.75)
        if not self.lying:
            return cell.x_mm, cell.y_mm
        ahead = cell.positive_up == terminal.positive
        return cell.x_mm + (0.5 if ahead else -0.5) * self.body_mm[0], cell.y_mm

    @cached_property
    def strip_mm(self) -> float:
        """Strip to cut, tails aside."""
        return sum(run.length_mm for run in self.strips if run.kind is not RunKind.WIRE)

    def longest_piece_mm(self, width_mm: float) -> float:
        """Longest piece of strip to cut, with half a strip's width of tail at each end."""
        lengths: dict[int, float] = {}
        for run in self.strips:
            if run.kind is not RunKind.WIRE:
                lengths[run.piece] = lengths.get(run.piece, width_mm) + run.length_mm
        return max(lengths.values(), default=0.0)


def node_of(cell: CellPlace, positive: bool) -> int:
    """The node that an end of a cell belongs to."""
    return cell.group + 1 if positive else cell.group
