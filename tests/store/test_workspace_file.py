"""The file of a workspace: made whole, looked at without a byte being written, and missed when it is gone."""

from __future__ import annotations

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from contextlib import closing
from pathlib import Path

import pytest

from tests.builders import cell_type
from wise_cellar.core.documents import CellType, DischargeRecord
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.workspace_file import APPLICATION_ID, MIGRATIONS, PART_PREFIX, PART_SUFFIX


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "work.cellar"


def files(folder: Path) -> dict[str, bytes]:
    return {each.name: each.read_bytes() for each in folder.iterdir()}


def mass(path: Path) -> float:
    with Workspace.open(path) as opened:
        return opened.all(CellType)["cell"].mass_g


def test_a_kill_while_a_workspace_is_made_leaves_nothing_in_the_way(tmp_path: Path) -> None:
    """Killed at every statement of the making: the name is free, or what stands there is whole."""
    program = f"""
import os, sys
from pathlib import Path
from wise_cellar.store import Workspace
left = 0
def count(event, _):
    global left
    if event.startswith(("sqlite3", "open", "os.", "tempfile")):
        left -= 1
        if left == -1:  # the kill itself is an event too
            os.kill(os.getpid(), 9)
for steps in range(60):
    if os.fork() == 0:
        left = steps
        sys.addaudithook(count)
        Workspace.open(Path({str(tmp_path)!r}, str(steps), "work.cellar")).close()
        os._exit(0)
    print(os.wait()[1])
"""
    folders = [tmp_path / str(steps) for steps in range(60)]
    for folder in folders:
        folder.mkdir()
    done = subprocess.run([sys.executable, "-c", program], check=True, capture_output=True, text=True)
    ends = [int(line) for line in done.stdout.split()]
    assert ends.count(signal.SIGKILL) > 10
    assert ends[-1] == 0, "the last came to the end of the making"
    for folder in folders:
        with Workspace.open(folder / "work.cellar") as opened:
            opened.commit("Start", [cell_type()])
        assert mass(folder / "work.cellar") == cell_type().mass_g


def test_what_a_killed_making_left_is_swept_away_a_day_later(path: Path, tmp_path: Path) -> None:
    old, fresh = (tmp_path / f"{PART_PREFIX}{name}{PART_SUFFIX}" for name in ("old", "fresh"))
    old.write_bytes(b"half")
    fresh.write_bytes(b"half")
    os.utime(old, (time.time() - 2 * 24 * 3600,) * 2)
    Workspace.open(path).close()
    assert not old.exists()
    assert fresh.exists(), "another process may be at it"


def test_an_empty_file_becomes_a_workspace(path: Path) -> None:
    path.touch()
    with Workspace.open(path) as opened:
        opened.commit("Start", [cell_type()])
    assert mass(path) == cell_type().mass_g


def test_after_a_quiet_moment_a_copy_of_the_file_alone_is_whole(path: Path, tmp_path: Path) -> None:
    with Workspace.open(path) as opened:
        opened.commit("Start", [cell_type(mass_g=60)])
        opened.commit("Heavier", [cell_type(mass_g=64)])
        opened.settle()
        copy = tmp_path / "copy.cellar"
        shutil.copy(path, copy)
        assert mass(copy) == 64
        with Workspace.open(copy) as other:
            assert other.undo_label() == "Heavier"


@pytest.mark.parametrize("what", ["renamed", "deleted", "replaced", "overwritten", "folder renamed"])
def test_a_file_that_was_taken_away_is_missed_before_the_next_edit(path: Path, tmp_path: Path, what: str) -> None:
    other = tmp_path / "other.cellar"
    with Workspace.open(other) as another:
        another.commit("Start", [cell_type(mass_g=50)])
    folder = tmp_path / "folder"
    folder.mkdir()
    path = folder / "work.cellar"
    opened = Workspace.open(path)
    opened.commit("Start", [cell_type(mass_g=60)])
    opened.commit("Heavier", [cell_type(mass_g=64)])
    moved = tmp_path / "moved.cellar"
    if what == "renamed":
        path.rename(moved)
    elif what == "deleted":
        path.unlink()
    elif what == "replaced":
        os.replace(other, path)
    elif what == "folder renamed":
        folder.rename(tmp_path / "elsewhere")
        moved = tmp_path / "elsewhere" / "work.cellar"
    else:
        opened.settle()
        time.sleep(0.01)
        path.write_bytes(other.read_bytes())
    words = {"replaced": "was replaced by another file", "overwritten": "was changed by another program"}
    with pytest.raises(WorkspaceError, match=words.get(what, "was moved, renamed or deleted")) as refusal:
        opened.commit("Lost", [cell_type(mass_g=70)])
    assert "this change was not kept. File › Save a copy…" in str(refusal.value)
    with pytest.raises(WorkspaceError):
        opened.undo()
    if what in ("renamed", "folder renamed"):
        shutil.copy(moved, tmp_path / "alone.cellar")
        assert mass(tmp_path / "alone.cellar") == 64, "noticing it made the file whole where it is now"
    opened.close()
    if what in ("replaced", "overwritten"):
        assert mass(path) == 50, "what stands there now was left alone"


def test_a_file_that_was_only_touched_goes_on(path: Path) -> None:
    with Workspace.open(path) as opened:
        opened.commit("Start", [cell_type(mass_g=60)])
        opened.settle()
        os.utime(path)
        opened.commit("Heavier", [cell_type(mass_g=64)])
    assert mass(path) == 64


def test_a_long_row_of_edits_keeps_the_log_small(path: Path) -> None:
    with Workspace.open(path) as opened:
        for number in range(300):
            opened.commit("Notes", [cell_type(notes=f"{number} " + "x" * 3900, mass_g=60 + number)])
        assert Path(f"{path}-wal").stat().st_size < 6_000_000
    assert mass(path) == 359


def test_a_copy_has_everything_and_its_history(path: Path, tmp_path: Path) -> None:
    copy = tmp_path / "copy.cellar"
    with Workspace.open(path) as opened:
        opened.commit("Start", [cell_type(mass_g=60)], {"k" * 64: b"points"})
        opened.commit("Heavier", [cell_type(mass_g=64)])
        opened.copy_to(copy)
        opened.commit("After", [cell_type(mass_g=66)])
    with Workspace.open(copy) as other:
        assert other.all(CellType)["cell"].mass_g == 64
        assert other.undo_label() == "Heavier"
    assert {each.name for each in tmp_path.iterdir()} == {"work.cellar", "copy.cellar"}


def refusal_of(path: Path) -> str:
    """Why a file is not opened; nothing where it is."""
    try:
        Workspace.open(path).close()
    except WorkspaceError as error:
        return str(error)
    return ""


def damaged_workspaces(path: Path) -> list[bytes]:
    """A workspace damaged in many places, among them ones that only a look into the tables finds."""
    with Workspace.open(path) as opened:
        for number in range(30):
            opened.commit("Start", [cell_type(id=f"cell-{number}", notes="x" * 3000)])
    data, found = path.read_bytes(), []
    for start in range(0, len(data), 4096):
        scribbled = bytearray(data)
        scribbled[start + 8 : start + 40] = b"\xa5" * 32
        found.append(bytes(scribbled))
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        raw.execute("ALTER TABLE edit RENAME TO edits")
    found.append(path.read_bytes())
    return found


def test_a_refused_opening_leaves_every_byte(path: Path, tmp_path: Path) -> None:
    refused = 0
    for number, damaged in enumerate(damaged_workspaces(tmp_path / "whole.cellar")):
        folder = tmp_path / str(number)
        folder.mkdir()
        broken = folder / "work.cellar"
        broken.write_bytes(damaged)
        before = files(folder)
        said = refusal_of(broken)
        if said:
            refused += 1
            assert len(said) <= 300
            assert files(folder) == before
    assert refused > 10


def test_a_refused_opening_leaves_a_log_that_was_not_taken_over(path: Path, tmp_path: Path) -> None:
    program = f"""
import os
from pathlib import Path
from tests.builders import cell_type
from wise_cellar.store import Workspace
w = Workspace.open(Path({str(path)!r}))
w.commit("Start", [cell_type()])
w._connection.execute("DROP TABLE edit_change")
os.kill(os.getpid(), 9)
"""
    subprocess.run([sys.executable, "-c", program], check=False)
    before = files(tmp_path)
    assert any(name.endswith("-wal") for name in before)
    with pytest.raises(WorkspaceError, match="is damaged and was left as it is"):
        Workspace.open(path)
    assert files(tmp_path) == before


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("x" * 300 + ".cellar", "File name too long"),
        ("a\x00b.cellar", "null"),
        ("folder/work.cellar", "There is no folder"),
    ],
)
def test_names_that_no_file_can_have_are_sentences(tmp_path: Path, name: str, says: str) -> None:
    with pytest.raises(WorkspaceError, match=says) as refusal:
        Workspace.open(tmp_path / name)
    assert len(str(refusal.value)) <= 300


@pytest.mark.skipif(os.geteuid() != 0, reason="only root may step down to a user without rights")
def test_a_folder_without_rights_is_a_sentence(tmp_path: Path) -> None:
    closed = tmp_path / "closed"
    closed.mkdir()
    Workspace.open(closed / "work.cellar").close()
    closed.chmod(0o000)
    # The thread alone steps down, so that the rest of the run keeps its rights.
    said: list[str] = []
    os.seteuid(65534)
    try:
        Workspace.open(closed / "work.cellar")
    except WorkspaceError as error:
        said.append(str(error))
    finally:
        os.seteuid(0)
        closed.chmod(0o755)
    assert said
    assert "read-only" in said[0]


def test_a_kind_of_a_later_day_keeps_its_series(path: Path) -> None:
    """A document that this version does not know, under the same version of the file, names a series."""
    key, gone = "a" * 64, "b" * 64
    with Workspace.open(path) as opened:
        opened.commit("Start", [cell_type()], {key: b"points of tomorrow", gone: b"nobody's"})
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        raw.execute(
            "INSERT INTO document (kind, id, body) VALUES ('recording', 'flight', ?)", (f'{{"series_key": "{key}"}}',)
        )
    with Workspace.open(path) as again:
        assert again.series(key) == b"points of tomorrow"
        with pytest.raises(WorkspaceError):
            again.series(gone)
    with closing(sqlite3.connect(path)) as raw:
        kept = raw.execute("SELECT body FROM document WHERE kind = 'recording'").fetchone()
    assert kept is not None, "and stays itself"


def test_a_broken_document_keeps_its_series(path: Path) -> None:
    key = "c" * 64
    record = DischargeRecord(
        id="log", name="C/2", cell_type_id="cell", series_key=key, points=20, mean_current_a=2.5, charge_mah=4000,
        end_v=2.5,
    )  # fmt: skip
    with Workspace.open(path) as opened:
        opened.commit("Start", [record], {key: b"points"})
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        raw.execute("""UPDATE document SET body = replace(body, '"points": 20', '"points": -20')""")
        raw.execute("DELETE FROM edit")
    with Workspace.open(path) as again:
        assert len(again.read().broken) == 1
        assert again.series(key) == b"points"


def test_what_undo_would_bring_is_seen_before_it_is_written(path: Path) -> None:
    with Workspace.open(path) as opened:
        opened.commit("Start", [cell_type(mass_g=60)])
        opened.commit("Heavier", [cell_type(mass_g=64)])
        journey = opened.way_back()
        assert journey is not None
        assert (journey.label, journey.changes) == ("Heavier", (cell_type(mass_g=60),))
        assert opened.all(CellType)["cell"].mass_g == 64
        assert opened.undo_label() == "Heavier"
        assert opened.way_on() is None
        opened.undo()
        on = opened.way_on()
        assert on is not None
        assert on.changes == (cell_type(mass_g=64),)


def test_a_workspace_of_version_1_that_is_refused_is_not_brought_up(path: Path) -> None:
    with closing(sqlite3.connect(path)) as raw:
        for statement in MIGRATIONS[0].split(";"):
            if "edit_change" not in statement:
                raw.execute(statement)
        raw.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        raw.execute("PRAGMA user_version = 1")
        raw.commit()
    before = path.read_bytes()
    with pytest.raises(WorkspaceError, match="is damaged"):
        Workspace.open(path)
    assert path.read_bytes() == before


def test_two_makings_of_one_name_do_not_overwrite_each_other(path: Path) -> None:
    opened: list[Workspace] = []
    said: list[str] = []

    def make() -> None:
        try:
            workspace = Workspace.open(path)
            opened.append(workspace)
        except WorkspaceError as error:
            said.append(str(error))

    threads = [threading.Thread(target=make) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(opened) + len(said) == 4
    assert all("meanwhile" in each or "open in another" in each or "is not a Wise" in each for each in said), said
