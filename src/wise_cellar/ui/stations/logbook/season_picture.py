"""All flights of a season on one line of days: minutes up, a mark a craft, windy days open, the chosen one ringed."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

import numpy as np
from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.logbook.season import OVER, SeasonRow
from wise_cellar.core.units import format_speed
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import NumberAxis, Plot, from_where
from wise_cellar.ui.widgets.plot_parts import Dots, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text

SYMBOLS = (("o", "●"), ("s", "■"), ("t1", "▲"), ("d", "◆"))
"""Of crafts, in the order in which they first flew: in the plot, and in its key."""
WINDY_M_S = 6.0
REACH_PX = 14.0
HEIGHT = 130


class DayAxis(NumberAxis):
    """An axis across whose numbers are days since the year 1, shown at the beginnings of months; or any others."""

    of_days = True

    def words(self, value: float) -> str:
        """The day, or a value of something else."""
        return f"{date.fromordinal(max(int(value), 1)):%d %b %Y}" if self.of_days else super().words(value)

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Months, as many as have room; of a few days, the days."""
        if not self.of_days:
            return super().tickValues(low, high, size)
        if high - low < 1 or low < 1 or size <= 0:
            return []
        first, last = date.fromordinal(int(low)), date.fromordinal(int(high) + 1)
        months = [
            date(year, month, 1).toordinal()
            for year in range(first.year, last.year + 1)
            for month in range(1, 13)
            if low <= date(year, month, 1).toordinal() <= high
        ]
        every = -(-len(months) * 64 // max(int(size), 1)) or 1
        if len(months) > 1:
            return [(30.0 * every, [float(day) for day in months[::every]])]
        step = max(int((high - low) * 70 / size) + 1, 1)
        return [(float(step), [float(day) for day in range(int(low) + 1, int(high) + 1, step)])]

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        """Month and year where months are apart, else the day."""
        if not self.of_days:
            return super().tickStrings(values, scale, spacing)
        days = [date.fromordinal(max(int(value), 1)) for value in values]
        return [f"{day:%b %Y}" if spacing >= 28 else f"{day:%d %b}" for day in days]


class DayPlot(Plot):
    """A plot over days, or over something else."""

    def __init__(self) -> None:
        self.across = DayAxis("bottom")
        super().__init__(bottom=self.across)

    def show_across(self, unit: str, *, days: bool) -> None:
        """What its axis across tells."""
        self.across.of_days = days
        self.across.show_unit(unit)


class SeasonPicture(ThemedPlots):
    """``chosen`` brings the place of the flight that was clicked, or walked to with left and right."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Flights of the season: minutes by day")
        self.setToolTip("Left and right walk from flight to flight; a click chooses one")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(HEIGHT - 30)
        self.key = formatted(note())
        self.plot = DayPlot()
        self.plot.left.show_unit("min")
        self.plot.name_axes("Minutes")
        self.addItem(self.plot, 0, 0)
        self.rows: tuple[SeasonRow, ...] = ()
        self.current = -1
        self.over = "days"

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(400, HEIGHT)

    def show_rows(self, rows: Sequence[SeasonRow], current: int, over: str = "days") -> None:
        """Draw these flights; ``current`` is the one that is ringed, ``over`` what lies across."""
        if (tuple(rows), current, over) == (self.rows, self.current, self.over):
            return
        self.rows, self.current, self.over = tuple(rows), current, over
        self.redraw()

    @property
    def _points(self) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
        """(flights, 2) Day, or whatever lies across, and minutes; not a number where nobody noted them."""
        return np.array([[row.over(self.over), row.entry.duration_min or np.nan] for row in self.rows]).reshape(-1, 2)

    def draw(self, colours: Colours) -> None:
        """The dots."""
        self.plot.dress(colours)
        self.plot.show_across(OVER[self.over], days=self.over == "days")
        points = self._points
        told = np.isfinite(points.sum(axis=1))
        self.plot.show_empty(not told.any())
        crafts = list(dict.fromkeys(row.craft for row in self.rows))
        parts: list[Part] = []
        keys: list[Key] = []
        windy = np.array([(row.entry.wind_m_s or 0.0) > WINDY_M_S for row in self.rows], bool)
        for place, craft in enumerate(crafts):
            symbol, mark = SYMBOLS[place % len(SYMBOLS)]
            colour = colours.series[place % len(colours.series)]
            mine = np.array([row.craft == craft for row in self.rows]) & told
            keys.append(Key(craft, colour, mark=mark))
            for some, fill, name in ((mine & ~windy, colour, craft), (mine & windy, "", f"{craft}, in wind")):
                if some.any():
                    parts.append(Dots(points[some, 0], points[some, 1], symbol, 9, Stroke(colour, 1.8), fill, name))
        if windy.any():
            keys.append(Key(f"open: wind over {format_speed(WINDY_M_S, 0)}", colours.faint, mark="○"))
        if 0 <= self.current < len(points) and told[self.current]:
            x, y = points[self.current : self.current + 1].T
            parts.append(Dots(x, y, "o", 19, Stroke(colours.ink, 2.0)))
        self.plot.show_parts(parts)
        self.key.setText(key_text(keys, colours))
        self.say(self._read())
        if told.any():
            days, minutes = points[told, 0], points[told, 1]
            room = max(float(np.ptp(days)) * 0.04, 0.5)
            bottom, top = from_where(float(minutes.min()), float(minutes.max())), float(minutes.max())
            across = (float(days.min()) - room, float(days.max()) + room)
            up = (bottom, top + 0.12 * (top - bottom))
            self.plot.box.setRange(xRange=across, yRange=up, padding=0, disableAutoRange=True)

    def _read(self) -> str:
        """The flight that is ringed."""
        if not 0 <= self.current < len(self.rows):
            return ""
        (x, y), row = self._points[self.current], self.rows[self.current]
        minutes = self.plot.up_words(float(y)) if np.isfinite(y) else "minutes not noted"
        return f"{row.craft}, {self.plot.across_words(float(x)) if np.isfinite(x) else 'not noted'}: {minutes}."

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Choose what was clicked."""
        super().mouseReleaseEvent(event)
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._pick(self.nearest(event.position()))

    def nearest(self, at: QPointF) -> int:
        """The flight whose mark is at a point of the widget; −1 where none is near."""
        found, least = -1, REACH_PX
        for place, (x, y) in enumerate(self._points):
            if np.isfinite(x) and np.isfinite(y):
                there = self.mapFromScene(self.plot.box.mapViewToScene(QPointF(x, y)))
                away = float(np.hypot(there.x() - at.x(), there.y() - at.y()))
                if away < least:
                    found, least = place, away
        return found

    def own_key(self, event: QKeyEvent) -> bool:
        """Left and right walk."""
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is None or not self.rows:
            return False
        self._pick(min(max(self.current + by, 0), len(self.rows) - 1))
        return True

    def _pick(self, place: int) -> None:
        if place >= 0 and place != self.current:
            self.chosen.emit(place)
