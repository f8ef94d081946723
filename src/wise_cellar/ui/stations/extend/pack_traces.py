"""Amps, volts, charge and warmth of every pack over the flight, on one time axis with a cursor."""

from __future__ import annotations

import pyqtgraph as pg
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent

from wise_cellar.core.flight import Answer, PackAnswer
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.ui.widgets.plot_grid import PlotGrid
from wise_cellar.ui.widgets.plots import DASHED, DOTTED, SOLID, Key, key_text, pen

DASHES = (SOLID, DASHED, DOTTED, SOLID, DASHED)
TITLES = ("Amps, each pack", "Volts a cell, under load", "Charge left, %", "Cells, °C")


def _values(pack: PackAnswer) -> tuple[Floats, Floats, Floats, Floats]:
    series = pack.series
    return series.amps, series.cell_v, 100 * series.soc, series.temperature_c


class PackTraces(PlotGrid):
    """``cursor_moved`` brings the second under the pointer."""

    cursor_moved = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__("Amps, volts, charge and warmth of each pack over the flight", TITLES, "min")
        self._answer: Answer | None = None
        self._second = 0.0
        self._lines: list[pg.InfiniteLine] = []
        self.setMouseTracking(True)

    def show_answer(self, answer: Answer) -> None:
        """Draw a flight."""
        self._answer = answer
        self.redraw()

    def show_cursor(self, second: float) -> None:
        """Put the cursor at a time."""
        self._second = second
        for line in self._lines:
            line.setValue(second / 60)

    def redraw(self) -> None:
        """Draw everything in the present colours."""
        colours = self.begin()
        self._lines = []
        if self._answer is None:
            return
        minutes = self._answer.series.time_s / 60
        keys = []
        for place, pack in enumerate(self._answer.packs):
            colour = colours.series[place % len(colours.series)]
            for plot, values in zip(self.plots, _values(pack), strict=True):
                plot.plot(minutes, values, pen=pen(colour, 2.0, DASHES[place]))
            keys.append(Key(pack.carried.name, colour, DASHES[place]))
        amps = self.plots[0]
        if min(float(pack.series.amps.min()) for pack in self._answer.packs) < 0:
            amps.addItem(pg.InfiniteLine(0, angle=0, pen=pen(colours.faint, 1.0)))
        for plot in self.plots:
            line = pg.InfiniteLine(self._second / 60, pen=pen(colours.ink, 1.0))
            plot.addItem(line, ignoreBounds=True)
            self._lines.append(line)
            plot.setXRange(0, float(minutes[-1]), padding=0.01)
        self.plots[2].setYRange(0, 100, padding=0.02)
        self.key.setText(key_text(keys, colours))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Move the cursor along."""
        super().mouseMoveEvent(event)
        if event is not None and self._answer is not None:
            self._point(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Put the cursor there."""
        super().mousePressEvent(event)
        if event is not None and event.button() == Qt.MouseButton.LeftButton and self._answer is not None:
            self._point(event)

    def _point(self, event: QMouseEvent) -> None:
        at = self.mapToScene(event.position().toPoint())
        for plot in self.plots:
            box = plot.getViewBox()
            if box.sceneBoundingRect().contains(at):
                last = float(self._answer.series.time_s[-1]) if self._answer is not None else 0.0
                self.cursor_moved.emit(min(max(60 * box.mapSceneToView(at).x(), 0.0), last))
