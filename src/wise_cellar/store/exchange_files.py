"""Exchange files on disk: a design, craft, cell type or mission as plain JSON."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from wise_cellar.core.documents import Document, DocumentError, ExchangeFile, export_text, import_text
from wise_cellar.store.reading import small_text, told, write_whole

LARGEST_MB = 5


def read_exchange_file(path: Path) -> ExchangeFile:
    """Exchange file at ``path``; raises :class:`DocumentError` with one sentence that names the file."""
    text = small_text(path, "an exported design", LARGEST_MB)
    name = told(path.name)
    try:
        found = import_text(text)
    except DocumentError as error:
        raise DocumentError(f"{name}: {error}", error.path) from error
    return replace(found, mended=tuple(f"{name}: {sentence}" for sentence in found.mended))


def write_exchange_file(path: Path, document: Document) -> None:
    """Write ``document`` to ``path`` whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, export_text(document))
