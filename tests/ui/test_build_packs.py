"""Packs in the making, through the window: begun, read, finished, flown, repaired, put on paper."""

from __future__ import annotations

import re
from itertools import product
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from wise_cellar.core.build.finished import resting_at
from wise_cellar.core.documents import BuiltPack, Design, DocumentError
from wise_cellar.demo.sample_packs import HALF_BUILT_ID, OLD_PACK_ID
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.pack_life import fly_pack
from wise_cellar.ui.state.tray_edits import cells_of, change_cell, remove_cells
from wise_cellar.ui.stations import place_of
from wise_cellar.ui.stations.build.face_sheet import FOOT_MM, RULER_MM, face_sheet, room_mm, sheet_pages
from wise_cellar.ui.stations.build.paper import DOT, MARGIN_MM, PaperSize, draw, print_pages
from wise_cellar.ui.stations.build.sheets_panel import Sheet
from wise_cellar.ui.stations.build.station import MATCH, PACKS, STEPS, TRAY, BuildStation
from wise_cellar.ui.stations.charge.station import ChargeStation

STATION = "Build"


@pytest.fixture
def build(window: MainWindow, qtbot: QtBot) -> BuildStation:
    window.show_station(place_of("Build"))
    station = window.stack.currentWidget()
    assert isinstance(station, BuildStation)
    station.steps.forget()
    station.packs.forget()
    station.pages.choose(TRAY)
    qtbot.waitUntil(lambda: station.settled, timeout=20000)
    return station


def pack_of(window: MainWindow, pack_id: str) -> BuiltPack:
    found = window.session.all(BuiltPack)[pack_id]
    assert isinstance(found, BuiltPack)
    return found


def steps_of(build: BuildStation, pack_id: str) -> None:
    build.pages.choose(STEPS)
    build.steps.choose(pack_id)


def show_pack(build: BuildStation, name: str, qtbot: QtBot) -> None:
    build.pages.choose(PACKS)
    names = [one.pack.name for one in build.packs.page.shelved]
    build.packs.page.table.choose(names.index(name))
    qtbot.waitUntil(lambda: build.settled, timeout=20000)


def type_on(*texts: str) -> None:
    """Type into what has the focus, Enter behind each."""
    for text in texts:
        line = QApplication.focusWidget()
        assert isinstance(line, QLineEdit), line
        QTest.keyClicks(line, text)
        QTest.keyClick(line, Qt.Key.Key_Return)
        QApplication.processEvents()


def press() -> None:
    button = QApplication.focusWidget()
    assert isinstance(button, QWidget)
    QTest.keyClick(button, Qt.Key.Key_Space)
    QApplication.processEvents()


def test_the_half_built_pack_goes_on_where_it_was_left(window: MainWindow, build: BuildStation) -> None:
    steps_of(build, HALF_BUILT_ID)
    assert build.headline.text() == "Whimbrel 2: step 6 of 16 comes next"
    step = build.steps.panel.step
    assert step is not None
    assert step.title == "Second face: the top"
    assert build.steps.page.picture.scene.joining == {0, 2, 4}
    rows = build.steps.page.table.rows
    assert rows[4][3].text == "done 2026-03-14 11:50"
    assert rows[5][3].text == "next"
    assert rows[3][2].text == "4 of 4"


def test_its_cells_are_in_no_other_pack(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    inside = pack_of(window, HALF_BUILT_ID).numbers
    build.pages.choose(MATCH)
    qtbot.waitUntil(lambda: build.settled and build.on_match.page.built is not None, timeout=20000)
    chosen = {cell.number for group in build.on_match.page.built.ways[0].groups for cell in group}
    assert chosen.isdisjoint(inside)
    cells = cells_of(window.session, "fell-21-45p")
    mine = next(cell for cell in cells if cell.number in inside)
    with pytest.raises(DocumentError, match=f"Cell {mine.number} is in Whimbrel 2: remove it once"):
        remove_cells(window.session, [mine])
    with pytest.raises(DocumentError, match="renumber it once"):
        change_cell(window.session, mine, number=99)
    build.pages.choose(TRAY)
    row = [one.cell.number for one in build.tray.cells].index(mine.number)
    assert build.on_tray.model.data(build.on_tray.model.index(row, 8)) == "in Whimbrel 2"
    build.on_tray.table.choose(row)
    build.on_tray.cell.remove.click()
    assert "is in Whimbrel 2" in build.on_tray.cell.error.text()


def test_a_pack_is_built_from_the_tray_to_the_label_by_keyboard_alone(
    window: MainWindow, build: BuildStation, qtbot: QtBot, tmp_path: Path
) -> None:
    build.pages.choose(STEPS)
    qtbot.waitUntil(lambda: build.settled and bool(build.steps.page.making.bench.groups), timeout=20000)
    page = build.steps.page
    page.name.setFocus()
    QTest.keyClicks(page.name, "Heron")
    page.begin.setFocus()
    press()
    pack = pack_of(window, "heron")
    assert pack.recipe.bands == window.session.answer.build.layout.bands
    assert len(pack.numbers) == 12
    count = len(page.making.steps)
    for place in range(count):
        assert page.making.place == place, page.making.steps[place].title
        for one in page.making.steps[place].expected:
            type_on(f"{one.volts:.3f}")
        press()
        made = pack_of(window, "heron").steps
        assert len([step for step in made if step.closed]) == place + 1
    assert build.headline.text() == f"Heron: all {count} steps are closed"
    page.finish.setFocus()
    press()
    assert pack_of(window, "heron").finished
    build.paper.choose(Sheet.LABEL)
    assert build.paper.write(tmp_path / "label.pdf")
    assert b"MediaBox" in (tmp_path / "label.pdf").read_bytes()
    for _ in range(5):
        window.session.undo()
    assert not pack_of(window, "heron").finished


def test_a_wrong_reading_is_told_at_once_and_no_step_is_done_with_it(
    window: MainWindow, build: BuildStation, qtbot: QtBot
) -> None:
    steps_of(build, HALF_BUILT_ID)
    panel = build.steps.panel
    panel.go_on()
    first = panel.readings[0]
    type_on("-3.51")
    assert "It reads backwards" in first.said.lines[0].text
    assert build.steps.page.table.rows[5][2].text == "1 wrong"
    panel.done.click()
    assert "A reading is not as it should be" in panel.attempt.text()
    assert not pack_of(window, HALF_BUILT_ID).record("face-0-top").closed
    first.line.setFocus()
    first.line.selectAll()
    type_on("3510 mV")
    assert "Fine" in first.said.lines[0].text
    first.line.setFocus()
    first.line.selectAll()
    QTest.keyClicks(first.line, "3510")
    first.line.finish()
    assert "3510 V is no voltage of this pack; millivolts are written 3510 mV." in first.said.lines[0].text
    assert first.line.text() == "3510", "and stands there to be corrected"
    assert pack_of(window, HALF_BUILT_ID).record("face-0-top").readings[0].volts == pytest.approx(3.51)
    first.line.go_back()
    panel.note.setFocus()
    QTest.keyClicks(panel.note, "read through the tape")
    panel.note.finish()
    first.line.setFocus()
    first.line.selectAll()
    type_on("3.2")
    panel.done.click()
    assert pack_of(window, HALF_BUILT_ID).record("face-0-top").closed, "a note says why"
    assert build.steps.page.table.place == 6, "and the next one is shown"


def test_steps_are_left_out_opened_again_and_undone(window: MainWindow, build: BuildStation) -> None:
    steps_of(build, HALF_BUILT_ID)
    panel, page = build.steps.panel, build.steps.page
    panel.leave.click()
    record = pack_of(window, HALF_BUILT_ID).record("face-0-top")
    assert record.left_out
    assert record.at is not None
    page.table.choose(5)
    assert page.table.rows[5][3].text.startswith("left out ")
    panel.again.click()
    assert not pack_of(window, HALF_BUILT_ID).record("face-0-top").closed
    window.session.undo()
    window.session.undo()
    assert not pack_of(window, HALF_BUILT_ID).record("face-0-top").closed
    page.table.choose(0)
    assert panel.again.isVisible()
    assert not panel.done.isVisible()


def test_a_name_that_is_taken_or_cells_that_are_do_not_begin_a_pack(
    window: MainWindow, build: BuildStation, qtbot: QtBot
) -> None:
    build.pages.choose(STEPS)
    qtbot.waitUntil(lambda: build.settled and bool(build.steps.page.making.bench.groups), timeout=20000)
    page = build.steps.page
    page.name.setFocus()
    QTest.keyClicks(page.name, "Whimbrel 2")
    page.begin.click()
    assert "There is a pack “Whimbrel 2” already" in page.attempt.text()
    assert page.name.text() == "Whimbrel 2"
    page.name.accept_shown("")


def test_a_finished_pack_is_flown_by_name(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    show_pack(build, "Whimbrel 1", qtbot)
    before = window.session.answer.duration_s
    build.packs.panel.fly.click()
    pack = window.session.complete.pack
    assert pack.name == "Whimbrel 1"
    assert pack.cell.id == "fell-21-50e"
    assert pack.state.capacity_percent < 95
    assert window.session.answer.duration_s != before
    token = window.recipe.tokens["design.packs.0.built"]
    assert token.isVisible()
    assert token.text() == "Whimbrel 1"
    window.session.edit("design.packs.0.recipe.parallel_count", 4)
    assert not token.isVisible(), "another recipe is another pack"
    window.session.undo()
    assert token.isVisible()
    charge = window.station(ChargeStation)
    window.show_station(place_of("Charge"))
    qtbot.waitUntil(lambda: charge.settled, timeout=20000)
    assert charge.headline.text().startswith("Whimbrel 1, Fell 21-50E")
    with pytest.raises(DocumentError, match="half built"):
        fly_pack(window.session, pack_of(window, HALF_BUILT_ID))


def test_what_is_measured_of_a_pack_reaches_the_designs_that_fly_it(
    window: MainWindow, build: BuildStation, qtbot: QtBot
) -> None:
    show_pack(build, "Whimbrel 1", qtbot)
    panel = build.packs.panel
    panel.fly.click()
    qtbot.waitUntil(lambda: build.settled, timeout=20000)
    grams = (pack_of(window, OLD_PACK_ID).recipe.weighed_g or 0) + 20
    type_into(panel.readings.mass, f"{grams:.1f} g")
    assert window.session.complete.pack.recipe.weighed_g == pytest.approx(grams)
    capacity = window.session.complete.pack.state.capacity_percent
    cell = window.session.complete.pack.cell
    for line, held in zip(panel.readings.group_lines, (12000, 12100, 11000, 12050), strict=False):
        type_into(line, f"{resting_at(cell, 1 - 8000 / held):.3f}")
    type_into(panel.readings.more["used_mah"], "8 Ah")
    type_into(panel.readings.day, "2026-05-01")
    panel.readings.write.click()
    assert panel.readings.refused.text() == ""
    assert pack_of(window, OLD_PACK_ID).checks[-1].used_mah == 8000
    assert window.session.complete.pack.state.capacity_percent < capacity - 5
    assert window.session.complete.pack.name == "Whimbrel 1"
    window.session.undo()
    assert window.session.complete.pack.state.capacity_percent == capacity
    type_into(panel.name, "Grey heron")
    assert window.session.complete.pack.name == "Grey heron"
    assert panel.title.text() == "Grey heron"


def type_into(line: QLineEdit, text: str) -> None:
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, text)
    line.finish()  # type: ignore[attr-defined]


@pytest.mark.parametrize(("values", "says"), [
    ({"group": ("4.1", "4.1")}, "Read all groups or none: 2 to go."),
    ({"group": ("4.1", "4.1", "4.1", "4100")}, "4100 V is no voltage of a group; read each against its neighbour"),
    ({"group": ("3.9",) * 4, "used_mah": "40"}, "was it full before, and is the charge used right"),
    ({"day": "May"}, "“May” is no date; write one such as 2026-03-14."),
    ({}, "Write what was read: the volts of the groups, or the resistance."),
    ({"resistance_mohm": "much"}, "“much” is not a number"),
])  # fmt: skip
def test_bad_readings_of_a_pack_are_sentences_and_lose_nothing(
    window: MainWindow, build: BuildStation, qtbot: QtBot, values: dict[str, object], says: str
) -> None:
    show_pack(build, "Turnstone 1", qtbot)
    panel = build.packs.panel
    before = pack_of(window, "turnstone-1")
    for name, text in values.items():
        if name == "group":
            for line, volts in zip(panel.readings.group_lines, text, strict=False):  # type: ignore[call-overload]
                type_into(line, volts)
        else:
            type_into(panel.readings.day if name == "day" else panel.readings.more[name], str(text))
    panel.readings.write.click()
    assert says in panel.readings.refused.text()
    assert pack_of(window, "turnstone-1") == before
    if "group" in values:
        assert panel.readings.group_lines[0].text(), "what was typed stays"


def test_a_group_that_fell_behind_is_repaired_step_by_step(
    window: MainWindow, build: BuildStation, qtbot: QtBot
) -> None:
    show_pack(build, "Whimbrel 1", qtbot)
    panel = build.packs.panel
    assert panel.mending.plan is not None
    assert panel.mending.plan.group == 2
    assert "Group 3 holds" in build.packs.page.verdict.lines[0].text
    assert "instead of" in " ".join(line.text for line in panel.mending.words.lines)
    old = pack_of(window, OLD_PACK_ID).groups[2]
    new = {cell.number for cell in panel.mending.plan.cells}
    panel.mending.begin.click()
    assert build.pages.current == STEPS
    assert build.headline.text() == "Whimbrel 1: step 1 of 13 comes next"
    assert build.steps.panel.step.key == "repair-low"
    build.steps.page.finish.click()
    repaired = pack_of(window, OLD_PACK_ID)
    assert set(repaired.groups[2]) == new
    assert repaired.repairs[0].taken_out == old
    show_pack(build, "Whimbrel 1", qtbot)
    assert "No group has fallen behind." in [line.text for line in panel.mending.words.lines]
    window.session.undo()
    window.session.undo()
    assert pack_of(window, OLD_PACK_ID).groups[2] == old


def test_another_like_it_is_begun_of_free_cells(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    show_pack(build, "Whimbrel 2", qtbot)
    build.packs.panel.like.click()
    assert not build.packs.panel.like.isEnabled(), "cells are being chosen"
    qtbot.waitUntil(lambda: build.settled, timeout=20000)
    made = pack_of(window, "whimbrel-3")
    assert made.numbers.isdisjoint(pack_of(window, HALF_BUILT_ID).numbers)
    assert made.recipe == pack_of(window, HALF_BUILT_ID).recipe
    assert build.pages.current == STEPS
    show_pack(build, "Whimbrel 1", qtbot)
    build.packs.panel.like.click()
    qtbot.waitUntil(lambda: build.settled, timeout=20000)
    assert build.packs.panel.like.isEnabled()
    assert "asks for 12 cells; 6 of this tray may be used: 6 more are needed" in build.packs.panel.attempt.text()


def test_a_pack_is_retired_used_again_and_removed(window: MainWindow, build: BuildStation, qtbot: QtBot) -> None:
    show_pack(build, "Dunlin 1", qtbot)
    panel = build.packs.panel
    panel.retire.click()
    assert pack_of(window, "dunlin-1").retired
    show_pack(build, "Dunlin 1", qtbot)
    panel.retire.click()
    assert not pack_of(window, "dunlin-1").retired
    panel.remove.click()
    assert "dunlin-1" not in window.session.all(BuiltPack)
    window.session.undo()
    assert "dunlin-1" in window.session.all(BuiltPack)


def test_pins_that_are_read_under_taps_stay_with_the_pack(window: MainWindow, build: BuildStation) -> None:
    steps_of(build, HALF_BUILT_ID)
    build.show_page("Taps")
    assert build.headline.text() == "The balance lead of Whimbrel 2: 5 pins from the most negative up"
    pins = build.taps.lines
    for line, text in zip(pins, ("7.02", "3.51", "10.535", "14.04"), strict=False):
        type_into(line, text)
    assert build.taps.sentences.lines[0].text == "Wires 2 and 3 are swapped."
    kept = pack_of(window, HALF_BUILT_ID).record("taps").readings
    assert [(one.of, one.volts) for one in kept] == [
        ("pin-2", 7.02), ("pin-3", 3.51), ("pin-4", 10.535), ("pin-5", 14.04)
    ]  # fmt: skip
    build.show_page("Steps")
    build.steps.page.table.choose(9)
    assert build.steps.panel.step.key == "taps"
    assert "Wires 2 and 3 are swapped." in [line.text for line in build.steps.panel.together.lines]
    build.show_page("Taps")
    assert pins[0].text() == "7.020"
    build.taps.clear.click()
    assert pack_of(window, HALF_BUILT_ID).record("taps").readings == ()
    build.steps.choose("")
    build.show_page("Steps")
    build.show_page("Taps")
    assert build.headline.text() == "The balance lead of 4S: 5 pins from the most negative up"


# Paper


def test_the_faces_are_put_on_paper_at_true_scale(window: MainWindow, build: BuildStation, tmp_path: Path) -> None:
    build.pages.choose(MATCH)
    for size in PaperSize:
        build.paper.choose(Sheet.FACES)
        build.paper.paper.setCurrentIndex(list(PaperSize).index(size))
        assert build.paper.write(tmp_path / "faces.pdf")
        boxes = re.findall(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", (tmp_path / "faces.pdf").read_bytes())
        assert len(boxes) == 2, "top and underside"
        for box in boxes:
            assert [float(side) * 25.4 / 72 for side in box] == pytest.approx(size.mm, abs=0.4)
    page = face_sheet(window.session.answer.build, "A pack", [[1, 2, 3]] * 4, PaperSize.A4)[0]
    picture = QImage(round(210 * DOT), round(297 * DOT), QImage.Format.Format_RGB32)
    picture.fill(0xFFFFFFFF)
    painter = QPainter(picture)
    draw(page, painter, PaperSize.A4)
    painter.end()
    ruler = round((297 - MARGIN_MM - FOOT_MM + 10) * DOT)
    dark = max(
        sum(picture.pixelColor(x, y).lightness() < 128 for x in range(round(120 * DOT)))
        for y in range(ruler - 2, ruler + 3)
    )
    assert dark == pytest.approx(RULER_MM * DOT, abs=4)


def test_a_large_pack_goes_over_several_pages_that_overlap(window: MainWindow, build: BuildStation) -> None:
    window.session.edit("design.packs.0.recipe.parallel_count", 20)
    window.session.edit("design.packs.0.recipe.series_count", 12)
    layout = window.session.answer.build.layout
    for size in PaperSize:
        pages = [page for page in sheet_pages(window.session.answer.build, size) if page.face.title == "Top"]
        assert len(pages) > 1
        across, down = room_mm(size)
        reached = max(page.left_mm for page in pages) + across, max(page.top_mm for page in pages) + down
        sides = sorted((max(cell.x_mm for cell in layout.cells), max(cell.y_mm for cell in layout.cells)))
        assert sorted(reached)[1] >= sides[1]
        assert [page.number for page in pages] == list(range(1, len(pages) + 1))


@pytest.mark.parametrize("pack_id", ["", HALF_BUILT_ID, "dunlin-1"])
def test_every_sheet_of_every_pack_goes_on_both_papers(build: BuildStation, pack_id: str) -> None:
    steps_of(build, pack_id)
    subject = build.subject()
    for which, size in product(Sheet, PaperSize):
        pages = subject.pages(which, size)
        assert pages
        picture = QImage(*(round(side * DOT / COARSE) for side in size.mm), QImage.Format.Format_RGB32)
        for page in pages:
            picture.fill(0xFFFFFFFF)
            painter = QPainter(picture)
            painter.scale(1 / COARSE, 1 / COARSE)
            draw(page, painter, size)
            painter.end()
            edge = round(3 * DOT / COARSE)
            inside = picture.copy(edge, edge, picture.width() - 2 * edge, picture.height() - 2 * edge)
            assert dots(picture) == dots(inside) > 0, f"{which}: nothing within three millimetres of the paper's edge"


COARSE = 4
"""Times fewer dots than on paper."""


def dots(picture: QImage) -> int:
    small = picture.convertToFormat(QImage.Format.Format_Grayscale8)
    bits = small.constBits()
    assert bits is not None
    data = bytes(bits.asarray(small.sizeInBytes()))
    wide = small.width()
    rows = (data[row * small.bytesPerLine() : row * small.bytesPerLine() + wide] for row in range(small.height()))
    return sum(wide - row.count(255) for row in rows)


def test_a_sheet_that_cannot_be_written_is_a_sentence(build: BuildStation, tmp_path: Path) -> None:
    build.pages.choose(STEPS)
    assert not build.paper.write(tmp_path / "nowhere" / "steps.pdf")
    assert "steps.pdf cannot be written: No such file or directory" in build.paper.attempt.text()


def test_a_printer_keeps_the_scale(build: BuildStation, tmp_path: Path) -> None:
    steps_of(build, HALF_BUILT_ID)
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    pages = build.subject().pages(Sheet.FACES, PaperSize.LETTER)
    print_pages(printer, pages, PaperSize.LETTER)
    boxes = re.findall(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", (tmp_path / "printed.pdf").read_bytes())
    assert [float(side) * 25.4 / 72 for side in boxes[0]] == pytest.approx(PaperSize.LETTER.mm, abs=0.4)


def test_a_code_that_is_scanned_into_find_opens_what_it_is_on(window: MainWindow, build: BuildStation) -> None:
    window.open_finder()
    QTest.keyClicks(window.finder.line, "WISE-CELLAR/DESIGN/DUNLIN-SCOUT")
    QTest.keyClick(window.finder.line, Qt.Key.Key_Return)
    assert window.session.complete.design.id == "dunlin-scout"
    window.open_finder()
    QTest.keyClicks(window.finder.line, "WISE-CELLAR/PACK/DUNLIN-1")
    QTest.keyClick(window.finder.line, Qt.Key.Key_Return)
    assert window.session.complete.pack.name == "Dunlin 1"
    assert isinstance(window.session.all(Design)["dunlin-scout"], Design)
