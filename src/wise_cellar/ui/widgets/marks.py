"""The three marks of a state: a drawn tick, a notched triangle, a barred square. Each has a word."""

from __future__ import annotations

from enum import StrEnum

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from wise_cellar.ui.theme import Colours


class State(StrEnum):
    """State of a station or a link."""

    FINE = "fine"
    CAUTION = "caution"
    OVER = "over a limit"


ROLE = {State.FINE: "verdigris", State.CAUTION: "ochre", State.OVER: "brick"}


def draw_mark(painter: QPainter, state: State, box: QRectF, colours: Colours) -> None:
    """Draw the mark of ``state`` into ``box``."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    colour = colours.colour(ROLE[state])
    x, y, w, h = box.x(), box.y(), box.width(), box.height()
    pen = QPen(colour, 2.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
    if state is State.FINE:
        painter.setPen(pen)
        painter.drawPolyline(
            QPolygonF(
                [
                    QPointF(x + w * 0.1, y + h * 0.55),
                    QPointF(x + w * 0.4, y + h * 0.82),
                    QPointF(x + w * 0.92, y + h * 0.2),
                ]
            )
        )
    elif state is State.CAUTION:
        path = QPainterPath(QPointF(x + w / 2, y + h * 0.05))
        for point in ((1.0, 0.95), (0.66, 0.95), (0.5, 0.66), (0.34, 0.95), (0.0, 0.95)):
            path.lineTo(x + w * point[0], y + h * point[1])
        path.closeSubpath()
        painter.fillPath(path, colour)
    else:
        pen.setWidthF(1.6)
        painter.setPen(pen)
        painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.drawLine(QPointF(x + w * 0.25, y + h / 2), QPointF(x + w * 0.75, y + h / 2))
    painter.restore()
