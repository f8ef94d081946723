"""Backups of a workspace's file, in a folder beside it: of the last seven days on which it was opened, each as it was
found then, and from before every change of its tables. They are whole workspaces by themselves."""

from __future__ import annotations

import re
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from wise_cellar.store.reading import rights, told
from wise_cellar.store.workspace_file import PART_PREFIX, WorkspaceError, explained, made_whole

FOLDER = ".wise-cellar-backups"
DAYS = 7
LARGEST_BYTES = 200_000_000
"""A larger file is not copied every day: it would hold the window up at its opening."""
_NAME = re.compile(r"(version-(?P<version>\d+)-)?(?P<day>\d{4}-\d\d-\d\d)\.cellar")


@dataclass(frozen=True)
class Backup:
    """One of them."""

    path: Path
    day: date
    """On which it was made, before anything was changed."""
    version: int | None
    """Of its tables, where it was made before they were changed."""
    size: int
    """Bytes."""


def folder_of(workspace: Path) -> Path:
    """Where the backups of a workspace stand, or would."""
    return workspace.parent / FOLDER / workspace.name


def backups_of(workspace: Path) -> list[Backup]:
    """Those that there are, the latest first."""
    found = []
    for path in folder_of(workspace).glob("*.cellar"):
        named = _NAME.fullmatch(path.name)
        if named is not None:
            version = named["version"]
            try:
                day = date.fromisoformat(named["day"])
            except ValueError:
                continue
            found.append(Backup(path, day, int(version) if version else None, path.stat().st_size))
    return sorted(found, key=lambda one: (one.day, one.version is None), reverse=True)


def keep_of_day(connection: sqlite3.Connection, workspace: Path, day: date) -> str:
    """Keep what a workspace holds, if nothing of this day is kept yet, and drop what is older than seven such days;
    a sentence where that could not be done, else none."""
    if workspace.stat().st_size > LARGEST_BYTES:
        return (
            f"{told(workspace.name)} is too large to be backed up at every opening; File › Save a copy… keeps it as it"
            " is."
        )
    daily = [one for one in backups_of(workspace) if one.version is None]
    if any(one.day == day for one in daily):
        return ""
    said = _kept(connection, workspace, folder_of(workspace) / f"{day.isoformat()}.cellar")
    for one in [] if said else daily[DAYS - 1 :]:
        one.path.unlink(missing_ok=True)
    return said


def keep_before(connection: sqlite3.Connection, workspace: Path, version: int, day: date) -> str:
    """Keep what a workspace of an earlier version holds, before its tables are changed; as :func:`keep_of_day`."""
    if workspace.name.startswith(PART_PREFIX):
        return ""  # one that is only being made
    return _kept(connection, workspace, folder_of(workspace) / f"version-{version}-{day.isoformat()}.cellar")


def _kept(connection: sqlite3.Connection, workspace: Path, target: Path) -> str:
    try:
        with explained(target):
            # What others may not read of a workspace, they may not read of its backup.
            target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            with made_whole(target) as part, closing(sqlite3.connect(part, isolation_level=None)) as copy:
                connection.backup(copy)
            target.chmod(rights(workspace))
    except WorkspaceError as error:
        return f"No backup of {told(workspace.name)} could be kept. {error}"
    return ""


def restored(backup: Backup, workspace: Path) -> Path:
    """Put what a backup holds beside the workspace that it is of, under a name of its own; which one. Neither the
    workspace nor the backup is touched. Raises :class:`WorkspaceError`."""
    stem = f"{workspace.stem} of {backup.day.isoformat()}"
    path = workspace.with_name(f"{stem}{workspace.suffix}")
    number = 2
    while path.exists():
        path, number = workspace.with_name(f"{stem} ({number}){workspace.suffix}"), number + 1
    with explained(path), made_whole(path, over=False) as part:
        part.write_bytes(backup.path.read_bytes())
    with explained(path):
        path.chmod(rights(backup.path))
    return path


def latest_words(workspace: Path) -> str:
    """Where the latest backup of a workspace stands, as a sentence may end with it; nothing where there is none."""
    every = backups_of(workspace)
    return f" Its latest backup is {told(every[0].path)}." if every else ""
