"""A pack's life: what it held and what it resisted, over days, each with its doubt, and where the trend leads."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wise_cellar.core.logbook.life import RESISTS, WORN, LifePoint, PackLife, Trend
from wise_cellar.ui.stations.logbook.season_picture import DayPlot
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Dots, Level, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text, title_text

TITLES = ("Holds, % of new", "Resists, % of new")
MEASURED, TREND, WORN_OUT = "a flight or readings", "trend", "worn"
HEIGHT = 200
AHEAD = 0.25
"""Of the days that are shown, so many more for where it leads."""


class LifePicture(ThemedPlots):
    """Two plots over the same days."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Capacity and resistance of the pack over its life")
        self.setMinimumHeight(HEIGHT)
        self.key = formatted(note())
        self.plots = [DayPlot(), DayPlot()]
        for place, plot in enumerate(self.plots):
            self.addItem(plot, 0, place)
        self._life: PackLife | None = None

    def show_life(self, life: PackLife | None) -> None:
        """Draw this life; none: nothing."""
        self._life = life
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """Points with their doubts, the line, and the level at which it is worn."""
        life = self._life
        of: list[tuple[Sequence[LifePoint], Trend | None, float]] = [((), None, WORN), ((), None, RESISTS)]
        if life is not None:
            of = [(life.capacity, life.capacity_trend, WORN), (life.resistance, life.resistance_trend, RESISTS)]
        for plot, title, (points, trend, level) in zip(self.plots, TITLES, of, strict=True):
            plot.dress(colours)
            plot.show_title(title_text(title, colours))
            plot.show_empty(not points)
            if points:
                plot.name_axes(title, "%")
                self._show(plot, colours, points, trend, level)
        self.key.setText(key_text([
            Key(f"{MEASURED}, with its doubt", colours.verdigris, mark="●"),
            Key(TREND, colours.ink, DASHED), Key(WORN_OUT, colours.ochre, DOTTED),
        ], colours) if any(points for points, _, _ in of) else "")  # fmt: skip

    def _show(
        self, plot: DayPlot, colours: Colours, points: Sequence[LifePoint], trend: Trend | None, level: float
    ) -> None:
        days = np.array([float(one.day.toordinal()) for one in points])
        shares, doubts = (100 * np.array([getattr(one, name) for one in points]) for name in ("share", "doubt"))
        gap = np.nan
        bars_x = np.stack([days, days, np.full(len(days), gap)], axis=1).ravel()
        bars_y = np.stack([shares - doubts, shares + doubts, np.full(len(days), gap)], axis=1).ravel()
        parts: list[Part] = [
            Level(100 * level, Stroke(colours.ochre, 1.2, DOTTED), WORN_OUT),
            Curve(bars_x, bars_y, Stroke(colours.verdigris, 1.2)),
            Dots(days, shares, "o", 8, Stroke(colours.verdigris, 1.6), colours.verdigris, MEASURED),
        ]
        span = max(days[-1] - days[0], 20.0)
        last = days[-1] + AHEAD * span
        if trend is not None:
            line_x = np.array([days[0], last])
            line_y = 100 * (trend.now + trend.a_year * (line_x - trend.day.toordinal()) / 365.25)
            parts.append(Curve(line_x, line_y, Stroke(colours.ink, 1.6, DASHED), TREND))
        plot.show_parts(parts)
        low, high = min(float((shares - doubts).min()), 100 * level), max(float((shares + doubts).max()), 100 * level)
        room = 0.08 * max(high - low, 5.0)
        plot.box.setRange(xRange=(days[0] - 0.04 * span, last), yRange=(low - room, high + room), padding=0,
                          disableAutoRange=True)  # fmt: skip
