"""Other ways to lay out the same cells, ranked by whether they fit, by their strip, and by the balance point."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

from wise_cellar.core.documents import Arrangement, CellType, CompleteDesign, PackRecipe
from wise_cellar.core.pack.arrangement import Outline, outlines, shape_of, wired
from wise_cellar.core.pack.balance import BalancePoint, balance_of
from wise_cellar.core.pack.layout import PackLayout
from wise_cellar.core.pack.ledger import build_layout
from wise_cellar.core.pack.room import stow

_OFFERED = ((Arrangement.SQUARE, 1), (Arrangement.SQUARE, 2), (Arrangement.STAGGERED, 1), (Arrangement.STAGGERED, 2),
            (Arrangement.STICKS, 1), (Arrangement.STICKS, 2))  # fmt: skip


@dataclass(frozen=True)
class Alternative:
    """One way to lay the cells out."""

    recipe: PackRecipe
    layout: PackLayout
    fits: bool
    """True where the craft tells no bay."""
    spare_mm: float | None
    """Least room left in the bay; none where it does not fit or there is no bay."""
    strip_mm: float
    balance: BalancePoint | None

    @property
    def words(self) -> str:
        """What it is: "square, 2 layers, 2 deep"."""
        short = {Arrangement.SQUARE: "square", Arrangement.STAGGERED: "staggered", Arrangement.STICKS: "sticks"}
        words = short.get(self.recipe.arrangement, str(self.recipe.arrangement))
        if self.layout.tiers > 1:
            words += ", 2 layers"
        if self.layout.bands > 1:
            words += f", {self.layout.bands} deep"
        return words


def alternatives(complete: CompleteDesign) -> tuple[Alternative, ...]:
    """Every offered way for the recipe's pack, best first; of those of one size only the one with the least strip. None
    of flat packs."""
    recipe, cell = complete.pack.recipe, complete.pack.cell
    if not cell.form_factor.cylindrical:
        return ()
    found: dict[tuple[float, ...], Alternative] = {}
    for option, outline in _ways(recipe, cell):
        one = _alternative(option, complete, outline)
        sides = sorted((outline.length_mm, outline.width_mm)) if not outline.any_way_up else [outline.length_mm]
        size = (*(round(side) for side in sides), round(outline.height_mm))
        if size not in found or one.strip_mm < found[size].strip_mm:
            found[size] = one

    def rank(one: Alternative) -> tuple[bool, bool, float, float]:
        point = one.balance
        return (
            not one.fits,
            point is not None and not point.within,
            one.strip_mm,
            abs(point.ballast_g) if point else 0.0,
        )

    return tuple(sorted(found.values(), key=rank))


def largest_that_fits(complete: CompleteDesign) -> Alternative | None:
    """The pack of most cells of this type that goes into the bay: fewer in parallel, then fewer in series."""
    recipe, cell, bay = complete.pack.recipe, complete.pack.cell, complete.bay
    if bay is None or not cell.form_factor.cylindrical:
        return None
    counts = sorted(
        product(range(1, recipe.series_count + 1), range(1, recipe.parallel_count + 1)),
        key=lambda count: (count[0] != recipe.series_count, -count[0] * count[1]),
    )
    for series, parallel in counts:
        smaller = recipe.changed(series_count=series, parallel_count=parallel)
        for option, outline in _ways(smaller, cell):
            if stow(outline, bay) is not None:
                return _alternative(option, complete, outline)
    return None


def _ways(recipe: PackRecipe, cell: CellType) -> Iterator[tuple[PackRecipe, Outline]]:
    for arrangement, tiers in _OFFERED:
        if recipe.series_count * recipe.parallel_count < tiers or (arrangement is not Arrangement.STICKS
                                                                   and recipe.series_count < tiers):  # fmt: skip
            continue
        if arrangement is Arrangement.STICKS and recipe.series_count < 2:
            continue
        option = recipe.changed(arrangement=arrangement, tiers=tiers, bands=None)
        for outline in outlines(option, shape_of(cell)):
            yield option.changed(bands=outline.bands), outline


def _alternative(recipe: PackRecipe, complete: CompleteDesign, outline: Outline) -> Alternative:
    cell, bay = complete.pack.cell, complete.bay
    layout = wired(outline, recipe, shape_of(cell))
    build = build_layout(recipe, cell, layout)
    stowed = stow(layout, bay) if bay is not None else None
    return Alternative(
        recipe=recipe,
        layout=layout,
        fits=bay is None or stowed is not None,
        spare_mm=stowed.spare_mm if stowed is not None else None,
        strip_mm=layout.strip_mm,
        balance=balance_of(complete, build),
    )
