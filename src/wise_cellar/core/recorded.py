"""A recording as a table: seconds and a column a channel, each with its unit in the heading; before them, in lines
that begin with #, what else is known of it."""

from __future__ import annotations

import csv
import json
import math
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from wise_cellar.core.curves.columns import MOST_FIGURE
from wise_cellar.core.documents import DocumentError, RecordedChannel, Recording
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import counted, format_significant
from wise_cellar.core.words import one_line, quoted

TIME = "time_s"
KNOWN = (
    "name", "kind", "device", "begun_at", "amps", "least_v", "series_count", "parallel_count", "returned_mah", "ended",
    "steps",
)  # fmt: skip
"""Of the recording, a line each where it is told."""
STEPS = "steps"
"""The one of them that is more than a word: JSON."""
IN_HEADINGS = {"mΩ": "mohm", "°C": "C", "%": "percent"}
"""Units as they stand in a heading: letters that every program reads."""
_UNITS = {written: unit for unit, written in IN_HEADINGS.items()}


def heading(channels: Sequence[RecordedChannel]) -> str:
    """The line over the columns."""
    names = [f"{channel.quantity}_{IN_HEADINGS.get(channel.unit, channel.unit)}" for channel in channels]
    return ",".join([TIME, *names])


def row_text(row: Iterable[float]) -> str:
    """One row, in as many digits as it has; what is not a number is left empty."""
    return ",".join("" if math.isnan(value) else repr(float(value)) for value in row)


def recording_to_csv(recording: Recording, rows: Floats) -> str:
    """All of a recording as text; ``rows`` are (rows, 1 + channels), seconds first."""
    data = recording.model_dump(mode="json")
    data[STEPS] = json.dumps([step.model_dump(mode="json", exclude_defaults=True) for step in recording.steps])
    known = [f"# {name}: {data[name]}" for name in KNOWN if data[name] is not None]
    return "\n".join([*known, heading(recording.channels), *map(row_text, rows.tolist())]) + "\n"


def recording_from_csv(text: str, given: dict[str, Any], needed: Sequence[str] = ()) -> tuple[Recording, Floats]:
    """A recording and its rows; ``given`` is what stands in no such table, and what holds where it does not say it,
    ``needed`` are quantities that it has to tell.

    Raises :class:`DocumentError` with the line where it is no such table.
    """
    lines = text.removeprefix("\ufeff").splitlines()
    known: dict[str, Any] = {}
    at = 0
    while at < len(lines) and (lines[at].startswith("#") or not lines[at].strip()):
        name, _, value = lines[at].lstrip("# ").partition(": ")
        if name in KNOWN and value.strip():
            known[name] = _steps(value) if name == STEPS else value.strip()
        at += 1
    channels = _channels(lines[at] if at < len(lines) else "")
    missing = [name for name in needed if name not in {channel.quantity for channel in channels}]
    if missing:
        raise DocumentError(f"it tells no {' and no '.join(missing)}; {' and '.join(needed)} are wanted.")
    rows = _rows(lines[at + 1 :], at + 2, len(channels))
    asked = _usual(channels, rows)
    data = {**given, **asked, **known, "channels": [channel.model_dump() for channel in channels]}
    return Recording.from_data(data), rows


def _steps(text: str) -> Any:
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as error:
        raise DocumentError(f"its schedule {quoted(one_line(text, 40))} cannot be read.") from error


def _usual(channels: list[RecordedChannel], rows: Floats) -> dict[str, float]:
    """The current that was asked for, where only what flowed tells it."""
    place = next((place for place, channel in enumerate(channels, 1) if channel.quantity == "amps"), None)
    return {} if place is None or np.isnan(rows[:, place]).all() else {"amps": float(np.nanmedian(rows[:, place]))}


def _channels(line: str) -> list[RecordedChannel]:
    names = [name.strip() for name in line.split(",")]
    if names[0] != TIME or len(names) < 2:
        raise DocumentError(
            f"its columns are {quoted(one_line(line, 60))}; a recording has {TIME} first, and then such as volts_V."
        )
    found = []
    for name in names[1:]:
        quantity, _, unit = name.rpartition("_")
        if not quantity or not unit:
            raise DocumentError(f"the column {quoted(name)} tells no unit, as volts_V does.")
        found.append(RecordedChannel(quantity=quantity, unit=_UNITS.get(unit, unit)))
    return found


def _rows(lines: list[str], first: int, channels: int) -> Floats:
    found, before = GrowingRows(1 + channels), -math.inf
    for number, cells in enumerate(csv.reader(lines), first):
        if not cells:
            continue
        if len(cells) != 1 + channels:
            raise DocumentError(f"line {number} holds {counted(len(cells), 'figure')} where {1 + channels} are wanted.")
        row = []
        for cell in cells:
            try:
                row.append(_figure(cell))
            except ValueError as error:
                raise DocumentError(f"line {number}: {quoted(one_line(cell, 40))} is not a number.") from error
        if not row[0] >= before:
            back = f"from {format_significant(before)} s to {format_significant(row[0])} s"
            raise DocumentError(f"line {number}: its clock goes back, {back}.")
        before = row[0]
        found.append(row)
    if not len(found):
        raise DocumentError("it holds no readings.")
    return np.array(found.rows)


def _figure(cell: str) -> float:
    """Not a number where it is empty; raises ``ValueError`` for what is no finite number."""
    if not cell.strip():
        return math.nan
    value = float(cell)
    if not abs(value) <= MOST_FIGURE:
        raise ValueError
    return value
