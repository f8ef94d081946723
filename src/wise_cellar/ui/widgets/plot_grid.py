"""Several plots over one axis across, two beside each other, under a key that they share."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plots import ThemedPlots, clear_curves, dress_plot, make_plot, title_text

ROW_PX = 135


class PlotGrid(ThemedPlots):
    """One plot a title; :meth:`begin` clears them for a redraw. A page that is too low for it scrolls."""

    def __init__(self, name: str, titles: Sequence[str], bottom_unit: str) -> None:
        super().__init__()
        self._titles = tuple(titles)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(ROW_PX * -(-len(titles) // 2))
        self.key = formatted(note())
        self.plots = [make_plot(self, bottom_unit) for _ in titles]
        for place, plot in enumerate(self.plots):
            self.addItem(plot, place // 2, place % 2)
            plot.setMouseEnabled(x=False, y=False)
            if place:
                plot.setXLink(self.plots[0])

    def sizeHint(self) -> QSize:
        """No more than it needs."""
        return QSize(400, self.minimumHeight())

    def begin(self) -> Colours:
        """Empty plots in the present colours, with their titles."""
        colours = self.take_colours()
        for plot, title in zip(self.plots, self._titles, strict=True):
            clear_curves(plot)
            dress_plot(plot, colours)
            plot.setTitle(title_text(title, colours), justify="left")
        return colours
