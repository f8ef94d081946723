"""Exchange files on disk: a design, craft, cell type or mission as plain JSON."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from wise_cellar.core.documents import Document, DocumentError, ExchangeFile, export_text, import_text
from wise_cellar.store.reading import readable

LARGEST_BYTES = 20_000_000


def read_exchange_file(path: Path) -> ExchangeFile:
    """Exchange file at ``path``; raises :class:`DocumentError` with one sentence that names the file."""
    with readable(path, "the exported file"):
        if path.stat().st_size > LARGEST_BYTES:
            raise DocumentError(f"{path} is larger than 20 MB, far more than any exported design.")
        raw = path.read_bytes()
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise DocumentError(f"{path} is not text in UTF-8, so it is no exported design.") from error
    try:
        return import_text(text)
    except DocumentError as error:
        raise DocumentError(f"{path.name}: {error}", error.path) from error


def write_exchange_file(path: Path, document: Document) -> None:
    """Write ``document`` to ``path`` whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, export_text(document))


def write_whole(path: Path, text: str) -> None:
    """Write ``text`` to ``path`` whole or not at all; raises :class:`DocumentError` with one sentence."""
    part = None
    try:
        handle, part = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
        os.chmod(part, 0o644)
        os.replace(part, path)
    except OSError as error:
        if part and os.path.exists(part):
            os.unlink(part)
        raise DocumentError(f"{path} cannot be written: {error.strerror}; nothing was changed.") from error
