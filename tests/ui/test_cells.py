"""The Cells station: shelf, picture, claims, sheet, discharges and bench results in the real window."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtWidgets import QApplication, QCheckBox, QPushButton
from pytestqt.qtbot import QtBot

from tests.ui.conftest import answers, field, popover, type_into, write_into
from wise_cellar.core.documents import (
    CellType,
    DischargeRecord,
    FormFactor,
    SourceKind,
    TracedChart,
    blank_cell_type,
    export_text,
    import_text,
)
from wise_cellar.core.shelf import Verdict
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.cell_edits import curves_of
from wise_cellar.ui.stations.cells.shelf_columns import COLUMNS
from wise_cellar.ui.stations.cells.source_mark import SourceMark
from wise_cellar.ui.stations.cells.station import BENCH, CURVES, SHEET, CellsStation
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.plot_parts import Curve

STATION = "Cells"

CURVE_FILES = Path(__file__).parents[1] / "data" / "curves"


def settle(qtbot: QtBot, station: CellsStation) -> None:
    """Wait for what is computed beside the window."""
    qtbot.waitUntil(lambda: station.settled, timeout=20_000)
    QApplication.processEvents()


@pytest.fixture
def cells(window: MainWindow) -> CellsStation:
    """The station, whose shelf has not been flown yet."""
    window.show_station(2)
    return window.station(CellsStation)


@pytest.fixture
def shelf(cells: CellsStation, qtbot: QtBot) -> CellsStation:
    """The station with its shelf flown and its claims judged."""
    settle(qtbot, cells)
    return cells


@pytest.fixture
def tested(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> CellsStation:
    """The station with the cell that has discharges and bench results."""
    window.session.edit("design.packs.0.cell_type_id", "fell-21-50e")
    settle(qtbot, cells)
    return cells


def column(cells: CellsStation, head: str) -> dict[str, str]:
    """Texts of a column by the cell's name, in the order shown."""
    lines = [line.split("\t") for line in cells.table.as_text().splitlines()]
    place = lines[0].index(head)
    return {line[0]: line[place] for line in lines[1:]}


def sentence(cells: CellsStation) -> str:
    """What is said under the shelf."""
    return cells.hint.text()


# The shelf


@pytest.mark.usefixtures("shelf")
def test_the_shelf_has_every_cell_and_the_present_one_as_the_band_says(cells: CellsStation, window: MainWindow) -> None:
    session = window.session
    minutes = column(cells, "Minutes")
    assert len(minutes) == len(session.all(CellType))
    assert minutes["Fell 21-45P"] == f"{session.answer.duration_s / 60:.1f}"
    assert column(cells, "Late V")["Fell 21-45P"] == f"{session.answer.late_punch.volts_a_cell:.2f}"
    assert column(cells, "End °C")["Fell 21-45P"] == f"{session.answer.hottest_c:.0f}"
    assert column(cells, "Usable Wh")["Fell 21-45P"] == f"{session.answer.energy_used_wh:.0f}"
    assert cells.table.selected_ids() == ["fell-21-45p"]


@pytest.mark.usefixtures("shelf")
def test_the_shelf_sorts_by_value_not_by_text(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("cells.0.capacity_mah", 45000)
    settle(qtbot, cells)
    for head in ("Minutes", "Usable Wh", "Late V", "Wh/kg"):
        place = next(n for n, c in enumerate(COLUMNS) if c.head == head)
        cells.table.sortByColumn(place, Qt.SortOrder.AscendingOrder)
        order = [float(text.replace(" ", "")) for text in column(cells, head).values()][:-2]
        assert order == sorted(order), head
        heads = [cells.table.filter.headerData(n, Qt.Orientation.Horizontal) for n in range(len(COLUMNS))]
        assert [head for head in heads if head.endswith(("▴", "▾"))] == [f"{head}\u00a0▴"]
        assert list(column(cells, head))[-2:] == sorted(
            ("Fell 21-45P", "Fell 18-60X"), key=lambda name: float(column(cells, head)[name].replace(" ", ""))
        ), "what cannot be is never ranked before what can"


@pytest.mark.usefixtures("shelf")
def test_the_shelf_follows_the_recipe(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    before = column(cells, "Minutes")
    window.recipe.step("design.packs.0.recipe.parallel_count", -1)
    settle(qtbot, cells)
    after = column(cells, "Minutes")
    assert all(float(after[name]) < float(before[name]) for name in before)


@pytest.mark.usefixtures("shelf")
def test_at_equal_mass_light_cells_get_more_in_parallel(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    cells.bar.footing.setFocus()
    qtbot.keyClick(cells.bar.footing, Qt.Key.Key_Right)
    settle(qtbot, cells)
    packs = column(cells, "Pack")
    assert packs["Fell 21-45P"].startswith("3P")
    assert packs["Fell 18-26P"].startswith("5P")
    assert packs["Reed 4S 5200"].startswith("2P")
    grams = {name: float(text.split()[1].replace(" ", "")) for name, text in packs.items() if "1 " not in text}
    assert all(600 < mass < 1200 for mass in grams.values())


@pytest.mark.usefixtures("shelf")
def test_searching_and_filtering_hide_rows_and_say_so(cells: CellsStation, qtbot: QtBot) -> None:
    qtbot.keyClicks(cells.bar.search, "reed polymer")
    assert set(column(cells, "Cell")) == {"Reed 4S 5200", "Reed 2S 1900 HV"}
    assert "are hidden by the search or the limits" in sentence(cells)
    qtbot.keyClick(cells.bar.search, Qt.Key.Key_Escape)
    assert len(column(cells, "Cell")) == len(cells.table.shelf.rows)
    cells.bar.fine_only.click()
    shown = column(cells, "Of limit")
    assert "Fell 18-60X" not in shown, "its sheet cannot be"
    assert all(int(text.split()[0]) <= 100 for text in shown.values())


@pytest.mark.usefixtures("shelf")
def test_archived_cells_leave_the_shelf_and_the_recipes_list(
    cells: CellsStation, window: MainWindow, qtbot: QtBot
) -> None:
    cells.table.selectRow(cells.table.shown_ids().index("tarn-18-29p"))
    menu = cells.bar.more.menu()
    assert menu is not None
    next(action for action in menu.actions() if action.text().startswith("Archive")).trigger()
    settle(qtbot, cells)
    assert "Tarn 18-29P" not in column(cells, "Cell")
    window.recipe.open_token("design.packs.0.cell_type_id")
    chooser = popover()
    assert not any("Tarn 18-29P" in option.text for option in chooser.options)  # type: ignore[attr-defined]
    chooser.close()
    cells.bar.archived.click()
    settle(qtbot, cells)
    assert "Tarn 18-29P" in column(cells, "Cell")
    window.session.undo()
    assert not window.session.all(CellType)["tarn-18-29p"].archived


@pytest.mark.usefixtures("shelf")
def test_enter_takes_a_cell_into_the_recipe(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    cells.table.setFocus()
    cells.table.selectRow(0)
    first = cells.table.selected_ids()[0]
    qtbot.keyClick(cells.table, Qt.Key.Key_Return)
    assert window.session.complete.pack.cell.id == first
    assert window.recipe.tokens["design.packs.0.cell_type_id"].text() == window.session.complete.pack.cell.name


@pytest.mark.usefixtures("shelf")
def test_each_row_has_its_line_and_its_mark(cells: CellsStation) -> None:
    rows = {row.cell.id: row for row in cells.table.shelf.rows}
    assert rows["fell-18-60x"].verdict is Verdict.CANNOT_BE
    assert rows["fell-21-45p"].verdict is Verdict.HOLDS
    assert rows["fell-18-60x"].line_charge[-1] > rows["tarn-18-29p"].line_charge[-1]
    picture = cells.table.grab().toImage()
    assert picture.width() > 300


@pytest.mark.usefixtures("shelf")
def test_columns_give_way_in_a_narrow_window(cells: CellsStation, window: MainWindow, qapp: QApplication) -> None:
    def shown() -> list[str]:
        return [c.head for place, c in enumerate(COLUMNS) if not cells.table.isColumnHidden(place)]

    window.resize(1700, 900)
    qapp.processEvents()
    wide = shown()
    window.resize(1100, 700)
    qapp.processEvents()
    narrow = shown()
    assert len(wide) == len(COLUMNS)
    assert {"Cell", "Minutes", "Usable Wh"} <= set(narrow)
    assert len(narrow) < len(wide)
    width = sum(cells.table.columnWidth(n) for n in range(len(COLUMNS)) if not cells.table.isColumnHidden(n))
    viewport = cells.table.viewport()
    assert viewport is not None
    assert width <= viewport.width() + 1


@pytest.mark.usefixtures("shelf")
def test_the_shelf_is_copied_as_text(cells: CellsStation, qtbot: QtBot) -> None:
    qtbot.keyClick(cells.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert clipboard.text().startswith("Cell\tMinutes\tUsable Wh\tUsed")


# The picture


@pytest.mark.usefixtures("shelf")
def test_up_to_four_chosen_cells_have_curves_at_the_present_amps(cells: CellsStation, qtbot: QtBot) -> None:
    cells.table.selectAll()
    settle(qtbot, cells)
    curves = cells.pictures.load.plot.parts(Curve)
    assert len(curves) == 4
    for curve, discharge in zip(curves, cells.pictures.load.curves, strict=True):
        assert curve.x[0] == 0
        assert curve.y[-1] == pytest.approx(discharge.cell.min_voltage_v, abs=2e-3)
        assert discharge.current_a == pytest.approx(cells.cell_current_a())


@pytest.mark.usefixtures("shelf")
def test_cells_that_are_chosen_while_the_shelf_is_flown_have_their_curves(
    cells: CellsStation, window: MainWindow, qtbot: QtBot
) -> None:
    window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    qtbot.wait(15)  # it has begun
    cells.table.selectAll()
    settle(qtbot, cells)
    assert len(cells.pictures.load.curves) == 4


@pytest.mark.usefixtures("shelf")
def test_axes_are_volts_or_watts_over_charge_or_energy(cells: CellsStation, qtbot: QtBot) -> None:
    over_charge = cells.pictures.load.plot.parts(Curve)[0]
    qtbot.keyClick(cells.pictures.heights, Qt.Key.Key_Right)
    qtbot.keyClick(cells.pictures.widths, Qt.Key.Key_Right)
    over_energy = cells.pictures.load.plot.parts(Curve)[0]
    assert over_energy.y == pytest.approx(over_charge.y * cells.cell_current_a())
    assert over_energy.x[-1] == pytest.approx(np.trapezoid(over_charge.y, over_charge.x), rel=1e-3)


@pytest.mark.usefixtures("shelf")
def test_the_crosshair_reads_every_curve(cells: CellsStation, qtbot: QtBot) -> None:
    cells.pictures.load.setFocus()
    qtbot.keyClick(cells.pictures.load, Qt.Key.Key_Right)
    at = cells.pictures.load.cursor
    assert at is not None
    name, volts = cells.pictures.load.read_at(at)[0]
    assert name == "Fell 21-45P"
    assert volts is not None
    assert f"{volts:.2f}" in cells.pictures.load.key.text()
    qtbot.keyClick(cells.pictures.load, Qt.Key.Key_Right)
    assert cells.pictures.load.cursor is not None
    assert cells.pictures.load.cursor > at
    qtbot.keyClick(cells.pictures.load, Qt.Key.Key_Escape)
    assert cells.pictures.load.cursor is None


@pytest.mark.usefixtures("shelf")
def test_the_picture_is_saved_in_three_formats(cells: CellsStation, tmp_path: Path) -> None:
    for suffix in ("png", "svg", "csv"):
        cells.save_curves(tmp_path / f"curves.{suffix}")
        assert sentence(cells).startswith("Saved to")
    image = QImage(str(tmp_path / "curves.png"))
    assert image.width() == 2 * cells.pictures.load.width()
    root = ElementTree.parse(tmp_path / "curves.svg").getroot()
    assert root.tag.endswith("svg")
    assert "Volts against Ah" in (tmp_path / "curves.svg").read_text(encoding="utf-8")
    rows = list(csv.DictReader((tmp_path / "curves.csv").read_text(encoding="utf-8").splitlines()))
    assert float(rows[-1]["voltage_v"]) == pytest.approx(2.5, abs=1e-3)
    assert rows[0]["cell"] == "Fell 21-45P"
    cells.save_curves(tmp_path / "curves.doc")
    assert "must end in .png, .svg or .csv" in sentence(cells)
    cells.save_curves(tmp_path / "nowhere" / "curves.png")
    assert "cannot be written" in sentence(cells)


# Claims


@pytest.mark.usefixtures("shelf")
def test_claims_follow_the_sheet(cells: CellsStation, qtbot: QtBot, window: MainWindow) -> None:
    found = {claim.title: claim for claim in cells.claims.claims}
    assert found["Heat at its rated 35 A"].verdict is Verdict.DOUBTFUL
    type_into(qtbot, field(window, "cells.0.continuous_current_a"), "15")
    settle(qtbot, cells)
    assert all(claim.verdict is Verdict.HOLDS for claim in cells.claims.claims)
    assert "all claims hold" in cells.claims.title.text()
    type_into(qtbot, field(window, "cells.0.capacity_mah"), "9900")
    settle(qtbot, cells)
    assert {claim.title: claim for claim in cells.claims.claims}["Energy for its mass"].verdict is Verdict.CANNOT_BE


@pytest.mark.usefixtures("shelf")
def test_the_current_that_can_be_held_is_taken_as_the_limit_and_given_back(
    cells: CellsStation, window: MainWindow, qtbot: QtBot
) -> None:
    def limit() -> str:
        return column(cells, "Of limit")["Fell 21-45P"]

    before = limit()
    assert cells.claims.trust.text().startswith("Use 22")
    qtbot.mouseClick(cells.claims.trust, Qt.MouseButton.LeftButton)
    trusted = window.session.complete.pack.cell.trusted_current_a
    assert trusted is not None
    assert 20 < trusted < 25
    settle(qtbot, cells)
    assert window.session.answer.links[0].cruise_limit_a == trusted
    assert cells.claims.trust.text() == f"Back to the claimed 35 A (now {trusted:g} A)"
    qtbot.mouseClick(cells.claims.trust, Qt.MouseButton.LeftButton)
    settle(qtbot, cells)
    assert window.session.complete.pack.cell.trusted_current_a is None
    assert limit() == before


# The sheet


@pytest.mark.usefixtures("shelf")
def test_a_copy_of_a_cell_is_changed_by_its_sheet(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    cells.views.choose(SHEET)
    count = len(column(cells, "Cell"))
    button = next(b for b in cells.findChildren(QPushButton) if b.text() == "Go on with a copy of this cell")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert window.session.complete.pack.cell.name == "Fell 21-45P, copy"
    before = answers(window)[0]
    type_into(qtbot, field(window, "cells.0.capacity_mah"), "4.1 Ah")
    assert window.session.complete.pack.cell.capacity_mah == 4100
    assert answers(window)[0] != before
    settle(qtbot, cells)
    assert len(column(cells, "Cell")) == count + 1
    window.session.open_design("whimbrel-transect")
    type_into(qtbot, field(window, "cells.0.pulse_current_a"), "2")
    assert "must be at least its continuous current" in field(window, "cells.0.pulse_current_a").error_text()


@pytest.mark.parametrize("form", ["18650", "pouch", "pack bought whole"])
def test_a_cell_of_every_form_is_added_and_undone(
    cells: CellsStation, window: MainWindow, qtbot: QtBot, form: str
) -> None:
    menu = cells.bar.more.menu()
    assert menu is not None
    next(action for action in menu.actions() if action.text().endswith(form)).trigger()
    cell = window.session.complete.pack.cell
    assert cell.name == f"My {form}"
    assert cell.source is SourceKind.ESTIMATE
    assert cells.views.current == SHEET
    assert field(window, "cells.0.diameter_mm").isVisible() == cell.form_factor.cylindrical
    assert field(window, "cells.0.cells_in_series").isVisible() == cell.whole_pack
    window.session.undo()
    assert window.session.complete.pack.cell.id == "fell-21-45p"


def test_another_form_brings_the_sizes_it_needs(cells: CellsStation, window: MainWindow) -> None:
    cells.views.choose(SHEET)
    box = field(window, "cells.0.form_factor").entry
    box.setCurrentText("pouch")
    box.activated.emit(box.currentIndex())
    cell = window.session.complete.pack.cell
    assert (cell.form_factor, cell.diameter_mm, cell.width_mm) == ("pouch", None, 43)
    assert "Strips" in [entry.name for entry in window.session.answer.build.masses]


def test_the_source_of_a_value_is_set_by_its_mark(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    cells.views.choose(SHEET)
    row = field(window, "cells.0.mass_g").parentWidget()
    mark = row.findChild(SourceMark)
    assert mark.toolTip() == "maker's sheet"
    mark.setFocus()
    qtbot.keyClick(mark, Qt.Key.Key_Space)
    chooser = popover()
    line = chooser.findChild(type(cells.bar.search).__mro__[1])
    qtbot.keyClicks(line, "2026-13-40")
    button = next(b for b in chooser.findChildren(QPushButton) if b.text() == "measured")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert "is no date" in " ".join(label.text() for label in chooser.findChildren(type(cells.hint)))
    line.clear()  # type: ignore[union-attr]
    qtbot.keyClicks(line, "2026-03-14")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    kind, day = window.session.complete.pack.cell.source_of("mass_g")
    assert kind is SourceKind.MEASURED
    assert str(day) == "2026-03-14"
    assert mark.toolTip() == "measured, 2026-03-14"


def test_the_table_goes_out_and_comes_back_changed(cells: CellsStation, window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "cells.csv"
    cells.files.put_out_table(path)
    assert sentence(cells) == f"13 cell types were written to {path}."
    rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    for row in rows:
        row["price"] = "9.75" if row["id"] == "tarn-18-29p" else row["price"]
        row["mass_g"] = "heavy" if row["id"] == "tarn-18-33e" else row["mass_g"]
    rows.append(rows[0] | {"id": "", "name": "Tarn 18-40X", "price": "3"})
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, rows[0].keys())
        writer.writeheader()
        writer.writerows(rows)
    cells.files.take_in_table(path)
    shelf = window.session.all(CellType)
    assert shelf["tarn-18-29p"].price == 9.75
    assert shelf["tarn-18-33e"].mass_g == 47.5
    assert shelf["tarn-18-40x"].price == 3
    assert shelf["fell-21-50e"].fitted is not None, "a row does not hold the fit, and leaves it alone"
    assert "13 cell types came from cells.csv." in sentence(cells)
    assert "mass_g: “heavy” is not a number" in sentence(cells)
    window.session.undo()
    assert "tarn-18-40x" not in window.session.all(CellType)


def test_a_cell_in_use_is_not_deleted_one_that_is_not_goes_with_its_curves(
    tested: CellsStation, window: MainWindow
) -> None:
    tested.bar.delete_asked.emit()
    assert "is used by the design “Whimbrel, energy cells”: archive it" in sentence(tested)
    window.session.open_design("whimbrel-energy")
    window.session.edit("design.packs.0.cell_type_id", "fell-21-45p")
    window.session.open_design("whimbrel-transect")
    window.session.edit("design.packs.0.cell_type_id", "fell-21-45p")
    tested.table.selectRow(tested.table.shown_ids().index("fell-21-50e"))
    tested.bar.delete_asked.emit()
    assert "fell-21-50e" not in window.session.all(CellType)
    assert window.session.all(DischargeRecord) == {}
    window.session.undo()
    assert len(window.session.all(DischargeRecord)) == 4


# Discharges and fit


def test_own_discharges_stand_against_the_model(tested: CellsStation, qtbot: QtBot) -> None:
    tested.pictures.which.setFocus()
    qtbot.keyClick(tested.pictures.which, Qt.Key.Key_Right)
    shown = {one.name: one for one in tested.pictures.fit.shown}
    assert set(shown) == {"C/10", "C/2", "1C", "pulses"}
    assert shown["C/2"].held_out
    assert shown["pulses"].rms_mv < 8
    assert shown["C/2"].rms_mv < 25
    assert tested.views.current == CURVES
    assert f"C/2,&nbsp;held&nbsp;out:&nbsp;{shown['C/2'].rms_mv:.1f}" in tested.pictures.fit.key.text()


def test_a_fit_is_run_beside_the_window_kept_and_undone(tested: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("cells.0.fitted", None)
    settle(qtbot, tested)
    by_sheet = answers(window)[0]
    assert tested.curves.fit_button.text() == "Fit the model"
    qtbot.mouseClick(tested.curves.fit_button, Qt.MouseButton.LeftButton)
    assert tested.curves.fit_button.text() == "Fitting…"
    settle(qtbot, tested)
    fitted = window.session.complete.pack.cell.fitted
    assert fitted is not None
    assert fitted.capacity_mah == pytest.approx(5134, rel=1e-3)
    assert "Rests on up to 5 A, 10 A in bursts, and 25 to 33" in tested.curves.words.text()
    assert answers(window)[0] != by_sheet
    window.session.undo()
    assert window.session.complete.pack.cell.fitted is None
    assert answers(window)[0] == by_sheet


def test_holding_a_discharge_out_changes_what_the_fit_rests_on(
    tested: CellsStation, window: MainWindow, qtbot: QtBot
) -> None:
    tested.views.choose(CURVES)
    tick = next(t for t in tested.curves.findChildren(QCheckBox) if t.accessibleName() == "Use 1C in the fit")
    tick.click()
    settle(qtbot, tested)
    tested.curves.fit()
    settle(qtbot, tested)
    fitted = window.session.complete.pack.cell.fitted
    assert fitted is not None
    assert fitted.highest_current_a == pytest.approx(2.5)


def test_a_fit_that_cannot_be_is_a_sentence(
    cells: CellsStation, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    rows = (CURVE_FILES / "cell_a_c2_25c.csv").read_text().splitlines()
    late = tmp_path / "late.csv"
    late.write_text("\n".join([rows[0], *rows[200:]]))
    dialog = cells.files.open_import([late])
    qtbot.waitUntil(lambda: not dialog.busy)
    dialog.import_ready()
    cells.curves.fit()
    settle(qtbot, cells)
    assert "late begins at" in cells.curves.error.text()
    assert "needs discharges from a full cell" in cells.curves.error.text()
    assert window.session.complete.pack.cell.fitted is None


def test_a_discharge_is_renamed_in_its_row(tested: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    tested.views.choose(CURVES)
    line = next(n for n in tested.curves.findChildren(EntryLine) if n.text() == "C/2")
    write_into(qtbot, line, "half an hour")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    settle(qtbot, tested)
    assert "half an hour" in {one.name for one in tested.pictures.fit.shown}
    line = next(n for n in tested.curves.findChildren(EntryLine) if n.text() == "half an hour")
    write_into(qtbot, line, "  ")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert "must be some text" in sentence(tested)
    window.session.undo()
    assert "C/2" in {entry.name for entry in curves_of(window.session, "fell-21-50e")}


# Importing


def importing(cells: CellsStation, qtbot: QtBot, *paths: Path):  # type: ignore[no-untyped-def]
    dialog = cells.files.open_import(list(paths))
    qtbot.waitUntil(lambda: not dialog.busy and not any(state.stale for state in dialog.files), timeout=20_000)
    return dialog


def test_logs_of_several_rates_are_imported_as_one_edit(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    dialog = importing(cells, qtbot, *(CURVE_FILES / f"cell_a_{rate}_25c.csv" for rate in ("c10", "c2", "1c")))
    assert dialog.take.text() == "Import 3 of 3"
    assert "A discharge of 5\u202f134 mAh in 10.3 h at 0.5 A" in dialog.remarks.text()
    assert dialog.preview.plot.parts(Curve)
    qtbot.mouseClick(dialog.take, Qt.MouseButton.LeftButton)
    records = [e.source for e in curves_of(window.session, "fell-21-45p")]
    assert sorted(round(r.mean_current_a, 1) for r in records) == [0.5, 2.5, 5.0]  # type: ignore[union-attr]
    assert all(r.logged_temperature for r in records)  # type: ignore[union-attr]
    assert cells.views.current == CURVES
    window.session.undo()
    assert curves_of(window.session, "fell-21-45p") == []
    window.session.redo()
    assert len(curves_of(window.session, "fell-21-45p")) == 3
    importing(cells, qtbot, CURVE_FILES / "cell_a_c2_25c.csv").import_ready()
    names = [entry.name for entry in curves_of(window.session, "fell-21-45p")]
    assert names.count("cell_a_c2_25c") == names.count("cell_a_c2_25c, 2") == 1, "a name tells one discharge"


def test_imported_discharges_are_there_after_reopening(open_window: Callable[[], MainWindow], qtbot: QtBot) -> None:
    first = open_window()
    first.show_station(2)
    dialog = importing(first.station(CellsStation), qtbot, CURVE_FILES / "cell_a_c2_25c.csv")
    dialog.import_ready()
    first.close()
    again = open_window()
    again.show_station(2)
    settle(qtbot, again.station(CellsStation))
    curve, in_fit = again.station(CellsStation).curves.curves[0]
    assert in_fit
    assert curve.charge_c[-1] / 3.6 == pytest.approx(5071, abs=5)


def test_what_was_guessed_can_be_corrected(cells: CellsStation, qtbot: QtBot, tmp_path: Path) -> None:
    """Amps and volts under names that mislead, in one file of a two-cell pack."""
    time = np.arange(0, 3600, 60.0)
    rows = "\n".join(f"{t:.0f};{2500};{2 * (4.1 - 1.6 * t / 3600):.3f}" for t in time)
    path = tmp_path / "odd.csv"
    path.write_text("time;voltage;x\n" + rows)
    dialog = importing(cells, qtbot, path)
    assert not dialog.take.isEnabled()
    assert "is no voltage of one cell" in dialog.error.text() or "no column of amps" in dialog.error.text()
    for place, role, unit in ((1, "amps", "mA"), (2, "volts", "V")):
        box = dialog.grid.cellWidget(0, place)
        box.setCurrentText(role)
        box.activated.emit(box.currentIndex())
        box = dialog.grid.cellWidget(1, place)
        box.setCurrentText(unit)
        box.activated.emit(box.currentIndex())
    dialog.series.setText("2")
    dialog.series.editingFinished.emit()
    qtbot.waitUntil(lambda: not dialog.busy and not dialog.present.stale)
    assert dialog.error.text() == ""
    assert "at 2.5 A" in dialog.remarks.text()
    assert "Volts are of 2 cells in series" in dialog.remarks.text()
    dialog.import_ready()
    assert cells.curves.curves[0][0].voltage_v[0] == pytest.approx(4.1)


def test_pairs_ask_for_their_current(cells: CellsStation, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "printed.txt"
    path.write_text("\n".join(f"{q:.3f} {4.1 - 0.4 * q:.3f}" for q in np.linspace(0, 4, 50)))
    dialog = importing(cells, qtbot, path)
    assert "type the current at which it was discharged" in dialog.error.text()
    dialog.current.setText("2 apples")
    dialog.current.editingFinished.emit()
    assert "“apples” is not a unit of a current" in dialog.error.text()
    dialog.current.setText("2000 mA")
    dialog.current.editingFinished.emit()
    qtbot.waitUntil(lambda: not dialog.busy and not dialog.present.stale)
    assert "at 2 A" in dialog.remarks.text()
    assert dialog.take.isEnabled()


def test_of_several_files_the_good_ones_go_in_and_cancel_keeps_nothing(
    cells: CellsStation, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    bad = tmp_path / "bad.csv"
    bad.write_text("t,V,A\n0,4.1,2\n5,oops,2\n")
    good = CURVE_FILES / "cell_a_c2_25c.csv"
    dialog = importing(cells, qtbot, bad, good)
    assert "line 3, V: “oops” is not a number" in dialog.error.text()
    dialog.reject()
    assert curves_of(window.session, "fell-21-45p") == []
    dialog = importing(cells, qtbot, bad, good)
    assert dialog.take.text() == "Import 1 of 2"
    dialog.import_ready()
    assert [entry.name for entry in curves_of(window.session, "fell-21-45p")] == ["cell_a_c2_25c"]


def test_reading_can_be_stopped(cells: CellsStation, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "long.csv"
    rows = b"".join(b"%.2f,%.4f,2\n" % (0.01 * n, 4.1 - 0.001 * n) for n in range(1500))
    path.write_bytes(b"t,V,A\n" + 1000 * rows)
    dialog = cells.files.open_import([path])
    assert dialog.stop_button.isVisible()
    qtbot.mouseClick(dialog.stop_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not dialog.busy, timeout=20_000)
    assert "Reading was stopped" in dialog.error.text()
    assert not dialog.take.isEnabled()
    dialog.reject()


def test_a_table_of_resting_voltage_becomes_the_cells_own(
    cells: CellsStation, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "ocv.csv"
    path.write_text("soc,ocv\n" + "\n".join(f"{n / 20},{3 + 0.06 * n}" for n in range(21)))
    before = answers(window)[0]
    dialog = importing(cells, qtbot, path)
    assert dialog.take.text() == "Use as its own voltage table"
    dialog.import_ready()
    own = window.session.complete.pack.cell.own_ocv
    assert own is not None
    assert own.ocv_v[-1] == pytest.approx(4.2)
    assert answers(window)[0] != before
    settle(qtbot, cells)
    assert "its own voltage table" in cells.sheet.words.text()


def drop(window: MainWindow, *paths: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    window.dropEvent(
        QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier(0))
    )


def test_dropped_files_go_where_they_belong(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    drop(window, CURVE_FILES / "cell_a_c2_25c.csv")
    assert window.stack.currentWidget() is window.station(CellsStation)
    dialog = window.station(CellsStation).files.dialog
    assert dialog is not None
    assert dialog.isVisible()
    dialog.close()
    table = tmp_path / "cells.csv"
    window.station(CellsStation).files.put_out_table(table)
    drop(window, table)
    assert "13 cell types came from cells.csv." in sentence(window.station(CellsStation))
    other = tmp_path / "notes.pdf"
    other.write_bytes(b"%PDF")
    drop(window, other)
    assert window.notice.label.text()


# Tracing


def test_a_traced_chart_is_kept_opened_again_and_corrected(
    cells: CellsStation, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    picture = tmp_path / "chart.png"
    image = QImage(800, 600, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    image.save(str(picture))
    dialog = cells.files.open_trace(picture=picture)
    assert dialog is not None
    for x, y in ((100, 550), (700, 550), (100, 550), (100, 50)):
        dialog.view.placed.emit(QPointF(x, y))
    for line, text in zip(dialog.values, ("0", "3000", "2,5", "4.2"), strict=True):
        line.setText(text)
    dialog.values[-1].editingFinished.emit()
    dialog.unit.choose(1)
    # 4.2 V at 0 mAh, 3.35 V at 1 500, 2.5 V at 3 000: 600 pixels across, 500 down.
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        dialog.view.placed.emit(QPointF(100 + 600 * share, 50 + 500 * share))
    dialog.current.setText("1.5 A")
    dialog.current.editingFinished.emit()
    assert dialog.error.text() == ""
    dialog.keep()
    chart = next(c for c in window.session.all(TracedChart).values() if c.cell_type_id == "fell-21-45p")
    curve = cells.curves.curves[0][0]
    assert curve.charge_c[-1] / 3600 == pytest.approx(3.0)
    assert (curve.voltage_v[0], curve.voltage_v[-1]) == pytest.approx((4.2, 2.5))
    assert curve.time_s[-1] == pytest.approx(7200)

    again = cells.files.open_trace(chart)
    assert again is not None
    for y in (540, 520, 500):
        again.view.moved.emit(8, QPointF(700, y))
    again.view.dropped.emit()
    assert again.chart is not None
    assert again.chart.curves[0].points[-1] == (700, 500)
    again.take_back()
    assert again.chart.curves[0].points[-1] == (700, 550)
    again.view.removed.emit(6)
    assert "has 4 points; click along the curve for at least 5" in again.error.text()
    again.keep()
    assert curves_of(window.session, "fell-21-45p")[0].traced is not None
    window.session.undo()
    assert len(window.session.all(TracedChart)[chart.id].curves[0].points) == 5


def test_a_chart_is_marked_by_keys_alone(cells: CellsStation, qtbot: QtBot, tmp_path: Path) -> None:
    picture = tmp_path / "chart.png"
    image = QImage(200, 100, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    image.save(str(picture))
    dialog = cells.files.open_trace(picture=picture)
    assert dialog is not None
    view = dialog.view
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_Right)
    qtbot.keyClick(view, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert dialog.chart is not None
    assert dialog.chart.x_axis.first_px == (101, 60)
    assert dialog.tools.current == 1
    dialog.reject()


def test_what_is_no_picture_is_a_sentence(cells: CellsStation, tmp_path: Path) -> None:
    path = tmp_path / "chart.png"
    for content in (b"", b"no picture", b"\x89PNG\r\n\x1a\n"):
        path.write_bytes(content)
        dialog = cells.files.open_trace(picture=path)
        assert dialog is not None
        assert dialog.error.text() == "chart.png is no picture that can be read; use a PNG or JPEG of the chart."
        assert not dialog.keep_button.isEnabled()
        dialog.reject()


# Bench results


def test_bench_results_are_typed_into_the_table_and_widen_or_narrow_the_range(
    cells: CellsStation, window: MainWindow, qtbot: QtBot
) -> None:
    cells.views.choose(BENCH)
    model = cells.bench.model

    def put(row: int, place: int, text: str) -> bool:
        return model.setData(model.index(row, place), text)

    assert not put(0, 0, "first")
    assert "Type a measured capacity, resistance or mass first" in cells.bench.error.text()
    for row, capacity in enumerate(("3600", "4.4 Ah", "5200")):
        assert put(row, 1, capacity)
    assert [r.capacity_mah for r in window.session.complete.pack.cell.bench_results] == [3600, 4400, 5200]
    assert put(0, 3, "16,5")
    assert put(0, 5, "2026-03-14")
    assert not put(0, 5, "yesterday")
    assert "is no date" in cells.bench.error.text()
    assert not put(0, 4, "heavy")
    assert window.session.complete.pack.cell.bench_results[0].dcir_mohm == 16.5
    assert "4 400 mAh ± 23.3 % (3)" in cells.bench.said.text().replace("\u202f", " ").replace("\u00a0", " ")
    qtbot.waitUntil(lambda: window.session.spread is not None, timeout=20_000)
    assert window.session.spread is not None
    assert window.session.spread.doubts.cell.capacity_because == "3 specimens measured"
    low, high = window.session.spread.duration_s
    assert (high - low) / window.session.answer.duration_s > 0.3
    assert "…" in next(b.shown.beside for b in window.band.buttons if b.shown is not None)


def test_medians_become_the_cells_values_with_their_source(tested: CellsStation, window: MainWindow) -> None:
    tested.bench.use.click()
    cell = window.session.complete.pack.cell
    assert (cell.capacity_mah, cell.dcir_mohm, cell.mass_g) == (5121, 34.2, 69.0)
    assert cell.source_of("capacity_mah") == (SourceKind.MEASURED, cell.bench_results[0].day)
    window.session.undo()
    assert window.session.complete.pack.cell.capacity_mah == 5000


def test_specimens_are_removed_by_key(tested: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    tested.views.choose(BENCH)
    tested.bench.table.setFocus()
    tested.bench.table.setCurrentIndex(tested.bench.model.index(1, 1))
    tested.bench.table.setCurrentIndex(tested.bench.model.index(1, 1))
    tested.bench.model.remove({1})
    labels = [r.label for r in window.session.complete.pack.cell.bench_results]
    assert labels == ["specimen 1", "specimen 3", "specimen 4", "specimen 5"]


# From elsewhere


def test_findings_lead_to_the_field_on_the_sheet(cells: CellsStation, window: MainWindow) -> None:
    window.go_to_field("cells.0.continuous_current_a")
    assert cells.views.current == SHEET
    assert QApplication.focusWidget() is field(window, "cells.0.continuous_current_a").entry
    window.go_to_field("cells.0.fitted")
    assert cells.views.current == CURVES


@pytest.mark.usefixtures("shelf")
def test_a_result_of_an_earlier_design_is_never_shown(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    for _ in range(4):
        window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    settle(qtbot, cells)
    assert column(cells, "Minutes")["Fell 21-45P"] == f"{window.session.answer.duration_s / 60:.1f}"
    assert {row.parallel_count for row in cells.table.shelf.rows} == {7}


def test_a_tested_cell_travels_with_its_fit_sources_and_bench_results(tested: CellsStation, window: MainWindow) -> None:
    cell = window.session.complete.pack.cell
    assert import_text(export_text(cell)).document == cell
    assert json.loads(export_text(cell))["document"]["schema_version"] == 2


@pytest.mark.usefixtures("shelf")
def test_a_shelf_flown_for_an_earlier_design_is_dropped(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    """The shelf is on its way when the user goes to Flight and changes the recipe there."""
    before = column(cells, "Minutes")
    cells.bar.changed.emit()
    window.show_station(4)
    window.recipe.step("design.packs.0.recipe.parallel_count", 2)
    settle(qtbot, cells)
    assert column(cells, "Minutes") == before, "nothing new came for a design that is gone"
    window.show_station(2)
    settle(qtbot, cells)
    assert column(cells, "Minutes")["Fell 21-45P"] == f"{window.session.answer.duration_s / 60:.1f}"


def test_a_chart_whose_picture_is_gone_is_a_sentence(cells: CellsStation, window: MainWindow) -> None:
    chart = next(iter(window.session.all(TracedChart).values()))
    assert cells.files.open_trace(chart.model_copy(update={"picture_key": "gone"})) is None
    assert "are missing; import its file again" in sentence(cells)


@pytest.mark.usefixtures("shelf")
def test_a_cell_that_cannot_fly_is_still_shown(cells: CellsStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("cells.0.dcir_mohm", 480)
    settle(qtbot, cells)
    assert window.session.answer.duration_s == 0
    assert column(cells, "Minutes")["Fell 21-45P"] == "0.0"
    cells.table.selectAll()
    settle(qtbot, cells)
    cells.pictures.which.choose(2)
    assert cells.cell_current_a() == pytest.approx(4.4 / 20)
    assert len(cells.pictures.load.curves) == 4
    assert {c.title: c.verdict for c in cells.claims.claims}["Heat at its rated 35 A"] is Verdict.CANNOT_BE


def test_a_value_that_is_typed_over_an_estimate_is_none_any_more(window: MainWindow) -> None:
    session = window.session
    fresh = blank_cell_type("own", "Own", FormFactor.C21700)
    session.commit("Add", [fresh, session.complete.design.with_first(cell_type_id="own")])
    assert session.complete.pack.cell.source_of("mass_g")[0] is SourceKind.ESTIMATE
    session.edit("cells.0.mass_g", 71.5)
    cell = session.complete.pack.cell
    assert cell.source_of("mass_g")[0] is SourceKind.MAKERS_SHEET
    assert cell.source_of("capacity_mah")[0] is SourceKind.ESTIMATE
    session.undo()
    assert session.complete.pack.cell == fresh
