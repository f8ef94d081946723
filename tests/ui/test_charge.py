"""Charge, driven through its widgets: the plan of one pack, its charger, and a day in the field."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from tests.ui.conftest import field, settle, shown_in, type_into, words
from wise_cellar.core.charge import Doing, charge_plan
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.charge.station import DAY, PLAN, ChargeStation
from wise_cellar.ui.widgets.plot_parts import Curve

STATION = "Charge"

CHARGE = 8


@pytest.fixture
def charge(window: MainWindow, qtbot: QtBot) -> ChargeStation:
    window.session.open_design("dunlin-extended")
    window.show_station(CHARGE)
    settle(qtbot, window.station(ChargeStation))
    return window.station(ChargeStation)


def test_the_plan_is_told_drawn_and_copied(window: MainWindow, charge: ChargeStation, qtbot: QtBot) -> None:
    plan = charge_plan(window.session.complete, window.session.answer)
    assert charge.headline.text().startswith("Auxiliary, Tarn 18-29P:")
    for name, value in plan.settings():
        told = next(one for one in charge.findChildren(QLabel) if one.accessibleName() == f"{name}: {value}")
        assert told.text() == value
    for sentence in (*plan.sentences(), *(caution.sentence for caution in plan.cautions)):
        assert sentence in words(charge)
    drawn = charge.picture.plots[0].parts(Curve)[0]
    assert drawn.y == pytest.approx(plan.charged.current_a)
    qtbot.mouseClick(charge.settings.copy_button, Qt.MouseButton.LeftButton)
    copied = QGuiApplication.clipboard().text()  # type: ignore[union-attr]
    assert "Mode: lithium-ion, 4.20 V a cell" in copied
    assert "Stay with it" in copied


def test_another_pack_goal_and_charger_change_the_plan(window: MainWindow, charge: ChargeStation, qtbot: QtBot) -> None:
    window.session.edit("design.packs.1.cell_type_id", "reed-2s-1900-hv")
    charge.wish.pack.setCurrentIndex(1)
    charge.wish.pack.activated.emit(1)
    settle(qtbot, charge)
    assert "lithium polymer, 4.20 V a cell" in words(charge)
    assert "what it shares the bus with may only have 4.20 V" in words(charge)
    assert charge.planned is not None
    quick = charge.planned.plan.charged.seconds
    type_into(qtbot, field(window, "design.charger.current_a"), "500 mA")
    settle(qtbot, charge)
    assert charge.planned.plan.charged.seconds > 2 * quick
    assert "0.5 A, limited by the charger's current" in words(charge)
    window.session.edit("design.charge.goal", "storage")
    settle(qtbot, charge)
    assert "for storage" in words(charge)


def test_first_charge_cold_and_a_given_charge(window: MainWindow, charge: ChargeStation, qtbot: QtBot) -> None:
    assert not field(window, "design.charge.start_percent").isVisible()
    window.session.edit("design.charge.start", "a given charge")
    assert field(window, "design.charge.start_percent").isVisible()
    type_into(qtbot, field(window, "design.charge.start_percent"), "35 %")
    qtbot.mouseClick(field(window, "design.charge.first_charge").entry, Qt.MouseButton.LeftButton)
    settle(qtbot, charge)
    assert "limited by the first charge after building" in words(charge)
    assert "First charge after building: outdoors or on stone" in words(charge)
    type_into(qtbot, field(window, "design.charge.temperature_c"), "1 °C")
    settle(qtbot, charge)
    assert "charge indoors, or in a warm box" in words(charge)
    type_into(qtbot, field(window, "design.charge.start_percent"), "much")
    assert "Charge at the start" in field(window, "design.charge.start_percent").error_text()
    assert window.session.value("design.charge.start_percent") == 35


def test_the_day_is_drawn_listed_and_leads_from_bar_to_line(
    window: MainWindow, charge: ChargeStation, qtbot: QtBot
) -> None:
    charge.pages.choose(DAY)
    table = charge.day.table
    assert table is not None
    assert charge.headline.text().startswith(f"{table.flights} flights")
    assert " ".join(table.sentences()) in words(charge)
    listed = [entry for entry in table.entries if entry.doing is not Doing.READY]
    assert charge.day.list.model().rowCount() == len(listed)  # type: ignore[union-attr]
    box, entry = charge.day.picture.bars()[2]
    at = QPoint(round(box.center().x()), round(box.center().y()))
    qtbot.mouseClick(charge.day.picture, Qt.MouseButton.LeftButton, pos=at)
    assert listed[charge.day.list.currentIndex().row()] == entry
    assert len(charge.day.list.as_text().splitlines()) == len(listed) + 1


def test_sets_chargers_and_hours_change_the_day(window: MainWindow, charge: ChargeStation, qtbot: QtBot) -> None:
    charge.pages.choose(DAY)
    assert charge.day.table is not None
    before = charge.day.table
    type_into(qtbot, field(window, "design.charger.count"), "1")
    settle(qtbot, charge)
    assert charge.day.table.air_s < before.air_s
    type_into(qtbot, field(window, "design.day.sets.0.count"), "3")
    settle(qtbot, charge)
    assert {"Dunlin, extended 3"} <= set(charge.day.table.sets)
    charge.sets.add()
    settle(qtbot, charge)
    box = charge.sets.choosers[-1]
    box.setCurrentIndex(box.findText("Whimbrel, long transect"))
    box.activated.emit(box.currentIndex())
    settle(qtbot, charge)
    assert "Whimbrel, long transect" in charge.day.table.sets
    type_into(qtbot, field(window, "design.day.length_h"), "90 min")
    settle(qtbot, charge)
    assert charge.day.table.day_s == 5400
    type_into(qtbot, field(window, "design.charger.supply_wh"), "20 Wh")
    settle(qtbot, charge)
    assert "20 Wh are used up" in words(charge)


def test_a_set_of_a_design_that_is_gone_is_told(window: MainWindow, charge: ChargeStation, qtbot: QtBot) -> None:
    charge.pages.choose(DAY)
    window.session.edit("design.day.sets.1.design_id", "nobody")
    settle(qtbot, charge)
    assert "a set for a design “nobody” that is not in this workspace" in words(charge)
    assert charge.sets.choosers[1].currentText() == "nobody, not here"


def test_the_day_prints_and_is_saved(charge: ChargeStation, tmp_path: Path) -> None:
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "day.pdf"))
    charge.day.print_to(printer)
    assert (tmp_path / "day.pdf").read_bytes()[:4] == b"%PDF"
    assert "Field day: Dunlin, extended" in charge.day.as_html()
    charge.day.save(tmp_path / "day.csv")
    rows = list(csv.DictReader((tmp_path / "day.csv").read_text(encoding="utf-8").splitlines()))
    assert sum(row["what"] == "flies" for row in rows) == charge.day.table.flights  # type: ignore[union-attr]
    charge.day.save(tmp_path / "nowhere" / "day.csv")
    assert "cannot be written" in charge.day.error.text()


def test_fields_bring_their_page(window: MainWindow, charge: ChargeStation) -> None:
    window.go_to_field("design.day.turnaround_min")
    assert charge.pages.current == DAY
    assert QApplication.focusWidget() is field(window, "design.day.turnaround_min").entry
    window.go_to_field("design.charge.most_c_rate")
    assert charge.pages.current == PLAN


def test_a_pack_found_too_low_is_not_charged_and_the_day_keeps_its_cautions(
    window: MainWindow, charge: ChargeStation, qtbot: QtBot
) -> None:
    assert not field(window, "design.charge.found_v").isVisible()
    window.session.edit("design.charge.start", "volts as found")
    type_into(qtbot, field(window, "design.charge.found_v"), "2400 mV")
    settle(qtbot, charge)
    assert "to 3.00 V a cell" in charge.headline.text()
    type_into(qtbot, field(window, "design.charge.found_v"), "1.9")
    settle(qtbot, charge)
    assert charge.headline.text().endswith("do not charge it")
    assert charge.picture.isHidden()
    assert "it is not charged again" in words(charge)
    window.session.edit("design.charge.start", "as it lands")
    settle(qtbot, charge)
    assert not charge.picture.isHidden()
    charge.pages.choose(1)
    type_into(qtbot, field(window, "design.day.place_temperature_c"), "-4")
    settle(qtbot, charge)
    assert "charge indoors, or in a warm box" in words(charge)
    assert "charge indoors, or in a warm box" in charge.day.as_html()
    assert "cannot be charged here. At −4 °C nothing is charged" in charge.day.as_html()


@pytest.mark.parametrize("size", [(1280, 800), (1100, 700)])
def test_the_cautions_of_a_day_are_seen_without_scrolling(
    window: MainWindow, qtbot: QtBot, size: tuple[int, int]
) -> None:
    window.session.open_design("dunlin-extended")
    window.resize(*size)
    window.go_to_page("Charge", "Field day")
    charge = window.station(ChargeStation)
    settle(qtbot, charge)
    qtbot.wait(50)
    cautions = [label for label in shown_in(charge.day, QLabel) if label.property("role") == "caution"]
    assert any(label.text().startswith("Stay with it") for label in cautions)
    assert [label.text() for label in cautions if label.visibleRegion().boundingRect() != label.rect()] == []
