"""Traces of several flights over each other: volts a cell under load, and amps a cell."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.flight import Answer
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plots import (
    DASHED,
    DOTTED,
    SOLID,
    Key,
    ThemedPlots,
    clear_curves,
    dress_plot,
    key_text,
    make_plot,
    pen,
    title_text,
)

DASHES = (SOLID, DASHED, DOTTED, SOLID)


class OverlayPicture(ThemedPlots):
    """Two plots with a common axis of minutes."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(116)
        self.setAccessibleName("Traces of the designs over each other")
        self.key = formatted(note())
        self.plots = [make_plot(self, "min") for _ in range(2)]
        for place, plot in enumerate(self.plots):
            self.addItem(plot, 0, place)
            plot.setMouseEnabled(False, False)
        self._designs: Sequence[tuple[str, Answer]] = ()

    def sizeHint(self) -> QSize:
        """Low: what stands above it is read first; it takes the room that is left."""
        return QSize(300, 116)

    def show_designs(self, designs: Sequence[tuple[str, Answer]]) -> None:
        """Draw these flights."""
        self._designs = designs
        self.redraw()

    def redraw(self) -> None:
        """Draw everything in the present colours."""
        colours = self.take_colours()
        keys = []
        for plot, title in zip(self.plots, ("Volts a cell, under load", "Amps, whole pack"), strict=True):
            clear_curves(plot)
            dress_plot(plot, colours)
            plot.setTitle(title_text(title, colours), justify="left")
        lowest, highest, most, longest = np.inf, 0.0, 0.0, 0.0
        for place, (name, answered) in enumerate(self._designs):
            series = answered.series
            line = pen(colours.series[place % len(colours.series)], 1.8, DASHES[place % len(DASHES)])
            minutes = series.time_s / 60
            self.plots[0].plot(minutes, series.loaded_v, pen=line)
            self.plots[1].plot(minutes, series.pack_a, pen=line)
            keys.append(Key(name, colours.series[place % len(colours.series)], DASHES[place % len(DASHES)]))
            lowest, highest = min(lowest, float(series.loaded_v.min())), max(highest, float(series.loaded_v.max()))
            most, longest = max(most, float(series.pack_a.max())), max(longest, float(minutes[-1]))
        self.key.setText(key_text(keys, colours))
        if self._designs:
            span = {"xRange": (0, max(longest, 0.1)), "padding": 0, "disableAutoRange": True}
            self.plots[0].setRange(yRange=(lowest - 0.05, highest + 0.05), **span)
            self.plots[1].setRange(yRange=(0, most * 1.06 + 0.1), **span)
