"""The Build station: a tray typed by keyboard alone, judged, matched, and flown as it is built."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit
from pytestqt.qtbot import QtBot

from tests.ui.conftest import at_free_tray
from wise_cellar.core.build import Fate
from wise_cellar.core.documents import Look, NumberedCell
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.tray_edits import cells_of, remove_cells
from wise_cellar.ui.stations.build.station import MATCH, TRAY, BuildStation
from wise_cellar.ui.stations.compare.station import CompareStation

STATION = "Build"


@pytest.fixture
def build(window: MainWindow) -> BuildStation:
    return at_free_tray(window)


def settled(build: BuildStation, qtbot: QtBot) -> None:
    build.pages.choose(MATCH)
    qtbot.waitUntil(lambda: build.settled and build.on_match.page.built is not None, timeout=20000)


def tray(window: MainWindow) -> tuple[NumberedCell, ...]:
    return cells_of(window.session, window.session.complete.pack.cell.id)


def type_in_table(build: BuildStation, row: int, column: int, *texts: str) -> None:
    """Type readings under each other: Enter goes on."""
    build.on_tray.table.setFocus()
    QApplication.processEvents()  # an editor that is open closes
    build.on_tray.table.setCurrentIndex(build.on_tray.model.index(row, column))
    if not isinstance(QApplication.focusWidget(), QLineEdit):
        build.on_tray.table.edit(build.on_tray.model.index(row, column))
    for text in texts:
        editor = QApplication.focusWidget()
        assert isinstance(editor, QLineEdit)
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)
        QApplication.processEvents()  # the toolkit takes it a moment later


def test_the_sample_tray_has_three_that_must_not_be_used(build: BuildStation) -> None:
    assert build.headline.text() == "36 of 40 cells of Fell 21-45P are sound; 3 must not be used"
    bad = {one.cell.number: one for one in build.tray.cells if one.fate is Fate.NEVER}
    assert set(bad) == {8, 21, 33}
    build.on_tray.table.choose(7)
    assert build.on_tray.cell.title.text() == "Cell 8: do not use"
    assert any("never charge it" in label.text() for label in build.on_tray.cell.findChildren(QLabel))


def test_readings_are_typed_cell_after_cell_by_keyboard_alone(window: MainWindow, build: BuildStation) -> None:
    remove_cells(window.session, tray(window))
    assert "No Fell 21-45P is numbered yet" in build.headline.text()
    type_in_table(build, 0, 1, "3.52", "3521 mV", "3.519 V", "1.4")
    assert [cell.arrival_v for cell in tray(window)] == [3.52, 3.521, 3.519, 1.4]
    assert [cell.number for cell in tray(window)] == [1, 2, 3, 4]
    assert all(cell.arrived_on == date.today() for cell in tray(window))
    type_in_table(build, 0, 3, "4350", "4.36 Ah")
    assert [cell.capacity_mah for cell in tray(window)[:2]] == [4350, 4360]
    assert build.tray.cells[3].fate is Fate.NEVER


@pytest.mark.parametrize(("column", "text", "says"), [
    (0, "2", "Cell 2 is in this tray already; write another number."),
    (1, "3512", "3512 V is no voltage of one cell; millivolts are written 3512 mV."),
    (1, "much", "“much” is not a number"),
    (6, "-3", "must be more than"),
])  # fmt: skip
def test_bad_readings_are_sentences_and_lose_nothing(
    window: MainWindow, build: BuildStation, column: int, text: str, says: str
) -> None:
    before = tray(window)
    type_in_table(build, 0, column, text)
    assert says in build.on_tray.refused.text()
    assert tray(window) == before
    editor = QApplication.focusWidget()
    assert isinstance(editor, QLineEdit)
    assert editor.text() == text, "and stands there to be corrected"
    QTest.keyClick(editor, Qt.Key.Key_Escape)
    QApplication.processEvents()


def test_what_a_cell_looks_like_and_its_dates_are_told_beside_it(window: MainWindow, build: BuildStation) -> None:
    build.on_tray.table.choose(1)
    build.on_tray.cell.looks[Look.DENT].click()
    assert tray(window)[1].looks == (Look.DENT,)
    assert build.on_tray.cell.title.text() == "Cell 2: do not use"
    line = build.on_tray.cell.lines["rested_on"]
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, "yesterday")
    line.finish()
    assert "is no date" in build.on_tray.cell.error.text()
    window.session.undo()
    assert tray(window)[1].looks == ()


def test_delete_takes_cells_out_and_undo_puts_them_back(window: MainWindow, build: BuildStation) -> None:
    build.on_tray.table.setCurrentIndex(build.on_tray.model.index(2, 8))
    QTest.keyClick(build.on_tray.table, Qt.Key.Key_Delete)
    assert 3 not in [cell.number for cell in tray(window)]
    window.session.undo()
    assert len(tray(window)) == 40


def test_a_dot_is_chosen_with_the_pointer(build: BuildStation, qtbot: QtBot) -> None:
    place = 4
    cell = build.tray.cells[place].cell
    box = build.on_tray.picture.plot.box
    scene = box.mapViewToScene(QPointF(cell.capacity_mah, cell.dcir_mohm))
    qtbot.mouseClick(
        build.on_tray.picture.viewport(), Qt.MouseButton.LeftButton, pos=build.on_tray.picture.mapFromScene(scene)
    )
    assert build.on_tray.cell.shown is not None
    chosen = build.on_tray.cell.shown.cell
    assert abs(chosen.capacity_mah - cell.capacity_mah) < 15


def test_the_tray_speaks_for_its_type(window: MainWindow, build: BuildStation) -> None:
    build.on_tray.whole.speak.click()
    results = window.session.complete.pack.cell.bench_results
    assert len(results) == 36
    assert build.on_tray.whole.speak.isHidden()


def test_a_tray_goes_out_and_comes_in_as_a_table(window: MainWindow, build: BuildStation, tmp_path: Path) -> None:
    path = tmp_path / "tray.csv"
    before = tray(window)
    build.on_tray.put_out_table(path)
    assert "holds 40 cells now" in build.on_tray.whole.told.text()
    remove_cells(window.session, before[10:])
    window.session.edit("design.packs.0.recipe.strip.layers", 2)
    assert build.take_in([path])
    assert "30 cells came from tray.csv into the tray of Fell 21-45P" in build.on_tray.whole.told.text()
    assert [cell.number for cell in tray(window)] == list(range(1, 41))
    path.write_text("number,mass_g\n3,70.5\n41,70.1\n", encoding="utf-8")
    build.on_tray.take_in_table(path)
    assert "1 cell came from tray.csv" in build.on_tray.whole.told.text()
    assert tray(window)[2].mass_g == 70.5
    assert tray(window)[2].capacity_mah == before[2].capacity_mah, "what was known stays"
    window.session.undo()
    assert len(tray(window)) == 40


def test_what_is_no_tray_is_left_to_others(build: BuildStation, tmp_path: Path) -> None:
    path = tmp_path / "log.csv"
    path.write_text("time_s,voltage_v\n0,4.2\n", encoding="utf-8")
    assert not build.take_in([path])
    build.on_tray.take_in_table(path)
    assert "This is no table of numbered cells" in build.on_tray.whole.told.text()


def test_groups_are_matched_and_flown_as_built(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    settled(build, qtbot)
    found = build.on_match.page.built
    assert found.ways[0].least_mah >= found.ways[1].least_mah
    assert not {8, 21, 33, 14} & {cell.number for group in found.ways[0].groups for cell in group}
    build.on_match.page.ways.choose(1)
    assert build.on_match.page.shown is found.ways[1]
    build.on_match.page.ways.choose(0)
    before = window.session.answer.duration_s
    build.on_match.panel.fly.click()
    assert window.session.complete.pack.state == found.state(0)
    assert window.session.answer.duration_s == pytest.approx(found.flown[0].duration_s)
    assert window.session.answer.duration_s < before
    qtbot.waitUntil(lambda: build.settled, timeout=20000)
    assert build.on_match.panel.state.text() == "This design flies these groups."
    build.on_match.panel.plain.click()
    assert window.session.answer.duration_s == before


def test_as_designed_and_as_built_stand_side_by_side(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    settled(build, qtbot)
    build.on_match.panel.beside.click()
    compare = window.station(CompareStation)
    assert window.stack.currentWidget() is compare
    qtbot.waitUntil(lambda: len(compare.beside.sentences) == 2, timeout=20000)
    assert compare.beside.sentences[0].startswith("As built, matched:")


@pytest.mark.parametrize(("line", "text", "says"), [
    ("forbidden", "three", "“three” is no number of a cell"),
    ("fixed", "7 or 8", "“7 or 8” settles no cell; write such as 7 in 2"),
    ("fixed", "7 in 2, 7 in 3", "Cell 7 is settled in two groups, 2 and 3"),
    ("packs", "many", "write a number from 1 to 20"),
])  # fmt: skip
def test_bad_wishes_are_sentences(build: BuildStation, qtbot: QtBot, line: str, text: str, says: str) -> None:
    settled(build, qtbot)
    entry = build.on_match.panel.lines[line]
    entry.setFocus()
    QTest.keyClicks(entry, text)
    entry.finish()
    assert says in build.on_match.panel.error.text()
    entry.accept_shown("")
    build.on_match.panel.changed.emit()
    assert build.on_match.panel.error.isHidden()


def test_a_tray_too_small_is_a_sentence(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    build.pages.choose(MATCH)
    entry = build.on_match.panel.lines["packs"]
    QTest.keyClicks(entry, "4")
    entry.finish()
    qtbot.waitUntil(lambda: build.settled, timeout=20000)
    assert (
        "asks for 48 cells; 36 of this tray may be used: 12 more are needed"
        in build.on_match.page.sentences.lines[0].text
    )
    entry.accept_shown("")


def read_lead(build: BuildStation, *texts: str) -> None:
    for line, text in zip(build.taps.lines, texts, strict=False):
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, text)
        line.finish()


def test_a_lead_is_read_pin_by_pin_and_judged(build: BuildStation, qtbot: QtBot) -> None:
    settled(build, qtbot)
    build.show_page("Taps")
    page = build.taps
    page.clear.click()
    assert len(page.lines) == 5
    assert "Read each pin" in page.sentences.lines[0].text
    read_lead(build, "7.03", "3515 mV")
    assert "2 to go" in page.sentences.lines[0].text
    read_lead(build, "7.03", "3.515", "10.54", "14.06", "14.06")
    assert page.sentences.lines[0].text == "Wires 2 and 3 are swapped."
    assert "Do not connect a charger" in page.sentences.lines[1].text
    read_lead(build, "3.515", "7.03", "10.54", "14.06", "-14.06")
    assert page.sentences.lines[0].text == "The main leads are reversed."
    read_lead(build, "3.515", "7.03", "10.54", "14.06", "14.06")
    assert page.sentences.lines[0].text == "All is as it should be."
    page.clear.click()
    assert page.found is None


def test_volts_are_expected_as_cells_rest_now(build: BuildStation, qtbot: QtBot) -> None:
    settled(build, qtbot)
    build.show_page("Taps")
    page = build.taps
    page.rest.setFocus()
    QTest.keyClicks(page.rest, "4.1")
    page.rest.finish()
    assert page.group_v == (4.1,) * 4
    read_lead(build, "4.1", "8.2", "12.3", "16.4", "16.4")
    assert page.sentences.lines[0].text == "All is as it should be."
    page.rest.setFocus()
    page.rest.selectAll()
    QTest.keyClicks(page.rest, "much")
    page.rest.finish()
    assert "is not a number" in page.error.text()
    page.rest.accept_shown("")
    page.clear.click()


def test_readings_between_neighbours_and_bad_ones(build: BuildStation, qtbot: QtBot) -> None:
    settled(build, qtbot)
    build.show_page("Taps")
    page = build.taps
    page.clear.click()
    page.against.choose(1)
    read_lead(build, "3.515", "3.515", "0", "3.515")
    assert "Group 3" in page.sentences.lines[0].text or "wire" in page.sentences.lines[0].text.lower()
    read_lead(build, "3515")
    assert "no voltage of this pack" in page.sentences.lines[0].text
    page.against.choose(0)
    page.clear.click()


def test_what_the_pack_takes_is_listed_and_saved(window: MainWindow, build: BuildStation, tmp_path: Path) -> None:
    build.show_page("Materials")
    assert build.headline.text() == "What 4S 3P takes"
    names = [one.name for one in build.materials.found]
    assert names[:2] == ["Cells", "Nickel strip"]
    assert {"Insulating rings", "Balance wires", "Heat-shrink", "Leads, red and black"} <= set(names)
    build.put_out_materials(tmp_path / "materials.csv")
    assert (tmp_path / "materials.csv").read_text(encoding="utf-8").startswith("name,size,count,length_mm")
    window.session.edit("design.packs.0.recipe.parallel_count", 10)
    assert "4 more" in build.materials.sentences.lines[0].text


def test_the_lead_of_a_battery_bought_whole_is_read_too(window: MainWindow, build: BuildStation) -> None:
    window.session.open_design("dunlin-own")
    series = window.session.complete.pack.recipe.series_count
    assert window.session.complete.pack.cell.whole_pack
    build.show_page("Taps")
    assert len(build.taps.lines) == series + 1
    build.show_page("Match")
    assert "bought whole" in build.on_match.page.sentences.lines[0].text
    build.show_page("Materials")
    assert [one.name for one in build.materials.found] == ["Packs bought whole"]


def test_groups_of_another_recipe_are_not_drawn_in_the_tray(
    window: MainWindow, build: BuildStation, qtbot: QtBot
) -> None:
    settled(build, qtbot)
    build.pages.choose(TRAY)
    window.session.edit("design.packs.0.recipe.strip.layers", 1)
    assert len(build.on_tray.picture.groups) == 4
    window.session.edit("design.packs.0.recipe.series_count", 5)
    assert build.on_tray.picture.groups == ()
    window.session.open_design("dunlin-scout")
    assert build.on_tray.picture.groups == ()
