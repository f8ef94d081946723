"""What a plot can show: values that say what is to be seen, and the items that show them.

A picture is told again and again what to show. Two values that are alike are the same picture, so that an item is given
only what differs from what it shows already. What has a ``name`` is told to those who do not see the picture.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QGuiApplication, QPainter, QPainterPath, QPen, QPolygonF, QTransform
from PyQt6.QtWidgets import QGraphicsPathItem

from wise_cellar.core.physics.arrays import Floats
from wise_cellar.ui.theme import font

SOLID, DASHED, DOTTED = Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine

MOST_HAIRS, HAIRS_REACH = 3.0, 1.62
"""Dots up to which three hairlines leave no gap; and how far those reach beside one, over how far they stand away."""


@dataclass(frozen=True)
class Stroke:
    """How a line is drawn: its colour, its width in pixels of the unscaled screen, its dash."""

    colour: str
    width: float = 1.8
    dash: Qt.PenStyle = SOLID

    @property
    def dots(self) -> float:
        """Its width in dots of the screen."""
        screen = QGuiApplication.primaryScreen()
        return self.width * (screen.devicePixelRatio() if screen is not None else 1.0)

    def pen(self) -> QPen:
        """The pen, of the same width whatever the plot's own scale."""
        made = QPen(QColor(self.colour), self.dots)
        made.setStyle(self.dash)
        made.setCosmetic(True)
        return made

    def hairs(self) -> tuple[QPen, list[tuple[float, float]]]:
        """A pen of one dot, and where to draw with it, in dots, so that all together are a line of this width.

        The toolkit draws three lines of one dot in a fifth of the time of one that is wider.
        """
        made, dots = self.pen(), self.dots
        if not 1.0 < dots <= MOST_HAIRS:
            return made, [(0.0, 0.0)]
        if self.dash is not SOLID:
            # A dash is as long as before with its ends, of which each is half a width.
            longer = (dots - 1.0, 1.0 - dots)
            made.setDashPattern([max(part * dots + longer[place % 2], 0.1)
                                 for place, part in enumerate(made.dashPattern())])  # fmt: skip
        made.setWidthF(1.0)
        away = (dots - 1.0) / HAIRS_REACH
        return made, [(0.0, -away), (-0.87 * away, 0.5 * away), (0.87 * away, 0.5 * away)]


@dataclass(frozen=True, eq=False)
class Curve:
    """A line through points, ``(points,)`` each; it breaks where one is not a number."""

    x: Floats
    y: Floats
    stroke: Stroke
    name: str = ""


@dataclass(frozen=True)
class Level:
    """A line right across the plot."""

    y: float
    stroke: Stroke
    name: str = ""


@dataclass(frozen=True)
class Moment:
    """A line from foot to head of the plot."""

    x: float
    stroke: Stroke
    name: str = ""


@dataclass(frozen=True, eq=False)
class Band:
    """The room between two lines, ``(points,)`` each."""

    x: Floats
    low: Floats
    high: Floats
    colour: str
    alpha: int


@dataclass(frozen=True, eq=False)
class Dots:
    """Marks of one kind at points, ``(points,)`` each; not filled without ``fill``."""

    x: Floats
    y: Floats
    symbol: str
    size: float
    stroke: Stroke
    fill: str = ""
    name: str = ""


@dataclass(frozen=True)
class Words:
    """A few words above a point, on a ground of their own where one is given."""

    text: str
    x: float
    y: float
    colour: str
    ground: str = ""


Part = Curve | Level | Moment | Band | Dots | Words


def _same(one: Floats, other: Floats) -> bool:
    return one is other or np.array_equal(one, other, equal_nan=True)


def _dot(item: Any) -> tuple[float, float]:
    """How much of a view's two axes a dot of the screen is."""
    view, room = item.getViewBox().viewRect(), item.getViewBox().size()
    return view.width() / max(room.width(), 1.0), view.height() / max(room.height(), 1.0)


class _CurveItem(pg.PlotCurveItem):  # type: ignore[misc]
    def take(self, part: Curve, before: Curve | None) -> None:
        if before is None or part.stroke != before.stroke:
            self._hair, self._places = part.stroke.hairs()
            self._away = part.stroke.dots / 2 + 1
            self.setPen(part.stroke.pen())
        if before is None or not (_same(part.x, before.x) and _same(part.y, before.y)):
            whole = bool(np.isfinite(part.x).all() and np.isfinite(part.y).all())
            self.setData(part.x, part.y, connect="all" if whole else "finite", skipFiniteCheck=whole)

    def boundingRect(self) -> QRectF:
        """The points, with the width of the line."""
        if self._boundingRect is None:  # type: ignore[has-type]
            if self.xData is None or not len(self.xData) or self.getViewBox() is None:
                return QRectF()
            wide, tall = (self._away * side for side in _dot(self))
            self._boundingRect = self.getPath().controlPointRect().adjusted(-wide, -tall, wide, tall)
        reach: QRectF = self._boundingRect
        return reach

    def paint(self, painter: QPainter, _option: object, _widget: object) -> None:
        """The line, as hairlines side by side."""
        if self.xData is None or not len(self.xData):
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(self._hair)
        plot, path = painter.worldTransform(), self.getPath()
        for x, y in self._places:
            painter.setWorldTransform(plot * QTransform.fromTranslate(x, y))
            painter.drawPath(path)
        painter.setWorldTransform(plot)


class _LineItem(pg.GraphicsObject):  # type: ignore[misc]
    """A line as far as the view goes."""

    def __init__(self) -> None:
        super().__init__()
        self._part: Level | Moment | None = None
        self._pen = QPen()
        self._reach: QRectF | None = None

    def take(self, part: Level | Moment, before: Level | Moment | None) -> None:
        if part == before:
            return
        self._part, self._pen = part, part.stroke.pen()
        self.viewTransformChanged()
        self.update()

    def viewTransformChanged(self) -> None:
        """What is in view is to be asked for again."""
        self._reach = None
        self.prepareGeometryChange()

    def dataBounds(self, axis: int, *_: object, **_more: object) -> tuple[float, float] | None:
        """What of it a view of all data takes in: how high it is."""
        return (self._part.y, self._part.y) if axis == 1 and isinstance(self._part, Level) else None

    def boundingRect(self) -> QRectF:
        """The line in view, with its width."""
        if self._reach is None:
            self._reach = self._in_view()
        return self._reach

    def _in_view(self) -> QRectF:
        box, part = self.getViewBox(), self._part
        if box is None or part is None:
            return QRectF()
        view = box.viewRect()
        wide, tall = ((part.stroke.dots / 2 + 1) * side for side in _dot(self))
        if isinstance(part, Level):
            return QRectF(view.left(), part.y - tall, view.width(), 2 * tall)
        return QRectF(part.x - wide, view.top(), 2 * wide, view.height())

    def paint(self, painter: QPainter, _option: object, _widget: object) -> None:
        """The line."""
        reach, part = self.boundingRect(), self._part
        painter.setPen(self._pen)
        if isinstance(part, Level):
            painter.drawLine(QPointF(reach.left(), part.y), QPointF(reach.right(), part.y))
        elif part is not None:
            painter.drawLine(QPointF(part.x, reach.top()), QPointF(part.x, reach.bottom()))


class _BandItem(QGraphicsPathItem):
    def __init__(self) -> None:
        super().__init__()
        self.setPen(QPen(Qt.PenStyle.NoPen))

    def take(self, part: Band, before: Band | None) -> None:
        if before is None or (part.colour, part.alpha) != (before.colour, before.alpha):
            shade = QColor(part.colour)
            shade.setAlpha(part.alpha)
            self.setBrush(shade)
        if before is None or not (
            _same(part.x, before.x) and _same(part.low, before.low) and _same(part.high, before.high)
        ):
            around = zip(
                [*part.x.tolist(), *part.x[::-1].tolist()], [*part.low.tolist(), *part.high[::-1].tolist()], strict=True
            )
            path = QPainterPath()
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in around]))
            self.setPath(path)


class _DotsItem(pg.ScatterPlotItem):  # type: ignore[misc]
    _reach: QRectF | None = None
    _part: Dots | None = None

    def viewTransformChanged(self) -> None:
        """What a dot of the screen is is to be asked for again."""
        super().viewTransformChanged()
        self._reach = None

    def boundingRect(self) -> QRectF:
        """The points, with the size of the marks."""
        part = self._part
        if part is None or self.getViewBox() is None:
            return QRectF()
        if self._reach is None:
            x, y = part.x[np.isfinite(part.x)], part.y[np.isfinite(part.y)]
            wide, tall = ((part.size + part.stroke.width) * side for side in _dot(self))
            around = QRectF(QPointF(x.min(), y.min()), QPointF(x.max(), y.max())) if len(x) and len(y) else QRectF()
            self._reach = around.adjusted(-wide, -tall, wide, tall)
        return self._reach

    def take(self, part: Dots, before: Dots | None) -> None:
        alike = before is not None and _looks(part) == _looks(before)
        if before is not None and alike and _same(part.x, before.x) and _same(part.y, before.y):
            return
        self._part, self._reach = part, None
        self.prepareGeometryChange()
        self.setData(
            part.x, part.y, symbol=part.symbol, size=part.size, pen=part.stroke.pen(),
            brush=pg.mkBrush(part.fill or None),
        )  # fmt: skip


def _looks(dots: Dots) -> tuple[object, ...]:
    return dots.symbol, dots.size, dots.stroke, dots.fill


class _WordsItem(pg.TextItem):  # type: ignore[misc]
    def __init__(self) -> None:
        super().__init__(anchor=(0.5, -0.25))
        self.setFont(font(11.5))

    def take(self, part: Words, before: Words | None) -> None:
        if before is None or part.colour != before.colour:
            self.setColor(part.colour)
        if before is None or part.ground != before.ground:
            self.fill = pg.mkBrush(QColor(part.ground) if part.ground else None)
        self.setText(part.text)
        self.setPos(part.x, part.y)


ITEMS: dict[type, Callable[[], Any]] = {
    Curve: _CurveItem, Level: _LineItem, Moment: _LineItem, Band: _BandItem, Dots: _DotsItem, Words: _WordsItem,
}  # fmt: skip
"""What makes the item that shows each kind of part."""
RANGED = (Curve, Level, Dots)
"""Kinds that a plot's own range takes in."""
