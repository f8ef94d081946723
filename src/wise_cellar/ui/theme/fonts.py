"""The shipped typeface: one humanist sans with tabular figures, in four sizes and two weights."""

from __future__ import annotations

from functools import cache
from importlib import resources

from PyQt6.QtCore import QByteArray
from PyQt6.QtGui import QFont, QFontDatabase

FAMILY = "Cellar Sans"
LARGE, MIDDLE, BODY, SMALL = 22.0, 15.0, 13.0, 11.5


def load_fonts() -> None:
    """Register the shipped fonts with Qt; raises ``RuntimeError`` if one is unreadable."""
    folder = resources.files("wise_cellar") / "ui" / "theme" / "fonts"
    for name in ("CellarSans-Regular.ttf", "CellarSans-SemiBold.ttf"):
        if QFontDatabase.addApplicationFontFromData(QByteArray((folder / name).read_bytes())) < 0:
            raise RuntimeError(f"The shipped font {name} cannot be read; reinstall Wise Cellar.")


def font(size: float = BODY, *, strong: bool = False) -> QFont:
    """Font of a size in pixels of the unscaled screen."""
    return QFont(_found(size, strong))


@cache
def _found(size: float, strong: bool) -> QFont:
    """What fonts of one size share: its glyphs are looked for once."""
    made = QFont(FAMILY)
    made.setPixelSize(round(size))
    # Qt takes whole pixels only; 11.5 is reached through points where the screen is at 96 dots an inch.
    if size != round(size):
        made.setPointSizeF(size * 0.75)
    made.setWeight(QFont.Weight.DemiBold if strong else QFont.Weight.Normal)
    return made
