"""What stands on the shelves of the Cellar: a row a document, in the order and with the words that were asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any

from wise_cellar.core.documents import CellType, CompleteDesign, Craft, Design, Mission, pack_words
from wise_cellar.core.pack import PackLayout
from wise_cellar.core.units import (
    counted,
    format_grams,
    format_mah,
    format_mm,
    format_number,
    format_significant,
    format_span,
)
from wise_cellar.store.library import Library, key_of


class Shelf(StrEnum):
    """What is looked at."""

    DESIGNS = "Designs"
    CRAFTS = "Crafts"
    MISSIONS = "Missions"
    CELLS = "Cell types"

    @property
    def model(self) -> type[Any]:
        """The kind of document on it."""
        return {Shelf.DESIGNS: Design, Shelf.CRAFTS: Craft, Shelf.MISSIONS: Mission, Shelf.CELLS: CellType}[self]


class Order(StrEnum):
    """By what it is sorted."""

    GROUP = "by craft"
    """Or by kind."""
    MINUTES = "longest first"
    MASS = "lightest first"
    CHANGED = "last changed first"


@dataclass(frozen=True)
class Flown:
    """What one design was found to do; a sentence where it cannot be flown."""

    parts: tuple[Any, ...]
    """The design, its craft, its mission and its cell types."""
    seconds: float = 0.0
    takeoff_g: float = 0.0
    layout: PackLayout | None = None
    refusal: str = ""


@dataclass(frozen=True)
class ShelfRow:
    """One document as it is shown."""

    document: Any
    name: str
    words: str
    beside: str
    """At the right: minutes, mass."""
    changed: str
    group: str
    """What it stands under."""
    present: bool
    flown: Flown | None = None
    has_plan: bool = False
    """Whether room is kept for the outline of its pack, which may not have been flown yet."""

    @property
    def said(self) -> str:
        """All of it, for those who do not see it."""
        marks = ["open now"] if self.present else []
        marks += [mark for mark, on in (("sample", self.document.sample), ("archived", self.document.archived)) if on]
        return ", ".join(part for part in (self.name, self.words, self.beside, *marks) if part)


def users(library: Library, document: Any) -> list[Design]:
    """The designs that name a document, in order of name."""
    key = key_of(document)
    return [design for design in library.all(Design).values() if key in library.needs(design)]


def shelf_rows(
    library: Library, shelf: Shelf, flown: Mapping[str, Flown], changed: Mapping[str, float], present: CompleteDesign
) -> list[ShelfRow]:
    """Every document of a shelf, by name."""
    shown: tuple[Any, ...] = (present.design, present.craft, present.mission, *present.cells)
    now = {one.id for one in shown}
    makers: dict[Shelf, Callable[[Library, Any], tuple[str, str]]] = {
        Shelf.DESIGNS: _design_words, Shelf.CRAFTS: _craft_words, Shelf.MISSIONS: _mission_words,
        Shelf.CELLS: _cell_words,
    }  # fmt: skip
    rows = []
    for key, document in library.all(shelf.model).items():
        its = flown.get(key) if shelf is Shelf.DESIGNS else None
        words, group = makers[shelf](library, document)
        rows.append(
            ShelfRow(
                document, document.name, words, _beside(library, shelf, document, its), _when(changed.get(key)), group,
                key in now, its, shelf is Shelf.DESIGNS,
            )
        )  # fmt: skip
    return rows


def arranged(
    rows: Iterable[ShelfRow], order: Order, typed: str, changed: Mapping[str, float], *, archived: bool
) -> list[ShelfRow]:
    """The rows that fit what was typed, in an order; archived ones only where they are asked for."""
    wanted = typed.lower().split()
    kept = [row for row in rows if _fits(row, wanted, archived=archived)]
    unknown = float("inf")

    def seconds(row: ShelfRow) -> float:
        return -row.flown.seconds if row.flown is not None else unknown

    def grams(row: ShelfRow) -> float:
        return row.flown.takeoff_g if row.flown is not None and not row.flown.refusal else unknown

    keys: dict[Order, Any] = {
        Order.GROUP: lambda row: (row.group.lower(), row.name.lower()),
        Order.MINUTES: seconds,
        Order.MASS: grams,
        Order.CHANGED: lambda row: -changed.get(row.document.id, 0.0),
    }
    return sorted(kept, key=keys[order])


def _fits(row: ShelfRow, wanted: Sequence[str], *, archived: bool) -> bool:
    if row.document.archived and not archived:
        return False
    text = f"{row.name} {row.words} {row.group} {getattr(row.document, 'notes', '')}".lower()
    return all(word in text for word in wanted)


def _design_words(library: Library, design: Design) -> tuple[str, str]:
    craft = library.known(Craft, design.craft_id)
    mission = library.known(Mission, design.mission_id)
    packs = [pack_words(pack.recipe, library.known(CellType, pack.cell_type_id)) for pack in design.packs]
    return f"{craft.name} carries {' with '.join(packs)}, flying {mission.name}", craft.name


def _craft_words(_library: Library, craft: Craft) -> tuple[str, str]:
    rotors = craft.rotors
    carried = (
        f"{rotors.count} × {format_mm(rotors.diameter_mm)}"
        if craft.wing is None
        else f"wing of {format_span(craft.wing.span_mm)}"
    )
    flights = len(craft.known_flights)
    seen = f", {counted(flights, 'known flight')}" if flights else ""
    return f"{carried}{seen}", "On wings" if craft.wing is not None else "On rotors"


def _mission_words(library: Library, mission: Mission) -> tuple[str, str]:
    craft = library.known(Craft, mission.craft_id) if mission.craft_id else None
    blocks = ", ".join(block.label for block in mission.blocks[:4])
    more = f" and {len(mission.blocks) - 4} more" if len(mission.blocks) > 4 else ""
    return f"{blocks}{more}", f"Of {craft.name}" if craft is not None else "Of any craft"


def _cell_words(_library: Library, cell: CellType) -> tuple[str, str]:
    kind = "Packs bought whole" if cell.whole_pack else f"{cell.form_factor} cells"
    words = (
        f"{format_mah(cell.capacity_mah)}, {format_significant(cell.resistance_mohm, 3)} mΩ,"
        f" {format_significant(cell.rated_current_a, 3)} A, {cell.source}"
    )
    return words, kind


def _beside(library: Library, shelf: Shelf, document: Any, flown: Flown | None) -> str:
    if shelf is Shelf.DESIGNS:
        if flown is None:
            return "being flown"
        if flown.refusal:
            return "cannot be flown"
        return f"{format_number(flown.seconds / 60, 1)} min, {format_grams(flown.takeoff_g)}"
    count = len(users(library, document))
    used = counted(count, "design") if count else "unused"
    grams = {Shelf.CRAFTS: lambda: document.dry_mass_g, Shelf.CELLS: lambda: document.mass_g}.get(shelf)
    return used if grams is None else f"{format_grams(grams())}, {used}"


def _when(seconds: float | None) -> str:
    """When it was changed, as people say it."""
    if seconds is None:
        return ""
    then, now = datetime.fromtimestamp(seconds), datetime.now()
    if then.date() == now.date():
        return f"today {then:%H:%M}"
    return f"{then.day} {then:%B}" + ("" if then.year == now.year else f" {then.year}")
