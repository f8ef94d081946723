"""Documents as rows of a table: a column a field, units in the column names. What every such table has in common."""

from __future__ import annotations

import csv
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Any, Generic, TypeVar

from wise_cellar.core.csv_text import unguarded
from wise_cellar.core.documents.base import FieldInfo
from wise_cellar.core.documents.outside import DocumentError
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.units import QuantityError, parse_quantity
from wise_cellar.core.words import quoted, split_lines

MOST_COLUMNS, MOST_REFUSALS = 200, 200
_POINT_COMMA = re.compile(r"[+-]?(?:0|\d+),(?!\d{3}\Z)\d+")
_YES, _NO = ("yes", "true", "1", "x"), ("no", "false", "0", "")

Row = TypeVar("Row")


@dataclass(frozen=True)
class TableKind:
    """What a table of a kind is called, its columns, and those without which it is none."""

    name: str
    columns: tuple[str, ...]
    needed: str
    least_known: int
    example: str
    """Columns that it could have, in words."""


@dataclass(frozen=True)
class ReadRows(Generic[Row]):
    """What a table held: the rows that are right, and a sentence for every row or column that is not."""

    rows: tuple[Row, ...]
    refusals: tuple[str, ...]


def read_rows(
    kind: TableKind, text: str, make: Callable[[Mapping[str, str], bool, list[str]], Row], key: Callable[[Row], str],
    name: Callable[[Row], str],
) -> ReadRows[Row]:  # fmt: skip
    """Rows of a table with a header of column names; separators ``,``, ``;`` and tab, decimal comma or point.

    ``make`` makes one of its texts by column, whether a comma is the decimal mark, and a list for what was mended. A
    row that is wrong is refused with its line and column, and the rest is taken. Raises :class:`DocumentError` when the
    text is no such table at all.
    """
    lines = split_lines(text.lstrip("\ufeff").replace("\x00", ""))
    first = next((line for line in lines if line.strip()), "")
    delimiter = max(",;\t", key=first.count)
    numbered = _numbered(lines, delimiter)
    if not numbered:
        raise DocumentError(f"This table is empty; its first line must name columns such as {kind.example}.")
    header = [field.strip().lower() for field in numbered[0][1]]
    if len(header) > MOST_COLUMNS:
        raise DocumentError(
            f"Line {numbered[0][0]} names {len(header)} columns; a table of {kind.name}s has at most {MOST_COLUMNS}."
        )
    known = [column for column in header if column in kind.columns]
    if kind.needed not in known or len(known) < kind.least_known:
        raise DocumentError(
            f"This is no table of {kind.name}s: its first line must name columns such as {kind.example}."
        )
    refusals = [
        f"Line {numbered[0][0]}: {quoted(column)} is no column of a table of {kind.name}s and was left aside."
        for column in header
        if column and column not in kind.columns
    ]
    doubled = {column for column in known if known.count(column) > 1}
    if doubled:
        raise DocumentError(f"Line {numbered[0][0]}: column {sorted(doubled)[0]} is there twice; each may stand once.")
    comma = delimiter != "," and _decimal_comma(row for _, row in numbered[1:])
    found: list[Row] = []
    lines_of: dict[str, int] = {}
    for number, row in numbered[1:]:
        if len(refusals) >= MOST_REFUSALS:
            refusals.append(f"Line {number} and all after it were left out: too much of this table is wrong.")
            break
        mended: list[str] = []
        try:
            if len(row) > len(header):
                raise DocumentError(f"there are {len(row)} values for {len(header)} columns.")
            one = make(dict(zip(header, row, strict=False)), comma, mended)
            if key(one) in lines_of:
                raise DocumentError(
                    f"{quoted(name(one))} stands in line {lines_of[key(one)]} already; give one of the two another"
                    f" {kind.needed}."
                )
        except DocumentError as error:
            where = f", {error.path}" if error.path else ""
            refusals.append(f"Line {number}{where}: {error}")
            continue
        refusals += [f"Line {number}: {sentence}" for sentence in mended]
        lines_of[key(one)] = number
        found.append(one)
    return ReadRows(tuple(found), tuple(refusals))


def _numbered(lines: Sequence[str], delimiter: str) -> list[tuple[int, list[str]]]:
    """Fields of every row that has any, each with its line. A quoted field may go over lines."""
    reader = csv.reader((line + "\n" for line in lines), delimiter=delimiter)
    found: list[tuple[int, list[str]]] = []
    try:
        before = 0
        for row in reader:
            if any(field.strip() for field in row):
                found.append((before + 1, [unguarded(field) for field in row]))
            before = reader.line_num
    except csv.Error as error:
        raise DocumentError(f"This table cannot be read: {error}, line {reader.line_num}.") from error
    return found


def _decimal_comma(rows: Iterable[Sequence[str]]) -> bool:
    """Whether commas stand for the decimal point: some number has one that parts no thousands."""
    return any(len(field) < 40 and _POINT_COMMA.fullmatch(field.strip()) for row in rows for field in row)


def value_of(info: FieldInfo, name: str, text: str, *, comma: bool) -> Any:
    """A plain value of a field from its text; raises :class:`DocumentError` naming the column."""
    if info.annotation is bool:
        if text.lower() not in (*_YES, *_NO):
            raise DocumentError(f"{quoted(text)} must be yes or no.", name)
        return text.lower() in _YES
    if info.annotation in (float, int):
        try:
            value = parse_quantity(text, info.unit, decimal_comma=comma)
        except QuantityError as error:
            raise DocumentError(str(error), name) from error
        return int(value) if info.whole and value == int(value) else value
    if isinstance(info.annotation, type) and issubclass(info.annotation, Enum):
        return member_of(info.annotation, text, name)
    return text


def member_of(choices: type[Enum], text: str, name: str) -> Any:
    """The member that a text names; raises :class:`DocumentError` with all of them."""
    members = {word.lower(): m for m in choices for word in (str(m.value), str(getattr(m, "words", m.value)))}
    if text.lower() not in members:
        raise DocumentError(f"{quoted(text)} must be one of {', '.join(str(m.value) for m in choices)}.", name)
    return members[text.lower()]


def written(value: Any) -> str:
    """A plain value as a table has it."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Enum):
        return str(value.value)
    if isinstance(value, Day):
        return value.isoformat()
    return f"{value:.10g}" if isinstance(value, float) else str(value)
