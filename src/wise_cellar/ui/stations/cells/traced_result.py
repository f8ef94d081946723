"""The curves of a chart as they were traced."""

from __future__ import annotations

from itertools import cycle

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import Curve, Stroke
from wise_cellar.ui.widgets.plots import ThemedPlots


class TracedResult(ThemedPlots):
    """The traced curves as discharges."""

    def __init__(self) -> None:
        super().__init__()
        self.plot = Plot("Ah")
        self.plot.name_axes("Volts", "V")
        self.addItem(self.plot, 0, 0)
        self.setFixedHeight(150)
        self.setAccessibleName("The curves as traced")
        self._curves: list[DischargeCurve] = []

    def show_curves(self, curves: list[DischargeCurve]) -> None:
        """Draw these."""
        self._curves = curves
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The present ones."""
        self.plot.dress(colours)
        self.plot.show_parts([
            Curve(curve.charge_c / 3600, curve.voltage_v, Stroke(colour), curve.name)
            for curve, colour in zip(self._curves, cycle(colours.series), strict=False)
        ])  # fmt: skip
        self.plot.box.autoRange(padding=0.05)
