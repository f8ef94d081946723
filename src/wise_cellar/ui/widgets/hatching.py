"""A shape filled with slanted lines."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

GAP = 5.0


def hatch(painter: QPainter, path: QPainterPath, colour: QColor) -> None:
    """Outline ``path`` and fill it with lines.

    Drawn line by line: the toolkit's own pattern brushes keep pictures that outlive the application, and now and then
    crash it on its way out.
    """
    box = path.boundingRect()
    painter.save()
    painter.setPen(QPen(colour, 1.0))
    painter.drawPath(path)
    painter.setClipPath(path)
    x = box.left() - box.height()
    while x < box.right():
        painter.drawLine(QPointF(x, box.bottom()), QPointF(x + box.height(), box.top()))
        x += GAP
    painter.restore()
