"""What a window is like when it is opened again: its place, its station, the lines that were dragged."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QByteArray, QSettings, QSize
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

from wise_cellar.ui.widgets.divided import Divided


class Remembered:
    """Of one window, in its settings."""

    def __init__(self, window: QWidget, settings: QSettings) -> None:
        self._window, self._settings = window, settings

    def keep_place(self) -> None:
        """Remember where the window stands, and how large it is."""
        self._settings.setValue("geometry", self._window.saveGeometry())

    def put_in_place(self) -> None:
        """Put the window where it was; one that was never opened, onto its screen."""
        geometry, screen = self._settings.value("geometry"), self._window.screen()
        if isinstance(geometry, QByteArray):
            self._window.restoreGeometry(geometry)
        elif screen is not None and QGuiApplication.platformName() != "offscreen":
            # The title bar takes its part of a small screen.
            self._window.resize(self._window.size().boundedTo(screen.availableSize() - QSize(0, 40)))

    def put_lines(self, station: QWidget) -> None:
        """Put the lines between pictures and tables where they were left, and remember where they are dragged to."""
        for divided in station.findChildren(Divided):
            kept = self._settings.value(f"line/{divided.name}")
            if isinstance(kept, QByteArray):
                divided.restoreState(kept)
            divided.splitterMoved.connect(partial(self._keep_line, divided))

    def _keep_line(self, divided: Divided, _at: int, _which: int) -> None:
        self._settings.setValue(f"line/{divided.name}", divided.saveState())

    def station(self, titles: list[str], first: str) -> str:
        """The title of the station that was in view last, where there still is one, else ``first``."""
        wanted = str(self._settings.value("station", first))
        return wanted if wanted in titles else first

    def keep_station(self, title: str) -> None:
        """Remember the station in view."""
        self._settings.setValue("station", title)
