"""What a value rests on, drawn: filled if measured, a ring from a sheet, a broken ring for an estimate."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from wise_cellar.core.documents import SourceKind
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.labels import tip

ESTIMATE_WORDS = "An estimate, usual for the size: nobody has told it yet. Type a value, and this mark goes."


def draw_source(painter: QPainter, kind: SourceKind, box: QRectF, colours: Colours) -> None:
    """Draw the mark of a source into ``box``."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = QPen(colours.colour("faint"), 1.4)
    if kind is SourceKind.ESTIMATE:
        pen.setDashPattern([1.6, 1.8])
    painter.setPen(pen)
    painter.setBrush(colours.colour("verdigris") if kind is SourceKind.MEASURED else Qt.BrushStyle.NoBrush)
    painter.drawEllipse(box)
    painter.restore()


class EstimateMark(QWidget):
    """Stands beside a value that nobody has told."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(QSize(14, 20))
        self.setToolTip(tip(ESTIMATE_WORDS))
        self.setAccessibleName("An estimate")

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """The broken ring."""
        draw_source(QPainter(self), SourceKind.ESTIMATE, QRectF(2, 5, 10, 10), colours_of(self))
