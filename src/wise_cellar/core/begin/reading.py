"""Reading what people write of a cell or a battery: "4S 850 mAh polymer, 95 g", "a 21700 of 4 200 mAh, 45 A"."""

from __future__ import annotations

import re
from typing import Any

from wise_cellar.core.begin.description import STANDARD_SIZES, Chemistry, Description
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import LONGEST_TYPED, QuantityError, parse_quantity, unit_of_field
from wise_cellar.core.words import quoted

EXAMPLE = "4S 850 mAh polymer, 95 g, or 4S 2P of 21700, 4200 mAh"
_NUMBER = r"\d{1,3}(?:[ \u00a0\u202f\u2009]\d{3})+(?!\d)|\d+(?:[.,]\d+)?"
_TOKEN = re.compile(
    rf"(?P<series>\d+) ?s(?![a-zω])|(?P<parallel>\d+) ?p(?![a-zω])"
    rf"|(?P<size>{'|'.join(STANDARD_SIZES)})(?!\d)(?! ?(?:mah|ah|g|kg|oz|a|ma|m?ohm|mω|ω)\b)s?"
    rf"|(?P<number>{_NUMBER}) ?(?P<unit>[a-zω°]+)?|(?P<word>[a-zω-]+)|(?P<other>\S)",
    re.IGNORECASE,
)
_FIELDS = ("capacity_mah", "mass_g", "current_a", "resistance_mohm")
_CHEMISTRY = {
    "polymer": Chemistry.POLYMER, "lipo": Chemistry.POLYMER, "pouch": Chemistry.POLYMER, "pouches": Chemistry.POLYMER,
    "hv": Chemistry.HIGH_VOLTAGE_POLYMER, "lihv": Chemistry.HIGH_VOLTAGE_POLYMER,
    "high-voltage": Chemistry.HIGH_VOLTAGE_POLYMER, "highvoltage": Chemistry.HIGH_VOLTAGE_POLYMER,
    "lfp": Chemistry.IRON_PHOSPHATE, "phosphate": Chemistry.IRON_PHOSPHATE, "lifepo": Chemistry.IRON_PHOSPHATE,
    "energy": Chemistry.ENERGY, "power": Chemistry.POWER, "li-ion": Chemistry.POWER, "liion": Chemistry.POWER,
    "lithium-ion": Chemistry.POWER, "ion": Chemistry.POWER, "cylinder": Chemistry.POWER, "cylinders": Chemistry.POWER,
    "cylindrical": Chemistry.POWER,
}  # fmt: skip
_FINER = (Chemistry.HIGH_VOLTAGE_POLYMER, Chemistry.IRON_PHOSPHATE, Chemistry.ENERGY)
"""Those that hold where a wider word stands beside them: "high-voltage polymer", "lithium-ion energy cells"."""
LEAST_BARE_MAH = 200.0
"""A number without a unit is a capacity from here on; a smaller one would be grams or amps just as well."""
_SILENT = frozenset({
    "a", "an", "the", "of", "in", "and", "with", "for", "at", "good", "about", "some", "one", "two", "pack", "packs",
    "battery", "batteries", "cell", "cells", "bought", "whole", "lithium", "iron", "high", "voltage", "x", "each",
    "weighs", "weighing", "is", "are", "it", "its", "my", "on", "to",
})  # fmt: skip


def read_description(text: str) -> Description:
    """What was said of a cell or a battery; raises :class:`DocumentError` with a sentence on what was not understood.

    A number is known by its unit; "4S" and "2P" are counts, "75C" a C-rating, five digits of a standard the size of a
    cylinder. A bare number from 200 on is a capacity in mAh.
    """
    if len(text) > LONGEST_TYPED:
        raise DocumentError(f"{quoted(text)} is too long to be a battery; write {EXAMPLE}.")
    found: dict[str, Any] = {}
    for match in _TOKEN.finditer(text.replace("²", "")):
        _take(match, found)
    if "high voltage" in text.lower():
        found["chemistry"] = Chemistry.HIGH_VOLTAGE_POLYMER
    if not found:
        raise DocumentError(f"{quoted(text.strip())} names no battery; write {EXAMPLE}.")
    return Description.from_data(found)


def _take(match: re.Match[str], found: dict[str, Any]) -> None:
    if match["series"]:
        _once(found, "series_count", int(match["series"]), match[0])
    elif match["parallel"]:
        _once(found, "parallel_count", int(match["parallel"]), match[0])
    elif match["size"]:
        _once(found, "size", match["size"], match[0])
    elif match["number"]:
        name, value = _quantity(match["number"], match["unit"] or "")
        _once(found, name, value, match[0])
    elif match["word"]:
        _word(match["word"].lower(), found)
    elif match["other"] not in ",.;:×*()/+–—-“”\"'":
        raise DocumentError(f"{quoted(match['other'])} is not understood here; write {EXAMPLE}.")


def _word(word: str, found: dict[str, Any]) -> None:
    chemistry = _CHEMISTRY.get(word)
    if chemistry is not None:
        if found.get("chemistry") not in _FINER:
            found["chemistry"] = chemistry
    elif word not in _SILENT:
        raise DocumentError(f"{quoted(word)} is not understood here; write {EXAMPLE}.")


def _quantity(number: str, unit: str) -> tuple[str, float]:
    """The field that a number belongs to by its unit, and its value in that field's unit."""
    if unit.lower() == "c":
        return "c_rating", float(number.replace(",", "."))
    for name in _FIELDS:
        of_field = unit_of_field(name)
        if unit.lower() in of_field.accepts:
            try:
                return name, parse_quantity(f"{number} {unit}", of_field)
            except QuantityError as error:
                raise DocumentError(str(error)) from error
    plain = re.sub(r"\s", "", number).replace(",", ".")
    if not unit and float(plain) >= LEAST_BARE_MAH:
        return "capacity_mah", float(plain)
    raise DocumentError(
        f"{quoted(f'{number} {unit}'.strip())} is not understood here: give it a unit (mAh, g, A, mΩ), or write"
        f" {EXAMPLE}."
    )


def _once(found: dict[str, Any], name: str, value: Any, said: str) -> None:
    if name in found and found[name] != value:
        raise DocumentError(f"{quoted(said.strip())} is the second of its kind here; leave one of them out.")
    found[name] = value
