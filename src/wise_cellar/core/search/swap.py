"""The packs that weigh the same: what each gains in minutes and loses in punch."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError, KineticClass
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.physics.arrays import Ints
from wise_cellar.core.search.flown import Flown, fly_rows


@dataclass(frozen=True)
class Reference:
    """What is swapped: a pack of the given mass, flown on this craft."""

    name: str
    complete: CompleteDesign
    flown: Flown
    """One row."""

    @property
    def pack_g(self) -> float:
        """Of the whole pack, leads included."""
        return float(self.flown.pack_g[0])


@dataclass(frozen=True)
class Swap:
    """One pack in its place, by its place in a search, with what it changes."""

    place: int
    pack_g: float
    more_s: float
    early_margin: float
    """Change of the thrust margin of a first burst."""
    late_margin: float
    late_v: float


def present(complete: CompleteDesign, factor: float) -> Reference:
    """The design's own pack."""
    recipe = complete.pack.recipe
    name = f"{recipe.series_count}S {recipe.parallel_count}P of {complete.pack.cell.name}"
    return Reference(name, complete, _one(complete, factor))


def bought(complete: CompleteDesign, pack: CellType, factor: float) -> Reference:
    """A pack bought whole, as many in series as come nearest to the design's volts, one in parallel."""
    count = max(round(complete.pack.recipe.series_count / pack.cells_in_series), 1)
    if len(complete.packs) > 1 and count * pack.cells_in_series != complete.pack.recipe.series_count:
        raise DocumentError(
            f"{pack.name} has {pack.cells_in_series} cells in series and cannot stand on a bus of"
            f" {complete.pack.recipe.series_count}S; choose another pack to swap.",
            "design.search.swap_pack_id",
        )
    recipe = complete.pack.recipe.changed(series_count=count * pack.cells_in_series, parallel_count=1, weighed_g=None)
    swapped = complete.with_pack(pack, recipe=recipe)
    return Reference(pack.name if count == 1 else f"{count} × {pack.name}", swapped, _one(swapped, factor))


def _one(complete: CompleteDesign, factor: float) -> Flown:
    space = Space.around(complete)
    return fly_rows(space, space.rows, factor)


def swaps(space: Space, flown: Flown, reference: Reference, share: float, among: Ints | None = None) -> list[Swap]:
    """Lithium-ion packs within ``share`` of the reference's mass, longest flight first.

    ``among`` are the places that may be offered; polymer is left out, as is the reference itself.
    """
    places = np.arange(len(flown)) if among is None else among
    near = np.abs(flown.pack_g[places] - reference.pack_g) <= share * reference.pack_g
    cells = space.places(flown.row[places]).cells
    lithium_ion = np.array([cell.kinetic_class is not KineticClass.POLYMER_POUCH for cell in space.cells])[cells]
    own = space.row_of(reference.complete)
    offered = places[near & lithium_ion & (flown.row[places] != (-1 if own is None else own))]
    offered = offered[np.argsort(-flown.duration_s[offered], kind="stable")]
    was = reference.flown
    return [
        Swap(
            place,
            float(flown.pack_g[place]),
            float(flown.duration_s[place] - was.duration_s[0]),
            float(flown.early_margin[place] - was.early_margin[0]),
            float(flown.late_margin[place] - was.late_margin[0]),
            float(flown.late_v[place] - was.late_v[0]),
        )
        for place in offered.tolist()
    ]
