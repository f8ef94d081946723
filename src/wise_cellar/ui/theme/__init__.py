"""Colours, fonts and the style sheet."""

from wise_cellar.ui.theme.fonts import FAMILY, font, load_fonts
from wise_cellar.ui.theme.palette import ALL, LAMPLIGHT, LIMESTONE, NOONDAY, Colours, colours_of
from wise_cellar.ui.theme.style import BAR_PX, Appearance, apply_appearance, dress, dress_again, polish_again

__all__ = [
    "ALL",
    "BAR_PX",
    "FAMILY",
    "LAMPLIGHT",
    "LIMESTONE",
    "NOONDAY",
    "Appearance",
    "Colours",
    "apply_appearance",
    "colours_of",
    "dress",
    "dress_again",
    "font",
    "load_fonts",
    "polish_again",
]
