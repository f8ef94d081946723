"""Nothing is laid out anew that has the room it needs."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from tests.ui.conftest import settle
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.flight.station import FlightStation
from wise_cellar.ui.widgets.panel import SideArea


class LayoutsSeen(QObject):
    """Every part of a widget that is asked to lay itself out."""

    def __init__(self, watched: QWidget) -> None:
        super().__init__()
        self.parts: list[QObject] = []
        for part in (watched, *watched.findChildren(QWidget)):
            part.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is not None and event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.parts.append(watched)
        return False


def test_other_digits_of_the_same_width_lay_nothing_out_and_more_of_them_do(window: MainWindow) -> None:
    window.go_to_page("Flight", "Mission")
    readout = window.station(FlightStation).readout
    volts = readout.labels["Under load"]
    volts.setText("3.51 V")
    QApplication.processEvents()
    seen, narrow = LayoutsSeen(readout), volts.width()
    volts.setText("3.48 V")
    QApplication.processEvents()
    assert (volts.text(), seen.parts) == ("3.48 V", [])
    volts.setText("13.48 V")
    QApplication.processEvents()
    assert seen.parts
    assert volts.width() > narrow


def test_a_label_out_of_view_is_still_laid_out_for_what_it_came_to_say(window: MainWindow) -> None:
    window.go_to_page("Flight", "Mission")
    readout = window.station(FlightStation).readout
    window.go_to_page("Cells", "Claims")
    readout.labels["Used"].setText("123 456 mAh")
    window.go_to_page("Flight", "Mission")
    QApplication.processEvents()
    label = readout.labels["Used"]
    assert label.width() >= label.sizeHint().width()


def test_a_column_that_comes_to_scroll_keeps_its_width(window: MainWindow, qtbot: QtBot) -> None:
    """A caution more: what is in the column is not wrapped anew."""
    window.go_to_page("Flight", "Mission")
    station = window.station(FlightStation)
    bar, inside = station.findChild(SideArea).verticalScrollBar(), station.findChild(SideArea).widget()
    settle(qtbot, station)
    before, scrolled = inside.width(), bar.maximum() > bar.minimum()
    window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    settle(qtbot, station)
    assert station.findings_sheet.isVisible()
    assert (bar.maximum() > bar.minimum()) != scrolled
    assert inside.width() == before
