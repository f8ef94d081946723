"""Trays of numbered cells on disk: CSV, one row a cell."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from wise_cellar.core.documents import NumberedCell
from wise_cellar.core.documents.tray_table import TrayRows, tray_from_csv, tray_to_csv
from wise_cellar.store.reading import first_line, read_table, write_whole

LARGEST_MB = 5


def read_tray_table(path: Path) -> TrayRows:
    """Numbered cells of a table; raises :class:`DocumentError` when the file is no such table at all."""
    return read_table(path, "a table of numbered cells", LARGEST_MB, tray_from_csv)


def is_tray_table(path: Path) -> bool:
    """Whether a file looks like a tray: its first line numbers cells and names a reading of them."""
    first = first_line(path)
    return first.startswith("number") and any(name in first for name in ("arrival_v", "capacity_mah", "dcir_mohm"))


def write_tray_table(path: Path, cells: Iterable[NumberedCell]) -> None:
    """Write a table whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, tray_to_csv(cells))
