"""The documents of a workspace in memory: what is whole, what needs what, and where others find a place."""

from __future__ import annotations

import pytest

from tests.builders import beside, cell_type, complete, craft, mission, whole_pack
from wise_cellar.core.documents import CellType, Craft, Design, Document, DocumentError, Mission, Part
from wise_cellar.store import Broken, Contents, Removal
from wise_cellar.store.library import Library, Placing


def library(*documents: Document, broken: tuple[Broken, ...] = ()) -> Library:
    found: dict[type[Document], dict[str, Document]] = {model: {} for model in (Craft, CellType, Mission, Design)}
    for document in documents:
        found[type(document)][document.id] = document  # type: ignore[attr-defined]
    return Library(Contents(found, broken, ()))


def two_designs() -> Library:
    """One plain design, and one that carries a bought pack beside and has grams taken off its craft."""
    two = complete(series_count=2, parallel_count=1)
    extended = beside(two, (whole_pack(), {"own": True})).design
    named = {"id": "extended", "name": "Extended", "taken_off": (Part(name="lid", mass_g=40),)}
    extended = extended.model_copy(update=named)
    return library(craft(), cell_type(), whole_pack(), mission(), complete().design, extended)


def test_designs_are_whole_where_all_they_name_is_there() -> None:
    held = two_designs()
    assert set(held.all(Design)) == {"design", "extended"}
    assert held.broken == []


def test_a_design_without_its_cell_is_set_apart_and_comes_back_with_it() -> None:
    held = library(craft(), mission(), complete().design)
    assert held.all(Design) == {}
    (apart,) = held.broken
    assert "names a cell type “cell” that is not in the workspace" in apart.sentence
    held.apply([cell_type()])
    assert set(held.all(Design)) == {"design"}
    assert held.broken == []


@pytest.mark.parametrize(
    ("gone", "says"),
    [
        (Removal("cell_type", "pack"), "Reed 2S 1900 is used by the design “Extended”"),
        (Removal("craft", "craft"), "Whimbrel is used by the design “test”"),
        (Removal("mission", "mission"), "Transect is used by the design"),
    ],
)
def test_what_a_design_needs_cannot_be_taken_away(gone: Removal, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        two_designs().check([gone])


def test_a_craft_cannot_be_made_lighter_than_what_was_taken_off_it() -> None:
    held = two_designs()
    light = craft(parts=(Part(name="all", mass_g=30),))
    with pytest.raises(DocumentError, match=r"The design “Extended” could not be flown any more: 40 g cannot be taken"):
        held.check([light])
    held.check([craft(parts=(Part(name="all", mass_g=300),))])


def test_what_goes_together_with_its_design_may_go() -> None:
    held = two_designs()
    held.check([Removal("design", "extended"), Removal("cell_type", "pack")])


def test_two_unlike_cells_of_one_name_come_in_under_two_identifiers() -> None:
    held = library(cell_type(id="fell"))
    placing = Placing(held)
    one = placing.place(cell_type(id="fell", capacity_mah=3250))
    other = placing.place(cell_type(id="fell", capacity_mah=1900))
    again = placing.place(cell_type(id="fell", capacity_mah=1900))
    assert len({one.id, other.id, "fell"}) == 3
    assert again.id != one.id
    assert placing.place(cell_type(id="fell")).id == "fell", "its equal is here already"
    assert placing.place(cell_type(id="Odd_One")).id == "Odd_One", "a free identifier is kept as it is"


def test_nothing_comes_in_under_the_identifier_of_a_broken_document() -> None:
    held = library(broken=(Broken("cell_type", "cell", "Fell", "It cannot be read.", "{"),))
    assert Placing(held).place(cell_type()).id != "cell"


def test_what_is_gone_is_a_sentence() -> None:
    with pytest.raises(DocumentError, match="This cell type “none” is not in the workspace any more"):
        two_designs().find(CellType, "none")
