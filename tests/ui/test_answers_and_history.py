"""The answer band, the pin, undo and redo, and reopening."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.disk import SmallDisk
from tests.ui.conftest import answers, close_popovers, field, popover, sample_at
from wise_cellar.core.documents import Design, DocumentError
from wise_cellar.core.units import format_grams, format_minutes
from wise_cellar.store import Workspace
from wise_cellar.ui.shell.answer_band import answers_shown
from wise_cellar.ui.shell.why_popover import WhyPopover
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.document_edits import duplicate_craft, duplicate_design
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.marks import State

STATION = "Craft"

PARALLEL = "design.packs.0.recipe.parallel_count"


def test_the_band_shows_the_answer(window: MainWindow) -> None:
    answer = window.session.answer
    shown = [button.shown for button in window.band.buttons]
    assert answers(window) == [
        format_minutes(answer.duration_s),
        f"{answer.takeoff_mass_g / 1000:.0f}\u202f{answer.takeoff_mass_g % 1000:03.0f} g",
        f"{answer.late_punch.volts_a_cell:.2f} V",
        answer.weak_link.name.split(",")[0],
        "the reserve is reached",
    ]
    assert shown[3].bar == (answer.weak_link.cruise_share, answer.weak_link.punch_share)
    assert all(s.change == "" for s in shown), "nothing is pinned yet"


def test_the_pin_makes_every_answer_show_its_change(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.keyClick(window, "d", Qt.KeyboardModifier.ControlModifier)
    pinned = window.session.answer
    qtbot.keyClick(window, "]")
    now = window.session.answer
    minutes, mass, volts, link, _ = (button.shown for button in window.band.buttons)
    gain = round(now.duration_s) - round(pinned.duration_s)
    assert minutes.change == f"+{format_minutes(gain)} since the pin"
    assert minutes.better is True
    assert mass.change == f"+{round(now.takeoff_mass_g) - round(pinned.takeoff_mass_g)} g since the pin"
    assert mass.better is False
    assert volts.change.startswith("+0.")
    assert "points since the pin" in link.change


def test_the_pin_goes_when_pressed_again_on_the_pinned_design(window: MainWindow) -> None:
    window.session.compared.toggle_pin()
    assert window.session.compared.pinned is not None
    window.session.compared.toggle_pin()
    assert window.session.compared.pinned is None
    window.session.compared.toggle_pin()
    window.recipe.step(PARALLEL, 1)
    window.session.compared.toggle_pin()
    assert window.session.compared.pinned is not None, "another design is pinned in its place"
    assert window.session.compared.pinned[0] == window.session.complete


def test_a_changed_reason_is_told(window: MainWindow) -> None:
    before, complete = window.session.answer, window.session.complete
    window.session.edit("design.mission_id", "colony-scout")
    window.session.edit("mission.blocks.4.duration_s", 60)
    shown = answers_shown(window.session.complete, window.session.answer, before)
    assert shown[4].value == "the mission is complete"
    assert shown[4].change == "pinned: the reserve is reached"
    assert complete != window.session.complete


@pytest.mark.parametrize(("place", "station"), [(0, "Pack"), (1, "Craft"), (2, "Cells"), (3, "Pack"), (4, "Flight")])
def test_each_answer_says_why_and_leads_to_what_governs_it(
    window: MainWindow, qtbot: QtBot, place: int, station: str
) -> None:
    qtbot.waitUntil(lambda: window.session.settled, timeout=20000)
    button = window.band.buttons[place]
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    why = popover()
    assert isinstance(why, WhyPopover)
    assert why.path == button.shown.field
    steps = [line.text for line in why.steps.lines]
    assert len(steps) > 3
    assert ("8 of 10 flights" in why.range.text()) == (place == 0)
    if why.field is not None:
        assert QApplication.focusWidget() is why.field.entry, "what governs it comes first"
    why.there.click()
    assert window.stations[window.stack.currentIndex()].title == station
    focused = QApplication.focusWidget()
    assert focused is not None
    governed = button.shown.field
    tokens = {path for path, token in window.recipe.tokens.items() if token is focused}
    fields = {f.path for f in window.stations[window.stack.currentIndex()].fields() if f.entry is focused}
    found = (tokens | fields).pop()
    assert found == governed or found.startswith(governed + ".") or governed.startswith(found)


def test_what_governs_an_answer_is_changed_where_it_is_explained(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.mouseClick(window.band.buttons[0], Qt.MouseButton.LeftButton)
    why = popover()
    assert isinstance(why, WhyPopover)
    assert why.field is not None
    before = [line.text for line in why.steps.lines]
    qtbot.keyClicks(why.field.entry, "4")
    qtbot.keyClick(why.field.entry, Qt.Key.Key_Return)
    assert window.session.value(why.path) == 4
    assert [line.text for line in why.steps.lines] != before
    why.close()


def test_answers_are_buttons_for_the_keyboard_too(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    window.band.buttons[4].setFocus()
    qtbot.keyClick(window.band.buttons[4], Qt.Key.Key_Space)
    assert isinstance(popover(), WhyPopover)
    close_popovers()


def test_a_heavy_craft_is_marked_over(window: MainWindow) -> None:
    window.session.edit("craft.max_takeoff_mass_g", 1800)
    assert window.band.buttons[1].shown.tone == "over"
    assert window.rail.buttons[1].state is State.OVER
    assert "over a limit" in window.rail.buttons[1].toolTip()
    assert "Whimbrel may weigh" in window.rail.buttons[1].toolTip()


def test_undo_and_redo_by_keys(window: MainWindow, qtbot: QtBot) -> None:
    before = answers(window)
    qtbot.keyClick(window, "]")
    after = answers(window)
    qtbot.keyClick(window, "z", Qt.KeyboardModifier.ControlModifier)
    assert answers(window) == before
    qtbot.keyClick(window, "z", Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert answers(window) == after
    assert window.commands.actions["Undo"].text() == "Undo: Change cells in parallel"
    assert not window.commands.actions["Redo"].isEnabled()


def test_the_sample_world_cannot_be_undone_into_nothing(window: MainWindow, qtbot: QtBot) -> None:
    for _ in range(3):
        qtbot.keyClick(window, "z", Qt.KeyboardModifier.ControlModifier)
    assert len(window.session.all(Design)) == 6
    qtbot.keyClick(window, "]")
    assert window.session.value(PARALLEL) == 4


def test_reopening_shows_the_last_state(
    open_window: Callable[[], MainWindow], qtbot: QtBot, workspace_path: Path
) -> None:
    first = open_window()
    first.session.open_design("dunlin-scout")
    first.recipe.step("design.packs.0.recipe.series_count", 1)
    first.show_station(3)
    shown = answers(first)
    first.close()
    again = open_window()
    assert again.session.complete.design.name == "Dunlin, scout"
    assert again.session.value("design.packs.0.recipe.series_count") == 3
    assert answers(again) == shown
    assert again.stations[again.stack.currentIndex()].title == "Pack"
    again.commands.actions["Undo"].trigger()
    assert again.session.value("design.packs.0.recipe.series_count") == 2, "undo reaches over the restart"


def test_a_copy_is_another_design(window: MainWindow) -> None:
    duplicate_design(window.session)
    assert window.session.complete.design.name == "Whimbrel, long transect, copy"
    window.recipe.step(PARALLEL, 1)
    window.session.open_design("whimbrel-transect")
    assert window.session.value(PARALLEL) == 3
    assert len(window.session.all(Design)) == 7


def test_a_copied_craft_is_changed_alone(window: MainWindow) -> None:
    duplicate_craft(window.session)
    window.session.edit("craft.parts.0.mass_g", 999)
    window.session.open_design("whimbrel-energy")
    assert window.session.value("craft.parts.0.mass_g") == 432


def test_after_the_last_design_a_craft_is_begun(window: MainWindow) -> None:
    delete = window.commands.actions["Delete this design"]
    for _ in range(6):
        delete.trigger()
    assert not window.session.all(Design)
    assert window.session.sentence is not None
    assert window.stations[window.stack.currentIndex()].title == "Cellar"
    delete.trigger()
    assert window.notice.label.text().startswith("Finish the sentence first")
    window.commands.actions["Undo"].trigger()
    assert len(window.session.all(Design)) == 1
    assert window.session.sentence is None


def test_the_answer_as_text(window: MainWindow) -> None:
    window.commands.run("Copy the answer as text")()
    text = QApplication.clipboard().text()  # type: ignore[union-attr]
    assert f"Take-off mass: {format_grams(window.session.answer.takeoff_mass_g)}" in text
    assert "Ends because the reserve is reached" in text


def test_a_full_disk_changes_nothing_on_the_screen(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    disk = SmallDisk(monkeypatch)
    window.files.show_workspace(sample_at(tmp_path / "small.cellar"))
    disk.fill()
    before = answers(window)
    notes = "long " * 799
    with pytest.raises(Exception, match="is full"):
        window.session.edit("craft.notes", notes)
    assert answers(window) == before
    assert window.session.value("craft.notes") != notes
    name = field(window, "craft.parts.0.name")
    name.entry.selectAll()
    name.entry.insert("Frame " * 13)
    qtbot.keyClick(name.entry, Qt.Key.Key_Return)
    assert "is full" in name.error_text()
    assert window.session.value("craft.parts.0.name") == "Frame and legs"


def test_a_design_whose_craft_is_gone_is_a_sentence(workspace_path: Path) -> None:
    with Workspace.open(workspace_path) as workspace:
        session = Session(workspace)
        broken = session.complete.design.model_copy(update={"id": "broken", "name": "Broken", "craft_id": "gone"})
        with pytest.raises(DocumentError, match="Design “Broken” names a craft “gone” that is not in the workspace"):
            session.commit("Break", [broken], show="broken")
        workspace.commit("Break", [broken])
        workspace.undo()
        with pytest.raises(DocumentError, match="Design “Broken” names a craft “gone”"):
            session.redo()
        assert workspace.redo_label() == "Break", "what could not be shown was not done"
        assert session.complete.design.name == "Whimbrel, long transect"
        workspace.redo()
    with Workspace.open(workspace_path) as workspace:
        again = Session(workspace)
        assert again.complete.design.name == "Whimbrel, long transect", "what is whole opens"
        (told,) = again.library.broken
        assert (told.name, told.kind) == ("Broken", "design")
        assert "names a craft “gone” that is not in the workspace" in told.sentence
