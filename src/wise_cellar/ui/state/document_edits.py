"""What is done with whole documents: those of the present design copied, others brought in or mended."""

from __future__ import annotations

from typing import Any

from wise_cellar.core.documents import CompleteDesign, Craft, Design, Document, DocumentError
from wise_cellar.core.words import LONGEST_NAME, quoted
from wise_cellar.store import KINDS, Broken, Removal
from wise_cellar.store.library import Placing
from wise_cellar.ui.state.session import Session

SEEN_OF_ONE_CRAFT: dict[str, Any] = {
    "known_flights": (), "hover_test": None, "balance": None, "max_takeoff_mass_g": None
}  # fmt: skip
"""What a copy of a craft does not have: it was seen of that one craft, or asked of it."""


def duplicate_design(session: Session) -> None:
    """Go on with a copy of the present design under its own name."""
    copy = copied(session, session.complete.design)
    session.commit(f"Duplicate {session.complete.design.name}", [copy], show=copy.id)


def duplicate_craft(session: Session, *, whole: bool = False) -> None:
    """Copy the present craft; the present design flies the copy. What was seen of this one craft (known flights,
    balance point, the mass it must stay under) is left behind, unless the copy is to be ``whole``."""
    session.no_draft()
    copy = copied(session, session.complete.craft, whole=whole)
    _fly_copy(session, session.complete.craft, copy, session.complete.design.changed(craft_id=copy.id))


def duplicate_cell_type(session: Session) -> None:
    """Copy the present cell type; the first pack of the present design is made of the copy."""
    copy = copied(session, session.complete.pack.cell)
    _fly_copy(session, session.complete.pack.cell, copy, session.complete.design.with_first(cell_type_id=copy.id))


def duplicate_mission(session: Session) -> None:
    """Copy the present mission; the present design flies the copy."""
    copy = copied(session, session.complete.mission)
    _fly_copy(session, session.complete.mission, copy, session.complete.design.changed(mission_id=copy.id))


def _fly_copy(session: Session, document: Any, copy: Any, design: Design) -> None:
    session.commit(f"Duplicate {document.name}", [copy, design])


def copied(session: Session, document: Any, *, whole: bool = True) -> Any:
    """A copy under a name and an identifier of its own; a craft's without what was seen of that one, if not whole."""
    model = type(document)
    names = {other.name for other in session.all(model).values()}
    name = next(
        candidate
        for number in range(1, len(names) + 2)
        if (candidate := copied_name(document.name, number)) not in names
    )
    own = {} if whole or not isinstance(document, Craft) else SEEN_OF_ONE_CRAFT
    return document.changed(id=session.free_id(model, name), name=name, sample=False, **own)


def copied_name(name: str, number: int) -> str:
    """Name of a copy, no longer than a name may be."""
    ending = ", copy" + (f" {number}" if number > 1 else "")
    return name[: LONGEST_NAME - len(ending)] + ending


def take_in(session: Session, document: Document) -> None:
    """Add an imported document; a design brings its craft, cell types and mission and is shown.

    A document that is here already, to the letter, is not doubled; one that differs gets a new identifier.
    """
    placing = Placing(session.library)
    if not isinstance(document, CompleteDesign):
        settled = placing.place(document)
        session.commit(f"Import {getattr(settled, 'name', '')}", [settled])
        return
    craft, cells = placing.place(document.craft), {cell.id: placing.place(cell) for cell in document.cells}
    packs = tuple(pack.changed(cell_type_id=cells[pack.cell_type_id].id) for pack in document.design.packs)
    bound = document.mission.craft_id and document.mission.craft_id == document.craft.id
    mission = placing.place(document.mission.changed(**({"craft_id": craft.id} if bound else {})))
    named = {"craft_id": craft.id, "mission_id": mission.id, "packs": packs}
    design = placing.place(document.design.changed(**named))
    every = [craft, *cells.values(), mission, design]
    session.commit(f"Import {design.name}", every, show=design.id)


def mend(session: Session, broken: Broken, text: str) -> None:
    """Keep a document that could not be read as ``text`` has it; refused where that cannot be read either."""
    document = KINDS[broken.kind].from_json(text)
    if getattr(document, "id", "") != broken.id:
        raise DocumentError(f"Its identifier must stay {quoted(broken.id)}; others may name it.")
    if isinstance(document, Design):
        session.library.assembled(document)
    session.commit(f"Mend {broken.name}", [document])


def delete_broken(session: Session, broken: Broken) -> None:
    """Take a document that cannot be shown out of the workspace; undo puts it back as it was."""
    session.commit(f"Delete {broken.name}", [Removal(broken.kind, broken.id)])
