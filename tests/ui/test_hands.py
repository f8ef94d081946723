"""What hands do: undo from anywhere, entries in the middle, the wheel, focus, deletions with a way back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from tests.ui.conftest import field, popover, settle, shown_in, type_into, write_into
from wise_cellar.core.documents import Design
from wise_cellar.ui.shell.tab_order import reading_order
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.stations.craft.station import CraftStation
from wise_cellar.ui.widgets.search_line import SearchLine

STATION = "Craft"

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
MASS = "craft.parts.0.mass_g"


def undo(qtbot: QtBot, where: QWidget) -> None:
    qtbot.keyClick(where, Qt.Key.Key_Z, CONTROL)


def redo(qtbot: QtBot, where: QWidget) -> None:
    qtbot.keyClick(where, Qt.Key.Key_Z, CONTROL | SHIFT)


def said(window: MainWindow) -> str:
    return window.notice.label.text() if window.notice.isVisible() else ""


# Undo


def test_undo_with_the_caret_in_a_field_takes_the_last_edit_back(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    before = window.session.value(MASS)
    mass = field(window, MASS)
    type_into(qtbot, mass, "555")
    assert mass.entry.hasFocus()
    undo(qtbot, mass.entry)
    assert window.session.value(MASS) == before
    assert mass.entry.text() == f"{before:g}"
    redo(qtbot, mass.entry)
    assert window.session.value(MASS) == 555


def test_undo_first_takes_back_what_is_typed_and_not_taken(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    mass = field(window, MASS)
    type_into(qtbot, mass, "555")
    qtbot.keyClicks(mass.entry, "9")
    undo(qtbot, mass.entry)
    assert (mass.entry.text(), window.session.value(MASS)) == ("555", 555), "the entry alone went back"
    type_into(qtbot, mass, "12x")
    assert mass.error_text()
    undo(qtbot, mass.entry)
    assert not mass.error_text()
    assert window.session.value(MASS) == 555
    undo(qtbot, mass.entry)
    assert window.session.value(MASS) != 555


def test_undo_goes_to_what_it_changed_and_says_so(window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit(MASS, 555.0)
    window.show_station(4)
    undo(qtbot, window)
    assert window.stack.currentWidget() is window.station(CraftStation)
    assert field(window, MASS).entry.hasFocus()
    assert said(window) == "Taken back: Change part mass."
    window.show_station(4)
    redo(qtbot, window)
    assert said(window) == "Made again: Change part mass."
    assert window.stack.currentWidget() is window.station(CraftStation)


def test_undo_of_an_edit_of_another_design_shows_that_design(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    first = session.complete.design
    session.edit("design.packs.0.recipe.parallel_count", first.packs[0].recipe.parallel_count + 1)
    session.open_design("dunlin-scout")
    undo(qtbot, window)
    assert session.complete.design == first
    assert first.name in said(window)


def test_undo_works_over_a_popup_and_in_a_search(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    before = session.value("design.packs.0.recipe.leads.length_mm")
    session.edit("design.packs.0.recipe.leads.length_mm", 321.0)
    window.recipe.open_token("design.packs.0.recipe.leads")
    undo(qtbot, popover().findChildren(QLineEdit)[0])
    assert session.value("design.packs.0.recipe.leads.length_mm") == before
    popover().close()
    session.edit("design.packs.0.recipe.leads.length_mm", 321.0)
    window.show_station(window.stations.index(window.station(CellsStation)))
    search = window.station(CellsStation).findChild(SearchLine)
    assert search is not None
    search.setFocus()
    undo(qtbot, search)
    assert session.value("design.packs.0.recipe.leads.length_mm") == before


def test_a_redo_that_could_not_be_shown_is_not_done(window: MainWindow, qtbot: QtBot) -> None:
    """A design that came to name a craft which is not there: redo says so, and the file stays as it is."""
    session = window.session
    workspace, before = session.workspace, session.complete
    workspace.commit("Fly a craft that is gone", [before.design.model_copy(update={"craft_id": "gone"})])
    workspace.undo()
    window.commands.run("Redo")()
    assert "names a craft “gone” that is not in the workspace" in said(window)
    assert session.complete == before
    assert workspace.redo_label() == "Fly a craft that is gone"
    session.edit("design.packs.0.recipe.parallel_count", 2)
    assert session.complete.pack.recipe.parallel_count == 2


# Entries in the middle


def test_closing_takes_what_was_being_typed(
    window: MainWindow, qtbot: QtBot, open_window: Callable[[], MainWindow]
) -> None:
    window.show_station(1)
    mass = field(window, MASS)
    write_into(qtbot, mass.entry, "432.5")
    window.close()
    assert open_window().session.value(MASS) == 432.5


def test_closing_in_the_middle_of_a_wrong_entry_asks_once(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    mass = field(window, MASS)
    write_into(qtbot, mass.entry, "12x")
    window.close()
    assert window.isVisible()
    assert "“12x” was typed and is not taken" in said(window)
    assert mass.entry.hasFocus()
    window.close()
    assert not window.isVisible()


def test_a_refused_entry_stays_while_other_things_change(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    mass = field(window, MASS)
    type_into(qtbot, mass, "12x")
    window.setFocus()
    window.session.edit("craft.parts.1.mass_g", 77.0)
    assert mass.entry.text() == "12x"
    window.session.edit(MASS, 88.0)
    assert mass.entry.text() == "88", "another value of its own takes its place"


def test_clicking_away_from_a_popup_takes_the_entry_or_keeps_it_open(window: MainWindow, qtbot: QtBot) -> None:
    window.recipe.open_token("design.packs.0.recipe.leads")
    over = popover()
    length = next(line for line in over.findChildren(QLineEdit) if line.accessibleName() == "Lead length")
    write_into(qtbot, length, "222")
    over.close()
    assert window.session.value("design.packs.0.recipe.leads.length_mm") == 222
    window.recipe.open_token("design.packs.0.recipe.leads")
    over = popover()
    length = next(line for line in over.findChildren(QLineEdit) if line.accessibleName() == "Lead length")
    write_into(qtbot, length, "5 km")
    over.close()
    assert over.isVisible(), "what is refused stays in sight"
    qtbot.keyClick(length, Qt.Key.Key_Escape)
    over.close()
    assert window.session.value("design.packs.0.recipe.leads.length_mm") == 222


def test_popups_open_with_their_value_selected(window: MainWindow) -> None:
    window.recipe.open_token("design.packs.0.recipe.leads")
    first = popover().findChildren(QLineEdit)[0]
    assert first.selectedText() == first.text() != ""
    popover().close()


# Wheel and focus


def wheel(target: QWidget) -> None:
    at = QPointF(target.width() / 2, target.height() / 2)
    event = QWheelEvent(
        at, target.mapToGlobal(at), QPoint(0, 0), QPoint(0, 120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(target, event)


@pytest.mark.parametrize("path", ["design.craft_id", "design.packs.0.recipe.parallel_count", "design.mission_id"])
def test_the_wheel_changes_a_token_only_with_the_focus(window: MainWindow, path: str) -> None:
    window.setFocus()
    before = window.session.value(path)
    token = window.recipe.tokens[path]
    wheel(token)
    assert window.session.value(path) == before
    token.setFocus()
    wheel(token)
    assert window.session.value(path) != before


@pytest.mark.parametrize("path", ["craft.parts", "craft.loads"])
def test_after_a_row_is_added_or_removed_the_focus_stays_beside_it(window: MainWindow, qtbot: QtBot, path: str) -> None:
    window.show_station(1)
    rows = window.station(CraftStation).parts if path == "craft.parts" else window.station(CraftStation).loads
    count = len(window.session.value(path))
    rows.add_row()
    assert field(window, f"{path}.{count}.name").entry.hasFocus()
    rows.remove_row(count)
    focus = QApplication.focusWidget()
    assert isinstance(focus, QPushButton)
    assert focus.accessibleName() == f"Remove {path.removeprefix('craft.').removesuffix('s')} {count}"
    assert said(window).startswith("Removed the ")
    window.notice.button.click()
    assert len(window.session.value(path)) == count + 1, "and it comes back"


def test_after_a_known_flight_is_added_or_forgotten_the_focus_stays_there(window: MainWindow) -> None:
    window.show_station(1)
    flights = window.station(CraftStation).flights
    before = len(window.session.complete.craft.known_flights)
    flights.add()
    assert flights.fresh.lines["duration_min"].hasFocus()
    flights.fresh.told.emit({"duration_min": 20.0, "charge_used_mah": 5200.0})
    assert field(window, f"craft.known_flights.{before}.name").entry.hasFocus()
    flights.remove()
    assert QApplication.focusWidget() in (flights.remove_button, flights.fresh.lines["duration_min"])


# Deleting


def test_deleting_a_design_says_so_offers_undo_and_shows_the_one_seen_before(window: MainWindow) -> None:
    session = window.session
    session.open_design("turnstone-shoreline")
    session.open_design("dunlin-scout")
    gone = session.complete.design
    window.commands.run("Delete this design")()
    assert session.complete.design.id == "turnstone-shoreline"
    assert said(window) == f"Deleted the design {gone.name}."
    assert window.notice.button.text() == "Undo"
    window.notice.button.click()
    assert session.complete.design == gone
    assert gone.id in session.all(Design)


def test_a_cell_type_that_a_design_carries_beside_is_not_deleted(window: MainWindow, qtbot: QtBot) -> None:
    """Deleting it closed the whole workspace: the design named a cell type that was not there."""
    from wise_cellar.core.documents import CellType, DocumentError
    from wise_cellar.ui.state.cell_edits import archive, delete_cell_types

    session = window.session
    session.open_design("dunlin-extended")
    battery = session.complete.own_battery
    assert battery is not None
    session.open_design("whimbrel-transect")
    with pytest.raises(
        DocumentError, match=r"is used by the design “Dunlin.*: archive it, or choose another cell type there first"
    ):
        delete_cell_types(session, [battery.cell.id])
    free = next(key for key in session.all(CellType) if not _used(window, key))
    name = session.all(CellType)[free].name
    delete_cell_types(session, [free])
    assert said(window) == f"Deleted {name}."
    for again in (lambda: delete_cell_types(session, [free]), lambda: archive(session, [free], True)):
        with pytest.raises(DocumentError, match="is not in the workspace any more"):
            again()


def _used(window: MainWindow, cell: str) -> bool:
    library = window.session.library
    return any(cell == key for d in library.all(Design).values() for _, key in library.needs(d))


# The order one sees


def walked(window: MainWindow, count: int) -> list[QWidget]:
    found = []
    for _ in range(count):
        window.focusNextPrevChild(True)
        focus = window.focusWidget()
        assert focus is not None
        found.append(focus)
    return found


def test_tab_follows_rows_as_they_stand_also_after_one_is_added(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    craft = window.station(CraftStation)
    settle(qtbot, craft)
    next(one for one in craft.parts.findChildren(QPushButton) if one.text() == "Add a part").click()
    QApplication.processEvents()
    place = len(window.session.complete.craft.parts) - 1
    field(window, f"craft.parts.{place - 1}.mass_g").entry.setFocus()
    reached = walked(window, 6)
    own = [field(window, f"craft.parts.{place}.{name}").entry for name in ("name", "mass_g")]
    assert [widget for widget in reached if widget in own] == own
    assert reached.index(own[1]) - reached.index(own[0]) == 1
    for widget in reached:
        assert widget.visibleRegion().boundingRect().height() > 0, "what is reached is scrolled into view"


@pytest.mark.parametrize("place", range(8))
def test_tab_reaches_all_and_the_answers_come_last(window: MainWindow, qtbot: QtBot, place: int) -> None:
    window.show_station(place)
    settle(qtbot, window.stations[place])
    order = reading_order(window)
    seen = [token for token in window.recipe.tokens.values() if token.isVisible()]
    assert order[: len(seen)] == seen
    assert order[-5:] == window.band.buttons
    assert len(order) == len(set(order))
    everything = {
        widget for widget in shown_in(window, QWidget)
        if widget.isEnabled() and widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value
        and widget.focusProxy() is None and widget.window() is window
    }  # fmt: skip
    missed = {w for w in everything - set(order) if not any(w in o.findChildren(QWidget) for o in order)}
    assert not missed, [type(widget).__name__ for widget in missed]
    window.setFocus()
    window.recipe.focus_field("design.craft_id")
    window.focusNextPrevChild(False)
    assert window.focusWidget() is window.band.buttons[-1], "and backwards round to them"


def test_the_line_between_picture_and_table_is_dragged_and_remembered(open_window: Any, qtbot: QtBot) -> None:
    window = open_window()
    window.show_station(2)
    divided = window.station(CellsStation).divided
    line = divided.handle(1)
    before = divided.sizes()
    qtbot.keyClick(line, Qt.Key.Key_Up)
    moved = divided.sizes()
    assert moved[0] < before[0]
    window.close()
    again = open_window()
    again.show_station(2)
    QApplication.processEvents()
    kept = again.station(CellsStation).divided.sizes()
    assert kept[0] / sum(kept) == pytest.approx(moved[0] / sum(moved), abs=0.02)
