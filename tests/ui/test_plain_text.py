"""Names that look like mark-up are shown as they are, everywhere."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget
from pytestqt.qtbot import QtBot

from tests.ui.conftest import settle
from wise_cellar.core.documents import CellType
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.widgets.labels import Label, formatted, tip

EVIL = "x <img src='/dev/zero'> & <b>y"
ROOTS = ("craft", "cell_type", "mission", "design")


@pytest.fixture
def evil(window: MainWindow, qtbot: QtBot) -> MainWindow:
    """Every name that is shown looks like mark-up."""
    session = window.session
    for root in ROOTS:
        session.edit(f"{root}.name", EVIL)
    session.edit("craft.parts.0.name", EVIL)
    session.edit("craft.loads.0.name", EVIL)
    session.edit("craft.loads.0.min_input_v", 99)
    session.edit("mission.blocks.0.name", EVIL)
    session.edit("cell_type.max_temperature_c", 30)
    session.edit("cell_type.capacity_mah", 9000)
    session.toggle_pin()
    for place in range(len(window.stations)):
        window.show_station(place)
        settle(qtbot, window.stations[place])
    return window


def test_no_label_and_no_tooltip_reads_mark_up_from_a_name(evil: MainWindow) -> None:
    shown = 0
    for widget in evil.findChildren(QWidget):
        if isinstance(widget, QLabel):
            text = widget.text()
            if "<" in text:
                assert widget.textFormat() in (Qt.TextFormat.PlainText, Qt.TextFormat.RichText), text
            if widget.textFormat() is Qt.TextFormat.RichText:
                assert "<img" not in text
                assert "<b>" not in text
            shown += EVIL in text
        assert "<img" not in widget.toolTip()
    assert shown > 5, "the names were shown, as they are"


def test_legends_and_titles_escape_what_others_wrote(evil: MainWindow, qtbot: QtBot) -> None:
    evil.show_station(evil.stations.index(evil.cells))
    settle(qtbot, evil.cells)
    assert "&lt;img" in evil.cells.picture.key.text()


def test_the_notice_line_and_the_menu_show_a_name_as_it_is(evil: MainWindow) -> None:
    evil.notice.say(EVIL)
    assert evil.notice.label.textFormat() is Qt.TextFormat.PlainText
    evil.session.edit("craft.name", "A & B")
    evil.session.delete_design()
    undo = next(action for text, action in evil.commands.actions.items() if text == "Undo")
    assert undo.text().replace("&&", "").count("&") == 0, "an ampersand is no access key"


def test_a_saved_picture_and_the_printed_sheet_escape_names(evil: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    picture = evil.cells.picture
    picture.save(tmp_path / "curve.svg", EVIL)
    assert "<img" not in (tmp_path / "curve.svg").read_text()
    evil.show_station(evil.stations.index(evil.charge))
    settle(qtbot, evil.charge)
    printed = evil.charge.day.as_html()
    assert "&lt;img" in printed
    assert "<img" not in printed


def test_every_label_of_ours_is_made_plain() -> None:
    """A label of the toolkit's own guesses whether its text is rich; none is made but where that is settled."""
    sources = Path(__file__).parents[2] / "src" / "wise_cellar" / "ui"
    for path in sources.rglob("*.py"):
        if path.name != "labels.py":
            assert not re.search(r"\bQLabel\(|\(QLabel\)", path.read_text(encoding="utf-8")), path


def test_labels_say_how_they_read_their_text(qtbot: QtBot) -> None:
    label = Label(EVIL)
    qtbot.addWidget(label)
    assert label.textFormat() is Qt.TextFormat.PlainText
    assert formatted(label).textFormat() is Qt.TextFormat.RichText
    assert tip("plain & short") == "plain & short"
    assert "<img" not in tip(EVIL)


def test_a_workspace_with_such_names_opens_again(evil: MainWindow, open_window) -> None:  # type: ignore[no-untyped-def]
    evil.close()
    again = open_window()
    assert again.session.complete.craft.name == EVIL
    assert EVIL in {cell.name for cell in again.session.all(CellType).values()}
