"""What a search goes through: every combination of cell types, counts, joints, leads and landing rules."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import cached_property

import numpy as np

from wise_cellar.core.documents import (
    Arrangement,
    CellType,
    CompleteDesign,
    DocumentError,
    Joint,
    LandingBasis,
    LandingPolicy,
    PackRecipe,
)
from wise_cellar.core.lowering.designs import hover_steps
from wise_cellar.core.pack import as_parts
from wise_cellar.core.physics.arrays import Ints
from wise_cellar.core.propulsion.steps import StepArrays
from wise_cellar.core.units import format_number

MOST_DESIGNS = 1_000_000
"""More is refused: the picture could not tell them apart, and some hundred bytes of each are kept."""
READY_POLICIES = (LandingPolicy.GENTLE, LandingPolicy.BALANCED, LandingPolicy.DEEP)
AXES = ("series", "parallel", "cells", "joints", "gauges", "policies")
_WORDS = {
    "series": "cells in series", "parallel": "cells in parallel", "cells": "cell types", "joints": "ways of joining",
    "gauges": "lead gauges", "policies": "landing rules",
}  # fmt: skip
_SPARED_FIRST = ("gauges", "policies", "joints", "parallel", "series", "cells")


@dataclass(frozen=True)
class Space:
    """The combinations around one complete design. A *row* is the place of one of them in the order of the axes."""

    complete: CompleteDesign
    series: tuple[int, ...]
    parallel: tuple[int, ...]
    cells: tuple[CellType, ...]
    joints: tuple[Joint, ...]
    gauges: tuple[int, ...]
    policies: tuple[LandingPolicy, ...]

    @classmethod
    def around(
        cls, complete: CompleteDesign, *, series: Sequence[int] = (), parallel: Sequence[int] = (),
        cells: Sequence[CellType] = (), joints: Sequence[Joint] = (), gauges: Sequence[int] = (),
        policies: Sequence[LandingPolicy] = (),
    ) -> Space:  # fmt: skip
        """A space in which an axis that is not given stays at the design's own value; what the design itself searches
        is left out of it.

        Landing policies are an axis only where the landing rule goes by loaded volts. Raises :class:`DocumentError`
        when there are more designs than can be flown.
        """
        complete = as_parts(complete)
        recipe, landing = complete.pack.recipe, complete.design.landing
        by_policy = landing.basis is LandingBasis.LOADED
        made = cls(
            complete=complete.changed(design=complete.design.as_flown),
            series=tuple(series) or (recipe.series_count,),
            parallel=tuple(parallel) or (recipe.parallel_count,),
            cells=tuple(cells) or (complete.pack.cell,),
            joints=tuple(joints) or (recipe.joint,),
            gauges=tuple(gauges) or (recipe.leads.gauge_awg,),
            policies=(tuple(policies) if by_policy else ()) or (landing.policy,),
        )
        if made.size > MOST_DESIGNS:
            raise DocumentError(made._too_large())
        return made

    @classmethod
    def searched(cls, complete: CompleteDesign, shelf: Sequence[CellType]) -> Space:
        """What the design asks to be searched among the cell types of a shelf.

        Raises :class:`DocumentError` when no cell type is left, or there are too many designs.
        """
        choice, recipe = complete.design.search, complete.pack.recipe
        cells = [cell for cell in shelf if cell.id in choice.cell_ids or not (choice.cell_ids or cell.archived)]
        if not cells:
            raise DocumentError(
                "No cell type is chosen that is on the shelf: choose some, or all.", "design.search.cell_ids"
            )
        # Packs beside hold the bus to their own count in series.
        series = () if len(complete.packs) > 1 else choice.series_counts(recipe)
        return cls.around(
            complete, series=series, parallel=choice.parallel_counts(), cells=cells,
            joints=tuple(Joint) if choice.every_joint else (), gauges=choice.gauge_counts(),
            policies=READY_POLICIES if choice.every_policy else (),
        )  # fmt: skip

    @cached_property
    def question(self) -> tuple[object, ...]:
        """All that the results hang on: two designs that differ only along the axes ask the same."""
        return self.design(0), *(getattr(self, name) for name in AXES)

    @property
    def shape(self) -> tuple[int, ...]:
        """Choices along each axis."""
        return tuple(len(getattr(self, name)) for name in AXES)

    @property
    def size(self) -> int:
        """All combinations."""
        return math.prod(self.shape)

    def _too_large(self) -> str:
        """How large it is, and the coarser search that comes nearest."""
        left, spared = self.size, []
        for name in _SPARED_FIRST:
            if left <= MOST_DESIGNS:
                break
            many = len(getattr(self, name))
            kept = max(1, int(MOST_DESIGNS / (left / many)))
            if kept < many:
                spared.append(f"{kept} of the {many} {_WORDS[name]}")
                left = left // many * kept
        return (
            f"That is {format_number(self.size, 0)} designs; {format_number(MOST_DESIGNS, 0)} is the most that is"
            f" searched at once. With {' and '.join(spared)} it would be {format_number(left, 0)}."
        )

    @property
    def hover(self) -> StepArrays:
        """A hover in the design's wind, as a mission of one step."""
        return hover_steps(self.complete.design.conditions)

    @cached_property
    def rows(self) -> Ints:
        """The combinations that differ: packs bought whole have no joints of their own, one alone no leads."""
        every = np.arange(self.size)
        place = self.places(every)
        whole = np.array([cell.whole_pack for cell in self.cells])[place.cells]
        inside = np.array([cell.cells_in_series for cell in self.cells])[place.cells]
        units = np.array(self.series)[place.series] / inside * np.array(self.parallel)[place.parallel]
        same = whole & ((place.joints > 0) | ((units <= 1) & (place.gauges > 0)))
        return np.asarray(every[~same])

    def places(self, rows: Ints) -> Places:
        """Where rows stand along each axis."""
        return Places(*np.unravel_index(rows, self.shape))

    def recipe(self, series: int, parallel: int, joint: Joint, gauge: int) -> PackRecipe:
        """The recipe of a combination: as the design has it in all else. An own placement holds for its own counts
        only, and is searched in square rows; a measured joint is that of the design's own way of joining."""
        own = self.complete.pack.recipe
        changed: dict[str, object] = {"series_count": series, "parallel_count": parallel, "joint": joint}
        if own.arrangement is Arrangement.OWN and (series, parallel) != (own.series_count, own.parallel_count):
            changed |= {"arrangement": Arrangement.SQUARE, "own_places": ()}
        if joint is not own.joint:
            changed["joint_mohm"] = None
        if gauge != own.leads.gauge_awg:
            changed["leads"] = own.leads.changed(gauge_awg=gauge)
        return own.changed(**changed)

    def design(self, row: int) -> CompleteDesign:
        """The complete design of a row."""
        series, parallel, cell, joint, gauge, policy = (
            getattr(self, name)[int(place)] for name, place in zip(AXES, np.unravel_index(row, self.shape), strict=True)
        )
        made = self.complete.with_pack(cell, recipe=self.recipe(series, parallel, joint, gauge))
        return made.with_design(landing=self.complete.design.landing.changed(policy=policy))

    def row_of(self, complete: CompleteDesign) -> int | None:
        """The row of a design, where it is among the combinations."""
        recipe, landing = as_parts(complete).pack.recipe, complete.design.landing
        wanted = (recipe.series_count, recipe.parallel_count, complete.pack.cell, recipe.joint,
                  recipe.leads.gauge_awg, landing.policy)  # fmt: skip
        try:
            place = [getattr(self, name).index(value) for name, value in zip(AXES, wanted, strict=True)]
        except ValueError:
            return None
        row = int(np.ravel_multi_index(place, self.shape))
        return row if self.design(row).pack.recipe == recipe else None


@dataclass(frozen=True)
class Places:
    """Places of rows along the axes of a space, each of shape ``(rows,)``."""

    series: Ints
    parallel: Ints
    cells: Ints
    joints: Ints
    gauges: Ints
    policies: Ints

    @classmethod
    def of(cls, **axes: Sequence[int]) -> Places:
        """Places along some of the axes; along the others the first."""
        count = len(next(iter(axes.values())))
        return cls(*(np.array(axes.get(name, [0] * count), np.intp) for name in AXES))

    def rows(self, space: Space) -> Ints:
        """Their rows in the space."""
        return np.asarray(np.ravel_multi_index([getattr(self, name) for name in AXES], space.shape))

    def take(self, some: Ints) -> Places:
        """Those of some of the rows."""
        return Places(*(getattr(self, f.name)[some] for f in fields(self)))
