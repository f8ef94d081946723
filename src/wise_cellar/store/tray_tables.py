"""Trays of numbered cells on disk: CSV, one row a cell."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from wise_cellar.core.documents import DocumentError, NumberedCell
from wise_cellar.core.documents.tray_table import TrayRows, tray_from_csv, tray_to_csv
from wise_cellar.store.reading import small_text, told, write_whole

LARGEST_MB = 5


def read_tray_table(path: Path) -> TrayRows:
    """Numbered cells of a table; raises :class:`DocumentError` when the file is no such table at all."""
    text = small_text(path, "a table of numbered cells", LARGEST_MB, western=True)
    try:
        return tray_from_csv(text)
    except DocumentError as error:
        raise DocumentError(f"{told(path.name)}: {error}", error.path) from error


def is_tray_table(path: Path) -> bool:
    """Whether a file looks like a tray: its first line numbers cells and names a reading of them."""
    try:
        with path.open("rb") as file:
            first = file.read(4000).lstrip(b"\xef\xbb\xbf\r\n ").replace(b"\r", b"\n").split(b"\n", 1)[0].lower()
    except (OSError, ValueError):
        return False
    return first.startswith(b"number") and any(name in first for name in (b"arrival_v", b"capacity_mah", b"dcir_mohm"))


def write_tray_table(path: Path, cells: Iterable[NumberedCell]) -> None:
    """Write a table whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, tray_to_csv(cells))
