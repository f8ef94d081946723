"""A pack as a small plan: its cells from above."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPen

from wise_cellar.core.pack import PackLayout
from wise_cellar.ui.theme import Colours


def draw_plan(painter: QPainter, box: QRectF, layout: PackLayout, colours: Colours) -> None:
    """Draw the cells of a layout into ``box``, to scale; those of a lower layer first."""
    long = max(c.x_mm for c in layout.cells) + layout.body_mm[0] / 2
    deep = max(c.y_mm for c in layout.cells) + layout.body_mm[1] / 2
    scale = min(box.width() / long, box.height() / deep)
    x0, y0 = box.center().x() - long * scale / 2, box.center().y() - deep * scale / 2
    wide, tall = layout.body_mm[0] * scale, layout.body_mm[1] * scale
    upright = not layout.lying and wide == tall  # pouches and packs bought whole have edges
    painter.setPen(QPen(colours.colour("faint"), 1.0))
    for cell in sorted(layout.cells, key=lambda c: c.tier):
        painter.setBrush(colours.colour("rule" if cell.positive_up else "ground"))
        body = QRectF(x0 + cell.x_mm * scale - wide / 2, y0 + cell.y_mm * scale - tall / 2, wide, tall)
        body.translate(2.0 * cell.tier, -2.0 * cell.tier)
        painter.drawEllipse(body) if upright else painter.drawRect(body)
