"""One plot: a view and two axes, made once and then told what to show."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from itertools import pairwise
from typing import Any, TypeVar

import pyqtgraph as pg
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QGraphicsGridLayout, QGraphicsItem, QSizePolicy

from wise_cellar.core.shown import shown
from wise_cellar.core.units import format_number, format_read
from wise_cellar.ui.theme import Colours, font
from wise_cellar.ui.widgets.plot_parts import ITEMS, RANGED, Part, Stroke

AXIS_WIDTH = 46
TITLE_PX = 30
PER_LAYER = 1000
"""More than the parts of any layer."""
BEHIND, AMONG, OVER, WALKED = range(4)
"""Layers of a plot, each told by itself what to show; the last is where the keys have walked to."""

AnyPart = TypeVar("AnyPart", bound=Part)


LEAST_APART_PX = 15.0
"""Between texts of an upright axis, middle to middle."""


FROM_NOUGHT = 0.25
"""Values that begin below so much of the highest are shown from nought."""
BREAK = (3.5, 3.0)
"""Width and height of a tooth of the mark that an axis does not begin at nought."""


def from_where(lowest: float, highest: float) -> float:
    """Where an upright axis begins: at nought, or a little under the lowest value where that would leave much empty."""
    if lowest < FROM_NOUGHT * highest:
        return 0.0
    return max(lowest - 0.1 * max(highest - lowest, 0.05 * highest), 0.0)


class NumberAxis(pg.AxisItem):  # type: ignore[misc]
    """Axis with true minus signs and spaced thousands. What is drawn stays in the ``unit`` that it is kept in; the
    numbers are in the one that it is shown in, which follows each of them unless it is ``told`` elsewhere."""

    def __init__(self, orientation: str, unit: str = "") -> None:
        super().__init__(orientation)
        self._unit, self._told = unit, False
        self.picture: Any = None
        self.setTickFont(font(11.5))

    def show_unit(self, unit: str, *, told: bool = False) -> None:
        """Numbers of another unit."""
        if (unit, told) != (self._unit, self._told):
            self._unit, self._told = unit, told
            self.picture = None
            self.update()

    @property
    def unit(self) -> str:
        """The unit that values are kept in; empty where they have none."""
        return self._unit

    def words(self, value: float) -> str:
        """A value of it as it is read."""
        return format_read(value, self._unit)

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Spacings and places of the ticks; of an upright axis so low that their texts would touch, fewer; none where
        there is nothing to be seen of them."""
        if not self.style["showValues"] and self.grid is False:
            return []
        into = shown(self._unit)
        levels = self._tick_levels(float(into.of(low)), float(into.of(high)), size)
        return [(spacing / into.per, [float(into.kept(at)) for at in places]) for spacing, places in levels]

    def _tick_levels(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """The same, in the unit that is shown."""
        levels: list[tuple[float, list[float]]] = super().tickValues(low, high, size)
        if self.orientation != "left" or not levels or high <= low:
            return levels
        spacing, places = levels[0]
        every = math.ceil(LEAST_APART_PX / max(size * spacing / (high - low), 1e-9))
        if every <= 1:
            return levels
        fewer = [place for place in places if round(place / spacing) % every == 0]
        return [(every * spacing, fewer or places[len(places) // 2 :][:1])]

    def paint(self, painter: Any, option: Any, widget: Any) -> None:
        """The axis; an upright one that does not begin at nought has a broken foot.

        What is drawn is kept as it is reckoned: the toolkit records a picture of it, which takes longer to play than to
        draw.
        """
        painter.setFont(self.style["tickFont"])
        if self.picture is None:
            self.picture = self.generateDrawSpecs(painter) or ()
        if self.picture:
            self._draw(painter, *self.picture)
        low = min(self.range)
        if self.orientation != "left" or low <= 0:
            return
        wide, tall = BREAK
        x, y = self.size().width() - 1, self.size().height() - 1
        painter.setPen(self.textPen())
        points = [(x, y), (x - wide, y - tall), (x + wide / 2, y - 2 * tall), (x, y - 3 * tall)]
        for (x0, y0), (x1, y1) in pairwise(points):
            painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))

    def _draw(self, painter: Any, line: Any, ticks: Sequence[Any], texts: Sequence[Any]) -> None:
        for pen, start, end in (line, *ticks):
            painter.setPen(pen)
            painter.drawLine(start, end)
        painter.setPen(self.textPen())
        for place, flags, text in texts:
            painter.drawText(place, int(flags), text)

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        """Texts of the ticks."""
        into = shown(self._unit)
        apart = round(spacing * scale * into.per, 6)
        decimals = 0 if apart >= 1 else 1 if apart >= 0.1 else 2
        words = f"\u00a0{into.symbol}" if into.symbol and not self._told else ""
        return [format_number(into.of(value * scale), decimals) + words for value in values]


class _Kept:
    """An item of a plot, what it shows, and how far to the front it stands."""

    def __init__(self, item: Any) -> None:
        self.item = item
        self._part: Part | None = None
        self._depth = -1
        self._hidden = False

    def show(self, part: Part, depth: int) -> None:
        """Show ``part``."""
        self.item.take(part, self._part)
        self._part = part
        if depth != self._depth:
            self._depth = depth
            self.item.setZValue(depth)
        if self._hidden:
            self._hidden = False
            self.item.show()

    def hide(self) -> None:
        """Show nothing."""
        if not self._hidden:
            self._hidden = True
            self.item.hide()


class Plot(pg.GraphicsWidget):  # type: ignore[misc]
    """A view ``box`` between the axes ``left`` and ``bottom``, with a title above where one is given.

    :meth:`show_parts` says what is to be seen; items are made for what was never shown before, and else reused.
    """

    def __init__(self, bottom_unit: str = "", bottom: NumberAxis | None = None) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.box = pg.ViewBox(parent=self, enableMenu=False, enableMouse=False)
        self.left, self.bottom = NumberAxis("left"), bottom or NumberAxis("bottom", bottom_unit)
        self._grid = QGraphicsGridLayout()
        self._lay_out()
        self.left.setWidth(AXIS_WIDTH)
        self.left.setTickDensity(0.6)
        self.left.setGrid(255)
        # The grid belongs to the axis, and would be drawn over the curves.
        self.left.setZValue(-1000)
        for axis in (self.left, self.bottom):
            axis.setStyle(tickLength=0, tickTextOffset=6, maxTickLevel=0)
        self.up_name = ""
        """What is upwards, for those who do not see it."""
        self._up_unit = self._across = ""
        self.empty = False
        self._title: pg.LabelItem | None = None
        self._dressed: Colours | None = None
        self._kept: dict[int, dict[type, list[_Kept]]] = defaultdict(dict)
        self._parts: dict[int, tuple[Part, ...]] = {}

    def _lay_out(self) -> None:
        self._grid.setContentsMargins(1, 1, 1, 1)
        self._grid.setSpacing(0)
        self.setLayout(self._grid)
        self._grid.addItem(self.box, 1, 1)
        for axis, row, column in ((self.left, 1, 0), (self.bottom, 2, 1)):
            axis.linkToView(self.box)
            axis.setZValue(0.5)
            axis.setFlag(QGraphicsItem.GraphicsItemFlag.ItemNegativeZStacksBehindParent)
            self._grid.addItem(axis, row, column)
        self._grid.setRowStretchFactor(1, 100)
        self._grid.setColumnStretchFactor(1, 100)

    def dress(self, colours: Colours) -> None:
        """Colour axes, numbers and grid."""
        if self._dressed is colours:
            return
        self._dressed = colours
        for axis in (self.left, self.bottom):
            axis.setPen(Stroke(colours.rule, 1.0).pen())
            axis.setTextPen(QColor(colours.faint))

    def name_axes(self, up: str, unit: str = "", across: str = "") -> None:
        """Say what is upwards and in which unit, where the axis itself has none, and what is across."""
        self.up_name, self._up_unit, self._across = up, unit, across

    @property
    def heading(self) -> str:
        """What is upwards, and over what."""
        return f"{self.up_name} over {self._across}" if self._across else self.up_name

    def up_words(self, value: float) -> str:
        """A value upwards, as it is read."""
        return format_read(value, self.left.unit or self._up_unit)

    def across_words(self, value: float) -> str:
        """A value across, as it is read."""
        return self.bottom.words(value)

    def show_empty(self, empty: bool) -> None:
        """Show nothing at all, keeping the room: a plot that is hidden loses it, and its axes with it."""
        self.empty = empty
        self.setOpacity(0.0 if empty else 1.0)

    def show_title(self, words: str) -> None:
        """Rich text above the plot."""
        if self._title is None:
            self._title = pg.LabelItem("", size="11pt", justify="left")
            self._title.setMaximumHeight(TITLE_PX)
            self._grid.addItem(self._title, 0, 1)
            self._grid.setRowFixedHeight(0, TITLE_PX)
        if words != self._title.text:
            self._title.setText(words)

    def show_parts(self, parts: Sequence[Part], layer: int = AMONG) -> None:
        """Show these parts and nothing else in a layer, the later ones over the earlier ones."""
        idle = {kind: iter(kept) for kind, kept in self._kept[layer].items()}
        self._parts[layer] = tuple(parts)
        for place, part in enumerate(parts):
            kept = next(idle.get(type(part), iter(())), None) or self._made(layer, type(part))
            kept.show(part, layer * PER_LAYER + place)
        for rest in idle.values():
            for kept in rest:
                kept.hide()

    def parts(self, kind: type[AnyPart]) -> list[AnyPart]:
        """What is shown of a kind, in the order in which it is drawn."""
        return [part for layer in sorted(self._parts) for part in self._parts[layer] if isinstance(part, kind)]

    def _made(self, layer: int, kind: type) -> _Kept:
        kept = _Kept(ITEMS[kind]())
        self.box.addItem(kept.item, ignoreBounds=kind not in RANGED)
        self._kept[layer].setdefault(kind, []).append(kept)
        return kept
