"""The real window on a fresh sample workspace, driven without a display."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import QEvent, QSettings, Qt
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from wise_cellar.store import Workspace
from wise_cellar.ui.application import make_application
from wise_cellar.ui.session import Session
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.theme import Appearance
from wise_cellar.ui.widgets.fields import Field


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    return make_application(Appearance.LIMESTONE)


@pytest.fixture
def workspace_path(tmp_path: Path) -> Path:
    return tmp_path / "sample.cellar"


@pytest.fixture
def open_window(qtbot: QtBot, tmp_path: Path, workspace_path: Path) -> Iterator[Callable[[], MainWindow]]:
    """Opens the window on the workspace; again after it was closed, with the same settings."""
    opened: list[MainWindow] = []

    def opener() -> MainWindow:
        settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Session(Workspace.open(workspace_path)), settings)
        window.show()
        window.activateWindow()
        qtbot.waitActive(window)
        opened.append(window)
        return window

    yield opener
    for window in opened:
        close_popovers(window)
        window.close()
        window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


@pytest.fixture
def window(open_window: Callable[[], MainWindow]) -> MainWindow:
    return open_window()


def close_popovers(window: MainWindow) -> None:
    for widget in QApplication.topLevelWidgets():
        if widget is not window and widget.isVisible():
            widget.close()
    QApplication.processEvents()


def popover() -> QWidget:
    """The chooser that is open."""
    from wise_cellar.ui.widgets.popover import Popover

    QApplication.processEvents()
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popover) and w.isVisible())


def field(window: MainWindow, path: str) -> Any:
    """The field at ``path``, on whichever station; those made already are searched first."""
    stations = itertools.chain(list(window.stack.made), window.stations)
    return next(f for station in stations for f in station.findChildren(Field) if f.path == path)


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
    return " ".join(label.text() for label in station.findChildren(QLabel) if label.isVisibleTo(station))
