"""How large everything is drawn, beside what the desktop asks for: one number, told to the toolkit before it starts."""

from __future__ import annotations

import os

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication

USUAL, SIZES = 100, (90, 100, 110, 120, 130, 140, 150, 160)
"""Per cent."""
_SCALE = "QT_SCALE_FACTOR"
_TOLD_BY_USER = os.environ.get(_SCALE, "")


def chosen_size(settings: QSettings) -> int:
    """What was chosen last, per cent; the usual one where that is none of ours."""
    try:
        chosen = int(settings.value("text_percent", USUAL))
    except (TypeError, ValueError):
        return USUAL
    return chosen if chosen in SIZES else USUAL


def draw_at(percent: int) -> None:
    """Let the toolkit draw so large, on top of the desktop's own scale and of what the environment says.

    Before there is an application. Text, lines and room grow together, so that nothing is cut that was whole.
    """
    assert QApplication.instance() is None, "the toolkit takes its scale once"
    try:
        before = float(_TOLD_BY_USER or 1.0)
    except ValueError:
        before = 1.0
    if percent != USUAL:
        os.environ[_SCALE] = str(round(before * percent / 100, 3))


def leave_the_scale() -> None:
    """Leave the environment as it was found, for a program that takes this one's place."""
    if _TOLD_BY_USER:
        os.environ[_SCALE] = _TOLD_BY_USER
    else:
        os.environ.pop(_SCALE, None)
