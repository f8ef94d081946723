"""Names that look like mark-up are shown as they are, everywhere."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget
from pytestqt.qtbot import QtBot

from tests.ui.conftest import settle
from wise_cellar.core.documents import CellType
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.stations.charge.station import ChargeStation
from wise_cellar.ui.widgets.labels import Label, formatted, tip

EVIL = "x <img src='/dev/zero'> & <b>y"
ROOTS = ("craft", "cells.0", "mission", "design")


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
    session.edit("cells.0.max_temperature_c", 30)
    session.edit("cells.0.capacity_mah", 9000)
    session.compared.toggle_pin()
    for place in range(len(window.stations)):
        window.show_station(place)
        settle(qtbot, window.stations[place])
    return window


def test_names_that_look_like_mark_up_are_shown_as_they_are_everywhere(
    evil: MainWindow, qtbot: QtBot, tmp_path: Path, open_window: Callable[[], MainWindow]
) -> None:
    """Labels, tooltips, legends, the notice line, saved pictures, the printed sheet; and the workspace opens again."""
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
    assert "&lt;img" in evil.station(CellsStation).pictures.load.key.text()
    evil.station(CellsStation).pictures.load.save(tmp_path / "curve.svg", EVIL)
    assert "<img" not in (tmp_path / "curve.svg").read_text()
    printed = evil.station(ChargeStation).day.as_html()
    assert "&lt;img" in printed
    assert "<img" not in printed
    evil.notice.say(EVIL)
    assert evil.notice.label.textFormat() is Qt.TextFormat.PlainText
    evil.close()
    again = open_window()
    assert again.session.complete.craft.name == EVIL
    assert EVIL in {cell.name for cell in again.session.all(CellType).values()}


def test_an_ampersand_in_a_label_of_undo_is_no_access_key(window: MainWindow) -> None:
    window.session.edit("design.name", "A & B")
    window.session.delete_design()
    assert window.commands.actions["Undo"].text() == "Undo: Delete A && B"


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


def test_a_number_stays_with_its_unit_where_a_line_wraps(qtbot: QtBot) -> None:
    words = "It flies at 9.0 m/s, 100 % of the way, at 12 °C for 37 min 46 s, 3 of 5 legs"
    label = Label(words)
    qtbot.addWidget(label)
    assert label.text() == words
    drawn = QLabel.text(label)
    assert drawn.replace("\u00a0", " ") == words
    for whole in ("9.0\u00a0m/s", "100\u00a0%", "12\u00a0°C", "37\u00a0min 46\u00a0s", "3 of 5 legs"):
        assert whole in drawn
