"""A step of building a pack: what to do, with what, what is bare, and what a meter should read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from wise_cellar.core.build.materials import Material, materials
from wise_cellar.core.build.steps.expected import (
    Expected,
    GroupRest,
    group_rests,
)
from wise_cellar.core.documents import NumberedCell
from wise_cellar.core.pack import Face, PackBuild
from wise_cellar.core.pack.cautions import FITTINGS

Side = tuple[int, Face]
"""A face of a layer of cells."""
BARE = FITTINGS[0].sentence


@dataclass(frozen=True)
class Scene:
    """What stands of a pack while a step is made: for its picture, and for what is bare."""

    numbered: bool = False
    ringed: bool = False
    placed: bool = True
    joined: frozenset[int] = frozenset()
    """Nodes whose strips are on."""
    joining: frozenset[int] = frozenset()
    """Nodes whose strips come on now."""
    open: frozenset[Side] = frozenset()
    """Faces whose ends are bare while it is made; all others are covered."""
    leads: tuple[bool, bool] = (False, False)
    """Whether the negative and the positive lead are on."""
    lead: int | None = None
    """Which of the two comes on now."""
    taps: bool = False
    tapping: bool = False
    wrapped: bool = False


@dataclass(frozen=True)
class Step:
    """One thing to do."""

    key: str
    title: str
    do: tuple[str, ...]
    scene: Scene
    tools: tuple[str, ...] = ()
    pieces: tuple[str, ...] = ()
    heat: str = ""
    cautions: tuple[str, ...] = ()
    expected: tuple[Expected, ...] = ()

    @property
    def told(self) -> tuple[str, ...]:
        """Its cautions, that of bare ends the first."""
        return ((BARE,) if self.scene.open else ()) + self.cautions


@dataclass(frozen=True)
class Bench:
    """What a pack is built of: its recipe worked out, its cells by groups from the negative end, what they rest at."""

    build: PackBuild
    groups: tuple[tuple[NumberedCell, ...], ...]
    rests: tuple[GroupRest, ...]
    listed: dict[str, Material] = field(default_factory=dict)

    @classmethod
    def of(
        cls, build: PackBuild, groups: Sequence[Sequence[NumberedCell]], others: Sequence[NumberedCell] = ()
    ) -> Bench:
        """Of a recipe and the cells chosen for it; ``others`` are those that speak for cells not read."""
        rests = group_rests(build.cell, groups, build.recipe.series_count, others)
        listed = {one.name: one for one in materials(build)}
        return cls(build, tuple(tuple(group) for group in groups), rests, listed)

    def with_rests(self, rests: Sequence[GroupRest]) -> Bench:
        """The same with groups that were read since."""
        return replace(self, rests=tuple(rests))

    def pieces(self, *names: str) -> tuple[str, ...]:
        """Pieces of the list of materials, each with its size."""
        return tuple(_piece(self.listed[name]) for name in names if name in self.listed)


def _piece(one: Material) -> str:
    size = f", {one.size}" if one.size else ""
    cut = f": {one.cut_words}" if one.pieces else ""
    count = f"{one.count} " if one.count > 1 and not one.pieces else ""
    return f"{count}{one.name.lower() if count else one.name}{size}{cut}"
