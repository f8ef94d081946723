"""One setting for all that is shown: chosen in the window, kept, and followed by every page."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QTableView,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.ui.conftest import shown_in
from wise_cellar.core.shown import READY, Units, show_units, units
from wise_cellar.ui.application import chosen_units
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.stations import place_of
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.widgets.fields import Field
from wise_cellar.ui.widgets.plot import NumberAxis
from wise_cellar.ui.widgets.segments import Segments

STATION = "Craft"
IMPERIAL = READY["imperial"]


@pytest.fixture(autouse=True)
def put_units_back(window: MainWindow) -> Iterator[None]:
    yield
    if units() != Units():
        window.looks.show_in(Units())
    show_units(Units())


def mass_field(window: MainWindow) -> Field:
    return next(field for field in window.stack.currentWidget().findChildren(Field)
                if field.path == "craft.parts.0.mass_g")  # fmt: skip


def test_ounces_are_chosen_in_a_sheet_typed_and_kept(window: MainWindow) -> None:
    before = window.session.value("craft.parts.0.mass_g")
    window.looks.choose_units()
    sheet = window.looks.units_sheet
    sheet.rows["mass"].setFocus()
    QTest.keyClick(sheet.rows["mass"], Qt.Key.Key_Right)
    assert units() == Units(mass="oz")
    assert "oz" in sheet.example.text()
    sheet.close()
    assert "oz" in window.band.buttons[1].accessibleName() + window.band.buttons[1].shown.value
    field = mass_field(window)
    assert "oz" in [label.text() for label in field.findChildren(QLabel)]
    field.entry.setFocus()
    field.entry.selectAll()
    QTest.keyClicks(field.entry, "10")
    QTest.keyClick(field.entry, Qt.Key.Key_Return)
    assert window.session.value("craft.parts.0.mass_g") == pytest.approx(283.49523125)
    window.session.undo()
    assert window.session.value("craft.parts.0.mass_g") == before
    assert chosen_units(window.settings) == Units(mass="oz")


def test_the_page_that_was_in_view_is_shown_again(window: MainWindow) -> None:
    window.go_to_page("Flight", "Weather")
    assert window.looks.show_in(IMPERIAL)
    assert window.stack.currentIndex() == place_of("Flight")
    station = window.stack.currentWidget()
    assert "Weather" in [each.word for each in station.findChildren(Segments)]
    assert "°F" in [label.text() for label in shown_in(station, QLabel)]


def test_no_station_out_of_view_is_shown_meanwhile_and_those_before_are_gone(window: MainWindow) -> None:
    places = [place_of(title) for title in ("Flight", "Compare", "Flight")]
    for place in places:
        window.show_station(place)
        QApplication.processEvents()
    before = [window.stations[place] for place in places]
    shown: list[QWidget] = []

    class Watch(QObject):
        def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
            if event is not None and event.type() is QEvent.Type.Show and isinstance(watched, QWidget):
                shown.append(watched)
            return False

    watch = Watch()
    for station in before:
        station.installEventFilter(watch)
    window.looks.show_in(IMPERIAL)
    assert not shown
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert all(sip.isdeleted(station) for station in before)


def test_the_range_is_worded_anew(window: MainWindow, qtbot: QtBot) -> None:
    """Its words are made with it, and it was kept from before."""
    window.session.open_design("turnstone-shoreline")
    qtbot.waitUntil(lambda: window.session.spread is not None, timeout=20000)
    assert any("m/s" in one.doubt for one in window.session.spread.drivers)
    window.looks.show_in(IMPERIAL)
    qtbot.waitUntil(lambda: window.session.spread is not None, timeout=20000)
    assert any("mph" in one.doubt for one in window.session.spread.drivers)
    assert not any("m/s" in one.doubt for one in window.session.spread.drivers)


def test_an_entry_that_is_refused_waits_for_its_correction(window: MainWindow) -> None:
    field = mass_field(window)
    field.entry.setFocus()
    field.entry.selectAll()
    QTest.keyClicks(field.entry, "heavy")
    assert not window.looks.show_in(IMPERIAL)
    assert units() == Units()
    assert mass_field(window).entry.text() == "heavy"
    QTest.keyClick(field.entry, Qt.Key.Key_Escape)


def said(station: Station) -> Iterator[str]:
    """Every text of a page that is in view."""
    for part in shown_in(station, QWidget):
        if isinstance(part, QLabel):
            yield re.sub("<[^>]*>", " ", part.text())
        elif isinstance(part, QAbstractButton):
            yield part.text()
        elif isinstance(part, QLineEdit):
            yield part.text() or part.placeholderText()
        elif isinstance(part, QComboBox):
            yield part.currentText()
        elif isinstance(part, QPlainTextEdit):
            yield part.toPlainText()
        elif isinstance(part, QTableView) and (model := part.model()) is not None:
            for column in range(model.columnCount()):
                yield str(model.headerData(column, Qt.Orientation.Horizontal, Qt.ItemDataRole.DisplayRole) or "")
                for row in range(min(model.rowCount(), 4)):
                    yield str(model.index(row, column).data() or "")


KEPT = re.compile(r"(?:^|[\d\s\u00a0(])(g|mm|m/s|°C|m)(?![\w/²·°])")
POINT = re.compile(r"\d\.\d")
ALLOWED = re.compile(
    r"25\s°C|g a millilitre|Wh/kg|Any unit: .*|Filter: .*|N × [\d,]+\sm/s|g ÷ |g/ml|[\d,]+ g = |small: nickel to 0.2 mm"
    r"|such as .*|Such as .*|Wing, 1\.9 m|_v = .*"
)  # fmt: skip
"""Standard conditions, what is reckoned before the reader's eyes, examples that name both, names."""


@pytest.mark.parametrize("station", [one.title for one in STATIONS])
def test_every_page_follows(window: MainWindow, station: str) -> None:
    window.looks.show_in(Units("oz", "in", "ft", "mph", "°F", decimal_comma=True))
    window.show_station(place_of(station))
    shown = window.stack.currentWidget()
    assert isinstance(shown, Station)
    pages = next(shown_in(shown, Segments), None)
    for page in range(len(pages.words) if pages is not None else 1):
        if pages is not None:
            pages.choose(page)
        QTest.qWait(30)
        for text in said(shown):
            plain = ALLOWED.sub("", text)
            assert not KEPT.search(plain), text
            assert not POINT.search(plain), text


def test_an_axis_has_round_numbers_of_what_is_shown(window: MainWindow) -> None:
    axis = NumberAxis("bottom", "g")
    show_units(Units(mass="oz"))
    spacing, places = axis.tickValues(1100.0, 2600.0, 500)[0]
    texts = axis.tickStrings(places, 1.0, spacing)
    assert texts[0] == "40\u00a0oz"
    assert all(int(text.split("\u00a0")[0]) % 10 == 0 for text in texts)
    assert places[0] == pytest.approx(40 * 28.349523125)
