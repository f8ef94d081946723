"""Tables of cell types on disk: CSV, one row a type."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from wise_cellar.core.documents import CellTable, CellType, cell_types_from_csv, cell_types_to_csv
from wise_cellar.store.reading import first_line, read_table, write_whole

LARGEST_MB = 5


def read_cell_table(path: Path) -> CellTable:
    """Cell types of a table; raises :class:`DocumentError` when the file is no such table at all."""
    return read_table(path, "a table of cell types", LARGEST_MB, cell_types_from_csv)


def is_cell_table(path: Path) -> bool:
    """Whether a file looks like a table of cell types: its first line names them and their capacity."""
    first = first_line(path)
    return "name" in first and "capacity_mah" in first


def write_cell_table(path: Path, cells: Mapping[str, CellType]) -> None:
    """Write a table whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, cell_types_to_csv(cells))
