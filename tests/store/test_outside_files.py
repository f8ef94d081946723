"""Files from outside: every line is read or told, nothing hangs, nothing is a traceback, exports are whole or not."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import cell_type, craft
from tests.damage import KINDS, READERS, tried
from wise_cellar.core.curves import Circumstances
from wise_cellar.core.documents import DocumentError
from wise_cellar.store import WorkspaceError, read_exchange_file, write_exchange_file
from wise_cellar.store.cell_tables import is_cell_table, read_cell_table, write_cell_table
from wise_cellar.store.curve_files import look_at_table, read_discharge_curve, read_resting_table, read_table
from wise_cellar.store.reading import told, write_picture, write_whole
from wise_cellar.store.stand_files import read_stand

ROWS = [f"{10 * n},{4.15 - 0.03 * n:.3f},2.5" for n in range(40)]
HEAD = "time [s],voltage [V],current [A]"
STAND = "throttle,thrust g,current A,voltage V,rpm\n"


def log(folder: Path, text: str, name: str = "log.csv") -> Path:
    path = folder / name
    path.write_bytes(text.encode("utf-8"))
    return path


@pytest.mark.parametrize("mark", ["\f", "\x0b", "\x1c", "\x1d", "\x1e", "\x85", "\u2028", "\u2029"])
@pytest.mark.parametrize("where", ["above", "between", "at the end of a row"])
def test_marks_that_end_no_line_lose_no_row(tmp_path: Path, mark: str, where: str) -> None:
    rows = list(ROWS)
    if where == "at the end of a row":
        rows[20] += mark
    elif where == "between":
        rows.insert(20, mark)
    above = f"logged{mark}with a mark\n" if where == "above" else ""
    table = look_at_table(log(tmp_path, above + "\n".join([HEAD, *rows]) + "\n"))
    found = read_table(table, Circumstances("log"), 2.5)
    assert len(found.curve.time_s) == len(ROWS)


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_each_usual_end_of_a_line_is_one(tmp_path: Path, end: str) -> None:
    found = read_discharge_curve(log(tmp_path, end.join([HEAD, *ROWS]) + end))
    assert len(found.time_s) == len(ROWS)


def test_lines_that_could_not_be_understood_are_counted(tmp_path: Path) -> None:
    rows = [*ROWS[:10], "paused by hand", *ROWS[10:30], HEAD, *ROWS[30:]]
    found = read_table(look_at_table(log(tmp_path, "\n".join([HEAD, *rows]))), Circumstances("log"), 2.5)
    assert len(found.curve.time_s) == len(ROWS)
    assert "2 lines among the rows could not be understood and were left out." in found.remarks
    resting = "soc,ocv_v\n" + "\n".join(f"{n / 10},{3 + 0.12 * n}" for n in range(11)) + "\nend of file\n"
    assert read_resting_table(look_at_table(log(tmp_path, resting))).remarks


def test_a_figure_of_60_000_digits_does_not_freeze_a_reader(tmp_path: Path) -> None:
    began = time.process_time()
    for field in ("9" * 60_000, "1" * 60_000 + "x", "(" * 60_000, "." * 60_000):
        path = log(tmp_path, "\n".join([f"time [s],{field},current [A]", *ROWS, f"400,{field},2.5"]))
        with pytest.raises(DocumentError) as refusal:
            read_discharge_curve(path)
        assert len(str(refusal.value)) <= 300
    assert time.process_time() - began < 10


def test_a_line_of_twenty_thousand_fields_does_not_freeze_a_reader(tmp_path: Path) -> None:
    """Each was taken for a column, and each column looked at for what it may mean."""
    began = time.process_time()
    path = log(tmp_path, "\n".join([HEAD, *ROWS[:20], "1,2,3," * 7000, *ROWS[20:]]))
    with pytest.raises(DocumentError, match="time runs backwards at row 21"):
        read_discharge_curve(path)
    assert time.process_time() - began < 2


def test_a_log_whose_time_stands_still_is_a_sentence(tmp_path: Path) -> None:
    still = "\n".join([HEAD, *(row.replace(row.split(",")[0], "7", 1) for row in ROWS)])
    with pytest.raises(DocumentError, match="time goes on by 0 s from the first row to the last"):
        read_discharge_curve(log(tmp_path, still))


@pytest.mark.parametrize("head", [HEAD, "a,b,c", "charge [Ah],voltage [V],current [A]", "SOC,OCV [V],x"])
@pytest.mark.parametrize("place", [0, 1, 2])
@pytest.mark.parametrize("figure", ["1e999", "1e308", "-1e308", "1e200"])
def test_a_figure_beyond_all_measure_is_no_number(tmp_path: Path, head: str, place: int, figure: str) -> None:
    """Not a warning of the arithmetic either: warnings are failures here."""
    rows = [row.split(",") for row in ROWS]
    for row in rows[20:22]:
        row[place] = figure
    path = log(tmp_path, "\n".join([head, *map(",".join, rows)]))
    with pytest.raises(DocumentError, match="row 21 of the data" if "voltage" in head else "column"):
        read_discharge_curve(path)


@pytest.mark.parametrize("amps", [float("nan"), float("inf"), -1.0, 0.0, 1e9])
def test_a_held_current_that_is_none_is_a_sentence(tmp_path: Path, amps: float) -> None:
    pairs = "\n".join(f"{0.1 * n:.3f}\t{4.1 - 0.03 * n:.3f}" for n in range(40))
    with pytest.raises(DocumentError, match="is no current that a cell is discharged with"):
        read_discharge_curve(log(tmp_path, pairs), current_a=amps)


def test_a_stand_table_of_more_rows_than_fit_is_a_sentence(tmp_path: Path) -> None:
    rows = [f"{10 + n % 90},{100 + n},{1 + n / 100:.2f},15.5,{3000 + n}" for n in range(500)]
    with pytest.raises(DocumentError, match="has 500 rows; one for each step of throttle is enough, 400 at most"):
        read_stand(log(tmp_path, STAND + "\n".join(rows), "stand.csv"))


@pytest.mark.parametrize("read", READERS.values(), ids=READERS.keys())
@pytest.mark.parametrize("name", ["a\x00b.csv", "x" * 300 + ".csv", "nowhere/file.csv", "folder"])
def test_names_that_lead_nowhere_are_sentences(tmp_path: Path, read: Callable[[Path], object], name: str) -> None:
    (tmp_path / "folder").mkdir()
    with pytest.raises((DocumentError, WorkspaceError)) as refusal:
        read(tmp_path / name)
    assert len(str(refusal.value)) <= 300
    assert "\x00" not in str(refusal.value)


def test_whether_a_file_is_a_table_of_cells_is_asked_of_any_name(tmp_path: Path) -> None:
    assert not is_cell_table(tmp_path / "a\x00b.csv")
    assert not is_cell_table(tmp_path)


@pytest.mark.skipif(os.name != "posix", reason="only there")
def test_a_device_that_never_ends_is_not_read_to_its_end() -> None:
    for read in (read_exchange_file, read_cell_table):
        with pytest.raises(DocumentError, match="larger than 5 MB"):
            read(Path("/dev/zero"))


@pytest.mark.parametrize("kind", KINDS)
def test_the_files_that_are_changed_are_read_when_they_are_not(tmp_path: Path, kind: str) -> None:
    assert tried(kind, None, tmp_path) == ""


@pytest.mark.parametrize("kind", KINDS)
@settings(max_examples=25)
@given(number=st.integers(0, 2**32))
def test_a_file_changed_at_random_is_read_or_refused_in_a_sentence(
    tmp_path_factory: pytest.TempPathFactory, kind: str, number: int
) -> None:
    """tests/damage.py tells how files are changed, and runs many more by hand."""
    said = tried(kind, number, tmp_path_factory.mktemp("damaged"))
    assert len(said) <= 300, said
    assert said.count("\n") == 0


# Exports


WRITERS: dict[str, Callable[[Path], object]] = {
    "export": lambda path: write_exchange_file(path, craft()),
    "cells": lambda path: write_cell_table(path, {"cell": cell_type()}),
    "text": lambda path: write_whole(path, "text"),
    "picture": lambda path: write_picture(path, lambda part: Path(part).write_bytes(b"picture") > 0),
}


@pytest.mark.parametrize("write", WRITERS.values(), ids=WRITERS.keys())
def test_an_export_is_whole_or_not_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, write: Callable[[Path], object]
) -> None:
    path = tmp_path / "out.json"
    path.write_text("before")

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patched:
        patched.setattr("wise_cellar.store.reading.os.fsync", full)
        with pytest.raises(DocumentError, match="No space left on device; nothing was changed"):
            write(path)
    assert path.read_text() == "before"
    assert [each.name for each in tmp_path.iterdir()] == ["out.json"]
    write(path)
    assert path.read_bytes() != b"before"
    with pytest.raises(DocumentError, match="cannot be written"):
        write(tmp_path / "nowhere" / "out.json")


def test_an_export_over_a_link_leaves_the_link_and_the_rights_of_what_it_leads_to(tmp_path: Path) -> None:
    (tmp_path / "elsewhere").mkdir()
    target, link = tmp_path / "elsewhere" / "own.json", tmp_path / "out.json"
    target.write_text("old")
    target.chmod(0o600)
    link.symlink_to(target)
    write_exchange_file(link, craft())
    assert link.is_symlink()
    assert read_exchange_file(target).document == craft()
    assert target.stat().st_mode & 0o777 == 0o600


def test_a_picture_that_could_not_be_drawn_leaves_the_old_one(tmp_path: Path) -> None:
    path = tmp_path / "out.png"
    path.write_bytes(b"before")
    with pytest.raises(DocumentError, match="has room; nothing was changed"):
        write_picture(path, lambda _part: False)
    assert path.read_bytes() == b"before"


def test_a_long_path_is_told_by_its_end() -> None:
    assert told("/a/b.json") == "/a/b.json"
    assert told("/x" * 500 + "/design.json").endswith("/design.json")
    assert len(told("/x" * 500)) <= 121


def test_figures_stay_figures(tmp_path: Path) -> None:
    """The careful readers still read what they read before."""
    curve = read_discharge_curve(log(tmp_path, "\n".join([HEAD, *ROWS])))
    assert np.allclose(curve.current_a, 2.5)
