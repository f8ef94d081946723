"""A schedule as it is typed: ``10 A 60 s; 8 x (25 A 10 s; rest 30 s); 120 W 2 min``."""

from __future__ import annotations

import re
from collections.abc import Sequence

from wise_cellar.core.documents import DocumentError, RunStep
from wise_cellar.core.documents.recording import MOST_STEPS
from wise_cellar.core.units import (
    QuantityError,
    entry_text,
    parse_typed,
    unit_of_field,
)
from wise_cellar.core.words import quoted

EXAMPLE = "10 A 60 s; rest 2 min; 8 x (120 W 10 s; 5 A 30 s)"
MOST_DEEP = 4
AMPS, WATTS, SECONDS = (unit_of_field(name) for name in ("current_a", "power_w", "duration_s"))
PERCENT = unit_of_field("throttle_percent")
_REPEAT = re.compile(r"^(\d{1,4})\s*[x×]\s*\((.*)\)$", re.IGNORECASE | re.DOTALL)
_REST = re.compile(r"^(?:rest|pause)\s+(?:for\s+)?(.+)$", re.IGNORECASE)
_HELD = re.compile(
    r"^(?P<held>[^A-Za-z%]+?\s*(?P<unit>mA|A|amps?|mW|kW|W|%|percent))\s+(?:for\s+)?(?P<lasts>.+)$", re.IGNORECASE
)


def steps_from_text(text: str) -> tuple[RunStep, ...]:
    """The steps of a typed schedule; raises :class:`DocumentError` with a sentence where it is none."""
    steps = _steps(text.strip().removesuffix(";"), 0)
    if not steps:
        raise DocumentError(f"A schedule has at least one step; write {EXAMPLE}.")
    return tuple(steps)


def steps_text(steps: Sequence[RunStep]) -> str:
    """The text that :func:`steps_from_text` reads."""
    return "; ".join(_step_text(step) for step in steps)


def _step_text(step: RunStep) -> str:
    lasts = f"{entry_text(step.seconds, SECONDS)} s"
    if step.amps is not None:
        return f"{entry_text(step.amps, AMPS)} A {lasts}"
    if step.watts is not None:
        return f"{entry_text(step.watts, WATTS)} W {lasts}"
    if step.throttle_percent is not None:
        return f"{entry_text(step.throttle_percent, PERCENT)} % {lasts}"
    return f"rest {lasts}"


def _steps(text: str, depth: int) -> list[RunStep]:
    if depth > MOST_DEEP:
        raise DocumentError("Brackets stand in brackets more than four deep; write the schedule flatter.")
    found: list[RunStep] = []
    for piece in _pieces(text):
        repeat = _REPEAT.match(piece)
        if repeat is None:
            found.append(_step(piece))
        else:
            inside, times = _steps(repeat[2], depth + 1), int(repeat[1])
            if len(inside) * times > MOST_STEPS:
                raise DocumentError(f"{quoted(piece)} is more than {MOST_STEPS} steps.")
            found += inside * times
        if len(found) > MOST_STEPS:
            raise DocumentError(f"A schedule has up to {MOST_STEPS} steps; this one has more.")
    return found


def _pieces(text: str) -> list[str]:
    """What stands between semicolons or on lines of its own, brackets whole."""
    found, depth, piece = [], 0, ""
    for letter in text:
        depth += (letter == "(") - (letter == ")")
        if depth < 0:
            break
        if letter in ";\n" and depth == 0:
            found.append(piece)
            piece = ""
        else:
            piece += letter
    if depth:
        raise DocumentError(f"A bracket of {quoted(text)} has no other; write {EXAMPLE}.")
    return [one.strip() for one in (*found, piece) if one.strip()]


def _step(text: str) -> RunStep:
    rest, held = _REST.match(text), _HELD.match(text)
    try:
        if rest is not None:
            return RunStep.from_data({"seconds": parse_typed(rest[1], SECONDS)})
        if held is None:
            raise DocumentError(f"{quoted(text)} is no step: a current, a power or a throttle, and how long. {EXAMPLE}")
        unit = held["unit"].lower()
        name, of = (
            ("throttle_percent", PERCENT) if unit in ("%", "percent")
            else ("watts", WATTS) if unit.endswith("w") else ("amps", AMPS)
        )  # fmt: skip
        return RunStep.from_data({name: parse_typed(held["held"], of), "seconds": parse_typed(held["lasts"], SECONDS)})
    except QuantityError as error:
        raise DocumentError(f"{quoted(text)}: {error}") from error
