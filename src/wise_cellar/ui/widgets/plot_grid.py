"""Several plots over one axis across, two beside each other, under a key that they share."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plots import ThemedPlots, title_text

ROW_PX = 135


class PlotGrid(ThemedPlots):
    """One plot a title; :meth:`dress` comes first in a drawing. A page that is too low for it scrolls."""

    def __init__(self, name: str, titles: Sequence[str], bottom_unit: str) -> None:
        super().__init__()
        self._titles = tuple(titles)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(ROW_PX * -(-len(titles) // 2))
        self.key = formatted(note())
        self.plots = [Plot(bottom_unit) for _ in titles]
        for place, plot in enumerate(self.plots):
            self.addItem(plot, place // 2, place % 2)
            if place:
                plot.box.setXLink(self.plots[0].box)

    def sizeHint(self) -> QSize:
        """No more than it needs."""
        return QSize(400, self.minimumHeight())

    def dress(self, colours: Colours) -> None:
        """Axes and titles in these colours."""
        for plot, title in zip(self.plots, self._titles, strict=True):
            plot.dress(colours)
            plot.show_title(title_text(title, colours))
