"""Stations are made once and given new data: after a journey each looks as if it had just been made."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PyQt6.QtGui import QCursor, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.ui.conftest import dispose, settle, shown_window
from wise_cellar.store import Workspace
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.theme import Appearance

SERIES, PARALLEL = "design.packs.0.recipe.series_count", "design.packs.0.recipe.parallel_count"


ALIKE = 3
"""Pictures in a row that must be alike before a station is at rest."""


def looks(window: MainWindow, qtbot: QtBot, place: int) -> QImage:
    """The station, when all that is computed beside it has come."""
    QCursor.setPos(0, 0)  # what is under the pointer looks otherwise
    window.notice.hide()
    window.resize(1280, 800)
    window.stack.setFocus()
    qtbot.waitUntil(lambda: window.session.settled, timeout=20_000)
    settle(qtbot, window.stations[place])
    seen, alike = window.stations[place].grab().toImage(), 0
    while alike < ALIKE:  # what came is laid out, then what wraps anew in it, each when the loop comes round to it
        qtbot.wait(15)
        before, seen = seen, window.stations[place].grab().toImage()
        alike = alike + 1 if seen == before else 0
    return seen


@pytest.fixture(scope="module")
def others() -> Iterator[list[MainWindow]]:
    """Another window, in which each station is made when it is first looked at."""
    opened: list[MainWindow] = []
    yield opened
    for window in opened:
        dispose(window)


@pytest.mark.parametrize("place", range(len(STATIONS)), ids=[station.title for station in STATIONS])
def test_a_station_that_was_led_about_looks_like_a_fresh_one(
    window: MainWindow, others: list[MainWindow], qtbot: QtBot, tmp_path: Path, place: int
) -> None:
    window.show_station(place)
    session = window.session
    for design in ("dunlin-extended", "whimbrel-transect") if place else ("turnstone-shoreline", "whimbrel-transect"):
        session.open_design(design)
        QApplication.processEvents()
    window.looks.show_appearance(Appearance.LAMPLIGHT)
    for path, by in ((PARALLEL, 2), (SERIES, 1), (PARALLEL, -3), (PARALLEL, 3)):
        window.recipe.step(path, by)
        QApplication.processEvents()
    window.show_station((place + 1) % len(STATIONS))
    session.edit("design.conditions.air_temperature_c", 3)
    window.looks.show_appearance(Appearance.LIMESTONE)
    session.undo()
    window.show_station(place)
    led_about = looks(window, qtbot, place)
    session.save_copy(tmp_path / "copy.cellar")
    if not others:
        others.append(shown_window(tmp_path / "copy.cellar", tmp_path / "settings.ini", STATIONS[place].title))
    else:
        others[0].session.go_on_in(Workspace.open(tmp_path / "copy.cellar"))
        others[0].show_station(place)
    assert different(led_about, looks(others[0], qtbot, place)) == ""


def different(one: QImage, other: QImage) -> str:
    """Where two pictures differ first, or nothing."""
    if one.size() != other.size():
        return f"{one.size()} and {other.size()}"
    rows = [y for y in range(one.height()) if row(one, y) != row(other, y)]
    return f"rows {rows[0]} to {rows[-1]}" if rows else ""


def row(picture: QImage, y: int) -> bytes:
    """The pixels of a row."""
    line = picture.constScanLine(y)
    assert line is not None
    return line.asstring(picture.bytesPerLine())


def test_stations_made_while_nothing_was_done_look_like_those_made_when_asked_for(
    others: list[MainWindow], open_window: Callable[[], MainWindow], qtbot: QtBot, tmp_path: Path
) -> None:
    window = open_window()
    window.stack.make_when_idle()
    qtbot.waitUntil(lambda: window.stack.all_made, timeout=20_000)
    assert len(window.stack.made) == len(STATIONS)
    window.session.save_copy(tmp_path / "copy.cellar")
    if not others:
        others.append(shown_window(tmp_path / "copy.cellar", tmp_path / "settings.ini", "Flight"))
    else:
        others[0].session.go_on_in(Workspace.open(tmp_path / "copy.cellar"))
    for title in ("Cells", "Build", "Logbook"):
        place = [station.title for station in STATIONS].index(title)
        window.show_station(place)
        others[0].show_station(place)
        assert different(looks(window, qtbot, place), looks(others[0], qtbot, place)) == "", title


def test_nothing_is_made_ahead_in_a_window_that_was_closed_and_anew_where_units_were_changed(
    open_window: Callable[[], MainWindow], qtbot: QtBot
) -> None:
    window = open_window()
    window.stack.make_when_idle()
    qtbot.waitUntil(lambda: len(window.stack.made) > 2, timeout=20_000)
    window.say_again()
    assert len(window.stack.made) == 1
    qtbot.waitUntil(lambda: len(window.stack.made) > 2, timeout=20_000)
    window.close()
    until = time.monotonic() + 20
    while not window.stack.all_made and time.monotonic() < until:
        QTest.qWait(20)  # a loop of its own would end with the last window
    assert window.stack.all_made
    assert len(window.stack.made) < len(STATIONS)
