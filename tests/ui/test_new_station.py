"""A station is a folder that declares itself and its name in a list: nothing else knows of it."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from tests.ui.conftest import dispose, shown_window
from wise_cellar.core.answer import Finding, Severity
from wise_cellar.ui.shell import findables, window, window_commands
from wise_cellar.ui.shell.finder import matching
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations import STATIONS
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.doorway import Doorway, StationCommand, states
from wise_cellar.ui.widgets.marks import State

SMALL = Doorway(
    title="Attic",
    prefixes=("craft.notes",),
    search_words="loft roof",
    module="small_station",
    name="AtticStation",
    commands=(StationCommand("&Design", "Sweep the attic", lambda attic: attic.sweep(), separated=True),),
    takes_in=lambda attic, paths: attic.take_in(paths),
)


class AtticStation(Station):
    """The least that a station is."""

    doorway = SMALL

    def __init__(self, session) -> None:  # type: ignore[no-untyped-def]
        super().__init__(session)
        column, _headline, _side = self.lay_out(200)
        self.label, self.swept = QLabel(), 0
        column.addWidget(self.label)

    def refresh(self) -> None:
        self.label.setText(self.session.complete.craft.name)

    def sweep(self) -> None:
        self.swept += 1

    def take_in(self, paths) -> bool:  # type: ignore[no-untyped-def]
        return any(path.suffix == ".dust" for path in paths)


@pytest.fixture
def with_attic(monkeypatch: pytest.MonkeyPatch, tmp_path: Path, workspace_path: Path) -> Iterator[MainWindow]:
    module = ModuleType("small_station")
    module.AtticStation = AtticStation  # type: ignore[attr-defined]
    monkeypatch.setitem(sys.modules, "small_station", module)
    for place in (window, window_commands, findables):
        monkeypatch.setattr(place, "STATIONS", (*STATIONS, SMALL))
    shown = shown_window(workspace_path, tmp_path / "settings.ini")
    yield shown
    dispose(shown)


def test_a_small_station_is_on_the_rail_in_the_menus_and_in_find(with_attic: MainWindow, qtbot: QtBot) -> None:
    shown = with_attic
    assert [button.text() for button in shown.rail.buttons][-1] == "Attic"
    shown.commands.actions["Sweep the attic"].trigger()
    attic = shown.station(AtticStation)
    assert (shown.stack.currentWidget(), attic.swept) == (attic, 1)
    assert attic.label.text() == "Whimbrel"
    assert dict(shown.commands.bindings())["Logbook"] == "Ctrl+9"
    assert "Attic" not in {name for name, keys in shown.commands.bindings() if keys}, "there are ten keys"
    shown.show_station(1)
    shown.go_to_field("craft.notes")
    assert shown.stack.currentWidget() is attic
    found = findables.findables(
        shown.session, shown.commands, shown.recipe, lambda run: run, shown.go_to_page, shown.go_to_field
    )  # type: ignore[arg-type,return-value]
    assert matching(found, "loft")[0].text == "Attic"
    shown.session.open_design("dunlin-scout")
    assert attic.label.text() == "Dunlin"
    qtbot.keyClick(shown, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert shown.stack.currentWidget() is not attic


def test_its_findings_mark_it_and_no_other() -> None:
    finding = Finding(Severity.OVER, "Dust.", "craft.notes")
    found = states((*STATIONS, SMALL), [finding])
    assert found[-1] == (State.OVER, "Dust.")
    assert all(state is State.FINE for state, _ in found[:-1])
