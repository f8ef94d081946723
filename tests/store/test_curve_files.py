"""Logs on disk: any layout, large ones in pieces, and a sentence for everything that is no log."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from wise_cellar.core.curves import Circumstances, Role
from wise_cellar.core.documents import DocumentError
from wise_cellar.store import curve_files
from wise_cellar.store.curve_files import (
    CancelledError,
    look_at_table,
    read_discharge_curve,
    read_figures,
    read_resting_table,
    read_table,
)

TIME = np.arange(0, 3600, 60.0)
VOLTS = 4.1 - 1.6 * TIME / 3600


def written(tmp_path: Path, head: str, row: str, *, decimal: str = ".", encoding: str = "utf-8") -> Path:
    """A log whose rows are ``row`` with t, v and the clock filled in."""
    lines = [
        row.format(t=f"{t:.1f}", v=f"{v:.3f}", mv=f"{1000 * v:.0f}", clock=f"0:{int(t // 60):02d}:00")
        for t, v in zip(TIME, VOLTS, strict=True)
    ]
    body = "\n".join(lines)
    path = tmp_path / "log.csv"
    path.write_text(head + (body.replace(".", decimal) if decimal != "." else body) + "\n", encoding=encoding)
    return path


@pytest.mark.parametrize(
    ("head", "row", "decimal", "encoding"),
    [
        ("time_s,voltage_v,current_a\n", "{t},{v},2.5", ".", "utf-8"),
        ("Zeit;Spannung;Strom\n", "{t};{v};2.5", ",", "cp1252"),
        ("Time [s]\tU [V]\tI [A]\n", "{t}\t{v}\t-2.5", ".", "utf-16"),
        ("Analyser 7\nCell: ä\n\nTime\tU\tI\n[s]\t[mV]\t[mA]\n", "{t}\t{mv}\t2500", ".", "cp1252"),
        ('"t","volts","amps","note"\n', '"{t}","{v}","2.5","ok"', ".", "utf-8-sig"),
        ("elapsed|volt|amp\n", "{clock}|{v}|2.5", ".", "utf-8"),
        ("t  V  A\n", "{t}   {v}   2.5", ".", "utf-8"),
        ("# t, V, A\n", "{t}, {v}, 2.5", ".", "utf-8"),
    ],
)
def test_any_layout_is_the_same_discharge(tmp_path: Path, head: str, row: str, decimal: str, encoding: str) -> None:
    curve = read_discharge_curve(written(tmp_path, head, row, decimal=decimal, encoding=encoding))
    assert curve.time_s == pytest.approx(TIME)
    assert curve.voltage_v == pytest.approx(VOLTS, abs=1e-3)
    assert curve.current_a == pytest.approx(2.5)


def test_the_layout_is_said(tmp_path: Path) -> None:
    table = look_at_table(written(tmp_path, "Log\n\nt;U;I\n", "{t};{v};2.5", decimal=","))
    assert table.words == "3 columns between semicolons, with a decimal comma, after 3 lines of other text."
    assert table.first_line == 4
    assert table.preview[0] == ("0,0", "4,100", "2,5")


def test_lines_of_text_between_the_figures_are_passed_over(tmp_path: Path) -> None:
    path = written(tmp_path, "t,V,A\n", "{t},{v},2.5")
    lines = path.read_text().splitlines()
    path.write_text("\n".join([*lines[:30], "", "t,V,A", *lines[30:], "end of log"]))
    assert len(read_discharge_curve(path).time_s) == len(TIME)


def test_pairs_of_charge_and_volts_need_only_a_current(tmp_path: Path) -> None:
    path = tmp_path / "printed.txt"
    path.write_text("\n".join(f"{t / 3600 * 2.5:.4f}\t{v:.3f}" for t, v in zip(TIME, VOLTS, strict=True)))
    found = read_table(look_at_table(path), Circumstances("printed", current_a=2.5), 2.5)
    assert found.curve.time_s == pytest.approx(TIME, abs=0.2)


def test_a_table_of_resting_voltage_is_read(tmp_path: Path) -> None:
    path = tmp_path / "ocv.csv"
    path.write_text("soc,ocv_v\n" + "\n".join(f"{n / 10},{3 + 0.12 * n}" for n in range(11)))
    assert read_resting_table(look_at_table(path)).table.ocv_v[-1] == pytest.approx(4.2)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "is empty; a discharge needs rows"),
        (b"  \n\n", "is empty"),
        (b"volts\n4.1\n4.0\n3.9\n", "has one column"),
        (b"\x89PNG\r\n\x00\x00\x1a", "is not text"),
        (b"a letter, of prose\nand no figures\n", "has no rows of figures"),
        (b"t,V,A\n0,4.1,2\n5,4.0x,2\n", "line 3, V: “4.0x” is not a number"),
        (b"t,V,A\n0,4.1,2\n5,4.0\n9,3.9,2\n", "line 3, A: there is no number"),
        (b"t,V,A\n0,4.1,2\n5,nan,2\n9,3.9,2\n", "row 2 of the data, V: there is no number"),
        (b"t,V,A\n0,4.1,2\n9,4.0,2\n5,3.9,2\n", "time runs backwards at row 3 of the data"),
        (b"t,V,A\n0,3.1,2\n9,3.5,2\n20,3.9,2\n", "is a charge, not a discharge"),
        (b"t,V,A\n0,4.1,2\n9,4.0,2\n20,3.9,2\n", "has 3 points; a discharge needs at least 12"),
    ],
)
def test_what_is_no_discharge_is_one_sentence(tmp_path: Path, content: bytes, says: str) -> None:
    path = tmp_path / "bad.csv"
    path.write_bytes(content)
    with pytest.raises(DocumentError) as refusal:
        read_discharge_curve(path)
    assert says in str(refusal.value)
    assert str(refusal.value).endswith(".")
    assert path.read_bytes() == content


def test_files_that_are_not_there_or_too_large_are_named(tmp_path: Path) -> None:
    with pytest.raises(DocumentError, match="There is no file"):
        look_at_table(tmp_path / "none.csv")
    with pytest.raises(DocumentError, match="is a folder"):
        look_at_table(tmp_path)
    large = tmp_path / "large.csv"
    with large.open("wb") as file:
        file.write(b"t,V,A\n0,4.1,2\n")
        file.truncate(200_000_000)
    with pytest.raises(DocumentError, match="has 200 MB; logs up to 150 MB are read"):
        look_at_table(large)


def test_a_large_log_is_read_in_pieces_with_progress_and_can_be_stopped(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(curve_files, "PIECE_BYTES", 10_000)
    count = 5000
    rows = "\n".join(f"{n},{4.1 - n / 5000:.4f},2" for n in range(count))
    path = tmp_path / "long.csv"
    path.write_text("t,V,A\n" + rows + "\n")
    shares: list[float] = []
    figures = read_figures(look_at_table(path), lambda share: not shares.append(share)).values  # type: ignore[func-returns-value]
    assert len(figures[Role.VOLTAGE]) == count
    assert figures[Role.TIME] == pytest.approx(np.arange(count))
    assert len(shares) > 5
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    with pytest.raises(CancelledError):
        read_figures(look_at_table(path), lambda share: share < 0.5)


def test_the_line_of_a_fault_deep_in_a_large_log_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(curve_files, "PIECE_BYTES", 10_000)
    rows = [f"{n},{4.1 - n / 5000:.4f},2" for n in range(5000)]
    rows[4321] = "4321,oops,2"
    path = tmp_path / "long.csv"
    path.write_text("t,V,A\n" + "\n".join(rows) + "\n")
    with pytest.raises(DocumentError, match=r"long.csv, line 4323, V: “oops” is not a number\."):
        read_discharge_curve(path)
