"""The gaps of the sentence: how each is read, worded, and what stands in it while it is open."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from wise_cellar.core.begin import Arranged, Beginning, Begun, Carried, offered, read_description
from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.units import QuantityError, format_grams, format_quantity, parse_typed, unit_of_field

Read = Callable[[str, Mapping[str, CellType]], dict[str, Any]]


@dataclass(frozen=True)
class TypedGap:
    """A gap that is typed into. ``read`` gives the gaps that a text fills, or raises :class:`DocumentError`."""

    name: str
    title: str
    """What it is called, for those who do not see it."""
    read: Read
    words: Callable[[Beginning, Begun], str]
    """What was told; empty while it is open."""
    usual: Callable[[Begun], str]
    """What is taken while it is open."""
    help: str = ""


@dataclass(frozen=True)
class ChosenGap:
    """A gap of a few choices. The first stands for an open one."""

    name: str
    title: str
    choices: Callable[[Beginning, Begun], tuple[tuple[str, Any], ...]]


def _quantity(name: str, *, whole: bool = False) -> Read:
    unit = unit_of_field(name)

    def read(text: str, _cells: Mapping[str, CellType]) -> dict[str, Any]:
        if not text.strip():
            return {name: None}
        try:
            value = parse_typed(text, unit)
        except QuantityError as error:
            raise DocumentError(str(error), name) from error
        return {name: int(value) if whole and value == int(value) else value}

    return read


def _told(name: str) -> Callable[[Beginning, Begun], str]:
    unit = unit_of_field(name)

    def words(said: Beginning, _begun: Begun) -> str:
        value = getattr(said, name)
        return "" if value is None else format_quantity(float(value), unit)

    return words


def _name(text: str, _cells: Mapping[str, CellType]) -> dict[str, Any]:
    return {"name": text}


def _battery(text: str, _cells: Mapping[str, CellType]) -> dict[str, Any]:
    return {"battery": read_description(text) if text.strip() else None}


def _onto(text: str, cells: Mapping[str, CellType]) -> dict[str, Any]:
    """A cell type of the workspace by its name, or a description."""
    plain = text.strip().lower()
    if not plain:
        return {"onto": None, "onto_cell_id": ""}
    named = next((key for key, cell in cells.items() if cell.name.lower() == plain), "")
    if named:
        return {"onto": None, "onto_cell_id": named}
    return {"onto": read_description(text), "onto_cell_id": ""}


def _onto_words(said: Beginning, begun: Begun) -> str:
    if said.onto_cell_id:
        return next((cell.name for cell in begun.known if cell.id == said.onto_cell_id), "")
    return "" if said.onto is None else said.onto.words


def _mm(value: float) -> str:
    return format_quantity(value, unit_of_field("diameter_mm"))


def _span(begun: Begun) -> str:
    return "" if begun.craft.wing is None else _mm(begun.craft.wing.span_mm)


NAME = TypedGap("name", "Name of the craft", _name, lambda said, _: said.name, lambda begun: begun.craft.name)
COUNT = TypedGap(
    "rotor_count", "Number of propellers", _quantity("rotor_count", whole=True), _told("rotor_count"),
    lambda begun: str(begun.craft.rotors.count), "A plain number; eight in pairs are 8.",
)  # fmt: skip
PROPELLER = TypedGap(
    "propeller_mm", "Propeller diameter", _quantity("propeller_mm"), _told("propeller_mm"),
    lambda begun: _mm(begun.craft.rotors.diameter_mm), "Any unit: 127 mm or 5 in.",
)  # fmt: skip
SPAN = TypedGap("span_mm", "Wing span", _quantity("span_mm"), _told("span_mm"), _span, "Any unit: 2.4 m or 95 in.")
MASS = TypedGap(
    "mass_g", "Mass of the craft", _quantity("mass_g"), _told("mass_g"),
    lambda begun: format_grams(begun.craft.dry_mass_g), "Any unit: 330 g, 5 kg or 12 oz.",
)  # fmt: skip
BATTERY = TypedGap(
    "battery", "Battery flown now", _battery, lambda said, _: "" if said.battery is None else said.battery.words,
    lambda _: "4S 850 mAh polymer", "Such as 4S 850 mAh polymer, 95 g, or 4S 2P of 21700, 4200 mAh.",
)  # fmt: skip
FLOWN = TypedGap(
    "flown_min", "Minutes it flies now", _quantity("flown_min"), _told("flown_min"), lambda _: "8 min",
    "A whole flight, from full to landing.",
)  # fmt: skip
CHARGE = TypedGap(
    "charge_mah", "Charge put back", _quantity("charge_mah"), _told("charge_mah"), lambda _: "700 mAh",
    "What the charger gave back after such a flight. Without it four fifths of the battery are taken: a guess.",
)  # fmt: skip
ONTO = TypedGap(
    "onto", "Battery wanted", _onto, _onto_words, lambda begun: _first_pack(begun),
    "A cell of this workspace, or such as 21700 4200 mAh 45 A; 6S 1300 mAh polymer.",
)  # fmt: skip


def _first_pack(begun: Begun) -> str:
    pack = begun.complete.pack
    return pack.cell.name


CARRIED = ChosenGap(
    "carried", "What carries it",
    lambda said, _: (("by rotors", Carried.ROTORS), ("by a wing", Carried.WING))
    if not said.winged
    else (("by a wing", Carried.WING), ("by rotors", Carried.ROTORS)),
)  # fmt: skip
ARRANGED = ChosenGap(
    "arranged", "How the rotors stand",
    lambda *_: ((str(Arranged.SINGLE), None), (str(Arranged.COAXIAL), Arranged.COAXIAL),
                (str(Arranged.DUCTED), Arranged.DUCTED)),
)  # fmt: skip
WITH_BATTERY = ChosenGap(
    "with_battery", "Weighed with or without battery", lambda *_: (("without battery", False), ("with battery", True))
)


def _purposes(said: Beginning, begun: Begun) -> tuple[tuple[str, Any], ...]:
    usual = begun.purpose
    others = tuple((str(one), one) for one in offered(said))
    return ((f"{usual}, as usual", None), *others)


PURPOSE = ChosenGap("purpose", "What it is for", _purposes)

Gap = TypedGap | ChosenGap
SENTENCE: tuple[tuple[tuple[str, str | Gap], ...], ...] = (
    (("all", "My craft"), ("all", NAME), ("all", "is carried"), ("all", CARRIED),
     ("wing", "of"), ("wing", SPAN), ("wing", "with"), ("wing", COUNT), ("wing", "propeller of"),
     ("rotors", "with"), ("rotors", COUNT), ("rotors", "propellers of"), ("all", PROPELLER), ("rotors", ARRANGED)),
    (("all", "and weighs"), ("all", MASS), ("all", WITH_BATTERY)),
    (("all", "It flies"), ("all", FLOWN), ("all", "on"), ("all", BATTERY), ("all", "and then takes"), ("all", CHARGE),
     ("all", "back")),
    (("all", "It is for"), ("all", PURPOSE), ("all", "and I want it to fly on"), ("all", ONTO)),
)  # fmt: skip
"""Words and gaps, line by line, and with which craft they are said."""
PATH_GAPS = (
    ("craft.rotors.count", "rotor_count"), ("craft.rotors", "propeller_mm"), ("craft.wing", "span_mm"),
    ("craft.known_flights", "flown_min"), ("craft.motor", "propeller_mm"), ("craft.esc", "propeller_mm"),
    ("craft", "mass_g"), ("known_flights", "flown_min"), ("mission", "purpose"), ("design.mission_id", "purpose"),
    ("design.landing", "purpose"), ("cells", "onto"), ("design", "onto"),
)  # fmt: skip
"""Which gap stands for a field of the design, the first that holds it."""


def gap_of(path: str) -> str:
    """Name of the gap that stands for a field; a gap's own name stands for itself."""
    return next((gap for prefix, gap in PATH_GAPS if path == prefix or path.startswith(prefix + ".")), path)
