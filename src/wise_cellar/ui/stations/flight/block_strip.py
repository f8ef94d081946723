"""The blocks of a mission as they were flown, and the strip that shows them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter

from wise_cellar.core.documents import BlockKind
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Colours, font

_STRIP_ROLE = {
    BlockKind.TAKE_OFF: "ochre",
    BlockKind.CRUISE: "verdigris",
    BlockKind.HOVER: "verdigris",
    BlockKind.LOITER: "verdigris",
    BlockKind.MANUAL: "verdigris",
    BlockKind.PUNCH: "brick",
    BlockKind.DESCENT: "ochre",
    BlockKind.PAUSE: "faint",
    BlockKind.THROTTLE: "brick",
    BlockKind.LANDING: "faint",
}


@dataclass(frozen=True)
class Span:
    """A block as it was flown."""

    block: int
    label: str
    kind: BlockKind
    start_s: float
    end_s: float


def spans(session: Session) -> list[Span]:
    """Blocks in the order they were flown, with their true times; one that is flown again has a span each time."""
    series, blocks = session.answer.series, session.complete.mission.blocks
    starts = [0, *(np.flatnonzero(np.diff(series.block)) + 1), len(series.block)]
    found = []
    for first, after in pairwise(starts):
        block = int(series.block[first])
        start, end = float(series.time_s[first]), float(series.time_s[after - 1])
        found.append(Span(block, blocks[block].label, blocks[block].kind, start, end))
    return found


class BlockStrip(pg.GraphicsObject):  # type: ignore[misc]
    """The blocks as rectangles on the time axis; x in minutes, y from 0 to 1."""

    def __init__(self) -> None:
        super().__init__()
        self._flown: list[Span] = []
        self._selected = 0
        self._colours: Colours | None = None

    def show_blocks(self, flown: list[Span], selected: int, colours: Colours) -> None:
        """Show these blocks, one of them chosen."""
        self.prepareGeometryChange()
        self._flown, self._selected, self._colours = flown, selected, colours
        self.update()

    def boundingRect(self) -> QRectF:
        """The whole flight."""
        return QRectF(0, 0, max(self._flown[-1].end_s / 60 if self._flown else 0.0, 1e-6), 1)

    def paint(self, painter: QPainter, *_: object) -> None:
        """Fill, foot and label of every block, in pixels so that text keeps its shape."""
        if self._colours is None:
            return
        to_screen = painter.transform()
        painter.save()
        painter.resetTransform()
        for span in self._flown:
            corner = to_screen.map(QPointF(span.start_s / 60, 1))
            far = to_screen.map(QPointF(span.end_s / 60, 0))
            box = QRectF(corner, far).normalized().adjusted(0.5, 0, -0.5, 0)
            if box.width() < 2:
                box.setWidth(2)
            colour = self._colours.colour(_STRIP_ROLE[span.kind])
            fill = self._colours.shade(_STRIP_ROLE[span.kind], (110 if span.block == self._selected else 52) / 255)
            painter.fillRect(box, fill)
            painter.fillRect(QRectF(box.left(), box.bottom() - 3, box.width(), 3), colour)
            if box.width() > 34:
                painter.setFont(font(12))
                painter.setPen(self._colours.colour("ink"))
                text = QFontMetricsF(painter.font()).elidedText(
                    span.label, Qt.TextElideMode.ElideRight, box.width() - 12
                )
                painter.drawText(box.adjusted(7, 0, -5, -3), Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()
