"""The style sheet, and the switch between the colour sets."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from enum import StrEnum
from types import SimpleNamespace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.ui.theme.palette import ALL, LAMPLIGHT, LIMESTONE, NOONDAY, SHEET_ROLES, Colours

BAR_PX = 9
"""Width of a scroll bar that goes up and down."""
_ROLES = SimpleNamespace(**{name: f"palette({role})" for name, role in SHEET_ROLES.items()})


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


def _style_sheet() -> str:
    """Hairlines, no gradients, no shadows. It names roles, so that it is the same in every colour set."""
    c = _ROLES
    return f"""
    QMainWindow, QDialog, QWidget#ground {{ background: {c.ground}; }}
    QWidget#sheet {{ background: {c.sheet}; border-radius: 3px; }}
    QFrame#popover {{ background: {c.sheet}; border: 1px solid {c.faint}; border-radius: 4px; }}
    QFrame#rule {{ background: {c.rule}; border: none; }}
    QLabel[role="faint"] {{ color: {c.faint}; }}
    QLabel[role="error"] {{ color: {c.brick}; }}
    QLabel[role="caution"] {{ color: {c.ochre}; }}
    QMenuBar {{ background: {c.ground}; border-bottom: 1px solid {c.rule}; padding: 1px 8px; }}
    QMenuBar::item {{ padding: 4px 9px; background: transparent; }}
    QMenuBar::item:selected {{ background: {c.rule}; border-radius: 3px; }}
    QMenu {{ background: {c.sheet}; border: 1px solid {c.faint}; padding: 4px; }}
    QMenu::item {{ padding: 5px 28px 5px 12px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {c.verdigris}; color: {c.on_accent}; }}
    QMenu::item:disabled {{ color: {c.faint}; }}
    QMenu::separator {{ height: 1px; background: {c.rule}; margin: 4px 8px; }}
    QToolTip {{ background: {c.sheet}; color: {c.ink}; border: 1px solid {c.faint}; padding: 4px; }}
    QLineEdit, QComboBox {{ background: {c.ground}; border: 1px solid {c.rule}; border-radius: 3px;
        padding: 2px 6px; min-height: 20px; selection-background-color: {c.verdigris};
        selection-color: {c.on_accent}; }}
    QLineEdit:hover, QComboBox:hover {{ border-color: {c.faint}; }}
    QLineEdit:focus, QComboBox:focus {{ border: 1px solid {c.verdigris}; background: {c.sheet}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {c.brick}; }}
    QLineEdit[role="name"] {{ background: transparent; border-color: transparent; padding-left: 0; }}
    QLineEdit[role="name"]:hover {{ border-color: {c.rule}; }}
    QLineEdit[role="name"]:focus {{ border-color: {c.verdigris}; }}
    QComboBox::drop-down {{ border: none; width: 16px; }}
    QComboBox QAbstractItemView {{ background: {c.sheet}; border: 1px solid {c.faint}; outline: none;
        selection-background-color: {c.verdigris}; selection-color: {c.on_accent}; }}
    QListView, QTextBrowser {{ background: {c.sheet}; border: 1px solid transparent; outline: none; }}
    QListView:focus, QTextBrowser:focus {{ border-color: {c.verdigris}; }}
    QPlainTextEdit {{ background: {c.ground}; border: 1px solid {c.rule}; border-radius: 3px; }}
    QPlainTextEdit:focus {{ border-color: {c.verdigris}; }}
    QListView::item {{ padding: 5px 10px; border-radius: 3px; }}
    QListView::item:selected {{ background: {c.verdigris}; color: {c.on_accent}; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {c.faint}; border-radius: 2px;
        background: {c.ground}; }}
    QCheckBox::indicator:checked {{ background: {c.verdigris}; border-color: {c.verdigris}; }}
    QCheckBox:focus {{ color: {c.verdigris}; }}
    QTableView {{ background: {c.sheet}; border: 1px solid transparent; outline: none;
        selection-background-color: {c.chosen}; selection-color: {c.ink}; }}
    QTableView:focus {{ border-color: {c.verdigris}; }}
    QTableView QLineEdit {{ padding: 0 2px; }}
    QHeaderView {{ background: {c.sheet}; }}
    QHeaderView::section {{ background: {c.sheet}; color: {c.faint}; border: none;
        border-bottom: 1px solid {c.rule}; padding: 3px 4px; font-weight: 400; }}
    QHeaderView::up-arrow, QHeaderView::down-arrow {{ subcontrol-position: left center; width: 8px; }}
    QPushButton {{ background: {c.sheet}; border: 1px solid {c.faint}; border-radius: 3px; padding: 4px 12px; }}
    QPushButton:hover, QPushButton:focus {{ border-color: {c.verdigris}; color: {c.verdigris}; }}
    QPushButton[role="quiet"] {{ background: transparent; border: 1px solid transparent; color: {c.verdigris};
        padding: 2px 6px; text-align: left; }}
    QPushButton[role="quiet"]:hover, QPushButton[role="quiet"]:focus {{ color: {c.verdigris};
        border-color: {c.verdigris}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: {BAR_PX}px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {c.rule}; border-radius: 3px; min-height: 32px; margin: 1px 2px; }}
    QScrollBar::handle:vertical:hover {{ background: {c.faint}; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: none;
        height: 0; }}
    """
