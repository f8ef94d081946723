"""Tables of cell types on disk: CSV, one row a type."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from wise_cellar.core.documents import CellTable, CellType, DocumentError, cell_types_from_csv, cell_types_to_csv
from wise_cellar.store.reading import small_text, told, write_whole

LARGEST_MB = 5


def read_cell_table(path: Path) -> CellTable:
    """Cell types of a table; raises :class:`DocumentError` when the file is no such table at all."""
    text = small_text(path, "a table of cell types", LARGEST_MB, western=True)
    try:
        return cell_types_from_csv(text)
    except DocumentError as error:
        raise DocumentError(f"{told(path.name)}: {error}", error.path) from error


def is_cell_table(path: Path) -> bool:
    """Whether a file looks like a table of cell types: its first line names them and their capacity."""
    try:
        with path.open("rb") as file:
            first = file.read(4000).lstrip(b"\xef\xbb\xbf\r\n ").replace(b"\r", b"\n").split(b"\n", 1)[0].lower()
    except (OSError, ValueError):
        return False
    return b"name" in first and b"capacity_mah" in first


def write_cell_table(path: Path, cells: Mapping[str, CellType]) -> None:
    """Write a table whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, cell_types_to_csv(cells))
