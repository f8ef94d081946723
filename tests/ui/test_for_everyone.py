"""Whoever does not see the window, or not its colours, or has no pointer, has all of it too."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import combinations

import numpy as np
import pytest
from PyQt6 import sip
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QGraphicsView,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QTableView,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.accessible import CHECKABLE, INVISIBLE, Accessible, Role, tree
from tests.ui.conftest import every_page, shown_in
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.ui.shell.tab_order import reading_order
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.stations.cellar.shelf_list import ShelfList
from wise_cellar.ui.stations.cells.live_sheet import LiveSheet
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.stations.cells.trace_dialog import TraceDialog
from wise_cellar.ui.theme import ALL, NOONDAY, Appearance, Colours, colours_of
from wise_cellar.ui.widgets.panel import reveal
from wise_cellar.ui.widgets.picture import Picture
from wise_cellar.ui.widgets.plot_parts import Curve, Dots, Level, Moment
from wise_cellar.ui.widgets.plots import ThemedPlots

UNTOLD = {Role.CLIENT, Role.NONE, Role.BORDER}
"""Roles that tell nobody what a part is for."""


def in_view(window: QWidget) -> Iterator[Accessible]:
    return (one for one in tree(window) if not one.has(INVISIBLE))


def spaced(text: str) -> str:
    """A text whose numbers may stand apart from their units."""
    return text.replace("\u00a0", " ")


def faults(one: Accessible) -> Iterator[str]:
    """What a screen reader cannot tell of a part."""
    part = one.object
    tabbed = isinstance(part, QWidget) and bool(part.focusPolicy().value & Qt.FocusPolicy.TabFocus.value)
    drawn_on = isinstance(part, QWidget) and isinstance(part.parent(), QGraphicsView)
    if tabbed and not drawn_on:
        if not one.name:
            yield "has no name"
        if one.role in UNTOLD and not (isinstance(part, QGraphicsView) and isinstance(part.viewport(), Picture)):
            yield f"has no role, but {one.role.name}"
    if one.role is Role.GRAPHIC and not (one.name and one.description):
        yield "is a picture that says nothing"
    if one.role is Role.COMBO_BOX and one.description in ("", one.value):
        yield "does not say what is chosen by it"
    plain = isinstance(part, QLabel) and part.textFormat() is Qt.TextFormat.PlainText
    if plain and not isinstance(part, Picture) and spaced(part.text()) not in spaced(one.name):
        yield "hides what it says"
    if isinstance(part, QLineEdit) and one.value != part.text():
        yield "does not tell what stands in it"
    if one.role in (Role.CHECK_BOX, Role.RADIO_BUTTON) and not one.has(CHECKABLE):
        yield "does not tell whether it is ticked"


@pytest.mark.parametrize("station", [one.title for one in STATIONS])
def test_a_screen_reader_is_told_what_every_part_is(window: MainWindow, station: str) -> None:
    parts = 0
    for page in every_page(window, station):
        for picture in shown_in(page, ThemedPlots):
            picture.tell_now()
        # What stands around the stations is walked with the first of them.
        for one in in_view(window if station == STATIONS[0].title else page):
            parts += 1
            assert not list(faults(one)), (station, one)
    assert parts > 20, "the tree was walked"


def seen_with_focus(window: MainWindow, widget: QWidget) -> bool:
    """Whether a part looks otherwise with the focus; one that came anew is measured as what it is then."""
    if sip.isdeleted(widget):
        return True
    widget.setFocus(Qt.FocusReason.TabFocusReason)
    reveal(widget)
    QTest.qWait(2)
    if sip.isdeleted(widget):
        return True
    around = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()).adjusted(-2, -2, 2, 2)
    focused = window.grab(around).toImage()
    window.setFocus()
    return widget.isVisible() and focused != window.grab(around).toImage()


@pytest.mark.parametrize("station", [one.title for one in STATIONS])
def test_the_focus_is_seen_wherever_it_is(window: MainWindow, station: str) -> None:
    seen: set[QWidget] = set()
    for _ in every_page(window, station):
        for widget in reading_order(window):
            if widget in seen or sip.isdeleted(widget):
                continue
            seen.add(widget)
            told = (type(widget).__name__, widget.accessibleName())
            # What comes from beside the window meanwhile is laid out while a picture is taken.
            assert any(seen_with_focus(window, widget) for _ in range(4)), told
    assert len(seen) > 12, "recipe line, rail and band at the least"


# Colours, measured from pictures


SHARE = np.arange(256) / 255
LINEAR = np.where(SHARE <= 0.04045, SHARE / 12.92, ((SHARE + 0.055) / 1.055) ** 2.4)
"""Light of each of the 256 values of a channel, as WCAG 2 has it."""


def luminance(rgb: np.ndarray) -> Floats:
    """WCAG 2 relative luminance of colours, ``(..., 3)``."""
    return LINEAR[rgb] @ np.array([0.2126, 0.7152, 0.0722])


def contrast(one: Floats, other: Floats) -> Floats:
    light, dark = np.maximum(one, other), np.minimum(one, other)
    return (light + 0.05) / (dark + 0.05)


def pixels(image: QImage) -> np.ndarray:
    """(rows, columns, 3) Red, green and blue."""
    shown = image.convertToFormat(QImage.Format.Format_RGB32)
    bits = shown.bits()
    assert bits is not None
    bits.setsize(shown.sizeInBytes())
    flat = np.frombuffer(bits, np.uint8).reshape(shown.height(), shown.width(), 4)
    return flat[:, :, 2::-1].copy()


def colour(name: str) -> np.ndarray:
    return np.array(QColor(name).getRgb()[:3])


def stands_out(part: np.ndarray) -> float:
    """How far the colour that stands out most from the ground of a part of a picture does so."""
    levels = luminance(part).ravel()
    counted = np.bincount(np.round(levels * 4095).astype(int))
    ground = counted.argmax() / 4095
    return float(contrast(levels, np.full_like(levels, ground)).max())


def worded(window: QWidget) -> list[QWidget]:
    """Everything in view that shows words and nothing else; a single sign has no stroke as dark as its colour."""
    shown = [one for one in shown_in(window, QWidget) if isinstance(one, QLabel | QPushButton | QLineEdit)]
    return [one for one in shown if len(text_of(one).strip()) > 2]


@pytest.mark.parametrize("appearance", [Appearance.LIMESTONE, Appearance.LAMPLIGHT, Appearance.NOONDAY])
def test_words_and_lines_stand_out_and_pictures_turned_grey_still_tell(
    window: MainWindow, appearance: Appearance
) -> None:
    least = 7.0 if appearance is Appearance.NOONDAY else 4.5
    words, lines, pairs = [], [], 0
    try:
        window.looks.show_appearance(appearance)
        window.session.open_design("dunlin-extended")
        for station in (one.title for one in STATIONS):
            for place, page in enumerate(every_page(window, station)):
                if place and appearance is not Appearance.LIMESTONE:
                    break  # the same roles are behind all pages
                drawn_in = {colours_of(one).name for one in shown_in(page, QWidget)}
                assert drawn_in == {appearance.value}, (station, "whatever is behind a part of it")
                words += [(station, *each) for each in words_measured(window)]
                for plots in shown_in(page, ThemedPlots):
                    lines += [(station, *each) for each in lines_measured(plots)]
                    for one, other in alike(plots):
                        pairs += 1
                        assert told_apart(one, other), (station, one.name, other.name)
    finally:
        window.looks.show_appearance(Appearance.LIMESTONE)
    # The thinnest strokes of small letters are never as dark as their colour.
    assert not [each for each in words if each[-1] < 0.93 * least]
    assert not [each for each in lines if each[-2] < 3.0], "against the sheet"
    assert not [each for each in lines if each[-1] > 90], "drawn in its own colour"
    assert len(words) > 200
    assert len(lines) > 20
    assert pairs > 5


@pytest.mark.parametrize("appearance", [Appearance.LIMESTONE, Appearance.LAMPLIGHT, Appearance.NOONDAY])
def test_rows_that_are_chosen_stand_out_as_others_do(window: MainWindow, appearance: Appearance, qtbot: QtBot) -> None:
    least = 7.0 if appearance is Appearance.NOONDAY else 4.5
    try:
        window.looks.show_appearance(appearance)
        window.go_to_page("Cells", "Claims")
        cells = window.station(CellsStation)
        qtbot.waitUntil(lambda: cells.settled, timeout=20_000)
        cells.table.selectAll()
        cells.table.scrollToTop()
        words = list(rows_measured(cells.table))
        cells.table.selectRow(1)
        edges = [edge_of(cells.table, row) for row in range(3)]
    finally:
        window.looks.show_appearance(Appearance.LIMESTONE)
    assert [edge >= 3.0 for edge in edges] == [False, True, False], "a bar beside the chosen row"
    warnings = [each for each in words if each[0].startswith(("120", "187"))]
    assert warnings, "figures of a colour of their own"
    assert not [each for each in words if each[1] < 0.93 * least]


def words_measured(window: MainWindow) -> Iterator[tuple[str, float]]:
    """Everything in view that is words, and how far it stands out from what is behind it."""
    picture = pixels(window.grab().toImage())
    for widget in worded(window):
        seen = widget.visibleRegion().boundingRect()
        if min(seen.width(), seen.height()) >= 10:
            corner = widget.mapTo(window, seen.topLeft())
            part = picture[corner.y() : corner.y() + seen.height(), corner.x() : corner.x() + seen.width()]
            yield text_of(widget), stands_out(part)
    for view in shown_in(window, QAbstractItemView):
        if isinstance(view, QTableView | ShelfList):
            yield from rows_measured(view)


def rows_measured(view: QAbstractItemView) -> Iterator[tuple[str, float]]:
    """The words of every row in view, line by line; the rows that are chosen are of another ground."""
    drawn_on, model = view.viewport(), view.model()
    assert drawn_on is not None
    assert model is not None
    picture = pixels(drawn_on.grab().toImage())
    for row in range(model.rowCount()):
        for column in range(model.columnCount() if isinstance(view, QTableView) else 1):
            index = model.index(row, column)
            box = view.visualRect(index)
            said = str(index.data() or "")
            if box.isEmpty() or not drawn_on.rect().contains(box) or len(said.strip()) < 3:
                continue
            lines, left = (2, 75) if box.height() > 40 else (1, 0)  # beside the plan of a pack
            for line in range(lines):
                top, high = box.y() + 4 + line * (box.height() - 8) // lines, (box.height() - 8) // lines
                part = picture[top : top + high, box.x() + left : box.right()]
                yield f"{said}, line {line}", stands_out(part)


def edge_of(table: QTableView, row: int) -> float:
    """How far the left edge of a row stands out from its ground."""
    box = table.visualRect(table.model().index(row, 0))
    picture = luminance(pixels(table.viewport().grab().toImage()))
    return float(contrast(picture[box.center().y(), box.x() + 1], picture[box.center().y(), box.right() - 1]))


def lines_measured(plots: ThemedPlots) -> Iterator[tuple[str, float, float]]:
    """Every line that is drawn, its contrast, and how near to its colour the picture comes."""
    sheet = luminance(colour(colours_of(plots).sheet))
    inside = pixels(plots.grab().toImage()).reshape(-1, 3)
    for plot in plots.told_plots():
        for line in (*plot.parts(Curve), *plot.parts(Level), *plot.parts(Moment)):
            stroke = colour(line.stroke.colour)
            looked_for = isinstance(line, Curve) and line.name
            nearest = float(np.abs(inside.astype(int) - stroke).sum(axis=1).min()) if looked_for else 0.0
            yield line.name, float(contrast(luminance(stroke), sheet)), nearest


def alike(plots: ThemedPlots) -> Iterator[tuple[Curve | Dots, Curve | Dots]]:
    """Every two lines, and every two kinds of dots, of one plot."""
    for plot in plots.told_plots():
        for parts in (plot.parts(Curve), plot.parts(Dots)):
            yield from combinations([part for part in parts if part.name], 2)


def text_of(widget: QWidget) -> str:
    return widget.text() if isinstance(widget, QLabel | QPushButton | QLineEdit) else ""


@pytest.mark.parametrize("colours", ALL, ids=lambda c: c.name)
def test_colours_stand_out_from_both_grounds(colours: Colours) -> None:
    text, line = (7.0, 4.5) if colours is NOONDAY else (4.5, 3.0)
    for ground in (colours.ground, colours.sheet):
        behind = luminance(colour(ground))
        for role in ("ink", "faint", "verdigris", "ochre", "brick"):
            assert contrast(luminance(colour(getattr(colours, role))), behind) >= text, (role, ground)
        for one in colours.series:
            assert contrast(luminance(colour(one)), behind) >= line, (one, ground)
    assert contrast(luminance(colour(colours.on_accent)), luminance(colour(colours.verdigris))) >= text
    bar = contrast(luminance(colour(colours.verdigris)), luminance(colour(colours.rule)))
    assert bar >= 3.0, "a bar is seen on its track"


def told_apart(one: Curve | Dots, other: Curve | Dots) -> bool:
    """Whether two parts of a picture look unlike when it is grey: more than their colour differs, or their greys do."""
    if one.name == other.name:
        return True
    if isinstance(one, Dots) and isinstance(other, Dots):
        if (one.symbol, bool(one.fill)) != (other.symbol, bool(other.fill)) or abs(one.size - other.size) >= 2:
            return True
        greys = [luminance(colour(part.fill or part.stroke.colour)) for part in (one, other)]
    else:
        if one.stroke.dash != other.stroke.dash or abs(one.stroke.width - other.stroke.width) >= 0.5:
            return True
        greys = [luminance(colour(part.stroke.colour)) for part in (one, other)]
    return bool(contrast(*greys) >= 1.5)


def opened_by(window: MainWindow, opening: Callable[[], object]) -> QWidget:
    """The sheet that comes into view."""
    before = {one for one in QApplication.topLevelWidgets() if one.isVisible()}
    opening()
    QTest.qWait(30)
    return next(one for one in QApplication.topLevelWidgets() if one.isVisible() and one not in before)


SHEETS: dict[str, Callable[[MainWindow], Callable[[], object]]] = {
    "units": lambda window: window.looks.choose_units,
    "instruments": lambda window: window.bench.show,
    "backups": lambda window: window.files.show_backups,
    "handbook": lambda window: window.guide.open_handbook,
    "shortcuts": lambda window: window.guide.show_shortcuts,
    "trust": lambda window: window.guide.show_trust,
    "about": lambda window: window.guide.show_about,
    "find": lambda window: window.open_finder,
    "a chart": lambda window: lambda: TraceDialog(window, window.session, None).show(),
    "a discharge": lambda window: lambda: LiveSheet(window, window.session).show(),
}


@pytest.mark.parametrize("sheet", SHEETS)
def test_a_screen_reader_is_told_what_every_sheet_holds(window: MainWindow, sheet: str) -> None:
    shown = opened_by(window, SHEETS[sheet](window))
    for one in in_view(shown):
        assert not list(faults(one)), (sheet, one)
    shown.close()


def test_a_sheet_grows_with_its_words_and_scrolls_where_the_screen_ends(window: MainWindow, qtbot: QtBot) -> None:
    window.looks.choose_text_size()
    sheet = window.looks.text_size_sheet
    area = sheet.findChild(QScrollArea)
    bar = area.verticalScrollBar()
    before = sheet.height()
    sheet.words.setText("One line after the other. " * 20)
    qtbot.waitUntil(lambda: sheet.height() > before and bar.maximum() == 0)
    sheet.words.setText("One line after the other. " * 400)
    qtbot.waitUntil(lambda: bar.maximum() > 0)
    assert sheet.height() <= sheet.screen().availableSize().height()
    sheet.close()


def test_stations_are_a_choice_of_one(window: MainWindow) -> None:
    told = [one for one in tree(window.rail) if one.object in window.rail.buttons]
    assert [one.role for one in told] == [Role.RADIO_BUTTON] * len(STATIONS)
    assert [one.name for one in told] == [station.title for station in STATIONS]
    QTest.mouseClick(window.rail.buttons[3], Qt.MouseButton.LeftButton, pos=QPoint(100, 5))
    assert window.title_in_view() == STATIONS[3].title, "all of it takes a click"
