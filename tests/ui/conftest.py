"""The real window on a fresh sample workspace, driven without a display."""

from __future__ import annotations

import itertools
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, TypeVar

import pytest
from PyQt6.QtCore import QEvent, QSettings, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QScrollBar, QWidget
from pytestqt.qtbot import QtBot

from wise_cellar.demo import sample_workspace
from wise_cellar.store import Workspace
from wise_cellar.ui.application import make_application
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.state.pack_making import built_packs, remove_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations import place_of
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.build.station import TRAY, BuildStation
from wise_cellar.ui.stations.doorway import governing
from wise_cellar.ui.theme import Appearance
from wise_cellar.ui.widgets.segments import SEGMENTS, Segments


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    return make_application(Appearance.LIMESTONE)


@pytest.fixture(scope="session")
def sample_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The sample workspace, which is copied rather than written anew."""
    path = tmp_path_factory.mktemp("sample") / "sample.cellar"
    sample_workspace(path).close()
    return path


def sample_at(path: Path) -> Path:
    """Another workspace with the sample world in it."""
    sample_workspace(path).close()
    return path


@pytest.fixture
def workspace_path(tmp_path: Path, sample_file: Path) -> Path:
    return Path(shutil.copy(sample_file, tmp_path / "sample.cellar"))


@pytest.fixture
def open_window(qapp: QApplication, tmp_path: Path, workspace_path: Path) -> Iterator[Callable[[], MainWindow]]:
    """Opens a window on the workspace; again after it was closed, with the same settings."""
    opened: list[MainWindow] = []

    def opener() -> MainWindow:
        opened.append(shown_window(workspace_path, tmp_path / "settings.ini"))
        return opened[-1]

    yield opener
    for window in opened:
        dispose(window)


@pytest.fixture(scope="module")
def windows(qapp: QApplication, tmp_path_factory: pytest.TempPathFactory) -> Iterator[list[MainWindow]]:
    """The window that the tests of a module share; none before the first."""
    shared: list[MainWindow] = []
    yield shared
    for window in shared:
        dispose(window)


@pytest.fixture
def window(
    windows: list[MainWindow], workspace_path: Path, tmp_path_factory: pytest.TempPathFactory, request: Any
) -> MainWindow:
    """The module's window on a fresh workspace, at the module's ``STATION``, or at Flight."""
    station = getattr(request.module, "STATION", "Flight")
    if windows and windows[-1].isVisible():
        put_back(windows[-1], workspace_path, station)
    else:
        settings = tmp_path_factory.mktemp("settings") / "settings.ini"
        windows.append(shown_window(workspace_path, settings, station))
    return windows[-1]


def shown_window(workspace_path: Path, settings_path: Path, station: str = "") -> MainWindow:
    """A window on a workspace; it opens at the station where it was left, or at the one that is named."""
    settings = QSettings(str(settings_path), QSettings.Format.IniFormat)
    if station:
        settings.setValue("station", station)
    window = MainWindow(Session(Workspace.open(workspace_path)), settings)
    window.show()
    window.activateWindow()
    QTest.qWaitForWindowActive(window)
    return window


WidgetT = TypeVar("WidgetT", bound=QWidget)


def shown_in(holder: QWidget, kind: type[WidgetT]) -> Iterator[WidgetT]:
    """What is in view inside a part, from its top on: far less than ``findChildren`` looks through."""
    for child in holder.children():
        if isinstance(child, QWidget) and child.isVisible():
            if isinstance(child, kind):
                yield child
            yield from shown_in(child, kind)


def every_page(window: MainWindow, station: str) -> Iterator[Station]:
    """Each page of a station in view, one after the other."""
    window.show_station(place_of(station))
    shown = window.stack.currentWidget()
    assert isinstance(shown, Station)
    pages = next(shown_in(shown, Segments), None)
    for page in range(len(pages.words) if pages is not None else 1):
        if pages is not None:
            pages.choose(page)
        QTest.qWait(30)
        yield shown


def at_free_tray(window: MainWindow) -> BuildStation:
    """Build at its tray, whose cells are all free: the half built pack is gone."""
    window.show_station(place_of("Build"))
    station = window.stack.currentWidget()
    assert isinstance(station, BuildStation)
    station.pages.choose(TRAY)
    for pack in built_packs(window.session):
        if not pack.finished:
            remove_pack(window.session, pack)
    return station


def put_back(window: MainWindow, workspace_path: Path, station: str) -> None:
    """Show a fresh workspace in a window that was used, as one that was just opened would."""
    close_popovers()
    window.activateWindow()
    QTest.qWaitForWindowActive(window)
    for bar in shown_in(window, QScrollBar):
        bar.setValue(0)
    for row in SEGMENTS.within(window):
        row.choose(0)
    window.resize(1280, 800)
    window.settings.clear()
    window.show_station(place_of(station))
    window.session.go_on_in(Workspace.open(workspace_path))
    QApplication.processEvents()


def dispose(window: MainWindow) -> None:
    close_popovers()
    window.close()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


def close_popovers() -> None:
    """Close what stands over the windows."""
    for handle in QGuiApplication.topLevelWindows():  # far fewer than QApplication.topLevelWidgets looks through
        widget = QWidget.find(handle.winId()) if handle.isVisible() else None
        if widget is not None and not isinstance(widget, MainWindow):
            widget.close()
    QApplication.processEvents()


def popover() -> QWidget:
    """The chooser that is open."""
    from wise_cellar.ui.widgets.popover import Popover

    QApplication.processEvents()
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popover) and w.isVisible())


def field(window: MainWindow, path: str) -> Any:
    """The field at ``path``, at the station that governs it or on whichever has it."""
    first = governing(STATIONS, path)
    stations = itertools.chain(
        [window.stations[first]] if first is not None else [], window.stack.made, window.stations
    )
    return next(f for station in stations for f in station.fields() if f.path == path)


def press(qtbot: QtBot, target: QWidget, key: Any) -> None:
    """Press a key, let it go, and see the window painted: what comes sooner is taken together."""
    qtbot.keyClick(target, key)
    QApplication.processEvents()


def write_into(qtbot: QtBot, line: QLineEdit, text: str) -> None:
    """Write ``text`` in place of what a line holds, and stay in it."""
    line.setFocus()
    line.selectAll()
    if text:
        qtbot.keyClicks(line, text)
    else:
        qtbot.keyClick(line, Qt.Key.Key_Delete)


def type_into(qtbot: QtBot, target: Any, text: str) -> None:
    """Type into a field as a user does, and leave it with Enter."""
    write_into(qtbot, target.entry, text)
    qtbot.keyClick(target.entry, Qt.Key.Key_Return)


def answers(window: MainWindow) -> list[str]:
    """The five values of the band."""
    return [button.shown.value for button in window.band.buttons if button.shown is not None]


def settle(qtbot: QtBot, station: Station) -> None:
    """Wait for what is computed beside the window."""
    QApplication.processEvents()
    qtbot.waitUntil(lambda: station.settled, timeout=20_000)
    QApplication.processEvents()


def words(station: Station) -> str:
    """All that a station says in labels now."""
    return " ".join(label.text() for label in shown_in(station, QLabel))
