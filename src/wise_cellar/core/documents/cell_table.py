"""Cell types as one table: a row a type, a column a value, units in the column names. CSV in and out."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Any

from wise_cellar.core.csv_text import csv_text, unguarded
from wise_cellar.core.documents.base import FieldInfo, field_info
from wise_cellar.core.documents.cell_type import CellType
from wise_cellar.core.documents.outside import DocumentError
from wise_cellar.core.documents.provenance import ValueSource
from wise_cellar.core.units import QuantityError, parse_quantity
from wise_cellar.core.words import LONGEST_NAME, quoted, split_lines

_APART = ("schema_version", "own_ocv", "fitted", "bench_results")
"""What a row cannot hold; it travels in the JSON export of a cell type."""
COLUMNS = tuple(name for name in CellType.model_fields if name not in _APART)
MOST_COLUMNS, MOST_REFUSALS = 200, 200
_POINT_COMMA = re.compile(r"[+-]?(?:0|\d+),(?!\d{3}\Z)\d+")
_YES, _NO = ("yes", "true", "1", "x"), ("no", "false", "0", "")


@dataclass(frozen=True)
class CellTable:
    """What a table held: the cell types that are right, and a sentence for every row or column that is not."""

    cells: tuple[CellType, ...]
    refusals: tuple[str, ...]


def cell_types_to_csv(cells: Mapping[str, CellType]) -> str:
    """CSV text with all columns, in the given order."""
    rows = [[_written(getattr(cell, name)) for name in COLUMNS] for cell in cells.values()]
    return csv_text([COLUMNS, *rows])


def cell_types_from_csv(text: str) -> CellTable:
    """Cell types from a table with a header of column names; separators ``,``, ``;`` and tab, decimal comma or point.

    A row that is wrong is refused with its line and column, and the rest is taken. Raises :class:`DocumentError` when
    the text is no such table at all.
    """
    lines = split_lines(text.lstrip("\ufeff").replace("\x00", ""))
    first = next((line for line in lines if line.strip()), "")
    delimiter = max(",;\t", key=first.count)
    numbered = _numbered(lines, delimiter)
    if not numbered:
        raise DocumentError("This table is empty; its first line must name columns such as name, mass_g, capacity_mah.")
    header = [field.strip().lower() for field in numbered[0][1]]
    if len(header) > MOST_COLUMNS:
        raise DocumentError(
            f"Line {numbered[0][0]} names {len(header)} columns; a table of cell types has at most {MOST_COLUMNS}."
        )
    known = [name for name in header if name in COLUMNS]
    if "name" not in known or len(known) < 3:
        raise DocumentError(
            "This is no table of cell types: its first line must name columns such as name, form_factor, mass_g,"
            " capacity_mah, dcir_mohm."
        )
    refusals = [
        f"Line {numbered[0][0]}: {quoted(name)} is no column of a cell table and was left aside."
        for name in header
        if name and name not in COLUMNS
    ]
    doubled = {name for name in known if known.count(name) > 1}
    if doubled:
        raise DocumentError(f"Line {numbered[0][0]}: column {sorted(doubled)[0]} is there twice; each may stand once.")
    comma = delimiter != "," and _decimal_comma(row for _, row in numbered[1:])
    cells: list[CellType] = []
    lines_of: dict[str, int] = {}
    for number, row in numbered[1:]:
        if len(refusals) >= MOST_REFUSALS:
            refusals.append(f"Line {number} and all after it were left out: too much of this table is wrong.")
            break
        mended: list[str] = []
        try:
            cell = _cell(dict(zip(header, row, strict=False)), len(header), len(row), comma, mended)
            if cell.id in lines_of:
                raise DocumentError(
                    f"{quoted(cell.name)} stands in line {lines_of[cell.id]} already; give one of the two another name."
                )
        except DocumentError as error:
            where = f", {error.path}" if error.path else ""
            refusals.append(f"Line {number}{where}: {error}")
            continue
        refusals += [f"Line {number}: {sentence}" for sentence in mended]
        lines_of[cell.id] = number
        cells.append(cell)
    return CellTable(tuple(cells), tuple(refusals))


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


def _cell(row: Mapping[str, str], width: int, given: int, comma: bool, mended: list[str]) -> CellType:
    if given > width:
        raise DocumentError(f"there are {given} values for {width} columns.")
    data: dict[str, Any] = {}
    for name in COLUMNS:
        text = row.get(name, "").strip()
        if text:
            data[name] = _read(field_info(CellType, name), name, text, comma)
    data.setdefault("id", re.sub(r"[^a-z0-9]+", "-", str(data.get("name", ""))[:LONGEST_NAME].lower()).strip("-"))
    try:
        return CellType.from_data(data, mended)
    except DocumentError as error:
        raise DocumentError(str(error), error.path.split(".")[0]) from error


def _read(info: FieldInfo, name: str, text: str, comma: bool) -> Any:
    if name == "sources":
        return [_source(part) for part in text.split(";") if part.strip()]
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
        members = {word.lower(): m for m in info.annotation for word in (m.value, str(getattr(m, "words", m.value)))}
        if text.lower() not in members:
            raise DocumentError(f"{quoted(text)} must be one of {', '.join(m.value for m in info.annotation)}.", name)
        return members[text.lower()]
    return text


def _source(text: str) -> ValueSource:
    """From ``mass_g=measured@2026-03-21``."""
    field, equals, rest = text.partition("=")
    kind, at, day = rest.partition("@")
    if not equals or not kind.strip() or (at and not day.strip()):
        raise DocumentError(f"{quoted(text.strip())} must be written as mass_g=measured@2026-03-21.", "sources")
    try:
        return ValueSource.from_data({"field": field.strip(), "kind": kind.strip(), "day": day.strip() or None})
    except DocumentError as error:
        raise DocumentError(str(error), "sources") from error


def _written(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return "; ".join(f"{s.field}={s.kind.value}" + (f"@{s.day.isoformat()}" if s.day else "") for s in value)
    if isinstance(value, Enum):
        return str(value.value)
    return f"{value:.10g}" if isinstance(value, float) else str(value)
