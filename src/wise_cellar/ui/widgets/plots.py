"""Plots in the product's look: hairline grid, tabular numbers, a key above the curves instead of labels on them."""

from __future__ import annotations

import html
from collections.abc import Sequence
from dataclasses import dataclass

import pyqtgraph as pg
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QColor, QGuiApplication, QPen
from PyQt6.QtWidgets import QWidget

from wise_cellar.core.units import format_number
from wise_cellar.ui.theme import Colours, colours_of, font

AXIS_WIDTH = 46
pg.setConfigOptions(antialias=True)

SOLID, DASHED, DOTTED = Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine
_SAMPLE = {SOLID: "—", DASHED: "–\u2060\u00a0\u2060–", DOTTED: "·\u00a0·\u00a0·"}


@dataclass(frozen=True)
class Key:
    """One entry of a key: words, colour and dash."""

    text: str
    colour: str
    dash: Qt.PenStyle = SOLID
    mark: str = ""


def pen(colour: str, width: float = 1.8, dash: Qt.PenStyle = SOLID) -> QPen:
    """Pen of a width in pixels of the unscaled screen, whatever the plot's own scale."""
    screen = QGuiApplication.primaryScreen()
    made = QPen(QColor(colour), width * (screen.devicePixelRatio() if screen is not None else 1.0), dash)
    made.setCosmetic(True)
    return made


class NumberAxis(pg.AxisItem):  # type: ignore[misc]
    """Axis with true minus signs and spaced thousands; ``unit`` follows each number."""

    def __init__(self, orientation: str, unit: str = "") -> None:
        super().__init__(orientation)
        self.show_unit(unit)

    def show_unit(self, unit: str) -> None:
        """Put another unit after each number."""
        self._unit = f"\u00a0{unit}" if unit else ""
        self.picture = None
        self.update()

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        """Texts of the ticks."""
        decimals = 0 if spacing * scale >= 1 else 1 if spacing * scale >= 0.1 else 2
        return [format_number(value * scale, decimals) + self._unit for value in values]


class ThemedPlots(pg.GraphicsLayoutWidget):  # type: ignore[misc]
    """Plots that are drawn again when the colour set changes; :meth:`redraw` begins with :meth:`take_colours`."""

    # On the class, because the toolkit sends the first palette before __init__ is done.
    _drawn_in: Colours | None = None

    def redraw(self) -> None:
        """Draw everything in the present colours."""
        raise NotImplementedError

    def take_colours(self) -> Colours:
        """The present colours, and their sheet as the ground."""
        self._drawn_in = colours_of(self)
        self.setBackground(self._drawn_in.sheet)
        return self._drawn_in

    def changeEvent(self, event: QEvent | None) -> None:
        """Redraw in the other colour set."""
        super().changeEvent(event)
        palette_changed = event is not None and event.type() == QEvent.Type.PaletteChange
        if palette_changed and self._drawn_in is not None and self._drawn_in is not colours_of(self):
            self.redraw()


def make_plot(owner: QWidget, bottom_unit: str = "") -> pg.PlotItem:
    """A plot with our axes, no menu and no buttons of the library's own; its parts go when ``owner`` goes."""
    axes = {"left": NumberAxis("left"), "bottom": NumberAxis("bottom", bottom_unit)}
    plot = pg.PlotItem(axisItems=axes, enableMenu=False)
    plot.hideButtons()
    # The library keeps its settings in menus that belong to nobody and would outlive the window.
    plot.ctrlMenu.setParent(owner, plot.ctrlMenu.windowFlags())
    # The grid belongs to the axis, and would be drawn over the curves.
    plot.getAxis("left").setZValue(-1000)
    plot.getAxis("left").setWidth(AXIS_WIDTH)
    plot.getAxis("left").setTickDensity(0.6)
    plot.showGrid(x=False, y=True, alpha=1.0)
    return plot


def dress_plot(plot: pg.PlotItem, colours: Colours) -> None:
    """Colour axes, ticks and grid."""
    for side in ("left", "bottom"):
        axis = plot.getAxis(side)
        axis.setPen(pen(colours.rule, 1.0))
        axis.setTextPen(QColor(colours.faint))
        axis.setTickFont(font(11.5))
        axis.setStyle(tickLength=0, tickTextOffset=6, maxTickLevel=0)


def title_text(title: str, colours: Colours) -> str:
    """Rich text of a plot's title."""
    return f'<span style="color:{colours.ink}; font-weight:600; font-size:13px">{html.escape(title)}</span>'


def key_text(keys: Sequence[Key], colours: Colours) -> str:
    """Rich text of a key that wraps between its entries."""
    parts = []
    for key in keys:
        sample, words = key.mark or _SAMPLE[key.dash], html.escape(key.text).replace(" ", "&nbsp;")
        parts.append(
            # The word joiner keeps a dash, after which a line may break, with its words.
            f'<span style="color:{key.colour}; font-size:12px; font-weight:600">{sample}\u2060</span>'
            f'<span style="color:{colours.faint}; font-size:12px">&nbsp;{words}</span>'
        )
    return "&nbsp;&nbsp; ".join(parts)


def clear_curves(plot: pg.PlotItem) -> None:
    """Remove every curve and line."""
    for item in list(plot.items):
        plot.removeItem(item)
