"""The edits of a workspace, each with what it changed: the way back through them, and on again."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.documents import Document
from wise_cellar.store.contents import KIND_OF, KINDS, Broken, Contents, Journey, Removal, document_of

Execute = Callable[..., sqlite3.Cursor]


@dataclass(frozen=True)
class Way:
    """One step through the edits."""

    which: str
    """Asks for the number of the edit."""
    side: str
    """What its documents would be."""
    order: str
    done: int
    """Whether it counts as done then."""

    def label(self, execute: Execute) -> str | None:
        """Of the edit on the way; none where nothing is left."""
        row = execute(f"SELECT label FROM edit WHERE number = ({self.which})").fetchone()
        return str(row[0]) if row else None

    def rows(self, execute: Execute) -> tuple[int, list[tuple[str, str, str | None]]] | None:
        """Number of the edit on the way, and every document with the body that it would have."""
        number = execute(self.which).fetchone()[0]
        if number is None:
            return None
        rows = execute(
            f"SELECT kind, id, {self.side} FROM edit_change WHERE edit = ? ORDER BY rowid {self.order}", (number,)
        ).fetchall()
        return number, rows

    def journey(self, execute: Execute) -> Journey | None:
        """What the step would do; nothing is written."""
        found = self.rows(execute)
        if found is None:
            return None
        changes: list[Document | Removal | Broken] = []
        for kind, identifier, body in found[1]:
            if kind in KINDS:
                gone = body is None
                changes.append(Removal(kind, identifier) if gone else document_of(kind, identifier, body, []))
        return Journey(self.label(execute) or "", tuple(changes))


BACK = Way("SELECT MAX(number) FROM edit WHERE done = 1", "before", "DESC", 0)
ON = Way("SELECT MIN(number) FROM edit WHERE done = 0", "after", "ASC", 1)


def forget_series(execute: Execute, contents: Contents) -> None:
    """Drop the series that no document names any more, and no edit that could be undone or made again."""
    keys = {str(key) for (key,) in execute("SELECT DISTINCT key FROM series_part")}
    whole = {(KIND_OF[model], key) for model, held in contents.documents.items() for key in held}
    named = {key for held in contents.documents.values() for document in held.values() for key in document.series_keys}
    for kind, identifier, body in execute("SELECT kind, id, body FROM document") if keys - named else ():
        if (kind, identifier) not in whole:  # broken, or of a kind that came later
            named |= {key for key in keys - named if key in str(body)}
    for key in keys - named:
        names_it = "instr(coalesce(before, ''), ?1) OR instr(coalesce(after, ''), ?1)"
        used = execute(f"SELECT 1 FROM edit_change WHERE {names_it} LIMIT 1", (key,)).fetchone()
        if used is None:
            execute("DELETE FROM series_part WHERE key = ?", (key,))
