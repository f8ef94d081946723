"""Tables of cell types on disk: CSV, one row a type."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from wise_cellar.core.documents import CellTable, CellType, DocumentError, cell_types_from_csv, cell_types_to_csv
from wise_cellar.store.exchange_files import write_whole
from wise_cellar.store.reading import readable

LARGEST_BYTES = 20_000_000


def read_cell_table(path: Path) -> CellTable:
    """Cell types of a table; raises :class:`DocumentError` when the file is no such table at all."""
    with readable(path, "the table"):
        if path.stat().st_size > LARGEST_BYTES:
            raise DocumentError(f"{path.name} is larger than 20 MB, far more than any table of cell types.")
        raw = path.read_bytes()
    if b"\x00" in raw:
        raise DocumentError(f"{path.name} is not text; a table of cell types is a CSV.")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("cp1252", errors="replace")
    try:
        return cell_types_from_csv(text)
    except DocumentError as error:
        raise DocumentError(f"{path.name}: {error}", error.path) from error


def is_cell_table(path: Path) -> bool:
    """Whether a file looks like a table of cell types: its first line names them and their capacity."""
    try:
        with path.open("rb") as file:
            first = file.read(4000).lstrip(b"\xef\xbb\xbf\r\n ").split(b"\n", 1)[0].lower()
    except OSError:
        return False
    return b"name" in first and b"capacity_mah" in first


def write_cell_table(path: Path, cells: Mapping[str, CellType]) -> None:
    """Write a table whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, cell_types_to_csv(cells))
