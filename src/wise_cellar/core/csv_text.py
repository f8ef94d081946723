"""Tables as CSV text that a spreadsheet shows and never carries out."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence

GUARD = "'"
_ACTS = ("=", "+", "-", "−", "@", "\t", "\r")
_PLAIN_NUMBER = re.compile(r"[+-]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?")


def csv_text(rows: Iterable[Sequence[object]]) -> str:
    """Rows as CSV, a line each; text that a spreadsheet would take for a formula begins with an apostrophe."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\n")
    for row in rows:
        writer.writerow([guarded(field) if isinstance(field, str) else field for field in row])
    return buffer.getvalue()


def guarded(text: str) -> str:
    """The text, with an apostrophe before it where it would begin a formula; plain numbers stay as they are."""
    return GUARD + text if text.startswith(_ACTS) and not _PLAIN_NUMBER.fullmatch(text) else text


def unguarded(text: str) -> str:
    """What :func:`guarded` was given."""
    return text[1:] if text.startswith(GUARD) and text[1:].startswith(_ACTS) else text
