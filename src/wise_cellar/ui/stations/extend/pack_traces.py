"""Amps, volts, charge and warmth of every pack over the flight, on one time axis with a cursor."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent

from wise_cellar.core.answer import Answer, PackAnswer
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.plot import OVER
from wise_cellar.ui.widgets.plot_grid import PlotGrid, Quantity
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, SOLID, Curve, Level, Moment, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text

DASHES = (SOLID, DASHED, DOTTED, SOLID, DASHED)
QUANTITIES = (
    Quantity("Amps, each pack"),
    Quantity("Volts a cell, under load"),
    Quantity("Charge left", "%"),
    Quantity("Cells", "°C"),
)


def _values(pack: PackAnswer) -> tuple[Floats, Floats, Floats, Floats]:
    series = pack.series
    return series.amps, series.cell_v, 100 * series.soc, series.temperature_c


class PackTraces(PlotGrid):
    """``cursor_moved`` brings the second under the pointer."""

    cursor_moved = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__("Amps, volts, charge and warmth of each pack over the flight", QUANTITIES, "min")
        self._answer: Answer | None = None
        self._second = 0.0
        self.setMouseTracking(True)

    def show_answer(self, answer: Answer) -> None:
        """Draw a flight."""
        self._answer = answer
        self.redraw()

    def show_cursor(self, second: float) -> None:
        """Put the cursor at a time."""
        self._second = second
        line = Stroke(colours_of(self).ink, 1.0)
        for plot in self.plots:
            plot.show_parts([Moment(second / 60, line)], OVER)

    def draw(self, colours: Colours) -> None:
        """Every pack of the flight."""
        self.dress(colours)
        if self._answer is None:
            return
        minutes = self._answer.series.time_s / 60
        keys: list[Key] = []
        drawn: list[list[Part]] = [[] for _ in self.plots]
        for place, pack in enumerate(self._answer.packs):
            colour = colours.series[place % len(colours.series)]
            for parts, values in zip(drawn, _values(pack), strict=True):
                parts.append(Curve(minutes, values, Stroke(colour, 2.0, DASHES[place]), pack.complete.name))
            keys.append(Key(pack.complete.name, colour, DASHES[place]))
        if min(float(pack.series.amps.min()) for pack in self._answer.packs) < 0:
            drawn[0].append(Level(0, Stroke(colours.faint, 1.0)))
        for plot, parts in zip(self.plots, drawn, strict=True):
            plot.show_parts(parts)
            plot.box.setXRange(0, float(minutes[-1]), padding=0.01)
        self.show_cursor(self._second)
        self.plots[2].box.setYRange(0, 100, padding=0.02)
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
            box = plot.box
            if box.sceneBoundingRect().contains(at):
                last = float(self._answer.series.time_s[-1]) if self._answer is not None else 0.0
                self.cursor_moved.emit(min(max(60 * box.mapSceneToView(at).x(), 0.0), last))
