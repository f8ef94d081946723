"""The small discharge line in each row of the shelf, and the mark of the worst that is to be said of it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QModelIndex, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.shelf import ShelfRow, Verdict
from wise_cellar.ui.stations.cells.shelf_columns import NEAR_LIMIT, ROW_ROLE
from wise_cellar.ui.theme import colours_of
from wise_cellar.ui.widgets.marks import State, draw_mark

LOWEST_V, HIGHEST_V = 2.4, 4.3
MARK = 12.0
MARK_OF = {Verdict.HOLDS: State.FINE, Verdict.DOUBTFUL: State.CAUTION, Verdict.CANNOT_BE: State.OVER}


def state_of(row: ShelfRow) -> State:
    """The worst that is to be said of a row: of its sheet, or of this load on it."""
    limits = max(row.rating_share, row.hottest_c / row.cell.max_temperature_c)
    load = State.OVER if limits > 1 else State.CAUTION if limits > NEAR_LIMIT else State.FINE
    return max(MARK_OF[row.verdict], load, key=list(State).index)


class RowDelegate(QStyledItemDelegate):
    """A chosen row keeps the colours in which its figures warn."""

    def __init__(self, table: QWidget) -> None:
        super().__init__(table)
        self._table = table

    def initStyleOption(self, option: QStyleOptionViewItem | None, index: QModelIndex) -> None:
        """Paint the ground of a chosen row ourselves where the text has a colour of its own."""
        super().initStyleOption(option, index)
        chosen = option is not None and option.state & QStyle.StateFlag.State_Selected
        if option is not None and chosen and index.data(Qt.ItemDataRole.ForegroundRole) is not None:
            option.state &= ~QStyle.StateFlag.State_Selected
            option.backgroundBrush = QBrush(colours_of(self._table).colour("chosen"))


class LineDelegate(RowDelegate):
    """Volts over charge at the present amps a cell, on one scale for all rows."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Ground as in every cell, then the line."""
        super().paint(painter, option, index)
        row = index.data(ROW_ROLE)
        if painter is None or not isinstance(row, ShelfRow):
            return
        colours = colours_of(self._table)
        box = QRectF(option.rect).adjusted(6, 4, -6, -4)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colours.colour("verdigris"), 1.4))
        painter.drawPolyline(line_in(box, row.line_charge, row.line_v))
        painter.restore()


class NameDelegate(RowDelegate):
    """The name, with a mark for the worst of its sheet and of this load on it."""

    def initStyleOption(self, option: QStyleOptionViewItem | None, index: QModelIndex) -> None:
        """Leave room for the mark."""
        super().initStyleOption(option, index)
        if option is not None:
            option.text = f"\u2003\u2002{option.text or ''}"

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Name and mark."""
        super().paint(painter, option, index)
        row = index.data(ROW_ROLE)
        if painter is None or not isinstance(row, ShelfRow):
            return
        rect = QRectF(option.rect)
        box = QRectF(rect.left() + 7, rect.center().y() - MARK / 2, MARK, MARK)
        draw_mark(painter, state_of(row), box, colours_of(self._table))


def line_in(box: QRectF, across: Floats, volts: Floats) -> QPolygonF:
    """The line inside a box: ``across`` from 0 to 1, volts on a scale fixed for all cells."""
    up = np.clip((volts - LOWEST_V) / (HIGHEST_V - LOWEST_V), 0.0, 1.0)
    places = zip(box.left() + across * box.width(), box.bottom() - up * box.height(), strict=True)
    return QPolygonF([QPointF(x, y) for x, y in places])
