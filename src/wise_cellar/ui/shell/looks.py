"""How a window shows everything: its colours, its units, the size of its text."""

from __future__ import annotations

from collections.abc import Collection
from functools import partial
from typing import Protocol

from PyQt6.QtCore import QObject, QSettings
from PyQt6.QtGui import QAction, QActionGroup, QGuiApplication
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from wise_cellar.core.shown import Units, show_units
from wise_cellar.ui.shell.entries import Entries
from wise_cellar.ui.shell.recipe_line import RecipeLine
from wise_cellar.ui.shell.text_size_sheet import TextSizeSheet
from wise_cellar.ui.shell.units_sheet import UnitsSheet
from wise_cellar.ui.theme import Appearance, apply_appearance

START_AGAIN = 75
"""What the event loop ends with where the window is to be started anew."""


class Shown(Protocol):
    """What is asked of the window."""

    settings: QSettings
    recipe: RecipeLine
    entries: Entries

    def out_of_view(self) -> Collection[QWidget]:
        """What is dressed in other colours only when it comes into view."""

    def show_again(self) -> None:
        """Draw what is in view anew."""

    def say_again(self) -> None:
        """Show and say everything anew: what it is shown in has changed."""

    def close(self) -> bool: ...  # noqa: D102
    def isVisible(self) -> bool: ...  # noqa: D102, N802


class Looks(QObject):
    """Of one window; what is chosen is remembered."""

    def __init__(self, owner: QWidget, window: Shown) -> None:
        super().__init__(owner)
        self._owner, self._window = owner, window
        hints = QGuiApplication.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(self._follow_desktop)

    # Colours

    @property
    def _wanted(self) -> Appearance:
        return Appearance(self._window.settings.value("appearance", Appearance.DESKTOP.value))

    def offer_colours(self, menu: QMenu) -> None:
        """Put every colour set into a menu."""
        menu.addSeparator()
        group = QActionGroup(self)
        for appearance in Appearance:
            action = QAction(appearance.words, self)
            action.setCheckable(True)
            action.setChecked(appearance is self._wanted)
            action.triggered.connect(partial(self.show_appearance, appearance))
            group.addAction(action)
            menu.addAction(action)

    def show_appearance(self, appearance: Appearance, _checked: bool = True) -> None:
        """Switch the colour set and remember it."""
        self._window.settings.setValue("appearance", appearance.value)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            apply_appearance(application, appearance, self._window.out_of_view())
        self._window.show_again()

    def _follow_desktop(self) -> None:
        """The desktop turned light or dark; follow it where the user asked for that."""
        if self._wanted is Appearance.DESKTOP:
            self.show_appearance(Appearance.DESKTOP)

    # Units

    def choose_units(self) -> None:
        """A sheet to choose what everything is shown in."""
        self.units_sheet = UnitsSheet(self._owner, self.show_in)
        self.units_sheet.open()

    def show_in(self, wanted: Units) -> bool:
        """Show other units in every window, and remember them; not before what is being typed is taken."""
        self._window.recipe.held.take()
        if not self._window.entries.all_taken():
            return False
        self._window.settings.setValue("units", wanted.written())
        show_units(wanted)
        for window in _every_window():
            window.say_again()
        return True

    # Size of text

    def choose_text_size(self) -> None:
        """A sheet to choose how large everything is drawn."""
        self.text_size_sheet = TextSizeSheet(self._owner, self._window.settings, self.start_again)
        self.text_size_sheet.open()

    def start_again(self) -> None:
        """Close every window and start anew with this workspace; not while one of them waits for an entry."""
        if all(window.close() for window in _every_window()):
            QApplication.exit(START_AGAIN)


def _every_window() -> list[Shown]:
    """Every window that is open."""
    every = [getattr(widget, "looks", None) for widget in QApplication.topLevelWidgets()]
    windows = [looks._window for looks in every if isinstance(looks, Looks)]
    return [window for window in windows if window.isVisible()]
