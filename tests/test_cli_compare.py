"""``wise-cellar compare``: the search without a window."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from tests.builders import LANDING, PUNCH, cell_type, complete, cruise, mission
from wise_cellar.cli import main
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CellType, Strip, export_text
from wise_cellar.demo import sample_documents
from wise_cellar.store import Workspace
from wise_cellar.store.cell_tables import write_cell_table

DESIGN = complete(strip=Strip(layers=4, width_mm=12), flown=mission(cruise(60), PUNCH, cruise(), LANDING))


@pytest.fixture
def exported(tmp_path: Path) -> Path:
    path = tmp_path / "design.json"
    path.write_text(export_text(DESIGN), encoding="utf-8")
    return path


def rows(path: Path) -> list[dict[str, str]]:
    return list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))


def test_rows_are_what_predict_says(exported: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "found.csv"
    given = ["--series", "3:5", "--parallel", "2:3", "--gauges", "10,12", "--csv", str(out), "--excluded"]
    assert main(["compare", str(exported), *given]) == 0
    found = rows(out)
    assert len(found) == 3 * 2 * 2
    for row in found[::4]:
        recipe = DESIGN.pack.recipe.model_copy(
            update={
                "series_count": int(row["series"]),
                "parallel_count": int(row["parallel"]),
                "leads": DESIGN.pack.recipe.leads.model_copy(update={"gauge_awg": int(row["lead_awg"])}),
            }
        )
        one = answer(DESIGN.with_pack(recipe=recipe))
        assert float(row["duration_s"]) == pytest.approx(one.duration_s, rel=1e-5)
        assert float(row["takeoff_mass_g"]) == pytest.approx(one.takeoff_mass_g, rel=1e-5)
    said = capsys.readouterr().out
    passing = [row for row in found if not row["excluded_by"]]
    assert f"{len(passing)} of 12 designs keep to every limit." in said
    assert "12 rows written" in said


def test_wishes_and_policies(exported: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "found.csv"
    given = ["--parallel", "1:6", "--policies", "all", "--joints", "spot-welded", "soldered", "--least-margin", "1.8"]
    assert main(["compare", str(exported), *given, "--csv", str(out)]) == 0
    assert rows(out)
    assert all(float(row["late_margin"]) >= 1.8 for row in rows(out))
    assert main(["compare", str(exported), *given, "--csv", str(out), "--excluded"]) == 0
    assert {(row["landing"], row["joint"]) for row in rows(out)} == {
        (landing, joint) for landing in ("gentle", "balanced", "deep") for joint in ("spot-welded", "soldered")
    }
    assert "The edge, which nothing lighter outlasts:" in capsys.readouterr().out
    one = ["--parallel", "2", "--policies", "gentle", "--least-duration-min", "900"]
    assert main(["compare", str(exported), *one]) == 0
    assert "0 of 1 designs keep to every limit.\nLeast time in the air excludes most" in capsys.readouterr().out


def test_cells_come_from_tables_workspaces_exports_and_by_name(
    exported: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table, alone, shelf = tmp_path / "cells.csv", tmp_path / "cell.json", tmp_path / "shed.cellar"
    write_cell_table(table, {"one": cell_type(id="one", name="Tarn A"), "two": cell_type(id="two", name="Tarn B")})
    alone.write_text(export_text(cell_type(id="three", name="Fell C")), encoding="utf-8")
    with Workspace.open(shelf) as workspace:
        workspace.seed([d for d in sample_documents() if isinstance(d, CellType)][:3], {})
    out = tmp_path / "found.csv"
    given = [str(table), str(alone), str(shelf), "Fell 18-35E"]
    assert main(["compare", str(exported), "--cells", *given, "--csv", str(out), "--excluded"]) == 0
    names = {row["cell"] for row in rows(out)}
    assert {"Tarn A", "Tarn B", "Fell C", "Fell 18-35E"} <= names
    assert len(names) == 7


@pytest.mark.parametrize(
    ("given", "sentence"),
    [
        (["--series", "8:3"], "8:3 for cells in series is empty"),
        (["--parallel", "many"], "“many” is no range of cells in parallel. Write 4, or 3:8"),
        (["--cells", "Nonesuch"], "“Nonesuch” is neither a file nor a sample cell: "),
        (["--joints", "glued"], "“glued” is no way of joining: write all, or some of “spot-welded”"),
        (["--series", "1:20", "--parallel", "1:25", "--gauges", "0:30", "--joints", "all", "--policies", "all",
          "--cells", *[d.name for d in sample_documents() if isinstance(d, CellType)]],
         "is the most that is searched at once. With"),
        (["--least-margin", "-1"], "Least thrust margin must be more than 0; −1 is not."),
        (["--csv", "/nowhere/found.csv"], "/nowhere/found.csv cannot be written"),
    ],
)  # fmt: skip
def test_bad_input_is_a_sentence(
    exported: Path, given: list[str], sentence: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["compare", str(exported), *given]) == 2
    assert sentence in capsys.readouterr().err


def test_only_a_design_is_compared(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "cell.json"
    path.write_text(export_text(cell_type()), encoding="utf-8")
    assert main(["compare", str(path)]) == 2
    assert "compare needs an exported design" in capsys.readouterr().err
