"""Tables of figures as text: any separator, decimal comma or point, lines of other text before the header."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import split_lines
from wise_cellar.store.reading import check_name, readable, told

LINES_ENOUGH = 120
"""Lines from which the layout of a table is told."""
SNIFFED_BYTES = 65_536
NUMBER = re.compile(r"^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$|^nan$", re.IGNORECASE)
LONGEST_FIELD = 400
"""Of a name or a figure; what is longer is none."""
MOST_COLUMNS = 400
"""Of a table; a line of more fields is none of its rows."""
_CLOCK = re.compile(r"^\d+:\d{1,2}(:\d{1,2}(\.\d+)?)?$")
_DELIMITERS = (";", "\t", ",", "|", " ")


@dataclass(frozen=True)
class TextTable:
    """How a file is laid out, and its beginning."""

    encoding: str
    delimiter: str
    decimal: str
    first_line: int
    """Line of the first figures, counted from 1."""
    names: tuple[str, ...]
    """Of the columns; empty where nothing stands above the figures."""
    rows: tuple[tuple[str, ...], ...]
    """The first rows of figures, as text."""
    whole: bool
    """Whether these are all rows."""


def look_at_text(path: Path, wanted: str, needs: str) -> TextTable:
    """Layout of a table, told from its beginning.

    ``wanted`` is what the file ought to be, ``needs`` what such a table holds, for the sentence of a
    :class:`DocumentError`.
    """
    check_name(path)
    with readable(path, wanted):
        size = path.stat().st_size
        with path.open("rb") as file:
            start = file.read(SNIFFED_BYTES)
    name = told(path.name)
    if not start.strip():
        raise DocumentError(f"{name} is empty; {needs}.")
    encoding = _encoding(path, start, wanted)
    lines = split_lines(start.decode(encoding, errors="ignore"))
    if size > SNIFFED_BYTES:
        lines = lines[:-1]
    delimiter, decimal, first = _layout(path, lines, needs)
    rows = [split_line(line, delimiter) for line in lines[first:] if line.strip()]
    width = len(rows[0])
    names = [name[:LONGEST_FIELD] for name in _names(lines[:first], delimiter, width)]
    texts = tuple(tuple(row[:width]) for row in rows)
    return TextTable(encoding, delimiter, decimal, first + 1, tuple(names), texts, size <= SNIFFED_BYTES)


def _encoding(path: Path, start: bytes, wanted: str) -> str:
    if start.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16"
    if b"\x00" in start:
        raise DocumentError(f"{told(path.name)} is not text; {wanted} must be a table such as CSV.")
    try:
        # The last character may be cut in two.
        start[:-4].decode("utf-8-sig")
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8-sig"


def _layout(path: Path, lines: Sequence[str], needs: str) -> tuple[str, str, int]:
    """Delimiter, decimal mark, and place of the first line of figures; a few lines tell, unless they are all words."""
    best = _best_layout(lines[:LINES_ENOUGH]) or _best_layout(lines)
    if best is not None:
        return best
    if any(figure_fields([line.strip()], ".") or figure_fields([line.strip()], ",") for line in lines):
        raise DocumentError(f"{told(path.name)} has one column; {needs}.")
    raise DocumentError(f"{told(path.name)} has no rows of figures; {needs}.")


def _best_layout(lines: Sequence[str]) -> tuple[str, str, int] | None:
    """The layout that most figures stand in; none where no line has two."""
    best: tuple[int, str, str, int] | None = None
    for delimiter in _DELIMITERS:
        for decimal in (".", ","):
            if decimal == delimiter:
                continue
            good = [figure_fields(split_line(line, delimiter), decimal) for line in lines]
            # Of the widths, the one that most lines have: a stray line may have more fields.
            counts = Counter(good)
            width = max(counts, key=lambda w: w * counts[w], default=0)
            if width < 2:
                continue
            matching = [place for place, fields in enumerate(good) if fields == width]
            score = sum(_figures_in(split_line(lines[place], delimiter), decimal) for place in matching)
            if best is None or score > best[0]:
                best = (score, delimiter, decimal, matching[0])
    return best[1:] if best is not None else None


def _figures_in(fields: Sequence[str], decimal: str) -> int:
    """How many of the fields are figures."""
    plain = [field.replace(decimal, ".") for field in fields]
    return sum(len(field) <= LONGEST_FIELD and bool(NUMBER.match(field) or _CLOCK.match(field)) for field in plain)


def figure_fields(fields: Sequence[str], decimal: str) -> int:
    """How many fields a line has where at least half of them, and two if it has two, are figures; else 0."""
    if len(fields) > MOST_COLUMNS:
        return 0
    figures = _figures_in(fields, decimal)
    return len(fields) if figures >= min(2, len(fields)) and figures >= 0.5 * len(fields) else 0


def split_line(line: str, delimiter: str) -> list[str]:
    """Fields of a line, without quotes and without empty ones at its end."""
    fields = line.split() if delimiter == " " else line.rstrip("\r\n").split(delimiter)
    fields = [field.strip().strip('"').strip() for field in fields]
    while len(fields) > 1 and not fields[-1]:
        fields.pop()
    return fields


def _names(lines: Sequence[str], delimiter: str, width: int) -> list[str]:
    """Names of the columns from the line above the figures; a line of units under the names is joined to it."""
    above = [split_line(line.lstrip("#"), delimiter) for line in lines if line.strip()][-2:]
    above = [fields for fields in above if len(fields) == width]
    if not above:
        return [""] * width
    if len(above) == 2 and all(len(unit.strip("[]()")) <= 5 for unit in above[1]):
        return [f"{name} [{unit.strip('[]()')}]" for name, unit in zip(*above, strict=True)]
    return above[-1]
