"""Fields, Find, files, help, theme, layout and the keyboard."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QColor, QDropEvent, QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QApplication,
    QDialog,
    QFileDialog,
    QLabel,
    QLineEdit,
    QScrollArea,
    QTableView,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.builders import cell_type, complete, craft
from tests.ui.conftest import answers, close_popovers, every_page, field, sample_at, shown_in, type_into, write_into
from wise_cellar.core.documents import CellType, Craft, Design, export_text
from wise_cellar.demo import sample_workspace
from wise_cellar.store import read_exchange_file
from wise_cellar.ui.shell.findables import field_words
from wise_cellar.ui.shell.finder import Findable, Finder, matching
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.state.document_edits import take_in
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.theme import FAMILY, LAMPLIGHT, LIMESTONE, Appearance, colours_of
from wise_cellar.ui.widgets.chooser import Chooser

KV = "craft.motor.kv_rpm_per_v"


# Fields


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("fast", "Motor speed constant: “fast” is not a number; write 920 rpm/V."),
        ("700 g", "Motor speed constant: “g” is not a unit of a speed constant here; write 920 rpm/V."),
        ("20", "must be at least 50"),
        ("", "Motor speed constant needs a value; write 920 rpm/V."),
    ],
)
def test_a_bad_entry_says_what_would_be_right_and_changes_nothing(
    window: MainWindow, qtbot: QtBot, typed: str, says: str
) -> None:
    window.show_station(1)
    before, undo = answers(window), window.session.workspace.undo_label()
    entry = field(window, KV)
    type_into(qtbot, entry, typed)
    assert says in entry.error_text()
    assert entry.entry.text() == typed, "what was typed is not lost"
    assert entry.entry.property("wrong") == "true"
    assert window.session.value(KV) == 700
    assert (answers(window), window.session.workspace.undo_label()) == (before, undo)
    qtbot.keyClick(entry.entry, Qt.Key.Key_Escape)
    assert entry.entry.text() == "700"
    assert entry.error_text() == ""


def test_a_corrected_entry_is_taken_and_the_sentence_goes(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    entry = field(window, KV)
    type_into(qtbot, entry, "20")
    type_into(qtbot, entry, "650 kv")
    assert window.session.value(KV) == 650
    assert entry.error_text() == ""
    assert entry.entry.property("wrong") == "false"


def test_leaving_a_field_takes_what_was_typed(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    entry = field(window, KV)
    write_into(qtbot, entry.entry, "660")
    qtbot.keyClick(entry.entry, Qt.Key.Key_Tab)
    assert window.session.value(KV) == 660


def test_an_untouched_field_makes_no_edit(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    entry = field(window, KV)
    entry.entry.setFocus()
    qtbot.keyClick(entry.entry, Qt.Key.Key_Return)
    assert window.session.workspace.undo_label() is None


def test_whole_numbers_stay_whole(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    entry = field(window, "craft.rotors.blades")
    type_into(qtbot, entry, "2.5")
    assert "must be a whole number" in entry.error_text()
    type_into(qtbot, entry, "3")
    assert window.session.value("craft.rotors.blades") == 3


# Find


def find(window: MainWindow, qtbot: QtBot, typed: str) -> Finder:
    """Find, opened and typed into; the fields of stations come after everything else."""
    qtbot.keyClick(window, "k", Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClicks(window.finder.line, typed)
    return window.finder


def test_find_reaches_a_field(window: MainWindow, qtbot: QtBot) -> None:
    finder = find(window, qtbot, "winding")
    qtbot.waitUntil(lambda: finder.whole)
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.stations[window.stack.currentIndex()].title == "Craft"
    assert QApplication.focusWidget() is field(window, "craft.motor.resistance_mohm").entry


def test_find_names_the_pack_of_a_field_only_where_there_are_several(window: MainWindow) -> None:
    gauge = "recipe.leads.gauge_awg"
    assert field_words(window.session, f"design.packs.0.{gauge}") == "Lead gauge"
    assert field_words(window.session, "cells.0.mass_g") == "Mass"
    window.session.open_design("dunlin-extended")
    assert field_words(window.session, f"design.packs.1.{gauge}") == "Own battery: lead gauge"
    assert field_words(window.session, "craft.parts.0.mass_g").endswith(": part mass")


def test_find_reaches_cells_crafts_designs_and_commands(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.keyClick(find(window, qtbot, "tarn 21").line, Qt.Key.Key_Return)
    assert window.session.complete.pack.cell.name == "Tarn 21-40P"
    qtbot.keyClick(find(window, qtbot, "dunlin sc").line, Qt.Key.Key_Return)
    assert window.session.complete.design.name == "Dunlin, scout"
    qtbot.keyClick(find(window, qtbot, "pin this").line, Qt.Key.Key_Return)
    assert window.session.compared.pinned is not None
    qtbot.keyClick(find(window, qtbot, "craft whimbrel").line, Qt.Key.Key_Return)
    assert window.session.complete.craft.name == "Whimbrel"


def test_find_by_arrow_keys_and_with_nothing_found(window: MainWindow, qtbot: QtBot) -> None:
    finder = find(window, qtbot, "lead")
    qtbot.waitUntil(lambda: finder.whole)
    assert finder.list.count() >= 2
    qtbot.keyClick(finder.line, Qt.Key.Key_Down)
    assert finder.list.currentRow() == 1
    qtbot.keyClicks(finder.line, "xyz")
    assert finder.list.isHidden()
    assert not finder.nothing_found.isHidden()
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)
    assert finder.isVisible()
    close_popovers()


def test_find_opens_at_once_and_gathers_fields_while_nothing_else_is_to_be_done(
    window: MainWindow, qtbot: QtBot
) -> None:
    made = len(window.stack.made)
    qtbot.keyClick(window, "k", Qt.KeyboardModifier.ControlModifier)
    assert window.finder.isVisible()
    assert len(window.stack.made) == made, "no station was made for it"
    qtbot.keyClicks(window.finder.line, "x" * 9)
    assert not window.finder.whole
    qtbot.waitUntil(lambda: window.finder.whole)
    assert len(window.stack.made) == len(window.stations)
    close_popovers()


def test_better_matches_come_first() -> None:
    things = [Findable("field", text, "", lambda: None) for text in ("Cell lead", "Lead gauge", "Pleading")]
    assert [t.text for t in matching(things, "lead")] == ["Lead gauge", "Cell lead", "Pleading"]
    assert matching(things, "lead gauge") == [things[1]]
    assert matching(things, "boat") == []


# Files


def test_an_exported_design_comes_back_in_another_workspace(window: MainWindow, tmp_path: Path) -> None:
    window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    path = tmp_path / "design.json"
    window.files.export_to(path, window.session.complete)
    assert read_exchange_file(path).document == window.session.complete
    with sample_workspace(tmp_path / "other.cellar") as other:
        session = Session(other)
        take_in(session, read_exchange_file(path).document)
        assert session.answer.duration_s == window.session.answer.duration_s
        assert session.complete.pack.recipe == window.session.complete.pack.recipe
        assert len(session.all(CellType)) == len(window.session.all(CellType)), (
            "what is there to the letter is not doubled"
        )
        assert len(session.all(Design)) == 7, "but a design that differs comes beside the one it resembles"


def test_files_dropped_on_the_window_are_taken_in(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "sandpiper.json"
    path.write_text(export_text(craft(id="dotterel", name="Dotterel")), encoding="utf-8")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(
        QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier(0))
    )
    assert "dotterel" in window.session.all(Craft)
    assert window.notice.label.text() == "Imported the craft from sandpiper.json."
    window.session.undo()
    assert "dotterel" not in window.session.all(Craft)


def test_a_cell_type_that_differs_is_brought_in_beside_its_namesake(window: MainWindow) -> None:
    take_in(window.session, cell_type(id="fell-21-45p", name="Fell 21-45P", mass_g=71))
    names = [cell.name for cell in window.session.all(CellType).values()]
    assert names.count("Fell 21-45P") == 2
    assert window.session.complete.pack.cell.mass_g == 69.5


@pytest.mark.parametrize(("content", "says"), [("not json", "This is not JSON"), ("{}", "is not a Wise Cellar file")])
def test_a_bad_import_is_a_sentence_and_loses_nothing(
    window: MainWindow, tmp_path: Path, content: str, says: str
) -> None:
    path = tmp_path / "bad.json"
    path.write_text(content, encoding="utf-8")
    before = answers(window)
    window.files.take_in(path)
    assert says in window.notice.label.text()
    assert window.notice.label.property("role") == "error"
    assert answers(window) == before


@pytest.mark.parametrize(
    ("command", "kind", "identifier"),
    [
        ("Export this design…", "design", "whimbrel-transect"),
        ("Export this craft…", "craft", "whimbrel"),
        ("Export this cell type…", "cell type", "fell-21-45p"),
        ("Export this mission…", "mission", "north-transect"),
    ],
)
def test_every_kind_is_exported_from_the_menu(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: str, kind: str, identifier: str
) -> None:
    path = tmp_path / "out.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    window.commands.actions[command].trigger()
    found = read_exchange_file(path)
    document = found.document.design if kind == "design" else found.document
    assert (found.kind, document.id) == (kind, identifier)


def test_an_export_that_cannot_be_written_says_so(window: MainWindow, tmp_path: Path) -> None:
    window.files.export_to(tmp_path / "nowhere" / "design.json", window.session.complete)
    assert "cannot be written" in window.notice.label.text()


def test_another_workspace_takes_the_place_of_this_one(window: MainWindow, tmp_path: Path, qtbot: QtBot) -> None:
    other = tmp_path / "other.cellar"
    window.files.show_workspace(sample_at(other))
    assert window.session.workspace.path == other
    assert window.windowTitle() == "Whimbrel, long transect — other.cellar — Wise Cellar"
    assert window.settings.value("workspace") == str(other)
    assert answers(window)[4] == "the reserve is reached"


def test_a_workspace_that_cannot_be_opened_leaves_this_one(window: MainWindow, tmp_path: Path) -> None:
    foreign = tmp_path / "diary.cellar"
    foreign.write_text("Dear diary")
    window.files.show_workspace(foreign)
    assert window.isVisible()
    assert "is not a Wise Cellar workspace" in window.notice.label.text()


def test_an_imported_design_flies_with_what_it_brought(window: MainWindow) -> None:
    brought = complete()
    take_in(window.session, brought)
    assert window.session.complete.craft == brought.craft
    assert window.session.complete.pack.cell == brought.pack.cell
    assert window.session.complete.pack.recipe == brought.pack.recipe


# Help


def test_the_sheet_of_shortcuts_is_made_from_the_bindings(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.keyClick(window, Qt.Key.Key_F1)
    qtbot.keyClick(window, Qt.Key.Key_F1)
    sheet = next(d for d in window.findChildren(QDialog) if d.isVisible() and d.windowTitle() == "Shortcuts")
    texts = [label.text() for label in sheet.findChildren(QLabel)]
    for words, keys in window.commands.bindings():
        assert words in texts
        assert keys in texts
    assert "Ctrl+K" in texts
    sheet.close()
    assert window.guide.handbook is not None
    window.guide.handbook.close()


def test_no_two_commands_share_a_key(window: MainWindow) -> None:
    keys = [key for _, key in window.commands.bindings()]
    assert len(keys) == len(set(keys))


@pytest.mark.parametrize("words", ["How far to trust the answer", "About Wise Cellar"])
def test_help_sheets_open(window: MainWindow, words: str) -> None:
    window.commands.actions[words].trigger()
    sheet = next(d for d in window.findChildren(QDialog) if d.isVisible())
    assert any(
        "Lithium-ion cells burn" in label.text() or "GNU" in label.text() for label in sheet.findChildren(QLabel)
    )
    sheet.close()


# Theme


def test_the_colour_set_is_switched_and_remembered(open_window: Callable[[], MainWindow], qapp: QApplication) -> None:
    window = open_window()
    try:
        menu = window.commands.menus["&View"].actions()
        next(action for action in menu if action.text() == Appearance.LAMPLIGHT.words).trigger()
        assert colours_of(window) is LAMPLIGHT
        assert colours_of(window.band.buttons[0]) is LAMPLIGHT
        assert window.settings.value("appearance") == "Lamplight"
        for place in range(4):
            window.show_station(place)
            qapp.processEvents()
            pixel = window.grab().toImage().pixelColor(window.width() - 30, window.height() - 10)
            assert pixel.lightness() < 60
    finally:
        window.looks.show_appearance(Appearance.LIMESTONE)
    assert colours_of(window) is LIMESTONE


def test_the_shipped_font_is_used_and_has_what_is_written(window: MainWindow, qapp: QApplication) -> None:
    from PyQt6.QtGui import QFontInfo, QRawFont

    assert QFontInfo(qapp.font()).family() == FAMILY
    raw = QRawFont.fromFont(qapp.font())
    for character in "−×Ω°²…–“”’μρη½±":
        assert raw.supportsCharacter(character), character


def test_digits_are_all_as_wide_as_each_other(qapp: QApplication) -> None:
    from PyQt6.QtGui import QFontMetricsF

    widths = {round(QFontMetricsF(qapp.font()).horizontalAdvance(digit), 3) for digit in "0123456789"}
    assert len(widths) == 1


# Layout and keyboard


LARGE_TEXT = (687, 437)
"""What a window of 1100 by 700 has room for when everything is drawn at 160 %."""


def test_what_is_done_in_the_window_goes_before_what_is_computed_beside_it(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    first: list[None] = []
    monkeypatch.setattr("wise_cellar.ui.state.giving_way.window_first", lambda: first.append(None))
    QTest.keyClick(window.windowHandle(), Qt.Key.Key_Shift)
    assert first


def test_nothing_scrolls_sideways_or_is_cut_and_heads_stand_over_their_columns(
    window: MainWindow, qtbot: QtBot
) -> None:
    whimbrel, dunlin = "whimbrel-energy", "dunlin-extended"
    for design, size in ((whimbrel, (1100, 700)), (dunlin, (2560, 1440)), (dunlin, LARGE_TEXT)):
        window.session.open_design(design)
        window.resize(*size)
        for name in (one.title for one in STATIONS):
            for station in every_page(window, name):
                assert (window.width(), window.height()) == size
                until = time.monotonic() + 3  # words that came late wrap when the loop comes round to them
                while cut := parts_cut(station):
                    assert time.monotonic() < until, (size, name, cut)
                    qtbot.wait(20)
                assert not heads_apart(station)
                if size[0] > 2000:
                    break
            below = window.stack.mapTo(window.centralWidget(), window.stack.rect().topLeft()).y()
            assert window.recipe.geometry().bottom() < below


def heads_apart(station: Station) -> list[str]:
    """Heads of tables that stand on another side than what is below them; unsaid, a cell's text begins on the left."""
    role, side, across = (
        Qt.ItemDataRole.TextAlignmentRole,
        Qt.AlignmentFlag.AlignHorizontal_Mask,
        Qt.Orientation.Horizontal,
    )
    apart = []
    for table in shown_in(station, QTableView):
        model = table.model()
        assert model is not None, "a table that is shown has a model"
        for place in range(model.columnCount() if model.rowCount() else 0):
            head = Qt.AlignmentFlag(model.headerData(place, across, role) or 0) & side
            below = Qt.AlignmentFlag(model.index(0, place).data(role) or 0) & side or Qt.AlignmentFlag.AlignLeft
            if head != below:
                apart.append(f"{table.accessibleName()}: {model.headerData(place, across)}")
    return apart


def parts_cut(station: Station) -> list[str]:
    """What lies outside the part that holds it, and what would scroll sideways."""
    cut = []
    for child in shown_in(station, QWidget):
        parent = child.parentWidget()
        if child.isWindow() or parent is None:
            continue
        inside = child.widget() if isinstance(child, QScrollArea) else None
        if isinstance(child, QScrollArea) and inside is not None and inside.width() > child.viewport().width():
            cut.append(f"{type(child).__name__} scrolls sideways")
        scrolled = isinstance(parent.parent(), QAbstractScrollArea)
        far = child.geometry().right() > parent.width() or child.geometry().bottom() > parent.height() + 1
        if far and not scrolled:
            cut.append(f"{type(child).__name__} {child.accessibleName()} in {type(parent).__name__}")
    return cut


def test_everything_that_takes_the_focus_has_a_name(window: MainWindow, qapp: QApplication) -> None:
    for place in range(len(window.stations)):
        window.show_station(place)
        qapp.processEvents()
        for widget in shown_in(window, QWidget):
            takes = widget.focusPolicy() & Qt.FocusPolicy.TabFocus
            if takes and isinstance(widget, QLineEdit | QAbstractButton | Chooser):
                named = widget.accessibleName() or (isinstance(widget, QAbstractButton) and widget.text())
                assert named, widget


def test_tab_reaches_every_part_of_the_window(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(3)
    window.focus_recipe()
    seen: set[QWidget] = set()
    for _ in range(120):
        focused = QApplication.focusWidget()
        assert focused is not None
        if focused in seen and focused is window.recipe.tokens["design.craft_id"]:
            break
        seen.add(focused)
        qtbot.keyClick(focused, Qt.Key.Key_Tab)
    assert {token for token in window.recipe.tokens.values() if token.isVisible()} <= seen
    assert set(window.band.buttons) <= seen
    assert {window.stations[3].chain, window.stations[3].masses} <= seen  # type: ignore[attr-defined]
    assert any(button in seen for button in window.rail.buttons)


def test_marks_differ_in_shape_not_only_in_colour() -> None:
    from PyQt6.QtCore import QRectF

    from wise_cellar.ui.widgets.marks import State, draw_mark

    shapes = []
    for state in State:
        image = QImage(24, 24, QImage.Format.Format_ARGB32)
        image.fill(QColor("white"))
        painter = QPainter(image)
        draw_mark(painter, state, QRectF(4, 4, 16, 16), LIMESTONE)
        painter.end()
        shapes.append(
            frozenset((x, y) for x in range(24) for y in range(24) if image.pixelColor(x, y).lightness() < 200)
        )
    assert len(set(shapes)) == 3


@pytest.mark.parametrize("path", ["design.landing.strict_minimum", "craft.known_flights.0.altitude_m"])
def test_a_field_gone_to_from_anywhere_ends_up_in_sight(window: MainWindow, qtbot: QtBot, path: str) -> None:
    """The panel that holds it may be laid out only after it was scrolled to."""
    window.resize(1100, 700)
    window.go_to_field(path)

    def in_sight() -> None:
        focused = QApplication.focusWidget()
        assert focused is not None
        assert not focused.visibleRegion().isEmpty()

    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=3000)
    qtbot.wait(400)
    in_sight()
