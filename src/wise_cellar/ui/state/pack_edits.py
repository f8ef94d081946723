"""What the Pack station asks of the session: whole recipes, one edit each."""

from __future__ import annotations

from wise_cellar.core.documents import Arrangement, OwnPlace, PackRecipe
from wise_cellar.core.pack import PackLayout, arrange, placed_as, shape_of
from wise_cellar.ui.state.session import Session


def take_recipe(session: Session, recipe: PackRecipe, label: str) -> None:
    """Build the pack by another recipe."""
    session.edit("design.packs.0.recipe", recipe, label)


def place_by_hand(session: Session) -> None:
    """Go on from where the cells stand; from square rows where they stand in layers or sticks."""
    recipe = session.complete.pack.recipe
    placed = recipe.changed(arrangement=Arrangement.OWN, own_places=_places(session))
    take_recipe(session, placed, "Place the cells by hand")


def move_cell(session: Session, cell: int, along: int, across: int) -> None:
    """Move a cell of an own placement by half pitches; refused where another stands."""
    places = list(_places(session))
    steps = [(place.x, place.y) for place in places]
    steps[cell] = steps[cell][0] + along, steps[cell][1] + across
    # The grid begins at the outermost cells, wherever they are.
    left, near = (max(-steps[cell][axis], 0) for axis in (0, 1))
    moved = [place.changed(x=x + left, y=y + near) for place, (x, y) in zip(places, steps, strict=True)]
    _place(session, moved, f"Move cell {cell + 1}")


def turn_cell(session: Session, cell: int) -> None:
    """Turn a cell of an own placement over."""
    places = list(_places(session))
    places[cell] = places[cell].changed(positive_up=not places[cell].positive_up)
    _place(session, places, f"Turn cell {cell + 1} over")


def count_the_rest(session: Session) -> None:
    """Enter what the weighed pack has more than its parts as other grams, so that they add up to it."""
    recipe = session.complete.pack.recipe
    if recipe.weighed_g is None:
        return
    missing = recipe.weighed_g - session.answer.build.parts_g
    other = round(recipe.fittings.other_g + missing, 1)
    session.edit("design.packs.0.recipe.fittings.other_g", other, "Count the grams that were missing")


def _place(session: Session, places: list[OwnPlace], label: str) -> None:
    recipe = session.complete.pack.recipe.changed(own_places=tuple(places))
    take_recipe(session, recipe, label)


def _places(session: Session) -> tuple[OwnPlace, ...]:
    """Where every cell stands now, also one that the placement did not name."""
    recipe, layout = session.complete.pack.recipe, session.answer.build.layout
    if layout.lying or layout.tiers > 1:
        layout = _square(session)
    return placed_as(layout, recipe.arrangement is Arrangement.STAGGERED)


def _square(session: Session) -> PackLayout:
    flat = {"arrangement": Arrangement.SQUARE, "tiers": 1, "bands": None}
    recipe = session.complete.pack.recipe.changed(**flat)
    return arrange(recipe, shape_of(session.complete.pack.cell), session.complete.bay)
