"""Commands of the window: declared once, used by menus, by Find and by the sheet of shortcuts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenu

from wise_cellar.ui.state.giving_way import window_first


@dataclass(frozen=True)
class Command:
    """One command. ``shortcut`` is a key sequence in Qt's portable text, or empty."""

    menu: str
    text: str
    run: Callable[[], object]
    shortcut: str = ""
    separated: bool = False
    """Whether a line stands above it in its menu."""
    held: bool = False
    """Whether its key may be held: then it does not wait for what the keys before it asked for."""
    also: str = ""
    """More words by which Find knows it."""
    changes: bool = True
    """Whether it may change something: then Find puts it after what was typed."""


class CommandSet:
    """The commands as actions of a window."""

    def __init__(self, window: QMainWindow, commands: list[Command], before: Callable[[], None]) -> None:
        """``before`` is run first by every command whose key is not one to be held."""
        self.commands = commands
        self.actions: dict[str, QAction] = {}
        self.menus: dict[str, QMenu] = {}
        bar = window.menuBar()
        assert bar is not None, "a main window makes its menu bar when asked"
        for command in commands:
            if command.menu not in self.menus:
                menu = bar.addMenu(command.menu)
                assert menu is not None, "a menu bar makes the menu"
                self.menus[command.menu] = menu
            if command.separated:
                self.menus[command.menu].addSeparator()
            action = QAction(command.text, window)
            if command.shortcut:
                action.setShortcut(QKeySequence(command.shortcut))
            action.triggered.connect(window_first)
            if not command.held:
                action.triggered.connect(lambda _checked=False: before())
            action.triggered.connect(lambda _checked=False, run=command.run: run())
            self.menus[command.menu].addAction(action)
            self.actions[command.text] = action

    def run(self, text: str) -> Callable[[], object]:
        """What a command runs."""
        return next(command.run for command in self.commands if command.text == text)

    def by_words(self) -> dict[str, Command]:
        """Every command, by its plain words."""
        return {_plain(command.text): command for command in self.commands}

    def bindings(self) -> list[tuple[str, str]]:
        """Every command that has keys, and the keys as this desktop writes them."""
        return [
            (
                _plain(command.text),
                action.shortcut().toString(QKeySequence.SequenceFormat.NativeText),
            )
            for command, action in zip(self.commands, self.actions.values(), strict=True)
            if not action.shortcut().isEmpty()
        ]


def _plain(text: str) -> str:
    return text.replace("&", "").rstrip("…")
