"""The handbook beside the window, why a finding is there, and the walk through the sample world."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtWidgets import QApplication, QDialog
from pytestqt.qtbot import QtBot

from tests.ui.conftest import dispose, shown_window, write_into
from wise_cellar.core.documents import BuiltPack
from wise_cellar.demo.sample_packs import OLD_PACK_ID
from wise_cellar.handbook import pages
from wise_cellar.ui import application
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.pack_life import fly_pack
from wise_cellar.ui.stations import place_of
from wise_cellar.ui.stations.build.station import BuildStation
from wise_cellar.ui.stations.compare.station import BESIDE, CompareStation
from wise_cellar.ui.stations.logbook.station import LogbookStation

STATION = "Flight"


def titles() -> list[str]:
    return [one.windowTitle() for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]


def test_f1_opens_the_page_of_the_station_and_twice_the_keys(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(place_of("Charge"))
    qtbot.keyClick(window, Qt.Key.Key_F1)
    handbook = window.guide.handbook
    assert handbook is not None
    assert handbook.shown is not None
    assert handbook.shown.title == "How do I charge and store packs?"
    assert "storage" in handbook.browser.toPlainText()
    qtbot.keyClick(handbook, Qt.Key.Key_F1)
    assert "Shortcuts" in titles()
    for dialog in QApplication.topLevelWidgets():
        if isinstance(dialog, QDialog):
            dialog.close()
    qtbot.keyClick(window, Qt.Key.Key_F1)
    assert handbook.isVisible()
    handbook.close()


def test_the_handbook_is_searched_and_its_links_lead_on(window: MainWindow, qtbot: QtBot) -> None:
    window.guide.show_handbook("trust")
    handbook = window.guide.handbook
    assert handbook is not None
    qtbot.keyClicks(handbook.search, "solder")
    assert handbook.list.item(0).text() == "Is soldering cells a bad idea?"  # type: ignore[union-attr]
    qtbot.keyClick(handbook.search, Qt.Key.Key_Return)
    assert handbook.shown is not None
    assert handbook.shown.name == "soldering"
    handbook.search.clear()
    assert handbook.list.count() == len(pages())
    handbook.browser.anchorClicked.emit(QUrl("trust.md"))
    assert handbook.shown.name == "trust"
    handbook.browser.anchorClicked.emit(QUrl("https://example.org"))
    assert handbook.shown.name == "trust", "nothing outside is opened"
    assert handbook.browser.document().toRawText().count("\ufffc") == 1, "its picture is shown"  # type: ignore[union-attr]
    handbook.close()


def test_questions_and_words_are_found(window: MainWindow, qtbot: QtBot) -> None:
    window.open_finder()
    write_into(qtbot, window.finder.line, "soldering cells")
    assert window.finder.list.item(0).text().startswith("Is soldering cells a bad idea?")  # type: ignore[union-attr]
    write_into(qtbot, window.finder.line, "rebound")
    assert "volts coming back" in "".join(
        window.finder.list.item(row).text()
        for row in range(window.finder.list.count())  # type: ignore[union-attr]
    )
    qtbot.keyClick(window.finder.line, Qt.Key.Key_Return)
    assert window.guide.handbook is not None
    assert window.guide.handbook.shown is not None
    assert window.guide.handbook.shown.name == "glossary"
    assert window.guide.handbook.browser.textCursor().selectedText() == "Rebound"
    window.guide.handbook.close()


def test_a_finding_says_why(window: MainWindow) -> None:
    window.session.edit("design.packs.0.recipe.leads.gauge_awg", 24)
    window.show_station(4)
    flight: Any = window.stations[4]
    button = next(one for one in flight.why.buttons if not one.isHidden())
    assert button.text().startswith("Why? ")
    button.click()
    assert window.guide.handbook is not None
    assert window.guide.handbook.shown is not None
    assert window.guide.handbook.shown.title == button.text().removeprefix("Why? ")
    window.guide.handbook.close()


@pytest.fixture
def walked(qapp: QApplication, workspace_path: Path, tmp_path: Path) -> Any:
    window = shown_window(workspace_path, tmp_path / "walk.ini")
    yield window
    dispose(window)


def test_the_walk_through_the_sample_world(walked: MainWindow, qtbot: QtBot) -> None:
    window, session = walked, walked.session
    assert window.walk.isHidden()
    window.commands.actions["Walk through the sample world"].trigger()
    walk = window.walk
    assert walk.isVisible()
    assert len(walk.stops) == 14
    begin = walk.at
    assert begin == 0
    assert window.stack.currentIndex() == 0, "it takes you there"

    def did(step: int) -> None:
        qtbot.waitUntil(lambda: step in walk.done, timeout=3000)

    session.open_design("whimbrel-transect")
    window.show_station(1)
    did(0)
    walk.leave()
    assert walk.isHidden()
    window.start_walk()
    assert walk.at == 1, "it goes on where it was left"
    session.edit("craft.parts.0.mass_g", 400)
    did(1)
    walk.there.click()
    assert window.stack.currentIndex() == 2
    session.edit("design.packs.0.cell_type_id", "fell-21-49e")
    did(2)
    session.step("design.packs.0.recipe.parallel_count", 1)
    did(3)
    assert walk.words.text().startswith("Flight: When do you land?")
    walk.there.click()
    assert window.stations[4].views.word == "Landing"  # type: ignore[attr-defined]
    session.edit("design.landing.policy", "balanced")
    did(4)
    session.compared.toggle_pin()
    did(5)
    window.station(CompareStation).pages.choose(BESIDE)
    window.show_station(5)
    did(6)
    walk.later.click()
    assert walk.at == 8, "a step can be left out"
    session.edit("design.packs.0.state.capacity_percent", 97)
    did(8)
    walk.there.click()
    did(9)
    assert walk.words.text().startswith("Build: Fly Whimbrel 1")
    walk.there.click()
    build = window.station(BuildStation)
    assert build.pages.word == "Packs"
    build.packs.choose(OLD_PACK_ID)
    fly_pack(session, session.all(BuiltPack)[OLD_PACK_ID])
    did(10)
    session.edit("design.charger.current_a", 2.5)
    did(11)
    walk.there.click()
    did(12)
    walk.there.click()
    logbook = window.station(LogbookStation)
    assert logbook.pages.word == "Learned"
    qtbot.waitUntil(lambda: logbook.settled and logbook.learned.taught is not None, timeout=30000)
    logbook.learned.takes["power"].click()
    did(13)
    assert walk.at == 7, "and is asked again"
    session.open_design("dunlin-extended")
    did(7)
    assert "That was all of it" in walk.words.text()


def test_a_step_is_not_done_by_doing_something_else(walked: MainWindow, qtbot: QtBot) -> None:
    walked.start_walk()
    walked.session.open_design("turnstone-shoreline")
    walked.show_station(1)
    qtbot.wait(600)
    assert walked.walk.done == frozenset()


def test_the_sample_world_opens_beside_ones_own(
    qapp: QApplication, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(application, "user_data_path", lambda _name: tmp_path / "data")
    own = shown_window(tmp_path / "own.cellar", tmp_path / "settings.ini")
    own.sample_wanted.connect(lambda: application.show_sample_world(own))
    own.walk_wanted.connect(lambda: application.show_sample_world(own, walk=True))

    def others() -> list[MainWindow]:
        windows = [one for one in QApplication.topLevelWidgets() if isinstance(one, MainWindow) and one.isVisible()]
        return [one for one in windows if one.session.workspace.path == tmp_path / "data" / "sample.cellar"]

    own.commands.actions["Sample world"].trigger()
    (sample,) = others()
    assert sample.session.complete.design.id == "whimbrel-transect"
    assert own.session.workspace.path == tmp_path / "own.cellar"
    own.commands.actions["Sample world"].trigger()
    assert others() == [sample], "it is not opened twice"
    own.commands.actions["Walk through the sample world"].trigger()
    assert sample.walk.isVisible()
    assert own.walk.isHidden()
    dispose(sample)
    dispose(own)
