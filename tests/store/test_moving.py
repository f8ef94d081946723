"""Moving out and in again: all of a workspace as JSON and CSV, and nothing lost on the way there and back."""

from __future__ import annotations

import csv
import json
from contextlib import closing
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.builders import cell_type, craft, mission
from wise_cellar.cli import main
from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import DischargeRecord, DocumentError, RecordedChannel, Recording
from wise_cellar.demo import sample_workspace
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.moving import LIST, READ_ME, move_in, move_out
from wise_cellar.store.series import growing_key, pack_curve, series_key, unpack_curve


def held(path: Path) -> tuple[Any, ...]:
    """All that a workspace holds, its history aside."""
    with closing(Workspace.open(path)) as workspace:
        series = {key: b"".join(workspace.series_parts(key)) for key in workspace.series_names()}
        return workspace.stored_documents(), series, workspace.settings()


def there_and_back(path: Path, folder: Path) -> Path:
    with closing(Workspace.open(path)) as workspace:
        move_out(workspace, folder)
    again = folder.with_suffix(".cellar")
    move_in(folder, again)
    return again


def test_the_sample_world_is_whole_on_the_way_there_and_back(tmp_path: Path) -> None:
    path = tmp_path / "sample.cellar"
    sample_workspace(path).close()
    again = there_and_back(path, tmp_path / "moved")
    assert held(again) == held(path)
    with closing(Workspace.open(again)) as workspace:
        assert not workspace.read().broken
    assert "move-in" in (tmp_path / "moved" / READ_ME).read_text()
    assert json.loads((tmp_path / "moved" / "documents" / "craft" / "whimbrel.json").read_text())["name"] == "Whimbrel"


def test_points_and_rows_are_tables_with_a_unit_in_each_heading(tmp_path: Path) -> None:
    path = tmp_path / "sample.cellar"
    sample_workspace(path).close()
    there_and_back(path, tmp_path / "moved")
    listed = {one["key"]: one for one in json.loads((tmp_path / "moved" / LIST).read_text())["series"]}
    with closing(Workspace.open(path)) as workspace:
        record = next(iter(workspace.all(DischargeRecord).values()))
        curve = unpack_curve("", workspace.series(record.series_key))
        recording = next(iter(workspace.all(Recording).values()))
    rows = list(csv.reader((tmp_path / "moved" / listed[record.series_key]["file"]).read_text().splitlines()))
    assert rows[0] == ["time_s", "voltage_v", "current_a", "temperature_k"]
    assert [float(field) for field in rows[5]][1] == curve.voltage_v[4]
    table = (tmp_path / "moved" / listed[recording.series_key]["file"]).read_text().splitlines()
    assert table[0].startswith("time_s,volts_V,amps_A")
    assert {one["form"] for one in listed.values()} == {"curve", "rows", "bytes"}, "the sample's chart is a picture"


figures = st.floats(-1e6, 1e6) | st.sampled_from([float("nan"), float("inf"), -0.0, 5e-324])
text = st.text(st.characters(exclude_categories=["Cs"]), max_size=30)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_whatever_it_holds_comes_back(tmp_path_factory: pytest.TempPathFactory, data: st.DataObject) -> None:
    folder = tmp_path_factory.mktemp("moving")
    path = folder / "made.cellar"
    draw = data.draw
    steps = draw(st.lists(st.floats(1e-3, 1e4), min_size=12, max_size=20))
    others = [draw(st.lists(st.floats(0.1, 400), min_size=len(steps), max_size=len(steps))) for _ in range(3)]
    curve = DischargeCurve("", np.cumsum(steps), *(np.array(values) for values in others))
    body, rows_key = pack_curve(curve), growing_key()
    rows = np.array(draw(st.lists(st.lists(figures, min_size=2, max_size=2), max_size=5)), float).reshape(-1, 2)
    with closing(Workspace.open(path)) as workspace:
        documents = [
            cell_type(id="c", name=draw(st.sampled_from(["Fell 21-45P", "Größe, „x“", "a\\b"]))), craft(), mission(),
            DischargeRecord(id="d", name="d", cell_type_id="c", series_key=series_key(body), points=len(steps),
                            mean_current_a=2, charge_mah=3, end_v=2.5),
            Recording(id="r", name="r", cell_type_id="c", series_key=rows_key, begun_at="2026-03-14T10:00:00", amps=5,
                      least_v=2.5, channels=(RecordedChannel(quantity="volts", unit="V"),)),
        ]  # fmt: skip
        workspace.commit("All", documents, {series_key(body): body})
        workspace.grow_series(rows_key, [rows[:2].tobytes(), rows[2:].tobytes()])
        # What cannot be read, and what a later version knows, comes along as it is.
        workspace.store_documents([("craft", draw(text) + "/..", draw(text), None), ("tide", "Ä", draw(text), 12.5)])
        for name in draw(st.lists(text, max_size=3)):
            workspace.remember(name, draw(text))
    assert held(there_and_back(path, folder / "moved")) == held(path)


def spoiled(tmp_path: Path) -> Path:
    path = tmp_path / "sample.cellar"
    sample_workspace(path).close()
    with closing(Workspace.open(path)) as workspace:
        move_out(workspace, tmp_path / "moved")
    return tmp_path / "moved"


def test_what_is_wrong_in_a_folder_is_told_with_its_file(tmp_path: Path) -> None:
    folder, again = spoiled(tmp_path), tmp_path / "again.cellar"
    listed = json.loads((folder / LIST).read_text())
    curve = folder / next(one["file"] for one in listed["series"] if one["form"] == "curve")
    whole = curve.read_text()
    curve.write_text(whole.replace("\n", "\n1,2,three,4\n", 1))
    with pytest.raises(DocumentError, match=r"\.csv, line 2: “1,2,three,4” must be 4 numbers with commas between\."):
        move_in(folder, again)
    curve.unlink()
    with pytest.raises(DocumentError, match="There is no file"):
        move_in(folder, again)
    curve.write_text(whole)
    for wrong, says in (
        ({"version": 2}, r"moved out by a newer Wise Cellar \(version 2; this one reads 1\)"),
        ({"format": "x"}, "is not the list of a folder"),
        ({"documents": [{"file": "x"}]}, "is not the list of a folder"),
        ({"documents": [{"file": "../x", "kind": "craft", "id": "x"}]}, "lies outside of the folder"),
    ):
        (folder / LIST).write_text(json.dumps(listed | wrong))
        with pytest.raises(DocumentError, match=says):
            move_in(folder, again)
    assert not again.exists()
    assert not list(tmp_path.glob(".wise-cellar-*.part"))


def test_nothing_is_written_over(tmp_path: Path) -> None:
    folder = spoiled(tmp_path)
    before = {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    with (
        closing(Workspace.open(tmp_path / "sample.cellar")) as workspace,
        pytest.raises(DocumentError, match="not empty"),
    ):
        move_out(workspace, folder)
    assert {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()} == before
    with pytest.raises(WorkspaceError, match="has come to be there"):
        move_in(folder, tmp_path / "sample.cellar")


def test_both_commands(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, folder, again = tmp_path / "s.cellar", tmp_path / "moved", tmp_path / "again.cellar"
    sample_workspace(path).close()
    assert main(["move-out", str(path), str(folder)]) == 0
    assert main(["move-in", str(folder), str(again)]) == 0
    assert f"documents are in {again}." in capsys.readouterr().out
    assert held(again) == held(path)
    assert main(["move-out", str(tmp_path / "none.cellar"), str(tmp_path / "x")]) == 2
    assert "There is no file" in capsys.readouterr().err
    assert not (tmp_path / "none.cellar").exists()
