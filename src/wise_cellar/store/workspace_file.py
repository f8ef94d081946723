"""The file that a workspace stands in: its tables, how it is made and looked at, and whether it is still the same one.

A file is made under another name and takes its own only when it is whole; it is looked at without a byte being written;
and before every edit it is seen whether it still stands where it was opened.
"""

from __future__ import annotations

import os
import sqlite3
import tempfile
import time
import zlib
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import one_line
from wise_cellar.store.reading import rights, told

APPLICATION_ID = 0x57434C52
PART_PREFIX, PART_SUFFIX = ".wise-cellar-", ".part"
FORGOTTEN_S = 24 * 3600.0
"""A part this old was left by a process that is gone."""
HEADER_BYTES = 100
SUMMED_BYTES = 200_000

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
    """
    CREATE TABLE series_part (
        key TEXT NOT NULL, place INTEGER NOT NULL, body BLOB NOT NULL, PRIMARY KEY (key, place)
    );
    INSERT INTO series_part SELECT key, 0, body FROM series;
    DROP TABLE series;
    """,
    """
    ALTER TABLE document ADD COLUMN changed REAL;
    """,
)
VERSION = len(MIGRATIONS)


class WorkspaceError(Exception):
    """The workspace cannot be opened or written; the message is a sentence for the user."""


def migrate(execute: Callable[[str], object], version: int, newest: int = VERSION) -> None:
    """Bring tables from a version to the newest; within a transaction of the caller's."""
    execute(f"PRAGMA application_id = {APPLICATION_ID}")
    for step in range(version, newest):
        for statement in MIGRATIONS[step].split(";"):
            if statement.strip():
                execute(statement)
        execute(f"PRAGMA user_version = {step + 1}")


# Making


def make_file(path: Path) -> None:
    """Make an empty workspace at ``path``, where nothing or an empty file stands; whole or not at all."""
    with made_whole(path, over=False) as part, closing(sqlite3.connect(part, isolation_level=None)) as fresh:
        fresh.execute("BEGIN IMMEDIATE")
        migrate(fresh.execute, 0)
        fresh.execute("COMMIT")


@contextmanager
def made_whole(path: Path, *, over: bool = True) -> Iterator[Path]:
    """Another name beside ``path`` for a database; it takes the name ``path`` when it is whole, or is dropped.

    Without ``over`` a file that stands there meanwhile is left alone, and :class:`WorkspaceError` is raised.
    """
    path = Path(os.path.realpath(path))
    _sweep(path.parent)
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=PART_PREFIX, suffix=PART_SUFFIX)
    os.close(handle)
    part = Path(name)
    try:
        yield part
        part.chmod(rights(path))
        with part.open("rb") as written:
            os.fsync(written.fileno())
        if over or (path.exists() and path.stat().st_size == 0):
            os.replace(part, path)
        else:
            _take_name(part, path)
        _sync_folder(path.parent)
    finally:
        for left in (part, *(Path(name + ending) for ending in ("-wal", "-shm", "-journal"))):
            left.unlink(missing_ok=True)


def _take_name(part: Path, path: Path) -> None:
    """Give ``part`` a name that must still be free."""
    try:
        os.link(part, path)
    except FileExistsError as error:
        raise WorkspaceError(
            f"{told(path)} has come to be there meanwhile; open it, or choose another name."
        ) from error
    except OSError:
        # A disk without second names for a file.
        os.rename(part, path)


def _sync_folder(folder: Path) -> None:
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _sweep(folder: Path) -> None:
    """Drop parts that a killed process left long ago."""
    for left in folder.glob(f"{PART_PREFIX}*{PART_SUFFIX}*"):
        with suppress(OSError):
            if time.time() - left.stat().st_mtime > FORGOTTEN_S:
                left.unlink()


# Looking


def check_whole(path: Path) -> None:
    """Refuse, with :class:`WorkspaceError`, what is no workspace or damaged, and write nothing anywhere."""
    version = _check_header(path)
    log, shared = Path(f"{path}-wal"), Path(f"{path}-shm")
    # With nothing in the log the file is all there is, and need not even be locked to be looked at.
    alone = not log.exists() or log.stat().st_size == 0
    had_shared = shared.exists()
    uri = f"{path.absolute().as_uri()}?mode=ro{'&immutable=1' if alone else ''}"
    try:
        with closing(sqlite3.connect(uri, uri=True, isolation_level=None, timeout=0.5)) as looking:
            if looking.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok" or not _has_tables(looking, version):
                raise WorkspaceError(damaged(path))
    finally:
        if not had_shared and not alone:
            shared.unlink(missing_ok=True)


def _has_tables(looking: sqlite3.Connection, version: int) -> bool:
    """Whether every column of this version is there."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as model:
        migrate(model.execute, 0, version)
        tables = [name for (name,) in model.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return all(_columns(model, table) <= _columns(looking, table) for table in tables)


def _columns(connection: sqlite3.Connection, table: str) -> set[str]:
    return {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}


def _check_header(path: Path) -> int:
    """Version of a workspace of ours; anything else is refused. The offsets: sqlite.org/fileformat2."""
    with path.open("rb") as file:
        header = file.read(HEADER_BYTES)
    if header[:16] != b"SQLite format 3\x00":
        raise WorkspaceError(f"{told(path)} is not a Wise Cellar workspace. It was left as it is; open a .cellar file.")
    if len(header) < HEADER_BYTES:
        raise WorkspaceError(damaged(path))
    version, application = int.from_bytes(header[60:64], "big"), int.from_bytes(header[68:72], "big")
    if application != APPLICATION_ID:
        raise WorkspaceError(
            f"{told(path)} is a database of another program, not a Wise Cellar workspace. It was left as it is."
        )
    if version > VERSION:
        raise WorkspaceError(
            f"{told(path)} was written by a newer Wise Cellar (workspace version {version}; this one reads up to"
            f" {VERSION}). It was left as it is; open it with the newer one."
        )
    return version


@dataclass(frozen=True)
class FileSeen:
    """What a file was when it was last looked at: which one, when it was written, and what stands at its two ends."""

    place: tuple[int, int]
    changed_ns: int
    ends: tuple[int, int]
    """Size, and check sum of the first and the last part."""

    def still(self, path: Path, *, moved_only: bool = False) -> bool:
        """Whether the same file stands at ``path``; unless ``moved_only``, as it was left."""
        try:
            now = path.stat()
        except (OSError, ValueError):
            return False
        if (now.st_dev, now.st_ino) != self.place:
            return False
        # A file may be touched without being changed.
        return moved_only or now.st_mtime_ns == self.changed_ns or file_seen(path).ends == self.ends

    def lost(self, path: Path) -> str:
        """What has become of the file, and what to do."""
        there = file_seen(path)
        if there.place == NOWHERE.place:
            what = "was moved, renamed or deleted"
        else:
            what = "was replaced by another file" if there.place != self.place else "was changed by another program"
        return (
            f"{told(path)} {what} while it was open here; this change was not kept. File › Save a copy… writes all that"
            " is here to a new file and goes on there."
        )


NOWHERE = FileSeen((0, 0), 0, (0, 0))


def file_seen(path: Path) -> FileSeen:
    """What stands at ``path`` now."""
    try:
        state = path.stat()
        with path.open("rb") as file:
            summed = zlib.crc32(file.read(SUMMED_BYTES))
            if state.st_size > SUMMED_BYTES:
                file.seek(max(state.st_size - SUMMED_BYTES, SUMMED_BYTES))
                summed = zlib.crc32(file.read(SUMMED_BYTES), summed)
            return FileSeen((state.st_dev, state.st_ino), state.st_mtime_ns, (state.st_size, summed))
    except (OSError, ValueError):
        return NOWHERE


def log_bytes(path: Path) -> int:
    """How much stands in the log beside a file."""
    try:
        return Path(f"{path}-wal").stat().st_size
    except OSError:
        return 0


# Wording


@contextmanager
def explained(path: Path) -> Iterator[None]:
    """Turn what SQLite and the system say into a sentence."""
    try:
        yield
    except sqlite3.Error as error:
        raise WorkspaceError(_sentence(path, error)) from error
    except DocumentError:
        raise
    except PermissionError as error:
        raise WorkspaceError(read_only(path)) from error
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or one_line(str(error), 100)
        raise WorkspaceError(f"{told(path)} cannot be opened or written: {why}. Choose another file.") from error


def _sentence(path: Path, error: sqlite3.Error) -> str:
    name = getattr(error, "sqlite_errorname", "") or ""
    if name.startswith("SQLITE_FULL"):
        return (
            f"The disk that holds {told(path)} is full. The last change was not kept; free some space and make it"
            " again."
        )
    if name.startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return f"{told(path)} is open in another Wise Cellar; close it there first."
    if name.startswith(("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM")):
        return read_only(path)
    if name.startswith(("SQLITE_NOTADB", "SQLITE_CORRUPT")):
        return damaged(path)
    said = one_line(str(error), 100).rstrip(".")
    if name.startswith("SQLITE_IOERR"):
        return (
            f"{told(path)} cannot be read or written: the disk reports an error ({said}); the last change was not kept."
        )
    return f"{told(path)} cannot be used: {said}."


def read_only(path: Path) -> str:
    """That it cannot be written."""
    return (
        f"{told(path)} cannot be written: the file or its folder {told(path.parent)} is read-only."
        " Copy it to a folder of your own and open the copy."
    )


def damaged(path: Path) -> str:
    """That it is damaged."""
    return (
        f"{told(path)} is damaged and was left as it is. Open a copy kept elsewhere, or import the designs you"
        " exported."
    )
