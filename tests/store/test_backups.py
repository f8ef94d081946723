"""Backups: as a workspace was found on each of seven days, and before its tables change; opened under another name."""

from __future__ import annotations

import gzip
import sqlite3
from contextlib import closing
from datetime import date, timedelta
from pathlib import Path

import pytest

from tests.builders import cell_type
from tests.store.test_versions import VERSIONS
from wise_cellar.core.documents import CellType
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.backups import DAYS, backups_of, folder_of, restored
from wise_cellar.store.workspace_file import VERSION

DAY = date(2026, 3, 14)


def opened_on(path: Path, day: date, *names: str) -> None:
    """The workspace opened on a day, and cells of these names put into it."""
    with closing(Workspace.open(path, backed_up=day)) as workspace:
        for name in names:
            workspace.commit(name, [cell_type(id=name, name=name)])


def names_in(path: Path) -> set[str]:
    with closing(Workspace.open(path)) as workspace:
        return set(workspace.read().documents.get(CellType, {}))


def test_a_workspace_is_kept_as_it_was_found_on_each_day(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    assert backups_of(path) == [], "there was nothing to keep"
    opened_on(path, DAY, "second")
    opened_on(path, DAY, "third")
    opened_on(path, DAY + timedelta(1), "fourth")
    later, earlier = backups_of(path)
    assert (later.day, earlier.day) == (DAY + timedelta(1), DAY)
    assert names_in(earlier.path) == {"first"}
    assert names_in(later.path) == {"first", "second", "third"}
    assert names_in(path) == {"first", "second", "third", "fourth"}


def test_the_latest_seven_days_stay(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    for number in range(12):
        opened_on(path, DAY + timedelta(3 * number), f"c{number}")
    days = [one.day for one in backups_of(path)]
    assert days == [DAY + timedelta(3 * number) for number in range(11, 11 - DAYS, -1)]


def test_what_was_in_the_log_of_a_killed_process_is_kept_too(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    with closing(sqlite3.connect(path, isolation_level=None)) as killed:
        killed.execute("PRAGMA journal_mode = WAL")
        killed.execute("PRAGMA wal_autocheckpoint = 0")
        killed.execute("UPDATE document SET body = replace(body, '\"first\"', '\"other\"'), id = 'other'")
        for ending in ("", "-wal"):
            (tmp_path / f"copy.cellar{ending}").write_bytes(Path(f"{path}{ending}").read_bytes())
    opened_on(tmp_path / "copy.cellar", DAY)
    (kept,) = backups_of(tmp_path / "copy.cellar")
    assert names_in(kept.path) == {"other"}


@pytest.mark.parametrize("version", sorted(int(path.name[10:].split(".")[0]) for path in VERSIONS.glob("workspace-*")))
def test_before_its_tables_change_a_workspace_is_kept(tmp_path: Path, version: int) -> None:
    path = tmp_path / "old.cellar"
    body = gzip.decompress((VERSIONS / f"workspace-{version}.cellar.gz").read_bytes())
    path.write_bytes(body)
    before = int.from_bytes(body[60:64], "big")
    Workspace.open(path).close()
    kept = backups_of(path)
    assert [one.version for one in kept] == ([before] if before < VERSION else [])
    for one in kept:
        assert int.from_bytes(one.path.read_bytes()[60:64], "big") == before
        assert names_in(one.path) == names_in(path)


def test_a_backup_is_opened_under_a_name_of_its_own(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    opened_on(path, DAY, "second")
    (backup,) = backups_of(path)
    whole = backup.path.read_bytes(), path.read_bytes()
    one, two = restored(backup, path), restored(backup, path)
    assert (one.name, two.name) == ("mine of 2026-03-14.cellar", "mine of 2026-03-14 (2).cellar")
    assert names_in(one) == {"first"}
    assert (backup.path.read_bytes(), path.read_bytes()) == whole


def test_what_others_may_not_read_they_may_not_read_of_a_backup(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    path.chmod(0o600)
    opened_on(path, DAY)
    (backup,) = backups_of(path)
    for file in (backup.path, restored(backup, path)):
        assert file.stat().st_mode & 0o777 == 0o600
    assert folder_of(path).stat().st_mode & 0o077 == 0


def test_a_damaged_workspace_says_where_its_latest_backup_is(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    opened_on(path, DAY)
    path.write_bytes(path.read_bytes()[:5000])
    with pytest.raises(WorkspaceError, match=r"is damaged .* Its latest backup is .*2026-03-14\.cellar\."):
        Workspace.open(path)


def test_a_workspace_opens_where_no_backup_can_be_kept_and_says_so(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    folder_of(path).parent.write_text("a file stands in the way")
    with closing(Workspace.open(path, backed_up=DAY)) as workspace:
        assert workspace.unkept.startswith("No backup of mine.cellar could be kept.")


def test_a_large_workspace_is_not_copied_every_day(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wise_cellar.store.backups.LARGEST_BYTES", 10_000)
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    with closing(Workspace.open(path, backed_up=DAY)) as workspace:
        assert "File › Save a copy… keeps it" in workspace.unkept
    assert backups_of(path) == []


def test_other_files_in_the_folder_are_no_backups(tmp_path: Path) -> None:
    path = tmp_path / "mine.cellar"
    opened_on(path, DAY, "first")
    folder_of(path).mkdir(parents=True)
    for name in ("notes.cellar", "2026-13-99.cellar", "version-x-2026-01-01.cellar"):
        (folder_of(path) / name).write_text("mine")
    assert backups_of(path) == []
    for number in range(9):
        opened_on(path, DAY + timedelta(number))
    assert (folder_of(path) / "notes.cellar").exists()
