"""Discharge curves of up to four cells at the power the present craft cruises with."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.shelf import Discharge
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
)

MOST_SHOWN = 4
_DASHES = (SOLID, DASHED, DOTTED, Qt.PenStyle.DashDotLine)


class DischargePicture(ThemedPlots):
    """Volts against ampere-hours of one cell."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Discharge curves of the chosen cells")
        self.key = note()
        self.plot = make_plot("Ah")
        self.addItem(self.plot, 0, 0)
        self.plot.setMouseEnabled(False, False)
        self._curves: tuple[Discharge, ...] = ()

    def show_curves(self, curves: Sequence[Discharge]) -> None:
        """Draw these curves."""
        self._curves = tuple(curves)
        self.redraw()

    def redraw(self) -> None:
        """Draw the present curves."""
        colours = self.take_colours()
        clear_curves(self.plot)
        dress_plot(self.plot, colours)
        keys = []
        for place, curve in enumerate(self._curves):
            colour, dash = colours.series[place], _DASHES[place]
            self.plot.plot(curve.charge_ah, curve.voltage_v, pen=pen(colour, 2.0, dash))
            keys.append(Key(curve.cell.name, colour, dash if dash is not Qt.PenStyle.DashDotLine else DASHED))
        self.key.setText(key_text(keys, colours))
        self.setAccessibleDescription(", ".join(curve.cell.name for curve in self._curves))
        if self._curves:
            self.plot.setRange(
                xRange=(0, max(float(c.charge_ah.max()) for c in self._curves) * 1.02 + 0.05),
                yRange=(min(float(c.voltage_v.min()) for c in self._curves) - 0.05, 4.25),
                padding=0,
                disableAutoRange=True,
            )
