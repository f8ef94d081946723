"""The workspace: one SQLite file. Every edit is one committed transaction and can be undone, also after reopening."""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from datetime import date
from pathlib import Path
from typing import TypeVar

from wise_cellar.core.documents import Document
from wise_cellar.store.backups import keep_before, keep_of_day, latest_words
from wise_cellar.store.contents import KIND_OF, KINDS, Broken, Contents, Journey, Removal, document_of, name_of
from wise_cellar.store.edits import BACK, ON, Way, forget_series
from wise_cellar.store.reading import told
from wise_cellar.store.series import is_sound
from wise_cellar.store.workspace_file import (
    VERSION,
    WorkspaceError,
    check_whole,
    explained,
    file_seen,
    log_bytes,
    made_whole,
    make_file,
    migrate,
    read_only,
)

DocumentT = TypeVar("DocumentT", bound=Document)

KEPT_EDITS = 1000
LARGEST_LOG_BYTES = 4_000_000


class Workspace:
    """An open workspace file. Close it, or use it as a context manager."""

    def __init__(self, path: Path, connection: sqlite3.Connection) -> None:
        self.path = path
        self._connection = connection
        self._read: Contents | None = None
        self._seen = file_seen(path)
        self.unkept = ""
        """Why no backup of it could be kept, where one was to be."""

    @classmethod
    def open(cls, path: Path, *, backed_up: date | None = None) -> Workspace:
        """Open the workspace at ``path``, creating it if there is none.

        With a day, a backup of how it is found is kept (:mod:`~wise_cellar.store.backups`); before its tables are
        changed one is kept in any case.

        Raises :class:`WorkspaceError` for a damaged, foreign, newer, locked or read-only file, which stays as it is to
        the last byte. Documents in it that cannot be read are no reason: they are told as :class:`Broken`.
        """
        with explained(path):
            if not path.parent.is_dir():
                raise WorkspaceError(f"There is no folder {told(path.parent)}; choose one that exists.")
            existing = path.exists() and path.stat().st_size > 0
            # SQLite keeps its log beside the file, so both must be writable.
            for needed in (path.parent, path) if existing else (path.parent,):
                if not os.access(needed, os.W_OK, effective_ids=True):
                    raise WorkspaceError(read_only(path))
            if existing:
                _check_found(path)
            else:
                make_file(path)
            connection = sqlite3.connect(path, isolation_level=None, timeout=0.5)
            workspace = cls(path, connection)
            try:
                version = connection.execute("PRAGMA user_version").fetchone()[0]
                if existing and version < VERSION:
                    workspace.unkept = keep_before(connection, path, version, backed_up or date.today())
                if existing and backed_up is not None:
                    workspace.unkept = keep_of_day(connection, path, backed_up) or workspace.unkept
                workspace._prepare(version)
            except BaseException:
                connection.close()
                raise
        return workspace

    def _prepare(self, version: int) -> None:
        execute = self._connection.execute
        execute("PRAGMA locking_mode = EXCLUSIVE")
        execute("PRAGMA journal_mode = WAL")
        execute("PRAGMA synchronous = FULL")
        execute("PRAGMA foreign_keys = ON")
        execute("PRAGMA wal_autocheckpoint = 0")
        with self._transaction():
            migrate(execute, version)
        forget_series(execute, self.read())
        self.settle()

    def settle(self) -> None:
        """Bring everything from the log beside it into the file, which is then whole by itself."""
        with explained(self.path):
            self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
        if self._seen.still(self.path, moved_only=True):
            self._seen = file_seen(self.path)

    def close(self) -> None:
        """Close the file; nothing is left to save."""
        self._connection.close()

    def __enter__(self) -> Workspace:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    @property
    def in_place(self) -> bool:
        """Whether the file that was opened still stands under its name, changed by nobody else."""
        return self._seen.still(self.path)

    @property
    def written_over(self) -> bool:
        """Whether another program wrote into the very file that is open, which cannot be read any more then."""
        return self._seen.still(self.path, moved_only=True) and not self.in_place

    def copy_to(self, path: Path) -> None:
        """Write all of it, with its history, to another file; whole or not at all. Raises :class:`WorkspaceError`."""
        with explained(path), made_whole(path) as part:
            copy = sqlite3.connect(part, isolation_level=None)
            try:
                self._connection.backup(copy)
            finally:
                copy.close()

    def all(self, model: type[DocumentT]) -> dict[str, DocumentT]:
        """Every document of one kind that can be read by its identifier, in order of name."""
        held = self.read().documents[model]
        return {key: value for key, value in held.items() if isinstance(value, model)}

    def read(self) -> Contents:
        """All that it holds."""
        if self._read is not None:
            return self._read
        found: dict[type[Document], dict[str, Document]] = {model: {} for model in KIND_OF}
        broken: list[Broken] = []
        mended: list[str] = []
        with explained(self.path):
            rows = self._connection.execute("SELECT kind, id, body FROM document").fetchall()
        for kind, identifier, body in rows:
            if kind not in KINDS:
                continue
            one = document_of(kind, identifier, body, mended)
            if isinstance(one, Broken):
                broken.append(one)
            else:
                found[KINDS[kind]][identifier] = one
        ordered = {
            model: dict(sorted(held.items(), key=lambda item: name_of(item[1]))) for model, held in found.items()
        }
        self._read = Contents(ordered, tuple(broken), tuple(mended))
        return self._read

    @property
    def blank(self) -> bool:
        """Whether nothing was ever put into it."""
        with explained(self.path):
            execute = self._connection.execute
            return execute("SELECT 1 FROM document UNION SELECT 1 FROM edit LIMIT 1").fetchone() is None

    def changed_at(self, model: type[Document]) -> dict[str, float]:
        """When each document of a kind was last put here, seconds since 1970; those put by an early version are left
        out."""
        with explained(self.path):
            rows = self._connection.execute(
                "SELECT id, changed FROM document WHERE kind = ? AND changed IS NOT NULL", (KIND_OF[model],)
            ).fetchall()
        return {str(identifier): float(changed) for identifier, changed in rows}

    def series(self, key: str) -> bytes:
        """Content of a series; raises :class:`WorkspaceError` when it is not there."""
        parts = self.series_parts(key)
        if not parts:
            raise WorkspaceError(
                f"In {told(self.path)} a curve's points or a chart's picture are missing; import its file again."
            )
        return b"".join(parts)

    def series_parts(self, key: str, since: int = 0) -> list[bytes]:
        """The parts of a series from a place on, in the order in which they were added."""
        with explained(self.path):
            rows = self._connection.execute(
                "SELECT body FROM series_part WHERE key = ? AND place >= ? ORDER BY place", (key, since)
            ).fetchall()
        return [bytes(body) for (body,) in rows]

    def grow_series(self, key: str, parts: Iterable[bytes]) -> None:
        """Add parts to a series, all or none; not an edit. A document must name it before the next opening.

        Raises :class:`WorkspaceError`.
        """
        with explained(self.path), self._writing():
            place = "SELECT coalesce(max(place) + 1, 0) FROM series_part WHERE key = ?1"
            for body in parts:
                self._connection.execute(f"INSERT INTO series_part VALUES (?1, ({place}), ?2)", (key, body))

    def sound_series(self, documents: Sequence[Document]) -> dict[str, list[bytes]]:
        """The parts of the series that documents name, as far as they can be read and are what their names say."""
        found: dict[str, list[bytes]] = {}
        for key in {key for document in documents for key in document.series_keys}:
            with suppress(WorkspaceError):
                parts = self.series_parts(key)
                if parts and is_sound(key, parts):
                    found[key] = parts
        return found

    def commit(
        self, label: str, changes: Sequence[Document | Removal], series: Mapping[str, bytes] | None = None
    ) -> None:
        """Make one edit: put or remove documents in one transaction, and forget what had been undone.

        ``series`` are the long series that the documents name, by their keys. Raises :class:`WorkspaceError`, and then
        nothing of the edit is kept.
        """
        with explained(self.path), self._writing():
            execute = self._connection.execute
            execute("DELETE FROM edit WHERE done = 0")
            self._put_series(series or {})
            number = execute("INSERT INTO edit (label, done) VALUES (?, 1)", (label,)).lastrowid
            for change in changes:
                if isinstance(change, Removal):
                    kind, identifier, after = change.kind, change.id, None
                else:
                    kind, identifier = KIND_OF[type(change)], str(getattr(change, "id", ""))
                    after = change.to_json()
                row = execute("SELECT body FROM document WHERE kind = ? AND id = ?", (kind, identifier)).fetchone()
                execute(
                    "INSERT INTO edit_change VALUES (?, ?, ?, ?, ?)",
                    (number, kind, identifier, row[0] if row else None, after),
                )
                self._put(kind, identifier, after)
            execute("DELETE FROM edit WHERE number <= (SELECT MAX(number) FROM edit) - ?", (KEPT_EDITS,))

    def seed(self, documents: Sequence[Document], series: Mapping[str, bytes] | None = None) -> None:
        """Put documents that a fresh workspace starts from; not an edit, so undo cannot take them back."""
        with explained(self.path), self._writing():
            self._put_series(series or {})
            for document in documents:
                self._put(KIND_OF[type(document)], str(getattr(document, "id", "")), document.to_json())

    def stored_documents(self) -> list[tuple[str, str, str, float | None]]:
        """Kind, identifier and body of every document as it stands in the file, also of those that cannot be read, and
        when it was put here."""
        with explained(self.path):
            return self._connection.execute("SELECT kind, id, body, changed FROM document ORDER BY kind, id").fetchall()

    def store_documents(self, stored: Iterable[tuple[str, str, str, float | None]]) -> None:
        """Put documents into a fresh workspace as :meth:`stored_documents` had them of another, all or none; not an
        edit."""
        with explained(self.path), self._writing():
            self._connection.executemany("INSERT INTO document VALUES (?, ?, ?, ?)", stored)

    def series_names(self) -> list[str]:
        """The keys of all long series."""
        with explained(self.path):
            return [key for (key,) in self._connection.execute("SELECT DISTINCT key FROM series_part ORDER BY key")]

    def settings(self) -> dict[str, str]:
        """All that is remembered."""
        with explained(self.path):
            return dict(self._connection.execute("SELECT name, value FROM setting ORDER BY name").fetchall())

    def undo_label(self) -> str | None:
        """What undo would take back; ``None`` when nothing is left."""
        with explained(self.path):
            return BACK.label(self._connection.execute)

    def redo_label(self) -> str | None:
        """What redo would make again; ``None`` when nothing is left."""
        with explained(self.path):
            return ON.label(self._connection.execute)

    def way_back(self) -> Journey | None:
        """What :meth:`undo` would do; ``None`` when nothing is left. Nothing is written."""
        with explained(self.path):
            return BACK.journey(self._connection.execute)

    def way_on(self) -> Journey | None:
        """What :meth:`redo` would do; ``None`` when nothing is left. Nothing is written."""
        with explained(self.path):
            return ON.journey(self._connection.execute)

    def undo(self) -> bool:
        """Take the last edit back; ``False`` when there is none."""
        return self._travel(BACK)

    def redo(self) -> bool:
        """Make the last undone edit again; ``False`` when there is none."""
        return self._travel(ON)

    def setting(self, name: str) -> str | None:
        """A remembered setting. Settings are not edits and are not undone."""
        with explained(self.path):
            row = self._connection.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
        return str(row[0]) if row else None

    def remember(self, name: str, value: str) -> None:
        """Remember a setting, where the file takes it: no setting is worth refusing to show something."""
        with suppress(WorkspaceError), explained(self.path), self._writing():
            self._connection.execute(
                "INSERT INTO setting VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
                (name, value),
            )

    def _travel(self, way: Way) -> bool:
        with explained(self.path), self._writing():
            found = way.rows(self._connection.execute)
            if found is None:
                return False
            number, rows = found
            for kind, identifier, body in rows:
                self._put(kind, identifier, body)
            self._connection.execute("UPDATE edit SET done = ? WHERE number = ?", (way.done, number))
        return True

    def _put_series(self, series: Mapping[str, bytes]) -> None:
        for key, body in series.items():
            self._connection.execute("INSERT OR IGNORE INTO series_part VALUES (?, 0, ?)", (key, body))

    def _put(self, kind: str, identifier: str, body: str | None) -> None:
        if body is None:
            self._connection.execute("DELETE FROM document WHERE kind = ? AND id = ?", (kind, identifier))
        else:
            self._connection.execute(
                "INSERT INTO document VALUES (?, ?, ?, ?) ON CONFLICT (kind, id) DO UPDATE SET body = excluded.body,"
                " changed = excluded.changed",
                (kind, identifier, body, time.time()),
            )

    @contextmanager
    def _writing(self) -> Iterator[None]:
        """A transaction in the file that was opened; refused where another stands in its place."""
        if not self._seen.still(self.path):
            # What stands in the log beside the old name must not stay there alone.
            with suppress(sqlite3.Error):
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
            raise WorkspaceError(self._seen.lost(self.path))
        with self._transaction():
            yield
        self._read = None
        if log_bytes(self.path) > LARGEST_LOG_BYTES:
            self.settle()

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


def _check_found(path: Path) -> None:
    try:
        with explained(path):
            check_whole(path)
    except WorkspaceError as error:
        raise WorkspaceError(f"{error}{latest_words(path)}") from error


def seeded(path: Path, documents: Sequence[Document], series: Mapping[str, Sequence[bytes]], design: str) -> None:
    """Write a fresh workspace file of these documents and the parts of their series, whole or not at all; raises
    :class:`WorkspaceError`."""
    with explained(path), made_whole(path) as part, Workspace.open(part) as fresh:
        fresh.seed(documents)
        for key, parts in series.items():
            fresh.grow_series(key, parts)
        fresh.remember("design", design)
