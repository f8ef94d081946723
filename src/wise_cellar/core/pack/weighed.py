"""A pack that was put on the scale: it flies as it was weighed, until it is built otherwise.

What the scale found more than the parts, or less, is of that one pack. A changed recipe is another pack; the grams that
were found are then kept among its other grams, and its mass is again in doubt as that of parts is.
"""

from __future__ import annotations

from wise_cellar.core.documents import Bay, CellType, CompleteDesign, Design, PackRecipe
from wise_cellar.core.pack.ledger import build_pack


def as_parts(complete: CompleteDesign) -> CompleteDesign:
    """The same design with its first pack by its parts, as heavy as it was weighed: what variations start from."""
    recipe = by_parts(complete.pack.recipe, complete.pack.cell, complete.bay)
    if recipe is complete.pack.recipe:
        return complete
    return complete.with_pack(recipe=recipe)


def by_parts(recipe: PackRecipe, cell: CellType, bay: Bay | None) -> PackRecipe:
    """The recipe without what the scale said, which is put among the other grams."""
    if recipe.weighed_g is None:
        return recipe
    found = recipe.weighed_g - build_pack(recipe, cell, bay).parts_g
    fittings = recipe.fittings.changed(other_g=recipe.fittings.other_g + found)
    return recipe.changed(weighed_g=None, fittings=fittings)


def rebuilt(before: CompleteDesign, after: Design) -> Design:
    """The design after an edit, without what was weighed of packs that the edit makes other ones."""
    packs = []
    for place, pack in enumerate(after.packs):
        was = before.packs[place] if place < len(before.packs) else None
        if was is not None and (place == 0 or was.of.name == pack.name):
            bay = before.bay if place == 0 else None
            recipe = _rebuilt(was.recipe, was.cell, bay, pack.recipe, pack.cell_type_id)
            pack = pack.changed(recipe=recipe)
        packs.append(pack)
    return after if tuple(packs) == after.packs else after.changed(packs=packs)


def _rebuilt(was: PackRecipe, cell: CellType, bay: Bay | None, now: PackRecipe, cell_id: str) -> PackRecipe:
    weighed_anew = now.weighed_g != was.weighed_g
    if now.weighed_g is None or weighed_anew or (was.as_built == now.as_built and cell_id == cell.id):
        return now
    found = by_parts(was, cell, bay).fittings.other_g - was.fittings.other_g
    fittings = now.fittings.changed(other_g=round(now.fittings.other_g + found, 1))
    return now.changed(weighed_g=None, fittings=fittings)
