"""The picture of a beginning: a bar for the range after every gap that was filled, the last one at the bottom."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.begin import Narrowed
from wise_cellar.core.units import format_number, format_range
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.picture import Picture

ROW, BAR, MARGIN = 34.0, 10.0, 14.0
LABEL, VALUE = 210.0, 92.0
"""Room for what was told, and for the range in numbers."""


class NarrowingPicture(Picture):
    """Bars over minutes; the scale begins where the ranges do."""

    def __init__(self) -> None:
        super().__init__("Minutes as the gaps are filled")
        self._rows: tuple[tuple[str, Narrowed], ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_rows(self, rows: Sequence[tuple[str, Narrowed]]) -> None:
        """Show the answers, each with what was told for it."""
        self._rows = tuple(rows)
        told = [f"{words}: {_minutes(one)}" for words, one in rows]
        self.tell("; ".join(told), told)
        self.update()
        self.updateGeometry()

    @property
    def rows(self) -> tuple[tuple[str, Narrowed], ...]:
        """What is shown."""
        return self._rows

    def sizeHint(self) -> QSize:
        """As high as its rows, and a scale under them."""
        return QSize(520, round(max(len(self._rows), 3) * ROW + 2 * MARGIN + 20))

    def minimumSizeHint(self) -> QSize:
        """Half of it."""
        return QSize(360, 120)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Rows from above, closer together where there is little room."""
        if not self._rows:
            return
        colours, painter = colours_of(self), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        low = min(one.low_s for _, one in self._rows) / 60
        high = max(one.high_s for _, one in self._rows) / 60
        room = max(high - low, 0.5) * 0.06
        low, high = max(low - room, 0.0), high + room
        left, right = MARGIN + LABEL, self.width() - MARGIN - VALUE
        high_of_row = min(ROW, (self.height() - 2 * MARGIN - 20) / len(self._rows))

        def x(minutes: float) -> float:
            return left + (minutes - low) / (high - low) * (right - left)

        bottom = MARGIN + high_of_row * len(self._rows)
        painter.setFont(font(11.5))
        for tick in _ticks(low, high):
            painter.setPen(QPen(colours.colour("rule"), 1))
            painter.drawLine(round(x(tick)), round(MARGIN), round(x(tick)), round(bottom))
            painter.setPen(colours.colour("faint"))
            box = QRectF(x(tick) - 40, bottom + 2, 80, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, format_number(tick, 0 if tick == int(tick) else 1))
        painter.drawText(QRectF(right + 8, bottom + 2, VALUE, 16), Qt.AlignmentFlag.AlignVCenter, "minutes")
        for place, (words, one) in enumerate(self._rows):
            middle = MARGIN + (place + 0.5) * high_of_row
            last = place == len(self._rows) - 1
            painter.setFont(font(13, strong=last))
            painter.setPen(colours.colour("ink" if last else "faint"))
            told = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, LABEL - 14)
            painter.drawText(QRectF(MARGIN, middle - 12, LABEL - 14, 24), Qt.AlignmentFlag.AlignVCenter, told)
            bar = QRectF(x(one.low_s / 60), middle - BAR / 2, x(one.high_s / 60) - x(one.low_s / 60), BAR)
            fill = colours.shade("verdigris", 0.9 if last else 0.35)
            painter.fillRect(bar, fill)
            painter.fillRect(QRectF(x(one.duration_s / 60) - 1, middle - BAR, 2, 2 * BAR), colours.colour("ink"))
            painter.setPen(colours.colour("ink" if last else "faint"))
            painter.drawText(QRectF(right + 8, middle - 12, VALUE, 24), Qt.AlignmentFlag.AlignVCenter, _minutes(one))


def _minutes(one: Narrowed) -> str:
    return format_range(one.low_s, one.high_s)


def _ticks(low: float, high: float) -> list[float]:
    """Round minutes between two, some four to eight of them."""
    step = next((s for s in (0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500) if (high - low) / s <= 8), 1000.0)
    first = -(-low // step) * step
    return [first + step * number for number in range(int((high - first) / step) + 1)]
