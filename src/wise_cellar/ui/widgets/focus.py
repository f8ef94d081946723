"""The hairline around what has the focus, in parts that paint themselves."""

from __future__ import annotations

from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from wise_cellar.ui.theme import colours_of

FOCUS_PX = 1.5


def draw_focus(widget: QWidget) -> None:
    """Draw it inside the edge of a widget that is being painted."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colours_of(widget).colour("verdigris"), FOCUS_PX))
    painter.drawRoundedRect(widget.rect().adjusted(1, 1, -2, -2), 3, 3)
