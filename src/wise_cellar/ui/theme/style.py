"""The style sheet, and the switch between the colour sets."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from enum import StrEnum
from functools import cache
from importlib import resources
from string import Template

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.ui.theme.palette import ALL, LAMPLIGHT, LIMESTONE, NOONDAY, SHEET_ROLES, Colours

BAR_PX = 9
"""Width of a scroll bar that goes up and down."""
_ROLES = {name: f"palette({role})" for name, role in SHEET_ROLES.items()}


class Appearance(StrEnum):
    """Which colour set the user asked for."""

    DESKTOP = "as the desktop"
    LIMESTONE = "Limestone"
    LAMPLIGHT = "Lamplight"
    NOONDAY = "Noonday"

    @property
    def words(self) -> str:
        """As a menu has it."""
        if self is Appearance.DESKTOP:
            return "Colours as the desktop"
        return f"Colours: {self.value}" + (", high contrast" if self is Appearance.NOONDAY else "")


def apply_appearance(application: QApplication, wanted: Appearance, later: Collection[QWidget] = ()) -> Colours:
    """Let the application show a colour set, and return it.

    What is in ``later`` is left out, with all that is in it: :func:`dress_again` dresses it before it comes into view.
    """
    colours = _wanted_colours(application, wanted)
    application.setPalette(colours.qt_palette())
    left = {inside for widget in later for inside in _with_all_inside(widget)}
    polish_again([widget for widget in application.allWidgets() if widget not in left])
    return colours


def _wanted_colours(application: QApplication, wanted: Appearance) -> Colours:
    hints = application.styleHints()
    if wanted is not Appearance.DESKTOP or hints is None:
        return next((colours for colours in ALL if colours.name == wanted), LIMESTONE)
    if hints.colorScheme() is Qt.ColorScheme.Dark:
        return LAMPLIGHT
    more = hints.accessibility()
    contrast = more is not None and more.contrastPreference() is Qt.ContrastPreference.HighContrast
    return NOONDAY if contrast else LIMESTONE


def dress(window: QWidget) -> None:
    """Give a window its looks, with all that it will ever hold.

    A sheet for the whole application would be laid anew on every part of a page each time that the part is put into a
    larger one: half of what a page takes to be made.
    """
    window.setStyleSheet(_style_sheet())


def dress_again(widget: QWidget) -> None:
    """Dress what was left for later, with all that is in it."""
    polish_again(_with_all_inside(widget))


def polish_again(widgets: Sequence[QWidget]) -> None:
    """Let widgets take their looks from the palette and from their properties anew.

    Setting the sheet again would do so once for every ancestor of every widget.
    """
    # Unpolished, a widget goes back to the font that it was first shown in.
    fonts = [(widget, widget.font()) for widget in widgets if widget.testAttribute(Qt.WidgetAttribute.WA_SetFont)]
    styled = [(widget, style) for widget in widgets if (style := widget.style()) is not None]
    for widget, style in styled:
        style.unpolish(widget)
    for widget, style in styled:
        style.polish(widget)
    for widget, font in fonts:
        widget.setFont(font)


def _with_all_inside(widget: QWidget) -> list[QWidget]:
    return [widget, *widget.findChildren(QWidget)]


@cache
def _style_sheet() -> str:
    file = resources.files("wise_cellar") / "ui" / "theme" / "window.qss"
    return Template(file.read_text(encoding="utf-8")).substitute(_ROLES, bar_width=BAR_PX)
