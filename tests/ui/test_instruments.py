"""Instruments in the window: stand-ins that are listened to, and readings that go into the field in focus."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QLabel
from pytestqt.qtbot import QtBot

from tests.ui.conftest import place_of
from wise_cellar.demo.sample_packs import HALF_BUILT_ID
from wise_cellar.instruments.stand_ins.kinds import CellMeter, Scale
from wise_cellar.ui.shell.instruments_sheet import InstrumentsSheet
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.desk import Desk
from wise_cellar.ui.state.pack_making import built_packs, remove_pack
from wise_cellar.ui.state.tray_edits import cells_of, remove_cells
from wise_cellar.ui.stations.build.station import TRAY, BuildStation

STATION = "Build"


@pytest.fixture
def desk(window: MainWindow) -> Iterator[Desk]:
    yield window.bench.desk
    window.bench.desk.at_once = False
    window.bench.close()
    for dialog in QApplication.topLevelWidgets():
        if isinstance(dialog, QDialog):
            dialog.close()


@pytest.fixture
def build(window: MainWindow) -> BuildStation:
    window.show_station(place_of("Build"))
    station = window.stack.currentWidget()
    assert isinstance(station, BuildStation)
    station.pages.choose(TRAY)
    for pack in built_packs(window.session):
        if not pack.finished:
            remove_pack(window.session, pack)
    return station


def words_of(window: MainWindow) -> str:
    return " ".join(label.text() for label in window.notice.findChildren(QLabel))


def test_a_tray_of_ten_is_measured_with_one_key_a_cell(
    window: MainWindow, desk: Desk, build: BuildStation, qtbot: QtBot
) -> None:
    session = window.session
    remove_cells(session, cells_of(session, "fell-21-45p"))
    device = desk.open_stand_in("meter", session.complete.pack.cell, seed=5, speed=8.0)
    meter = device.served.stand_in  # type: ignore[union-attr]
    assert isinstance(meter, CellMeter)
    table = build.on_tray.table
    table.setFocus()
    table.setCurrentIndex(build.on_tray.model.index(0, 1))
    for number in range(1, 11):
        qtbot.waitUntil(lambda: {"volts", "resistance"} <= set(desk.ready), timeout=10000)
        window.bench.take()
        assert len(cells_of(session, "fell-21-45p")) == number
    cells = cells_of(session, "fell-21-45p")
    assert [cell.arrival_v for cell in cells] == pytest.approx(meter.volts.tolist(), abs=0.002)
    assert [cell.dcir_mohm for cell in cells] == pytest.approx(meter.mohm.tolist(), rel=0.01)
    assert all(cell.rested_v is None for cell in cells)


def test_masses_go_in_by_themselves_once_they_stand_still(
    window: MainWindow, desk: Desk, build: BuildStation, qtbot: QtBot
) -> None:
    device = desk.open_stand_in("scale", window.session.complete.pack.cell, seed=6, speed=8.0)
    scale = device.served.stand_in  # type: ignore[union-attr]
    assert isinstance(scale, Scale)
    table = build.on_tray.table
    table.setFocus()
    table.setCurrentIndex(build.on_tray.model.index(0, 6))
    desk.at_once = True

    def weighed() -> int:
        return sum(
            cell.mass_g == pytest.approx(grams, abs=0.03)
            for cell, grams in zip(cells_of(window.session, "fell-21-45p"), scale.grams, strict=False)
        )

    qtbot.waitUntil(lambda: weighed() >= 4, timeout=20000)


def test_a_steps_volts_come_from_the_meter(window: MainWindow, desk: Desk, qtbot: QtBot) -> None:
    window.show_station(place_of("Build"))
    build = window.station(BuildStation)
    build.show_page("Steps")
    build.steps.choose(HALF_BUILT_ID)
    build.steps.panel.go_on()
    device = desk.open_stand_in("meter", window.session.complete.pack.cell, seed=7, speed=8.0)
    qtbot.waitUntil(lambda: "volts" in desk.ready, timeout=10000)
    first, second = build.steps.panel.readings[:2]
    QTest.keyClick(first.line, Qt.Key.Key_F8)
    assert first.line.text()
    assert abs(float(first.line.text()) - 3.51) < 0.05
    assert second.line.hasFocus(), "and it goes on"
    desk.close(device)
    assert not desk.devices


def test_what_cannot_be_taken_is_a_sentence(window: MainWindow, desk: Desk, qtbot: QtBot) -> None:
    window.bench.take()
    assert "No reading has settled" in words_of(window)
    desk.open_stand_in("scale", window.session.complete.pack.cell, speed=8.0)
    qtbot.waitUntil(lambda: "mass" in desk.ready, timeout=10000)
    window.rail.setFocus()
    window.bench.take()
    assert "has settled; put the focus where it goes" in words_of(window)
    assert "mass" in desk.ready, "and is not lost"


def test_the_sheet_shows_what_comes_and_what_was_understood(window: MainWindow, desk: Desk, qtbot: QtBot) -> None:
    window.commands.actions["Instruments…"].trigger()
    sheet = next(one for one in QApplication.topLevelWidgets() if isinstance(one, InstrumentsSheet))
    sheet.kinds.setCurrentIndex(0)
    sheet.start.click()
    (card,) = sheet.cards
    qtbot.waitUntil(lambda: "Volts" in card.understood.text(), timeout=10000)
    assert any("V=" in line.text for line in card.raw.lines)
    card.close_it.click()
    assert sheet.cards == []
    sheet.address.setText("usb")
    sheet.opening.click()
    assert "is no address of a device" in sheet.attempt.text()
    sheet.address.setText("tcp:192.0.2.7:5025")
    sheet.opening.click()
    assert "outside of this computer" in sheet.attempt.text()
    assert not desk.devices
    sheet.address.setText("serial:/dev/nothing-here")
    sheet.opening.click()
    (card,) = sheet.cards
    qtbot.waitUntil(lambda: "cannot be opened" in card.sentence.text(), timeout=10000)
