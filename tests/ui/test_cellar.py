"""The Cellar in the real window: a craft begun by keyboard, every document on its shelf, undo of all of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QListWidget, QWidget
from pytestqt.qtbot import QtBot

from tests.ui.conftest import dispose, popover, settle, shown_window
from wise_cellar.core.begin import Beginning, Purpose
from wise_cellar.core.documents import CellType, Craft, Design, Mission
from wise_cellar.store import Workspace
from wise_cellar.ui.shell.findables import findable_fields, findables
from wise_cellar.ui.shell.finder import Findable, matching
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.state.sentence import SETTING
from wise_cellar.ui.stations.cellar.begin_page import BeginPage, GapChoice, GapLine
from wise_cellar.ui.stations.cellar.shelves_page import ShelvesPage
from wise_cellar.ui.stations.cellar.station import CellarStation
from wise_cellar.ui.widgets.search_line import SearchLine
from wise_cellar.ui.widgets.segments import Segments

STATION = "Cellar"


@pytest.fixture
def own(qapp: QApplication, tmp_path: Path) -> Any:
    """A window on a workspace in which nothing is yet."""
    window = shown_window(tmp_path / "own.cellar", tmp_path / "settings.ini")
    yield window
    dispose(window)


@pytest.fixture
def begin(own: MainWindow) -> BeginPage:
    return own.station(CellarStation).begin


@pytest.fixture
def shelves(window: MainWindow, qtbot: QtBot) -> ShelvesPage:
    shelves = window.station(CellarStation).shelves
    shelves.order.setCurrentIndex(0)
    window.show_station(0)
    settle(qtbot, window.station(CellarStation))
    return shelves


class Keys:
    """Types as hands do, and counts the keys that are no part of a value."""

    def __init__(self, window: MainWindow) -> None:
        self.window, self.count = window, 0

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        self.count += 1
        QTest.keyClick(self.target, key, modifier)
        QApplication.processEvents()

    def type(self, text: str) -> None:
        QTest.keyClicks(self.target, text)

    @property
    def target(self) -> QWidget:
        return QApplication.focusWidget() or self.window

    def go_to(self, name: str) -> None:
        """Tab until the focus is in a gap."""
        for _ in range(30):
            gap = getattr(self.target, "gap", None)
            if gap is not None and gap.name == name:
                return
            self.press(Qt.Key.Key_Tab)
        raise AssertionError(f"{name} is not reached")


def filled(window: MainWindow, begin: BeginPage, **texts: str) -> None:
    for name, text in texts.items():
        line = begin.line_of(name)
        assert isinstance(line, GapLine)
        line.setFocus()
        line.selectAll()
        line.insert(text)
        line.finish()


def sentence_of(window: MainWindow) -> Beginning:
    assert window.session.sentence is not None
    return window.session.sentence.said


# Beginning


def test_an_empty_workspace_opens_on_the_sentence(own: MainWindow, begin: BeginPage) -> None:
    assert not own.session.all(Design)
    assert own.stations[own.stack.currentIndex()].title == "Cellar"
    assert begin.isVisible()
    assert own.windowTitle().startswith("A craft to begin with")
    assert own.band.buttons[0].text().endswith("s"), "an answer is in sight before anything is told"
    assert not any(token.isVisible() for token in own.recipe.tokens.values())


def test_an_own_answer_by_keyboard_alone(own: MainWindow, begin: BeginPage) -> None:
    """The indoor quad: 65 g with one cylinder in it, seven minutes."""
    keys = Keys(own)
    keys.press(Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    for name, text in (
        ("name", "Wren"), ("rotor_count", "4"), ("propeller_mm", "40 mm"), ("mass_g", "65 g"),
        ("flown_min", "7 min"), ("battery", "1S 1P of 18350, 1100 mAh, 10 A"),
    ):  # fmt: skip
        keys.go_to(name)
        keys.type(text)
    keys.press(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert keys.count < 40
    assert own.session.sentence is None
    assert [design.name for design in own.session.all(Design).values()] == ["Wren, 1S 1P of 18350 1100 power"]
    assert own.stations[own.stack.currentIndex()].title == "Flight"
    craft = own.session.complete.craft
    assert (craft.name, craft.rotors.diameter_mm, len(craft.known_flights)) == ("Wren", 40, 1)
    assert "Wren is made" in own.notice.label.text()


DOWN = Qt.Key.Key_Down
THREE: dict[str, tuple[tuple[str, str | int], ...]] = {
    "an indoor quad of 65 g on one cylinder": (
        ("name", "Wren"), ("rotor_count", "4"), ("propeller_mm", "40 mm"), ("arranged", 2), ("mass_g", "65 g"),
        ("with_battery", 1), ("flown_min", "7"), ("battery", "1S 1P of 18350 1100 mAh 10 A"), ("charge_mah", "900 mAh"),
    ),
    "a lifter of 5 kg on four coaxial pairs": (
        ("name", "Crane"), ("rotor_count", "8"), ("propeller_mm", "18 in"), ("arranged", 1), ("mass_g", "5 kg"),
        ("flown_min", "14 min"), ("battery", "6S 16 Ah polymer 2 kg"), ("charge_mah", "13 Ah"), ("purpose", 5),
        ("onto", "21700 4200 mAh 70 g 45 A"),
    ),
    "a glider of 2.4 m": (
        ("name", "Swift"), ("carried", 1), ("span_mm", "2.4 m"), ("mass_g", "1.9 kg"), ("flown_min", "70"),
        ("battery", "3S 5000 mAh polymer"), ("charge_mah", "4100 mAh"), ("onto", "21700 5000 mAh energy"),
    ),
}  # fmt: skip
"""Each gap with what is typed into it, or how often Down is pressed."""


@pytest.mark.parametrize("craft", THREE)
def test_three_crafts_are_told_by_keyboard_alone(own: MainWindow, craft: str) -> None:
    keys = Keys(own)
    keys.press(Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    for name, told in THREE[craft]:
        keys.go_to(name)
        if isinstance(told, str):
            keys.type(told)
        else:
            for _ in range(told):
                keys.press(DOWN)
    keys.press(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert own.session.sentence is None, own.station(CellarStation).begin.error.text()
    assert keys.count <= 40
    complete, answer = own.session.complete, own.session.answer
    (flight,) = complete.craft.known_flights
    assert not flight.charge_guessed
    assert answer.calibration is not None
    assert answer.calibration.plausible, "what was told goes together"
    assert answer.reason.ending.value <= 1
    assert complete.mission.craft_id == complete.craft.id


def test_every_gap_shows_what_it_does_at_once(own: MainWindow, begin: BeginPage, qtbot: QtBot) -> None:
    open_one = own.session.answer.duration_s
    filled(own, begin, propeller_mm="10 in", mass_g="1.15 kg")
    assert own.session.answer.duration_s != open_one
    assert sentence_of(own).propeller_mm == pytest.approx(254)
    settle(qtbot, own.station(CellarStation))
    words = [text for text, _ in begin.picture.rows]
    assert words == ["Nothing told", "Propellers of 254\xa0mm", "Weighs 1\u202f150\xa0g"]
    assert begin.picture.rows[-1][1].duration_s == own.session.answer.duration_s
    assert "Weighs 1\u202f150\xa0g: " in begin.picture.accessibleDescription()


def test_a_bad_gap_is_a_sentence_in_place_and_loses_nothing(own: MainWindow, begin: BeginPage) -> None:
    filled(own, begin, mass_g="330 g")
    before = own.session.answer
    for name, text, says in (
        ("mass_g", "heavy", "Mass of the craft: “heavy” is not a number"),
        ("propeller_mm", "3 mm", "must be at least 20"),
        ("battery", "blue", "“blue” is not understood"),
        ("flown_min", "8 kg", "is not a unit of a time"),
        ("rotor_count", "4.5", "Number of propellers"),
    ):
        filled(own, begin, **{name: text})
        line = begin.line_of(name)
        assert says in begin.error.text()
        assert line.property("wrong") == "true"  # type: ignore[union-attr]
        assert line.text() == text, "what was typed stays"  # type: ignore[union-attr]
        assert own.session.answer is before
        line.go_back()  # type: ignore[union-attr]
        assert begin.error.isHidden()


def test_what_cannot_be_true_together_is_told_at_the_gap(own: MainWindow, begin: BeginPage) -> None:
    filled(own, begin, battery="4S 1300 mAh polymer 150 g", mass_g="120 g")
    choice = begin.line_of("with_battery")
    assert isinstance(choice, GapChoice)
    choice.activated.emit(1)
    assert "the battery alone weighs 150 g" in begin.error.text()
    assert choice.currentIndex() == 0
    filled(own, begin, flown_min="9000 min")
    assert begin.error.text().startswith("Minutes it flies now: The known flight drew")


def test_a_half_filled_sentence_outlives_a_crash(own: MainWindow, begin: BeginPage, tmp_path: Path) -> None:
    filled(own, begin, propeller_mm="178 mm", battery="6S 1300 mAh polymer")
    kept = own.session.workspace.setting(SETTING)
    said = sentence_of(own)
    own.session.workspace.close()  # nothing more is written, as after a crash
    with Workspace.open(tmp_path / "own.cellar") as again:
        assert again.setting(SETTING) == kept
    other = shown_window(tmp_path / "own.cellar", tmp_path / "settings.ini")
    assert sentence_of(other) == said
    dispose(other)


def test_making_is_one_edit_and_undo_brings_the_sentence_back(own: MainWindow, begin: BeginPage) -> None:
    filled(own, begin, name="Wren", propeller_mm="127 mm", battery="4S 850 mAh polymer", flown_min="8",
           onto="21700 4200 mAh 45 A")  # fmt: skip
    said = sentence_of(own)
    begin.make_button.click()
    session = own.session
    counts = [len(session.all(kind)) for kind in (Craft, Mission, CellType, Design)]
    assert counts == [1, 1, 2, 2]
    own.commands.actions["Undo"].trigger()
    assert [len(session.all(kind)) for kind in (Craft, Mission, CellType, Design)] == [0, 0, 0, 0]
    assert sentence_of(own) == said
    own.commands.actions["Redo"].trigger()
    assert [len(session.all(kind)) for kind in (Craft, Mission, CellType, Design)] == counts
    assert session.sentence is None


def test_undo_takes_gaps_back_one_by_one(own: MainWindow, begin: BeginPage) -> None:
    filled(own, begin, propeller_mm="127 mm", mass_g="330 g")
    undo = own.commands.actions["Undo"]
    assert undo.text() == "Undo: Fill a gap"
    undo.trigger()
    assert (sentence_of(own).propeller_mm, sentence_of(own).mass_g) == (127, None)
    undo.trigger()
    assert sentence_of(own) == Beginning()
    assert not undo.isEnabled()
    filled(own, begin, mass_g="330 g")
    begin.open_button.click()
    assert sentence_of(own) == Beginning()
    undo.trigger()
    assert sentence_of(own).mass_g == 330, "also when every gap was opened"


def test_nothing_of_a_sentence_is_changed_elsewhere(own: MainWindow, begin: BeginPage, qtbot: QtBot) -> None:
    for place in (1, 4):
        own.show_station(place)
        assert own.stack.currentIndex() == 0
        assert "Begin a craft first" in own.notice.label.text()
    before = own.session.answer
    qtbot.keyClick(begin, "]")
    own.commands.actions["Add a parallel cell"].trigger()
    QTest.qWait(60)
    assert own.session.answer is before
    assert "Finish the sentence first" in own.notice.label.text()
    own.commands.actions["Pin this answer, or let the pin go"].trigger()
    assert own.session.compared.pinned is None


def test_an_answer_of_the_band_leads_to_its_gap(own: MainWindow, begin: BeginPage) -> None:
    own.band.buttons[1].click()
    assert own.focusWidget() is begin.line_of("mass_g")


def test_a_usual_craft_fills_its_gaps_and_a_wing_has_others(own: MainWindow, begin: BeginPage) -> None:
    filled(own, begin, mass_g="1900 g")
    own.session.draft.fill(purpose=Purpose.HOVER)
    buttons = {button.text(): button for button in begin.findChildren(type(begin.make_button))}
    buttons["Glider of 2.4 m"].click()
    said = sentence_of(own)
    assert (said.span_mm, said.purpose, said.mass_g) == (2400, Purpose.GLIDE, 1900)
    assert begin.line_of("span_mm") is not None
    assert begin.line_of("arranged") is None
    carried = begin.line_of("carried")
    assert isinstance(carried, GapChoice)
    carried.activated.emit(1)
    assert sentence_of(own).span_mm is None
    assert begin.line_of("span_mm") is None


def test_a_sentence_is_left_for_later_and_found_again(window: MainWindow) -> None:
    session, before = window.session, window.session.complete
    window.commands.actions["New craft…"].trigger()
    begin = window.station(CellarStation).begin
    filled(window, begin, propeller_mm="300 mm")
    begin.aside_button.click()
    assert session.sentence is None
    assert session.complete == before
    window.commands.actions["New design…"].trigger()
    assert sentence_of(window).propeller_mm == 300
    window.show_station(4)
    assert session.sentence is None
    assert session.complete == before, "going elsewhere leaves it too"


def test_what_was_refused_is_left_with_the_sentence(window: MainWindow) -> None:
    window.begin()
    begin = window.station(CellarStation).begin
    filled(window, begin, mass_g="heavy")
    window.show_station(4)
    line = begin.line_of("mass_g") or next(one for one in begin.findChildren(GapLine) if one.gap.name == "mass_g")
    assert isinstance(line, GapLine)
    assert line.finish()
    assert line.text() == ""
    assert window.entries.all_taken()


def test_a_cell_of_the_workspace_is_named_in_the_sentence(window: MainWindow) -> None:
    window.begin()
    begin = window.station(CellarStation).begin
    filled(window, begin, propeller_mm="254 mm", onto="fell 21-45p")
    assert window.session.complete.pack.cell.name == "Fell 21-45P"
    begin.finish()
    assert window.session.complete.pack.cell.id == "fell-21-45p"
    assert len([one for one in window.session.all(CellType).values() if one.name == "Fell 21-45P"]) == 1


# Shelves


def names(shelves: ShelvesPage) -> list[str]:
    return [row.name for row in shelves.list.rows]


def test_every_design_stands_with_its_minutes(window: MainWindow, shelves: ShelvesPage) -> None:
    assert len(names(shelves)) == len(window.session.all(Design)) == 6
    row = next(row for row in shelves.list.rows if row.present)
    assert row.beside.startswith(f"{window.session.answer.duration_s / 60:.1f} min")
    assert row.said.endswith("open now, sample")


def test_shelves_are_searched_and_sorted(shelves: ShelvesPage) -> None:
    shelves.search.setText("dunlin 18-29p")
    assert names(shelves) == ["Dunlin, extended", "Dunlin, scout"]
    shelves.search.setText("")
    shelves.order.setCurrentIndex(1)
    shelves.order.activated.emit(1)
    seconds = [row.flown.seconds for row in shelves.list.rows if row.flown is not None]
    assert seconds == sorted(seconds, reverse=True)
    assert len(seconds) == 6
    shelves.order.setCurrentIndex(2)
    shelves.order.activated.emit(2)
    grams = [row.flown.takeoff_g for row in shelves.list.rows if row.flown is not None]
    assert grams == sorted(grams)
    shelves.search.setText("albatross")
    assert names(shelves) == []
    assert "Nothing here is called that" in shelves.empty_words.text()


def test_an_edit_is_flown_again_and_goes_to_the_front(window: MainWindow, shelves: ShelvesPage, qtbot: QtBot) -> None:
    window.session.open_design("dunlin-scout")
    window.session.step("design.packs.0.recipe.parallel_count", 1)
    settle(qtbot, window.station(CellarStation))
    row = next(row for row in shelves.list.rows if row.document.id == "dunlin-scout")
    assert row.beside.startswith(f"{window.session.answer.duration_s / 60:.1f} min")
    shelves.order.setCurrentIndex(3)
    shelves.order.activated.emit(3)
    assert names(shelves)[0] == "Dunlin, scout"


def test_enter_opens_a_design(window: MainWindow, shelves: ShelvesPage, qtbot: QtBot) -> None:
    shelves.list.choose(["turnstone-shoreline"])
    qtbot.keyClick(shelves.list, Qt.Key.Key_Return)
    assert window.session.complete.design.id == "turnstone-shoreline"
    assert window.stations[window.stack.currentIndex()].title == "Flight"


def test_archive_copy_rename_note_and_delete_can_all_be_undone(
    window: MainWindow, shelves: ShelvesPage, qtbot: QtBot
) -> None:
    session = window.session
    before = dict(session.all(Design))
    shelves.list.choose(["dunlin-own", "dunlin-scout"])
    shelves.chosen.buttons["archive"].click()
    assert "Dunlin, scout" not in names(shelves)
    shelves.archived.setChecked(True)
    assert "Dunlin, scout" in names(shelves)
    shelves.archived.setChecked(False)
    shelves.list.choose(["turnstone-shoreline"])
    shelves.chosen.buttons["copy"].click()
    assert shelves.list.selected[0].name == "Turnstone, shoreline, copy"
    shelves.chosen.name.selectAll()
    shelves.chosen.name.insert("Turnstone, long")
    shelves.chosen.name.finish()
    shelves.chosen.notes.setPlainText("Flown on the 3rd: wind was worse than told.")
    shelves.chosen.notes.left.emit()
    copied = next(one for one in session.all(Design).values() if one.name == "Turnstone, long")
    assert copied.notes.startswith("Flown on the 3rd")
    shelves.search.setText("worse than told")
    assert names(shelves) == ["Turnstone, long"], "notes are searched too"
    shelves.search.setText("")
    shelves.list.choose([copied.id])
    qtbot.keyClick(shelves.list, Qt.Key.Key_Delete)
    assert copied.id not in session.all(Design)
    assert "Deleted the design Turnstone, long" in window.notice.label.text()
    while session.undo() is not None:
        pass
    assert session.all(Design) == before


def test_what_is_used_is_not_deleted_and_says_where(window: MainWindow, shelves: ShelvesPage) -> None:
    shelves.which.choose(1)
    assert names(shelves) == ["Dunlin", "Whimbrel", "Turnstone"]
    shelves.list.choose(["dunlin"])
    assert "Used in Dunlin, extended, Dunlin, own battery, Dunlin, scout." in shelves.chosen.words.text()
    shelves.chosen.buttons["delete"].click()
    assert "Dunlin is used by the design" in shelves.chosen.error.text()
    assert "dunlin" in window.session.all(Craft)
    shelves.which.choose(3)
    unused = next(row for row in shelves.list.rows if row.beside.endswith("unused"))
    shelves.list.choose([unused.document.id])
    assert "Used in no design." in shelves.chosen.words.text()
    shelves.chosen.buttons["delete"].click()
    assert unused.document.id not in window.session.all(CellType)


def test_up_to_four_stand_side_by_side(window: MainWindow, shelves: ShelvesPage, qtbot: QtBot) -> None:
    shelves.list.choose(["dunlin-own"])
    assert shelves.chosen.buttons["beside"].isHidden()
    shelves.list.choose(["dunlin-extended", "dunlin-own", "dunlin-scout"])
    shelves.chosen.buttons["beside"].click()
    assert window.stations[window.stack.currentIndex()].title == "Compare"
    assert window.session.complete.design.id == "dunlin-extended"
    compare = window.stations[window.stack.currentIndex()]
    assert compare.pages.word == "Side by side"  # type: ignore[attr-defined]
    settle(qtbot, compare)
    assert [one.name for one in compare.aside.beside] == [  # type: ignore[attr-defined]
        "This design", "Dunlin, own battery", "Dunlin, scout",
    ]  # fmt: skip


def test_a_copy_of_a_craft_leaves_behind_what_was_seen_of_the_other(window: MainWindow) -> None:
    session = window.session
    assert session.complete.craft.known_flights
    window.commands.actions["Fly a copy of this craft"].trigger()
    craft = session.complete.craft
    assert (craft.known_flights, craft.balance, craft.max_takeoff_mass_g) == ((), None, None)
    session.undo()
    window.commands.actions["Fly a copy with its known flights and limits"].trigger()
    assert session.complete.craft.known_flights
    assert session.complete.craft.max_takeoff_mass_g == 2400


def test_single_samples_are_taken_over(own: MainWindow, qtbot: QtBot) -> None:
    own.session.draft.finish()
    own.show_station(0)
    shelves = own.station(CellarStation).shelves
    shelves.which.choose(3)
    assert shelves.samples.count() == 13
    shelves.samples.setCurrentText("Fell 21-50E")
    shelves.take_over.click()
    cell = own.session.all(CellType)["fell-21-50e"]
    assert cell.sample
    assert shelves.samples.count() == 12
    assert "Fell 21-50E" in names(shelves)
    own.session.undo()
    assert "fell-21-50e" not in own.session.all(CellType)


def test_a_cell_is_made_of_a_few_words(window: MainWindow, shelves: ShelvesPage, qtbot: QtBot) -> None:
    shelves.which.choose(3)
    sentence = shelves.cell_sentence
    qtbot.keyClicks(sentence.line, "a 21700 of 9 200 mAh")
    assert "more than one 21700 holds" in sentence.words.text()
    assert not sentence.button.isEnabled()
    sentence.line.clear()
    sentence.line.insert("a 21700 of 4 200 mAh and 70 g, good for 45 A, 15 mΩ")
    assert sentence.words.text().startswith("Understood: 21700, 4\u202f200 mAh, 70 g, good for 45 A, 15 mΩ")
    qtbot.keyClick(sentence.line, Qt.Key.Key_Return)
    (row,) = shelves.list.selected
    cell = row.document
    assert (cell.capacity_mah, cell.mass_g, cell.rated_current_a, cell.resistance_mohm) == (4200, 70, 45, 15)
    assert cell.source_of("capacity_mah")[0] == "maker's sheet"
    assert cell.source_of("max_temperature_c")[0] == "estimate"
    qtbot.keyClicks(sentence.line, "6S 1300 mAh polymer 100C 210 g")
    qtbot.keyClick(sentence.line, Qt.Key.Key_Return)
    (row,) = shelves.list.selected
    assert (row.document.cells_in_series, row.document.c_rating) == (6, 100)
    window.session.undo()
    assert row.document.id not in window.session.all(CellType)
    shelves.which.choose(0)


def test_the_pin_outlives_a_restart(open_window: Any) -> None:
    first = open_window()
    first.session.compared.toggle_pin()
    first.session.step("design.packs.0.recipe.parallel_count", 1)
    change = first.band.buttons[0].shown.change
    assert change.endswith("since the pin")
    first.close()
    again = open_window()
    assert again.session.compared.pinned is not None
    assert again.band.buttons[0].shown.change == change
    again.session.compared.toggle_pin()
    again.session.compared.toggle_pin()
    again.close()
    assert open_window().session.compared.pinned is None


# Where people look


def test_the_crafts_chooser_ends_with_a_new_one(window: MainWindow, qtbot: QtBot) -> None:
    window.recipe.open_token("design.craft_id")
    chooser = popover()
    shown = chooser.findChild(QListWidget)
    assert shown is not None
    before = window.session.complete
    shown.setCurrentRow(shown.count() - 1)
    assert shown.item(shown.count() - 1).text().startswith("New craft…")  # type: ignore[union-attr]
    assert window.session.sentence is None, "walking over it does nothing"
    qtbot.keyClick(shown, Qt.Key.Key_Return)
    assert window.session.sentence is not None
    assert begin_line(window).hasFocus()
    window.session.set_aside()
    assert window.session.complete.craft.id in ("turnstone", before.craft.id, "whimbrel")


def begin_line(window: MainWindow) -> QWidget:
    line = window.station(CellarStation).begin.line_of("name")
    assert line is not None
    return line


def test_one_of_many_is_chosen_by_typing(window: MainWindow, qtbot: QtBot) -> None:
    template = window.session.all(CellType)["fell-21-45p"]
    many = [template.changed(id=f"own-{n}", name=f"Plover 21-{n:03}", sample=False) for n in range(300)]
    window.session.commit("Many", many)
    window.recipe.open_token("design.packs.0.cell_type_id")
    chooser = popover()
    search = chooser.findChild(SearchLine)
    assert search is not None
    assert search.hasFocus()
    qtbot.keyClicks(search, "plover 217")
    assert window.session.complete.pack.cell.id == "fell-21-45p", "typing chooses nothing yet"
    qtbot.keyClick(search, Qt.Key.Key_Return)
    assert window.session.complete.pack.cell.name == "Plover 21-217"
    window.session.undo()
    window.session.undo()


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("new", "New craft"), ("new craft", "New craft"), ("new design", "New design"), ("alarm", "Flight: Landing"),
        ("range", "Flight: Range"), ("trust", "How far to trust the answer"), ("what next", "Flight: Range"),
        ("storage", "Charge: One pack"), ("known flight", None), ("motor kv", "Motor speed constant"),
        ("battery", None),
        ("weakest", "Weakest link"), ("undo", "Undo"), ("side by side", "Compare: Side by side"), ("pack", "Pack"),
        ("flight time", "Flight"),
    ],
)  # fmt: skip
def test_everyday_words_are_found(window: MainWindow, typed: str, first: str | None) -> None:
    things = findables(
        window.session, window.commands, window.recipe, window.guarded, window.go_to_page, window.go_to_field
    )
    for station in window.stations:
        station.refresh()
        things += findable_fields(window.session, station, window.go_to_field)
    found = matching(things, typed)
    assert found, f"{typed} finds nothing"
    if first is not None:
        assert found[0].text == first
    elif found[0].changes:
        raise AssertionError(f"{found[0].text} changes something and stands first")


def test_what_changes_something_stands_after_what_was_typed() -> None:
    things = [
        Findable("command", "Delete this design", "", lambda: None, changes=True),
        Findable("design", "Delete me", "", lambda: None),
    ]
    assert [thing.text for thing in matching(things, "delete")] == ["Delete me", "Delete this design"]
    assert [thing.text for thing in matching(things, "delete this design")] == ["Delete this design"]


def test_every_page_that_a_station_declares_is_there(window: MainWindow) -> None:
    for place, doorway in enumerate(STATIONS):
        for page in doorway.pages:
            window.go_to_page(doorway.title, page.name)
            assert window.stack.currentIndex() == place
            words = [one.word for one in window.stations[place].findChildren(Segments)]
            assert page.name in words, f"{doorway.title} has no page {page.name}"
