"""JSON from outside as plain data: the one door for it, with limits on size, depth and numbers."""

from __future__ import annotations

import json
import math
from typing import Any, NoReturn

from wise_cellar.core.units import format_number
from wise_cellar.core.words import lower_first, quoted

LARGEST_LETTERS = 20_000_000
"""The longest document that a workspace may hold: a chart of 40 curves with 5 000 points each has half of it."""
DEEPEST = 40
MOST_DIGITS = 18


class DocumentError(ValueError):
    """A document or a change to one is refused. ``path`` names the field; the message is one sentence."""

    def __init__(self, message: str, path: str = "") -> None:
        super().__init__(message)
        self.path = path


def plain_data(text: str) -> Any:
    """What a JSON text holds, as dicts, lists, text and finite numbers.

    Raises :class:`DocumentError` with one sentence for what is no JSON, too long, too deeply nested, or holds numbers
    or text that nothing could be done with.
    """
    if len(text) > LARGEST_LETTERS:
        raise DocumentError(
            f"This JSON has {format_number(len(text) / 1e6, 0)} million letters; at most 20 million are read."
        )
    too_deep = DocumentError(f"This JSON is nested more than {DEEPEST} deep, which no document of ours is.")
    try:
        data = json.loads(text, parse_int=_whole, parse_float=_finite, parse_constant=_no_number)
    except json.JSONDecodeError as error:
        said = lower_first(error.msg)
        raise DocumentError(f"This is not JSON: {said} at line {error.lineno}, column {error.colno}.") from error
    except RecursionError as error:
        raise too_deep from error
    if _depth(data) > DEEPEST:
        raise too_deep
    return data


def _whole(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        _no_number(digits)
    return int(digits)


def _finite(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        _no_number(text)
    return value


def _no_number(text: str) -> NoReturn:
    raise DocumentError(f"{quoted(text)} in this JSON is no number that means anything here; correct it.")


def _depth(data: Any) -> int:
    """How deep it is nested, found level by level: a call a level would itself run out of calls."""
    depth, level = 0, [data]
    while level and depth <= DEEPEST:
        depth += 1
        level = [
            inner
            for outer in level
            if isinstance(outer, dict | list)
            for inner in (outer.values() if isinstance(outer, dict) else outer)
            if isinstance(inner, dict | list)
        ]
    return depth
