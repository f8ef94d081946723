"""The workspace file: every edit a transaction, undo that survives, and files that are refused untouched."""

from __future__ import annotations

import json
import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest

from tests.builders import cell_type, complete, craft, mission
from tests.disk import SmallDisk
from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import CellType, Craft, Design, DischargeRecord, DocumentError, Mission
from wise_cellar.store import Removal, Workspace, WorkspaceError
from wise_cellar.store.series import GROWING, growing_key, pack_curve, series_key, unpack_curve
from wise_cellar.store.workspace import seeded
from wise_cellar.store.workspace_file import APPLICATION_ID, MIGRATIONS, VERSION, migrate


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "work.cellar"


@pytest.fixture
def workspace(path: Path) -> Iterator[Workspace]:
    with Workspace.open(path) as opened:
        yield opened


def heavier(mass: float) -> CellType:
    return cell_type(mass_g=mass)


def mass(workspace: Workspace) -> float:
    return workspace.all(CellType)["cell"].mass_g


def test_documents_of_every_kind_come_back(path: Path) -> None:
    documents = [craft(), cell_type(), mission(), complete().design]
    with Workspace.open(path) as first:
        first.commit("Start", documents)
    with Workspace.open(path) as again:
        found = [next(iter(again.all(model).values())) for model in (Craft, CellType, Mission, Design)]
    assert found == documents


def test_an_edit_is_kept_without_saving(workspace: Workspace, path: Path) -> None:
    workspace.commit("Start", [heavier(60)])
    workspace.commit("Change mass", [heavier(61)])
    workspace.close()
    with Workspace.open(path) as again:
        assert mass(again) == 61


def test_undo_and_redo_walk_the_edits(workspace: Workspace) -> None:
    for grams in (60, 61, 62):
        workspace.commit(f"Mass {grams}", [heavier(grams)])
    assert workspace.undo_label() == "Mass 62"
    assert workspace.undo()
    assert workspace.undo()
    assert mass(workspace) == 60
    assert workspace.redo_label() == "Mass 61"
    assert workspace.redo()
    assert mass(workspace) == 61
    workspace.commit("Mass 70", [heavier(70)])
    assert workspace.redo_label() is None, "a fresh edit forgets what was undone"
    assert not workspace.redo()


def test_undo_survives_reopening(path: Path) -> None:
    with Workspace.open(path) as first:
        first.commit("Start", [heavier(60)])
        first.commit("Heavier", [heavier(65)])
    with Workspace.open(path) as again:
        assert again.undo_label() == "Heavier"
        again.undo()
        assert mass(again) == 60
    with Workspace.open(path) as third:
        assert third.redo_label() == "Heavier"


def test_an_edit_of_several_documents_is_one(workspace: Workspace) -> None:
    workspace.commit("Start", [craft(), cell_type()])
    workspace.commit("Both", [craft(name="Dunlin"), Removal("cell_type", "cell")])
    assert not workspace.all(CellType)
    workspace.undo()
    assert workspace.all(Craft)["craft"].name == "Whimbrel"
    assert workspace.all(CellType)["cell"] == cell_type()
    workspace.undo()
    assert not workspace.all(Craft), "the first edit can be taken back too"
    assert not workspace.undo()


def test_what_a_workspace_starts_from_is_no_edit(workspace: Workspace) -> None:
    workspace.seed([cell_type()])
    assert workspace.undo_label() is None
    assert not workspace.undo()
    assert workspace.all(CellType)["cell"] == cell_type()


def test_settings_are_remembered_and_not_undone(workspace: Workspace) -> None:
    workspace.commit("Start", [cell_type()])
    workspace.remember("design", "one")
    workspace.remember("design", "two")
    workspace.undo()
    assert workspace.setting("design") == "two"
    assert workspace.setting("other") is None


def test_a_failing_edit_leaves_nothing_behind(workspace: Workspace) -> None:
    workspace.commit("Start", [heavier(60)])
    with pytest.raises(KeyError):
        workspace.commit("Half", [heavier(61), complete()])
    assert mass(workspace) == 60
    assert workspace.undo_label() == "Start"


def test_history_is_bounded(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wise_cellar.store.workspace.KEPT_EDITS", 3)
    for grams in range(60, 66):
        workspace.commit("Mass", [heavier(grams)])
    assert sum(1 for _ in range(10) if workspace.undo()) == 3
    assert mass(workspace) == 62


def test_a_full_disk_is_a_sentence_and_the_last_state_stays(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    disk = SmallDisk(monkeypatch)
    workspace = Workspace.open(path)
    workspace.commit("Start", [heavier(60)])
    disk.fill(pages_left=1)
    with pytest.raises(WorkspaceError, match=r"is full\. The last change was not kept; free some space"):
        workspace.commit("Too much", [cell_type(id=f"cell-{n}", notes="x" * 4000) for n in range(20)])
    assert list(workspace.all(CellType)) == ["cell"]
    workspace.close()
    with Workspace.open(path) as again:
        assert mass(again) == 60


def refused(path: Path) -> str:
    """Open a file that must be refused, and check that its bytes stay."""
    before = path.read_bytes()
    with pytest.raises(WorkspaceError) as refusal:
        Workspace.open(path)
    assert path.read_bytes() == before, "the file was left as it is"
    assert not list(path.parent.glob(path.name + "-*")), "and nothing was put beside it"
    assert str(refusal.value).endswith(".")
    return str(refusal.value)


def test_a_foreign_file_is_refused(path: Path) -> None:
    path.write_text("Dear diary")
    assert "is not a Wise Cellar workspace" in refused(path)


def test_a_database_of_another_program_is_refused(path: Path) -> None:
    with sqlite3.connect(path) as other:
        other.execute("CREATE TABLE birds (name TEXT)")
    other.close()
    assert "database of another program" in refused(path)


def test_a_newer_workspace_is_refused(path: Path) -> None:
    Workspace.open(path).close()
    with sqlite3.connect(path) as newer:
        newer.execute(f"PRAGMA user_version = {VERSION + 1}")
    newer.execute("PRAGMA journal_mode = DELETE")
    newer.close()
    said = refused(path)
    assert f"workspace version {VERSION + 1}; this one reads up to {VERSION}" in said


@pytest.mark.parametrize("damage", ["truncated", "scribbled"])
def test_a_damaged_workspace_is_refused(path: Path, damage: str) -> None:
    with Workspace.open(path) as whole:
        whole.commit("Start", [cell_type(id=f"cell-{n}", notes="x" * 3000) for n in range(30)])
    data = bytearray(path.read_bytes())
    if damage == "truncated":
        data = data[: len(data) // 2]
    else:
        data[4096 : len(data) - 4096] = b"\xa5" * (len(data) - 8192)
    path.write_bytes(bytes(data))
    with pytest.raises(WorkspaceError, match="is damaged and was left as it is"):
        Workspace.open(path)
    assert path.read_bytes() == bytes(data)


def test_a_short_header_is_damage(path: Path) -> None:
    path.write_bytes(b"SQLite format 3\x00abc")
    assert "is damaged" in refused(path)


@pytest.mark.parametrize(
    ("damage", "says"),
    [
        ("UPDATE document SET body = replace(body, '4500', '-4500') WHERE id = 'cell'", "Capacity must be more than"),
        ("UPDATE document SET body = substr(body, 1, 90) WHERE id = 'cell'", "This is not JSON"),
        ("UPDATE document SET body = x'00ff' WHERE id = 'cell'", "This is not JSON"),
        ("UPDATE document SET id = 'other' WHERE id = 'cell'", "calls itself “cell”"),
    ],
)
def test_a_broken_document_is_told_and_the_rest_is_whole(path: Path, damage: str, says: str) -> None:
    with Workspace.open(path) as whole:
        whole.commit("Start", [cell_type(), craft()])
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        raw.execute(damage)
        kept = raw.execute("SELECT CAST(body AS BLOB) FROM document WHERE kind = 'cell_type'").fetchone()[0]
    with Workspace.open(path) as again:
        assert again.all(Craft) == {"craft": craft()}
        assert again.all(CellType) == {}
        (broken,) = again.read().broken
        assert (broken.kind, says in broken.sentence) == ("cell_type", True)
    with closing(sqlite3.connect(path)) as raw:
        now = raw.execute("SELECT CAST(body AS BLOB) FROM document WHERE kind = 'cell_type'").fetchone()[0]
    assert now == kept, "what cannot be read is left as it is"


def test_a_folder_that_is_not_there(tmp_path: Path) -> None:
    with pytest.raises(WorkspaceError, match="There is no folder"):
        Workspace.open(tmp_path / "nowhere" / "w.cellar")


def test_two_windows_on_one_workspace_are_refused(workspace: Workspace, path: Path) -> None:
    workspace.commit("Start", [cell_type()])
    with pytest.raises(WorkspaceError, match="is open in another Wise Cellar"):
        Workspace.open(path)


@pytest.mark.skipif(os.geteuid() != 0, reason="only root may step down to a user without rights")
def test_a_read_only_folder_as_a_user_without_rights() -> None:
    with tempfile.TemporaryDirectory() as folder:
        _read_only_folder(Path(folder), lambda: os.seteuid(65534), lambda: os.seteuid(0))


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write anywhere")
def test_a_read_only_folder() -> None:
    with tempfile.TemporaryDirectory() as folder:
        _read_only_folder(Path(folder), lambda: None, lambda: None)


def _read_only_folder(folder: Path, step_down, step_up) -> None:  # type: ignore[no-untyped-def]
    path = folder / "w.cellar"
    with Workspace.open(path) as whole:
        whole.commit("Start", [cell_type()])
    path.chmod(0o444)
    folder.chmod(0o555)
    before = path.read_bytes()
    step_down()
    try:
        with pytest.raises(WorkspaceError, match=r"is read-only\. Copy it to a folder of your own"):
            Workspace.open(path)
        with pytest.raises(WorkspaceError, match="is read-only"):
            Workspace.open(folder / "fresh.cellar")
    finally:
        step_up()
        folder.chmod(0o755)
    assert path.read_bytes() == before


def test_what_was_committed_survives_a_kill(path: Path) -> None:
    """A process that commits and is then killed at once, in the middle of another edit."""
    program = f"""
import os, signal, sys
from pathlib import Path
from tests.builders import cell_type
from wise_cellar.store import Workspace
w = Workspace.open(Path({str(path)!r}))
w.commit("Start", [cell_type(mass_g=60)])
w.commit("Kept", [cell_type(mass_g=64)])
w._connection.execute("BEGIN IMMEDIATE")
w._connection.execute("DELETE FROM document")
os.kill(os.getpid(), signal.SIGKILL)
"""
    done = subprocess.run([sys.executable, "-c", program], check=False)
    assert done.returncode == -signal.SIGKILL
    with Workspace.open(path) as again:
        assert mass(again) == 64
        assert again.undo_label() == "Kept"


def test_the_file_says_what_it_is(path: Path) -> None:
    Workspace.open(path).close()
    header = path.read_bytes()[:100]
    assert int.from_bytes(header[68:72], "big") == APPLICATION_ID
    assert int.from_bytes(header[60:64], "big") == VERSION


# Series


def record(key: str, identifier: str = "log") -> DischargeRecord:
    return DischargeRecord(
        id=identifier, name="C/2", cell_type_id="cell", series_key=key, points=20, mean_current_a=2.5, charge_mah=4000,
        end_v=2.5,
    )  # fmt: skip


def kept_series(path: Path) -> set[str]:
    with closing(sqlite3.connect(path)) as raw:
        return {row[0] for row in raw.execute("SELECT DISTINCT key FROM series_part")}


def test_a_series_comes_and_goes_with_its_record_and_survives_undo(tmp_path: Path) -> None:
    path = tmp_path / "w.cellar"
    with Workspace.open(path) as workspace:
        workspace.commit("import", [record("abc")], {"abc": b"points"})
    with Workspace.open(path) as workspace:
        assert workspace.series("abc") == b"points"
        workspace.undo()
        assert workspace.all(DischargeRecord) == {}
    with Workspace.open(path) as workspace:
        assert workspace.series("abc") == b"points", "it can still be made again"
        workspace.redo()
        assert workspace.all(DischargeRecord)["log"].series_key == "abc"


def test_a_series_of_version_2_is_the_first_part_of_itself(path: Path) -> None:
    key = series_key(b"points")
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        migrate(raw.execute, 0, newest=2)
        raw.execute("INSERT INTO document (kind, id, body) VALUES ('discharge', 'log', ?)", (record(key).to_json(),))
        raw.execute("INSERT INTO series VALUES (?, ?)", (key, b"points"))
    with Workspace.open(path) as workspace:
        assert workspace.all(DischargeRecord)["log"].series_key == key
        assert workspace.series_parts(key) == [b"points"]
    assert kept_series(path) == {key}


def test_a_series_that_nothing_names_any_more_is_forgotten_at_the_next_opening(tmp_path: Path) -> None:
    path = tmp_path / "w.cellar"
    with Workspace.open(path) as workspace:
        workspace.commit("import", [record("abc")], {"abc": b"points"})
        workspace.undo()
        workspace.commit("import", [record("def", "other")], {"def": b"others"})
    with Workspace.open(path):
        pass
    assert kept_series(path) == {"def"}


def test_a_series_grows_by_parts_that_are_read_from_a_place_on(tmp_path: Path) -> None:
    path, key = tmp_path / "w.cellar", growing_key()
    with Workspace.open(path) as workspace:
        workspace.commit("begin", [record(key)])
        assert workspace.series_parts(key) == []
        for part in (b"one", b"two"):
            workspace.grow_series(key, [part])
        workspace.grow_series(key, [b"three", b"four"])
        assert workspace.undo_label() == "begin", "a part that comes is no edit"
    with Workspace.open(path) as again:
        assert again.series_parts(key) == [b"one", b"two", b"three", b"four"]
        assert again.series_parts(key, since=3) == [b"four"]
        assert again.series(key) == b"onetwothreefour"
        again.undo()
        again.commit("other", [cell_type()])
    with Workspace.open(path) as gone:
        assert gone.series_parts(key) == [], "nothing names it any more"


def test_parts_that_cannot_be_kept_leave_none_of_them(tmp_path: Path) -> None:
    with Workspace.open(tmp_path / "w.cellar") as workspace:
        workspace.commit("begin", [record("growing-a")])
        workspace.grow_series("growing-a", [b"one"])

        def broken_off() -> Iterator[bytes]:
            yield b"two"
            raise OSError("the link broke off")

        with pytest.raises(WorkspaceError):
            workspace.grow_series("growing-a", broken_off())
        assert workspace.series_parts("growing-a") == [b"one"]


def test_a_fresh_file_of_the_same_documents_takes_the_parts_along(tmp_path: Path) -> None:
    whole = b"points"
    documents = [record(GROWING + "a", "grown"), record(series_key(whole), "whole"), record("d" * 64, "wrong")]
    with Workspace.open(tmp_path / "w.cellar") as workspace:
        workspace.commit("begin", documents, {series_key(whole): whole, "d" * 64: b"not what its name says"})
        workspace.grow_series(GROWING + "a", [b"one", b"two"])
        parts = workspace.sound_series(documents)
    assert parts == {GROWING + "a": [b"one", b"two"], series_key(whole): [whole]}
    seeded(tmp_path / "copy.cellar", documents, parts, "")
    with Workspace.open(tmp_path / "copy.cellar") as copy:
        assert copy.sound_series(documents) == parts


def test_a_missing_series_is_a_sentence(tmp_path: Path) -> None:
    with (
        Workspace.open(tmp_path / "w.cellar") as workspace,
        pytest.raises(WorkspaceError, match="import its file again"),
    ):
        workspace.series("none")


def test_a_refused_commit_keeps_no_series(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "w.cellar"
    disk = SmallDisk(monkeypatch)
    with Workspace.open(path) as workspace:
        disk.fill(pages_left=1)
        large = [cell_type(id=f"cell-{n}", notes="x" * 4000) for n in range(20)]
        with pytest.raises(WorkspaceError, match="is full"):
            workspace.commit("import", [record("abc"), *large], {"abc": b"points"})
    assert kept_series(path) == set()


def test_a_workspace_of_version_1_is_brought_up(tmp_path: Path) -> None:
    path = tmp_path / "w.cellar"
    with closing(sqlite3.connect(path)) as raw:
        for statement in MIGRATIONS[0].split(";"):
            raw.execute(statement)
        raw.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        raw.execute("PRAGMA user_version = 1")
        old = cell_type().model_dump(mode="json", exclude_none=True) | {"schema_version": 1}
        raw.execute("INSERT INTO document (kind, id, body) VALUES ('cell_type', 'cell', ?)", (json.dumps(old),))
        raw.commit()
    with Workspace.open(path) as workspace:
        assert workspace.all(CellType) == {"cell": cell_type()}
        workspace.commit("import", [record("abc")], {"abc": b"points"})


def test_a_discharge_survives_its_bytes_and_damaged_bytes_are_a_sentence() -> None:
    curve = DischargeCurve(
        "C/2", *(np.linspace(low, high, 40) for low, high in ((0, 900), (4.1, 3), (2, 2), (298, 310)))
    )
    body = pack_curve(curve)
    back = unpack_curve("C/2", body)
    for name in ("time_s", "voltage_v", "current_a", "temperature_k"):
        assert np.array_equal(getattr(back, name), getattr(curve, name))
    assert series_key(body) == series_key(pack_curve(curve)), "the same content has the same name"
    for damaged in (b"", b"abc", body[:100], body[:-40]):
        with pytest.raises(DocumentError, match="The points of C/2 are damaged; import the file again"):
            unpack_curve("C/2", damaged)
