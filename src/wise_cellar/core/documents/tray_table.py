"""A tray as a table: a row a numbered cell, a column a reading, units in the column names. CSV in and out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents.base import field_info
from wise_cellar.core.documents.outside import DocumentError
from wise_cellar.core.documents.tables import ReadRows, TableKind, member_of, read_rows, value_of, written
from wise_cellar.core.documents.tray import Look, NumberedCell

COLUMNS = ("number", "arrival_v", "arrived_on", "rested_v", "rested_on", "capacity_mah", "dcir_mohm",
           "ac_resistance_mohm", "mass_g", "looks", "note")  # fmt: skip
KIND = TableKind("numbered cell", COLUMNS, "number", 2, "number, arrival_v, capacity_mah, dcir_mohm, mass_g")
UNPLACED = "unplaced"
"""Cell type of cells that were read and not put into a tray yet."""

TrayRows = ReadRows[NumberedCell]


def tray_to_csv(cells: Iterable[NumberedCell]) -> str:
    """CSV text with all columns, in the given order."""
    rows = [[_written(getattr(cell, name)) for name in COLUMNS] for cell in cells]
    return csv_text([COLUMNS, *rows])


def tray_from_csv(text: str) -> TrayRows:
    """Numbered cells of a table; see :func:`~wise_cellar.core.documents.tables.read_rows`."""
    return read_rows(KIND, text, _cell, lambda cell: cell.id, lambda cell: cell.name)


def _cell(row: Mapping[str, str], comma: bool, mended: list[str]) -> NumberedCell:
    data: dict[str, Any] = {}
    for name in COLUMNS:
        text = row.get(name, "").strip()
        if text and name == "looks":
            data[name] = [member_of(Look, part.strip(), name) for part in text.split(";") if part.strip()]
        elif text:
            data[name] = value_of(field_info(NumberedCell, name), name, text, comma=comma)
    if "number" not in data:
        raise DocumentError("a cell needs the number that is written on it.", "number")
    return NumberedCell.from_data({"id": f"cell {data['number']}", "cell_type_id": UNPLACED, **data}, mended)


def _written(value: Any) -> str:
    return "; ".join(str(look) for look in value) if isinstance(value, tuple) else written(value)
