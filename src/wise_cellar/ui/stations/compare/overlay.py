"""Traces of several flights over each other: volts a cell under load, and amps a cell."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.answer import Answer
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, SOLID, Curve, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text, title_text

DASHES = (SOLID, DASHED, DOTTED, SOLID)


class OverlayPicture(ThemedPlots):
    """Two plots with a common axis of minutes."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(116)
        self.setAccessibleName("Traces of the designs over each other")
        self.key = formatted(note())
        self._designs: Sequence[tuple[str, Answer]] = ()

    def lay_out(self) -> None:
        """Two plots side by side."""
        self.plots = [Plot("min") for _ in range(2)]
        for place, plot in enumerate(self.plots):
            self.addItem(plot, 0, place)

    def sizeHint(self) -> QSize:
        """Low: what stands above it is read first; it takes the room that is left."""
        return QSize(300, 116)

    def show_designs(self, designs: Sequence[tuple[str, Answer]]) -> None:
        """Draw these flights."""
        self._designs = designs
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The flights over each other."""
        keys = []
        for plot, title in zip(self.plots, ("Volts a cell, under load", "Amps, whole pack"), strict=True):
            plot.dress(colours)
            plot.show_title(title_text(title, colours))
            plot.name_axes(title)
        volts, amps = [], []
        lowest, highest, most, longest = np.inf, 0.0, 0.0, 0.0
        for place, (name, answered) in enumerate(self._designs):
            series = answered.series
            line = Stroke(colours.series[place % len(colours.series)], 1.8, DASHES[place % len(DASHES)])
            minutes = series.time_s / 60
            volts.append(Curve(minutes, series.loaded_v, line, name))
            amps.append(Curve(minutes, series.pack_a, line, name))
            keys.append(Key(name, colours.series[place % len(colours.series)], DASHES[place % len(DASHES)]))
            lowest, highest = min(lowest, float(series.loaded_v.min())), max(highest, float(series.loaded_v.max()))
            most, longest = max(most, float(series.pack_a.max())), max(longest, float(minutes[-1]))
        self.plots[0].show_parts(volts)
        self.plots[1].show_parts(amps)
        self.key.setText(key_text(keys, colours))
        if self._designs:
            span = {"xRange": (0, max(longest, 0.1)), "padding": 0, "disableAutoRange": True}
            self.plots[0].box.setRange(yRange=(lowest - 0.05, highest + 0.05), **span)
            self.plots[1].box.setRange(yRange=(0, most * 1.06 + 0.1), **span)
