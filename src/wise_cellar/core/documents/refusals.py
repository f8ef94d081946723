"""Why a document was refused, in one sentence: what, where, what would be right. All such words are made here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import BaseModel, ValidationError

from wise_cellar.core.documents.outside import DocumentError
from wise_cellar.core.units import format_quantity, format_significant
from wise_cellar.core.words import one_line, quoted, upper_first

_BOUNDS = {
    "greater_than": "more than", "greater_than_equal": "at least", "less_than": "less than",
    "less_than_equal": "at most",
}  # fmt: skip
_WANTED = {
    "float_parsing": "a number",
    "float_type": "a number",
    "int_parsing": "a whole number",
    "int_parsing_size": "a whole number",
    "int_type": "a whole number",
    "int_from_float": "a whole number",
    "finite_number": "a finite number",
    "string_type": "text",
    "string_too_short": "some text",
    "string_unicode": "text of whole letters",
    "bool_parsing": "true or false",
    "bool_type": "true or false",
    "model_type": "an object with named fields",
    "model_attributes_type": "an object with named fields",
    "tuple_type": "a list",
    "date_from_datetime_parsing": "a date such as 2026-03-14",
    "date_from_datetime_inexact": "a date such as 2026-03-14",
    "date_parsing": "a date such as 2026-03-14",
    "date_type": "a date such as 2026-03-14",
    **dict.fromkeys(
        ("datetime_type", "datetime_parsing", "datetime_from_date_parsing", "datetime_object_invalid"),
        "a day and a time such as 2026-03-14T09:30",
    ),
}
_FIRST_UNSAID = ("packs", "cells")
"""Lists whose first entry is the one that is meant where none is named."""
_TOO_LONG, _TOO_SHORT = ("too_long", "string_too_long"), ("too_short",)


def refusal(model: type[BaseModel], error: ValidationError, field_info: Callable[..., Any]) -> DocumentError:
    """Sentence for the first fault of a validation of ``model``."""
    first = error.errors(include_url=False)[0]
    places = [str(part) for part in first["loc"]]
    path = ".".join(places)
    return DocumentError(one_line(_sentence(model, first, places, field_info)), path)


def _sentence(model: type[BaseModel], first: Any, places: list[str], field_info: Callable[..., Any]) -> str:
    try:
        info = field_info(model, ".".join(places))
    except (KeyError, AttributeError, IndexError, TypeError):
        info = None
    kind, context, given = first["type"], first.get("ctx", {}), first.get("input")
    if kind == "value_error":
        return str(context.get("error", first["msg"]))
    if kind == "extra_forbidden":
        holder = _holder(model, places[:-1], field_info)
        return f"{quoted(places[-1])} is not a field of {holder}; remove it or correct its name."
    title = info.title if info else (quoted(places[-1]) if places else _spoken(model))
    where = f"{upper_first(title)}{_of_row(model, places[:-1], field_info)}"
    if kind == "missing":
        return f"{where} is missing from {_holder(model, places[:-1], field_info)}."
    if kind in _BOUNDS:
        limit = next(iter(context.values()))
        told = format_quantity(float(limit), info.unit) if info else format_significant(limit)
        return f"{where} must be {_BOUNDS[kind]} {told}; {_number(given, info)} is not."
    if kind in ("enum", "literal_error"):
        return f"{where} must be {one_line(str(context['expected']), 160)}; {quoted(given)} is not."
    if kind in _TOO_LONG:
        longest = context.get("max_length")
        return f"{where} may hold at most {longest}; {context.get('actual_length', 'more')} are too many."
    if kind in _TOO_SHORT:
        return f"{where} must hold at least {context.get('min_length')}; there are {context.get('actual_length', 0)}."
    return f"{where} must be {_WANTED.get(kind, one_line(first['msg'].lower(), 80))}; {quoted(given)} is not."


def _number(given: Any, info: Any) -> str:
    """A number as it is shown, or as it was given where it is none."""
    try:
        value = float(given)
    except (TypeError, ValueError, OverflowError):
        return quoted(given)
    return format_quantity(value, info.unit) if info and abs(value) < 1e12 else format_significant(value)


def _of_row(model: type[BaseModel], places: list[str], field_info: Callable[..., Any]) -> str:
    """ " (parts, row 3)" where the field stands in a list; fields of their own say where they are by their titles."""
    number = next((n for n in range(len(places) - 1, -1, -1) if places[n].isdigit()), None)
    if number is None or (places[number] == "0" and places[number - 1] in _FIRST_UNSAID):
        return ""
    try:
        title = field_info(model, ".".join(places[:number])).title
    except (KeyError, AttributeError, IndexError, TypeError):
        title = places[number - 1] if number else "list"
    return f" ({title}, row {int(places[number]) + 1})"


def _holder(model: type[BaseModel], places: list[str], field_info: Callable[..., Any]) -> str:
    """What a field is missing from: "a cell type", or "the leads of a design"."""
    whole = f"a {_spoken(model)}"
    named = [place for place in places if not place.isdigit()]
    return f"{quoted(named[-1])} of {whole}" if named else whole


def _spoken(model: type[BaseModel]) -> str:
    return "".join(f" {c.lower()}" if c.isupper() else c for c in model.__name__).strip()
