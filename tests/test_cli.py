"""The command without a window."""

from __future__ import annotations

import csv
import gc
import json
import lzma
import re
import subprocess
import sys
from pathlib import Path

import pytest

from tests.builders import LANDING, PUNCH, beside, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.cli import COMMANDS, main
from wise_cellar.core.answer import answer, spread
from wise_cellar.core.documents import CellType, PackRecipe, export_text
from wise_cellar.core.units import format_grams
from wise_cellar.store import read_exchange_file

DESIGN = complete(flown=mission(cruise(60), PUNCH, cruise(), LANDING))


@pytest.fixture
def exported(tmp_path: Path) -> Path:
    path = tmp_path / "design.json"
    path.write_text(export_text(DESIGN), encoding="utf-8")
    return path


def test_predict_prints_the_answer(exported: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["predict", str(exported)]) == 0
    out = capsys.readouterr().out
    found = answer(DESIGN)
    minutes = round(found.duration_s) // 60
    assert f"In the air     {minutes} min" in out
    assert f"{found.late_punch.volts_a_cell:.2f} V a cell" in out
    assert found.reason.sentence in out
    assert gc.isenabled()


def test_predict_as_json_has_every_answer_and_its_field(exported: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["predict", str(exported), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    found = answer(DESIGN)
    assert report["duration_s"] == pytest.approx(found.duration_s, abs=0.06)
    assert report["takeoff_mass_g"] == pytest.approx(found.takeoff_mass_g, abs=0.06)
    assert report["ends_because"] == "reserve reached"
    assert report["ends_governed_by"] == "design.landing.policy"
    assert report["weak_link"]["name"] == found.weak_link.name
    assert report["late_punch"]["thrust_margin"] == pytest.approx(found.late_punch.thrust_margin, abs=0.006)
    assert len(report["findings"]) == len(found.findings)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (None, "There is no file"),
        ("{", "not JSON"),
        (export_text(craft()), "holds a craft; predict needs an exported design"),
        (export_text(DESIGN).replace('"parallel_count": 3', '"parallel_count": 400'), "must be at most 40; 400 is not"),
        (export_text(DESIGN).replace('"parallel_count"', '"paralel_count"'), "is not a field"),
    ],
)
def test_bad_input_is_one_sentence_and_status_2(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], content: str | None, says: str
) -> None:
    path = tmp_path / "in.json"
    if content is not None:
        path.write_text(content, encoding="utf-8")
    assert main(["predict", str(path)]) == 2
    printed = capsys.readouterr()
    assert printed.out == ""
    assert says in printed.err
    assert printed.err.strip().count("\n") == 0


def test_a_folder_and_a_picture_are_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["predict", str(tmp_path)]) == 2
    assert "is a folder" in capsys.readouterr().err
    picture = tmp_path / "picture.json"
    picture.write_bytes(b"\x89PNG\xff\xfe")
    assert main(["predict", str(picture)]) == 2
    assert "is not text" in capsys.readouterr().err


def test_the_schema_is_printed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Wise Cellar exchange file"


def test_the_module_runs_as_a_program(exported: Path) -> None:
    command = [sys.executable, "-m", "wise_cellar", "predict", str(exported), "--json"]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0
    assert json.loads(done.stdout)["design"] == "test"


CURVES = Path(__file__).parent / "data" / "curves"


def test_a_cell_type_is_fitted_to_curves(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    cell, out = tmp_path / "cell.json", tmp_path / "fitted.json"
    cell.write_text(export_text(cell_type()), encoding="utf-8")
    curves = [str(CURVES / f"cell_a_{rate}_25c.csv") for rate in ("c10", "1c")]
    assert main(["fit", str(cell), *curves, "--out", str(out)]) == 0
    printed = capsys.readouterr().out
    assert "cell_a_1c_25c: " in printed
    assert "Rests on up to 5 A" in printed
    fitted = read_exchange_file(out).document
    assert isinstance(fitted, CellType)
    assert fitted.fitted is not None
    assert fitted.fitted.capacity_mah == pytest.approx(5134, rel=0.01)


def test_a_fit_that_cannot_be_is_a_sentence(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    cell = tmp_path / "cell.json"
    cell.write_text(export_text(cell_type()), encoding="utf-8")
    log = tmp_path / "log.csv"
    log.write_text("time,volts,amps\n0,4.1,1\n10,4.0x,1\n", encoding="utf-8")
    assert main(["fit", str(cell), str(log), "--out", str(tmp_path / "out.json")]) == 2
    assert capsys.readouterr().err == "log.csv, line 3, volts: “4.0x” is not a number.\n"
    assert not (tmp_path / "out.json").exists()


# Packs on one bus, and charging


@pytest.fixture
def extended(tmp_path: Path) -> Path:
    pack = whole_pack(max_voltage_v=4.35, ocv_family="lihv_hobby", charge_current_a=3.8)
    own = {"name": "own battery", "own": True, "recipe": PackRecipe(series_count=2), "start_charge_percent": 88}
    aux = complete(cell=cell_type(charge_current_a=2.0), series_count=2, parallel_count=1, flown=mission(cruise(300)))
    path = tmp_path / "extended.json"
    path.write_text(export_text(beside(aux, (pack, own))), encoding="utf-8")
    return path


def test_predict_tells_every_pack(extended: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["predict", str(extended)]) == 0
    assert "Own battery: " in capsys.readouterr().out
    assert main(["predict", str(extended), "--json"]) == 0
    packs = json.loads(capsys.readouterr().out)["packs"]
    assert [pack["name"] for pack in packs] == ["Auxiliary", "Own battery"]
    assert all(pack["given_mah"] > 0 for pack in packs)


def test_charge_plans_a_pack(extended: Path, exported: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["charge", str(extended), "--pack", "2"]) == 0
    out = capsys.readouterr().out
    assert "lithium polymer, 4.20 V a cell" in out
    assert "Never put packs of two states together" in out
    assert main(["charge", str(extended), "--storage"]) == 0
    assert "for storage" in capsys.readouterr().out
    assert main(["charge", str(extended), "--pack", "3"]) == 2
    assert "has 2 packs; --pack 3 is none of them" in capsys.readouterr().err
    assert main(["charge", str(exported)]) == 0
    assert "half of 1C" in capsys.readouterr().out


# The range, several designs, traces


def test_predict_tells_its_range_what_drives_it_and_what_would_help(
    exported: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    around = spread(DESIGN, answer(DESIGN))
    assert main(["predict", str(exported), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["duration_8_of_10_from_s"] == pytest.approx(around.duration_s[0], rel=1e-5)
    assert report["duration_8_of_10_to_s"] == pytest.approx(around.duration_s[1], rel=1e-5)
    assert [one["name"] for one in report["drivers"]] == [one.name for one in around.drivers]
    assert [one["rests_on"] for one in report["drivers"]] == [one.because for one in around.drivers]
    assert report["handling"]["against"] == "no battery"
    assert 0 < report["handling"]["quickness_pitch"] < 1
    assert report["where"] == "in the air"
    assert main(["predict", str(exported)]) == 0
    out = capsys.readouterr().out
    strongest = around.drivers[0]
    assert f"In doubt       {strongest.name} {strongest.doubt} ({strongest.because}): ± " in out
    assert around.best_measurement is not None
    assert f"Would help     {around.best_measurement.measure}" in out


def test_predict_puts_several_designs_into_one_table(
    exported: Path, extended: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["predict", str(exported), str(extended)]) == 0
    head, first, second = capsys.readouterr().out.splitlines()
    assert head.split("  ")[0] == "design"
    assert f"{answer(DESIGN).duration_s / 60:.1f} min" in first
    assert (
        head.index("take-off")
        == first.index(format_grams(answer(DESIGN).takeoff_mass_g))
        == second.index(next(part for part in second.split("  ") if part.endswith(" g")))
    )
    assert main(["predict", str(exported), str(extended), "--json"]) == 0
    assert [report["design"] for report in json.loads(capsys.readouterr().out)] == ["test", "test"]


def test_predict_writes_the_traces_of_one_design(
    exported: Path, extended: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    into = tmp_path / "traces.csv"
    assert main(["predict", str(exported), "--traces", str(into)]) == 0
    with into.open(encoding="utf-8") as lines:
        rows = list(csv.DictReader(lines))
    series = answer(DESIGN).series
    assert len(rows) == len(series.time_s)
    assert float(rows[-1]["time_s"]) == pytest.approx(float(series.time_s[-1]), rel=1e-6)
    assert float(rows[5]["amps"]) == pytest.approx(float(series.pack_a[5]), rel=1e-6)
    assert main(["predict", str(extended), "--traces", str(into)]) == 0
    assert "pack_2_amps" in into.read_text(encoding="utf-8").splitlines()[0]
    with pytest.raises(SystemExit):
        main(["predict", str(exported), str(extended), "--traces", str(into)])
    assert "name one file" in capsys.readouterr().err


def test_a_reader_that_has_seen_enough_ends_it_quietly() -> None:
    """As with ``| head -1``: no traceback, whether it is read or not."""
    command = [sys.executable, "-c", "from wise_cellar.cli import main; raise SystemExit(main())", "schema"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as process:
        assert process.stdout is not None
        assert process.stderr is not None
        process.stdout.readline()
        process.stdout.close()
        assert process.stderr.read() == b""
        assert process.wait(60) == 0


def test_units_are_shown_as_asked_for_one_run(exported: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["predict", str(exported), "--units", "oz,F,comma"]) == 0
    out = capsys.readouterr().out
    found = answer(DESIGN)
    ounces = f"{found.takeoff_mass_g / 28.349523125:.1f}".replace(".", ",")
    assert f"Take-off mass  {ounces} oz" in out
    assert f"{found.late_punch.volts_a_cell:.2f}".replace(".", ",") + " V a cell" in out
    assert "°C" not in out
    assert main(["predict", str(exported)]) == 0
    assert f"{found.late_punch.volts_a_cell:.2f} V a cell" in capsys.readouterr().out


def test_what_is_written_keeps_its_own_units(
    exported: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    tables = []
    for units in ("metric", "imperial,comma"):
        assert main(["predict", str(exported), "--json", "--traces", str(tmp_path / "t.csv"), "--units", units]) == 0
        told = json.loads(capsys.readouterr().out)
        tables.append((told["takeoff_mass_g"], told["duration_s"], (tmp_path / "t.csv").read_text(encoding="utf-8")))
    assert tables[0] == tables[1]


def test_an_unknown_unit_is_refused(exported: Path, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as ended:
        main(["predict", str(exported), "--units", "stone"])
    assert ended.value.code == 2
    assert "“stone” is no unit to show" in capsys.readouterr().err


def test_a_logged_flight_is_held_against_its_design(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    design, log = tmp_path / "design.json", tmp_path / "flight_03.csv"
    design.write_text(export_text(DESIGN), encoding="utf-8")
    packed = Path(__file__).parent / "data" / "logs" / f"{log.name}.xz"
    log.write_bytes(lzma.decompress(packed.read_bytes()))
    assert main(["log", str(log), "--design", str(design), "--returned", "7975"]) == 0
    told = capsys.readouterr().out
    assert re.match(r"35 min 1\d s in the air", told), told
    assert "The current sensor tells" in told
    assert main(["log", str(log), "--design", str(design), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["sensor"] is None
    assert [one["kind"] for one in report["phases"]][:3] == ["on the ground", "climb", "hover"]
    assert {one["name"] for one in report["learned"]} == {"power", "drag", "capacity", "resistance", "lag"}
    assert sum(one["seconds"] for one in report["minutes"]["parts"]) + report["minutes"][
        "not_explained_s"
    ] == pytest.approx(report["minutes"]["flown_s"] - report["minutes"]["planned_s"], abs=0.1)
    log.write_text("volts,amps\n15,2\n14,3\n")
    assert main(["log", str(log), "--design", str(design)]) == 2
    assert "No column is taken for time" in capsys.readouterr().err


@pytest.mark.parametrize("command", ["", *COMMANDS])
def test_the_help_of_every_command_ends_with_an_example_and_its_statuses(
    command: str, capsys: pytest.CaptureFixture[str]
) -> None:
    with pytest.raises(SystemExit) as left:
        main([*([command] if command else []), "--help"])
    assert left.value.code == 0
    out = " ".join(capsys.readouterr().out.split())
    assert f"example: {f'wise-cellar {command}'.strip()} " in out
    assert "Exit status: 0 when it is done; 2, with one sentence on standard error, when it cannot be." in out


def completed(words: str, script: Path) -> list[str]:
    """What a shell would offer behind these words."""
    *before, last = words.split(" ")
    ask = (
        f"source {script}; COMP_WORDS=({' '.join(before)} {last!r}); COMP_CWORD={len(before)};"
        " _shtab_wise_cellar; printf '%s\\n' \"${COMPREPLY[@]}\""
    )
    done = subprocess.run(["bash", "-c", ask], capture_output=True, text=True, check=True, cwd=script.parent)
    return done.stdout.split()


def test_a_shell_completes_commands_options_and_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["completion", "bash"]) == 0
    script = tmp_path / "completion.sh"
    script.write_text(capsys.readouterr().out)
    (tmp_path / "whimbrel.json").touch()
    assert completed("wise-cellar pre", script) == ["predict"]
    assert completed("wise-cellar compare --pol", script) == ["--policies"]
    assert completed("wise-cellar predict whim", script) == ["whimbrel.json"]
    assert completed("wise-cellar completion z", script) == ["zsh"]
    for shell in ("zsh", "tcsh"):
        assert main(["completion", shell]) == 0
        assert "predict" in capsys.readouterr().out
