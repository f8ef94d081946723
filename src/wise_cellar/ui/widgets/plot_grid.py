"""Several plots over one axis across, two beside each other, under a key that they share."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.shown import shown
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plots import ThemedPlots, title_text

ROW_PX = 135


class Quantity(NamedTuple):
    """What an upright axis shows, and the unit that it is kept in where that is to be told."""

    name: str
    unit: str = ""

    @property
    def title(self) -> str:
        """Its name with the unit that it is shown in."""
        return f"{self.name}, {shown(self.unit).symbol}" if self.unit else self.name


class PlotGrid(ThemedPlots):
    """One plot a quantity; :meth:`dress` comes first in a drawing. A page that is too low for it scrolls."""

    def __init__(self, name: str, quantities: Sequence[Quantity], bottom_unit: str) -> None:
        super().__init__()
        self._quantities = tuple(quantities)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(ROW_PX * -(-len(quantities) // 2))
        self.key = formatted(note())
        self.plots = [Plot(bottom_unit) for _ in quantities]
        for place, plot in enumerate(self.plots):
            self.addItem(plot, place // 2, place % 2)
            if place:
                plot.box.setXLink(self.plots[0].box)

    def sizeHint(self) -> QSize:
        """No more than it needs."""
        return QSize(400, self.minimumHeight())

    def dress(self, colours: Colours) -> None:
        """Axes and titles in these colours."""
        for plot, quantity in zip(self.plots, self._quantities, strict=True):
            plot.dress(colours)
            plot.left.show_unit(quantity.unit, told=True)
            plot.show_title(title_text(quantity.title, colours))
            plot.name_axes(quantity.name)
