"""Cell types as one table: a row a type, a column a value, units in the column names. CSV in and out."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents.base import field_info
from wise_cellar.core.documents.cell_type import CellType
from wise_cellar.core.documents.outside import DocumentError
from wise_cellar.core.documents.provenance import ValueSource
from wise_cellar.core.documents.tables import ReadRows, TableKind, read_rows, value_of, written
from wise_cellar.core.words import LONGEST_NAME, quoted

_APART = ("schema_version", "own_ocv", "fitted", "bench_results")
"""What a row cannot hold; it travels in the JSON export of a cell type."""
COLUMNS = tuple(name for name in CellType.model_fields if name not in _APART)
KIND = TableKind("cell type", COLUMNS, "name", 3, "name, form_factor, mass_g, capacity_mah, dcir_mohm")

CellTable = ReadRows[CellType]


def cell_types_to_csv(cells: Mapping[str, CellType]) -> str:
    """CSV text with all columns, in the given order."""
    rows = [[_written(getattr(cell, name)) for name in COLUMNS] for cell in cells.values()]
    return csv_text([COLUMNS, *rows])


def cell_types_from_csv(text: str) -> CellTable:
    """Cell types from a table; see :func:`~wise_cellar.core.documents.tables.read_rows`."""
    return read_rows(KIND, text, _cell, lambda cell: cell.id, lambda cell: cell.name)


def _cell(row: Mapping[str, str], comma: bool, mended: list[str]) -> CellType:
    data: dict[str, Any] = {}
    for name in COLUMNS:
        text = row.get(name, "").strip()
        if text and name == "sources":
            data[name] = [_source(part) for part in text.split(";") if part.strip()]
        elif text:
            data[name] = value_of(field_info(CellType, name), name, text, comma=comma)
    data.setdefault("id", re.sub(r"[^a-z0-9]+", "-", str(data.get("name", ""))[:LONGEST_NAME].lower()).strip("-"))
    try:
        return CellType.from_data(data, mended)
    except DocumentError as error:
        raise DocumentError(str(error), error.path.split(".")[0]) from error


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
    if isinstance(value, tuple):
        return "; ".join(f"{s.field}={s.kind.value}" + (f"@{s.day.isoformat()}" if s.day else "") for s in value)
    return written(value)
