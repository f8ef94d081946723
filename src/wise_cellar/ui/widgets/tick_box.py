"""A box to tick, whose tick is drawn in the colours of the moment."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QCheckBox, QStyle, QStyleOptionButton

from wise_cellar.ui.theme import colours_of
from wise_cellar.ui.widgets.focus import draw_focus

TICK = (QPointF(2.5, 7), QPointF(5.3, 9.8), QPointF(10.6, 3.4))
"""In a box of 13 by 13 pixels, inside its border."""


class TickBox(QCheckBox):
    """A check box with our tick."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The tick over the box that the style sheet has filled."""
        super().paintEvent(event)
        if self.hasFocus():
            draw_focus(self)
        style = self.style()
        if not self.isChecked() or style is None:
            return
        option = QStyleOptionButton()
        self.initStyleOption(option)
        box = style.subElementRect(QStyle.SubElement.SE_CheckBoxIndicator, option, self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tick = QPen(colours_of(self).colour("on_accent"), 2.0)
        tick.setCapStyle(Qt.PenCapStyle.RoundCap)
        tick.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(tick)
        painter.translate(box.x() + 1, box.y() + 1)
        painter.drawPolyline(QPolygonF(TICK))
