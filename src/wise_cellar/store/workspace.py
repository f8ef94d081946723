"""The workspace: one SQLite file. Every edit is one committed transaction and can be undone, also after reopening."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

from wise_cellar.core.documents import (
    CellType,
    Craft,
    Design,
    DischargeRecord,
    Document,
    DocumentError,
    Mission,
    TracedChart,
)

KINDS: dict[str, type[Document]] = {
    "craft": Craft,
    "cell_type": CellType,
    "mission": Mission,
    "design": Design,
    "discharge": DischargeRecord,
    "chart": TracedChart,
}
KIND_OF = {model: kind for kind, model in KINDS.items()}
DocumentT = TypeVar("DocumentT", bound=Document)

APPLICATION_ID = 0x57434C52
KEPT_EDITS = 1000

# Step n brings a file from version n to n + 1. Steps are only ever appended.
MIGRATIONS = (
    """
    CREATE TABLE document (kind TEXT NOT NULL, id TEXT NOT NULL, body TEXT NOT NULL, PRIMARY KEY (kind, id));
    CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL);
    CREATE TABLE edit (number INTEGER PRIMARY KEY, label TEXT NOT NULL, done INTEGER NOT NULL);
    CREATE TABLE edit_change (
        edit INTEGER NOT NULL REFERENCES edit (number) ON DELETE CASCADE,
        kind TEXT NOT NULL, id TEXT NOT NULL, before TEXT, after TEXT
    );
    CREATE INDEX edit_change_by_edit ON edit_change (edit);
    """,
    """
    CREATE TABLE series (key TEXT PRIMARY KEY, body BLOB NOT NULL);
    """,
)
# A series goes when no document names it any more, and no edit that could be undone or made again.
_FORGOTTEN_SERIES = """
    DELETE FROM series WHERE NOT EXISTS (
        SELECT 1 FROM document WHERE kind IN ('discharge', 'chart') AND instr(body, series.key)
    ) AND NOT EXISTS (
        SELECT 1 FROM edit_change WHERE kind IN ('discharge', 'chart')
        AND (instr(coalesce(before, ''), series.key) OR instr(coalesce(after, ''), series.key))
    )
"""
VERSION = len(MIGRATIONS)


class WorkspaceError(Exception):
    """The workspace cannot be opened or written; the message is a sentence for the user."""


@dataclass(frozen=True)
class Removal:
    """Takes a document out of the workspace, as part of an edit."""

    kind: str
    id: str


class Workspace:
    """An open workspace file. Close it, or use it as a context manager."""

    def __init__(self, path: Path, connection: sqlite3.Connection) -> None:
        self.path = path
        self._connection = connection

    @classmethod
    def open(cls, path: Path) -> Workspace:
        """Open the workspace at ``path``, creating it if there is none.

        Raises :class:`WorkspaceError` for a damaged, foreign, newer, locked or read-only file, which stays as it is.
        """
        existing = path.exists() and path.stat().st_size > 0
        if existing:
            _check_header(path)
        elif not path.parent.is_dir():
            raise WorkspaceError(f"There is no folder {path.parent}; choose one that exists.")
        # SQLite keeps its log beside the file, so both must be writable.
        for needed in (path.parent, path) if existing else (path.parent,):
            if not os.access(needed, os.W_OK, effective_ids=True):
                raise WorkspaceError(_read_only(path))
        with _explained(path):
            connection = sqlite3.connect(path, isolation_level=None, timeout=0.5)
        workspace = cls(path, connection)
        try:
            with _explained(path):
                workspace._prepare(existing)
        except WorkspaceError:
            connection.close()
            if not existing and path.exists() and path.stat().st_size == 0:
                path.unlink()
            raise
        return workspace

    def _prepare(self, existing: bool) -> None:
        execute = self._connection.execute
        execute("PRAGMA locking_mode = EXCLUSIVE")
        if existing:
            found = execute("PRAGMA quick_check(1)").fetchone()[0]
            if found != "ok":
                raise WorkspaceError(_damaged(self.path))
        execute("PRAGMA journal_mode = WAL")
        execute("PRAGMA synchronous = FULL")
        execute("PRAGMA foreign_keys = ON")
        version = execute("PRAGMA user_version").fetchone()[0]
        with self._transaction():
            execute(f"PRAGMA application_id = {APPLICATION_ID}")
            for step in range(version, VERSION):
                for statement in MIGRATIONS[step].split(";"):
                    if statement.strip():
                        execute(statement)
                execute(f"PRAGMA user_version = {step + 1}")
            execute(_FORGOTTEN_SERIES)
        if version < VERSION:
            # The header that _check_header reads must be in the file itself, not only in the log beside it.
            execute("PRAGMA wal_checkpoint(TRUNCATE)")
        for kind in KINDS:
            self._all(kind)

    def close(self) -> None:
        """Close the file; nothing is left to save."""
        self._connection.close()

    def __enter__(self) -> Workspace:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def all(self, model: type[DocumentT]) -> dict[str, DocumentT]:
        """Every document of one kind by its identifier, in order of name."""
        return {key: value for key, value in self._all(KIND_OF[model]).items() if isinstance(value, model)}

    def _all(self, kind: str) -> dict[str, Document]:
        found: dict[str, Document] = {}
        with _explained(self.path):
            rows = self._connection.execute("SELECT id, body FROM document WHERE kind = ?", (kind,)).fetchall()
        for identifier, body in rows:
            try:
                found[identifier] = KINDS[kind].from_json(body)
            except DocumentError as error:
                raise WorkspaceError(f"In {self.path} the {kind} “{identifier}” cannot be read: {error}") from error
        return dict(sorted(found.items(), key=lambda item: str(getattr(item[1], "name", ""))))

    def series(self, key: str) -> bytes:
        """Content of a series; raises :class:`WorkspaceError` when it is not there."""
        with _explained(self.path):
            row = self._connection.execute("SELECT body FROM series WHERE key = ?", (key,)).fetchone()
        if row is None:
            raise WorkspaceError(
                f"In {self.path} a curve's points or a chart's picture are missing; import its file again."
            )
        return bytes(row[0])

    def commit(
        self, label: str, changes: Sequence[Document | Removal], series: Mapping[str, bytes] | None = None
    ) -> None:
        """Make one edit: put or remove documents in one transaction, and forget what had been undone.

        ``series`` are the long series that the documents name, by their keys. Raises :class:`WorkspaceError`, and then
        nothing of the edit is kept.
        """
        with _explained(self.path), self._transaction():
            execute = self._connection.execute
            execute("DELETE FROM edit WHERE done = 0")
            self._put_series(series or {})
            number = execute("INSERT INTO edit (label, done) VALUES (?, 1)", (label,)).lastrowid
            for change in changes:
                if isinstance(change, Removal):
                    kind, identifier, after = change.kind, change.id, None
                else:
                    kind, identifier, after = (
                        KIND_OF[type(change)],
                        str(getattr(change, "id", "")),
                        change.to_json(),
                    )
                row = execute("SELECT body FROM document WHERE kind = ? AND id = ?", (kind, identifier)).fetchone()
                execute(
                    "INSERT INTO edit_change VALUES (?, ?, ?, ?, ?)",
                    (number, kind, identifier, row[0] if row else None, after),
                )
                self._put(kind, identifier, after)
            execute("DELETE FROM edit WHERE number <= (SELECT MAX(number) FROM edit) - ?", (KEPT_EDITS,))

    def seed(self, documents: Sequence[Document], series: Mapping[str, bytes] | None = None) -> None:
        """Put documents that a fresh workspace starts from; not an edit, so undo cannot take them back."""
        with _explained(self.path), self._transaction():
            self._put_series(series or {})
            for document in documents:
                self._put(KIND_OF[type(document)], str(getattr(document, "id", "")), document.to_json())

    def undo_label(self) -> str | None:
        """What undo would take back; ``None`` when nothing is left."""
        return self._label("SELECT label FROM edit WHERE done = 1 ORDER BY number DESC LIMIT 1")

    def redo_label(self) -> str | None:
        """What redo would make again; ``None`` when nothing is left."""
        return self._label("SELECT label FROM edit WHERE done = 0 ORDER BY number LIMIT 1")

    def undo(self) -> bool:
        """Take the last edit back; ``False`` when there is none."""
        return self._travel("SELECT MAX(number) FROM edit WHERE done = 1", "before", done=0)

    def redo(self) -> bool:
        """Make the last undone edit again; ``False`` when there is none."""
        return self._travel("SELECT MIN(number) FROM edit WHERE done = 0", "after", done=1)

    def setting(self, name: str) -> str | None:
        """A remembered setting. Settings are not edits and are not undone."""
        with _explained(self.path):
            row = self._connection.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
        return str(row[0]) if row else None

    def remember(self, name: str, value: str) -> None:
        """Remember a setting."""
        with _explained(self.path), self._transaction():
            self._connection.execute(
                "INSERT INTO setting VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
                (name, value),
            )

    def _label(self, query: str) -> str | None:
        with _explained(self.path):
            row = self._connection.execute(query).fetchone()
        return str(row[0]) if row else None

    def _travel(self, which: str, side: str, *, done: int) -> bool:
        with _explained(self.path), self._transaction():
            execute = self._connection.execute
            number = execute(which).fetchone()[0]
            if number is None:
                return False
            order = "ASC" if done else "DESC"
            rows = execute(
                f"SELECT kind, id, {side} FROM edit_change WHERE edit = ? ORDER BY rowid {order}", (number,)
            ).fetchall()
            for kind, identifier, body in rows:
                self._put(kind, identifier, body)
            execute("UPDATE edit SET done = ? WHERE number = ?", (done, number))
        return True

    def _put_series(self, series: Mapping[str, bytes]) -> None:
        for key, body in series.items():
            self._connection.execute("INSERT OR IGNORE INTO series VALUES (?, ?)", (key, body))

    def _put(self, kind: str, identifier: str, body: str | None) -> None:
        if body is None:
            self._connection.execute("DELETE FROM document WHERE kind = ? AND id = ?", (kind, identifier))
        else:
            self._connection.execute(
                "INSERT INTO document VALUES (?, ?, ?) ON CONFLICT (kind, id) DO UPDATE SET body = excluded.body",
                (kind, identifier, body),
            )

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        self._connection.execute("BEGIN IMMEDIATE")
        try:
            yield
            self._connection.execute("COMMIT")
        except BaseException:
            if self._connection.in_transaction:
                self._connection.execute("ROLLBACK")
            raise


def _check_header(path: Path) -> None:
    """Refuse a file that is no workspace of ours before anything opens it. The offsets: sqlite.org/fileformat2."""
    try:
        with path.open("rb") as file:
            header = file.read(100)
    except OSError as error:
        raise WorkspaceError(f"{path} cannot be read: {error.strerror}.") from error
    if header[:16] != b"SQLite format 3\x00":
        raise WorkspaceError(f"{path} is not a Wise Cellar workspace. It was left as it is; open a .cellar file.")
    if len(header) < 100:
        raise WorkspaceError(_damaged(path))
    version, application = int.from_bytes(header[60:64], "big"), int.from_bytes(header[68:72], "big")
    if application != APPLICATION_ID:
        raise WorkspaceError(
            f"{path} is a database of another program, not a Wise Cellar workspace. It was left as it is."
        )
    if version > VERSION:
        raise WorkspaceError(
            f"{path} was written by a newer Wise Cellar (workspace version {version}; this one reads up to {VERSION})."
            " It was left as it is; open it with the newer one."
        )


@contextmanager
def _explained(path: Path) -> Iterator[None]:
    """Turn what SQLite says into a sentence."""
    try:
        yield
    except sqlite3.Error as error:
        raise WorkspaceError(_sentence(path, error)) from error


def _sentence(path: Path, error: sqlite3.Error) -> str:
    name = getattr(error, "sqlite_errorname", "") or ""
    if name.startswith("SQLITE_FULL"):
        return f"The disk that holds {path} is full. The last change was not kept; free some space and make it again."
    if name.startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return f"{path} is open in another Wise Cellar; close it there first."
    if name.startswith(("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM")):
        return _read_only(path)
    if name.startswith(("SQLITE_NOTADB", "SQLITE_CORRUPT")):
        return _damaged(path)
    if name.startswith("SQLITE_IOERR"):
        return f"{path} cannot be read or written: the disk reports an error ({error}). The last change was not kept."
    return f"{path} cannot be used: {error}."


def _read_only(path: Path) -> str:
    return (
        f"{path} cannot be written: the file or its folder {path.parent} is read-only."
        " Copy it to a folder of your own and open the copy."
    )


def _damaged(path: Path) -> str:
    return f"{path} is damaged and was left as it is. Open a copy kept elsewhere, or import the designs you exported."
