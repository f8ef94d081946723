"""A run over time: what comes over what was expected."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.bench import RunPrediction
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_volts
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.plot_grid import PlotGrid, Quantity
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Level, Moment, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text

QUANTITIES = (Quantity("Amps"), Quantity("Volts a cell"), Quantity("Watts"), Quantity("Cells", "°C"))
NAMES = ("amps", "cell", "watts", "celsius")
VOLTS = 1
MOST_POINTS = 1500
LEAST_RANGE = {"celsius": 5.0}


class RunPicture(PlotGrid):
    """Four plots on one time axis."""

    def __init__(self) -> None:
        super().__init__("Amps, volts, watts and warmth of a run", QUANTITIES, "min")
        self._expected: RunPrediction | None = None
        self.came: dict[str, Floats] = {}
        self._least_v = 0.0
        self._at_s: float | None = None

    def expect(self, expected: RunPrediction | None, least_v: float) -> None:
        """Draw what is expected, and the volts a cell at which it is ended."""
        self._expected, self._least_v = expected, least_v
        self.redraw()

    def show_came(self, came: dict[str, Floats]) -> None:
        """Draw what has come; nothing where it is empty."""
        step = max(len(came["time"]) // MOST_POINTS, 1) if came else 1
        self.came = {name: values[::step] for name, values in came.items()}
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The lines over each other."""
        self.dress(colours)
        expected = self._expected
        keys = []
        lines: list[tuple[dict[str, Floats], bool]] = []
        if expected is not None:
            lines.append((_expected(expected), False))
            keys.append(Key("expected", colours.faint))
        if self.came:
            lines.append((self.came, True))
            keys.append(Key("as it comes", colours.series[0]))
        if self._least_v:
            keys.append(Key(f"{format_volts(self._least_v)} a cell, the end", colours.brick, DASHED))
        self.key.setText(key_text(keys, colours))
        last_min = max((float(one["time"][-1]) / 60 for one, _ in lines), default=1.0)
        for place, (plot, name) in enumerate(zip(self.plots, NAMES, strict=True)):
            drawn = [(one["time"] / 60, one[name], real) for one, real in lines if np.isfinite(one[name]).any()]
            plot.show_empty(not drawn)
            if not drawn:
                continue
            strokes = {True: Stroke(colours.series[place], 2.0), False: Stroke(colours.faint, 1.4)}
            parts: list[Part] = [Curve(minutes, values, strokes[real]) for minutes, values, real in drawn]
            if place == VOLTS and self._least_v:
                parts.append(Level(self._least_v, Stroke(colours.brick, 1.2, DASHED)))
            if self.came:
                parts.append(Moment(float(self.came["time"][-1]) / 60, Stroke(colours.ink, 1.0, DOTTED)))
            plot.show_parts(parts)
            plot.box.setXRange(0, max(last_min, 0.1), padding=0.01)
            every = np.concatenate([values for _, values, _ in drawn])
            low, high = float(np.nanmin(every)), float(np.nanmax(every))
            low = min(low, 0.0) if name in ("amps", "watts") else low
            room = max(LEAST_RANGE.get(name, 0.0) - (high - low), 0.0) / 2
            plot.box.setYRange(low - room, high + room, padding=0.05)


def _expected(run: RunPrediction) -> dict[str, Floats]:
    return {
        "time": run.time_s, "amps": run.amps, "cell": run.volts / run.series, "watts": run.amps * run.volts,
        "celsius": run.celsius,
    }  # fmt: skip
