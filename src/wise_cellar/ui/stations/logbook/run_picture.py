"""A run over time: what comes over what was expected."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.bench import RunPrediction
from wise_cellar.core.thinned import thinned
from wise_cellar.core.units import format_volts
from wise_cellar.ui.stations.logbook.run_work import Lines
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.plot_grid import PlotGrid, Quantity
from wise_cellar.ui.widgets.plot_parts import DASHED, Curve, Level, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text

QUANTITIES = (Quantity("Amps"), Quantity("Volts a cell"), Quantity("Watts"), Quantity("Cells", "°C"))
NAMES = ("amps", "cell", "watts", "celsius")
VOLTS = 1
MOST_POINTS = 1500
EXPECTED, BESIDE, REAL = range(3)
LEAST_RANGE = {"celsius": 5.0}


class RunPicture(PlotGrid):
    """Four plots on one time axis."""

    def __init__(self, real: str = "as it comes") -> None:
        super().__init__("Amps, volts, watts and warmth of a run", QUANTITIES, "min")
        self._expected: RunPrediction | None = None
        self.came: Lines = {}
        self.beside: Lines = {}
        self._least_v, self._real = 0.0, real

    def expect(self, expected: RunPrediction | None, least_v: float) -> None:
        """Draw what is expected, and the volts a cell at which it is ended."""
        self._expected, self._least_v = expected, least_v
        self.redraw()

    def show_came(self, came: Lines) -> None:
        """Draw what has come; nothing where it is empty."""
        self.came = {name: thinned(*line, MOST_POINTS) for name, line in came.items()}
        self.redraw()

    def show_beside(self, beside: Lines) -> None:
        """Draw another run too; none where it is empty."""
        self.beside = {name: thinned(*line, MOST_POINTS) for name, line in beside.items()}
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The lines over each other."""
        self.dress(colours)
        lines = [(_expected(self._expected), EXPECTED)] if self._expected is not None else []
        lines += [(self.beside, BESIDE)] if self.beside else []
        lines += [(self.came, REAL)] if self.came else []
        self._show_key(colours)
        last_s = max(
            (float(seconds[-1]) for one, _ in lines for seconds, _ in one.values() if len(seconds)), default=6.0
        )
        for place, (plot, name) in enumerate(zip(self.plots, NAMES, strict=True)):
            drawn = [(*one[name], which) for one, which in lines if np.isfinite(one[name][1]).any()]
            plot.show_empty(not drawn)
            if not drawn:
                continue
            strokes = {
                REAL: Stroke(colours.series[place], 2.0), EXPECTED: Stroke(colours.faint, 1.4),
                BESIDE: Stroke(colours.ink, 1.4, DASHED),
            }  # fmt: skip
            names = {EXPECTED: "expected", BESIDE: "beside it", REAL: self._real}
            parts: list[Part] = [
                Curve(seconds / 60, values, strokes[which], names[which]) for seconds, values, which in drawn
            ]
            if place == VOLTS and self._least_v:
                parts.append(Level(self._least_v, Stroke(colours.brick, 1.2, DASHED), "end"))
            plot.show_parts(parts)
            plot.box.setXRange(0, max(last_s / 60, 0.1), padding=0.01)
            every = np.concatenate([values for _, values, _ in drawn])
            low, high = float(np.nanmin(every)), float(np.nanmax(every))
            low = min(low, 0.0) if name in ("amps", "watts") else low
            room = max(LEAST_RANGE.get(name, 0.0) - (high - low), 0.0) / 2
            plot.box.setYRange(low - room, high + room, padding=0.05)

    def _show_key(self, colours: Colours) -> None:
        keys = [Key("expected", colours.faint)] if self._expected is not None else []
        if self.came:
            keys.append(Key(self._real, colours.series[0]))
        if self.beside:
            keys.append(Key("beside it", colours.ink, DASHED))
        if self._least_v:
            keys.append(Key(f"{format_volts(self._least_v)} a cell, the end", colours.brick, DASHED))
        self.key.setText(key_text(keys, colours))


def _expected(run: RunPrediction) -> Lines:
    lines = {"amps": run.amps, "cell": run.volts / run.series, "watts": run.amps * run.volts, "celsius": run.celsius}
    return {name: (run.time_s, values) for name, values in lines.items()}
