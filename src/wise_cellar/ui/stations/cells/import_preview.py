"""The discharge that an import panel has read, drawn."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.curves import Assembled, RestingTable
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import Curve, Part, Stroke
from wise_cellar.ui.widgets.plots import ThemedPlots


class ImportPreview(ThemedPlots):
    """Volts over the charge drawn, or over the state of charge."""

    def __init__(self) -> None:
        super().__init__()
        self.plot = Plot("Ah")
        self.plot.name_axes("Volts", "V")
        self.addItem(self.plot, 0, 0)
        self.setMinimumHeight(130)
        self.setAccessibleName("The discharge as read")
        self._result: Assembled | RestingTable | None = None

    def show_result(self, result: Assembled | RestingTable | None) -> None:
        """Draw it."""
        self._result = result
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """What was read."""
        self.plot.dress(colours)
        parts: list[Part] = []
        line = Stroke(colours.verdigris, 2.0)
        if isinstance(self._result, RestingTable):
            self.plot.bottom.show_unit("of 1")
            table = self._result.table
            parts.append(Curve(np.array(table.soc), np.array(table.ocv_v), line, "at rest"))
        elif self._result is not None:
            curve = self._result.curve.thinned(1500)
            self.plot.bottom.show_unit("Ah")
            parts.append(Curve(curve.charge_c / 3600, curve.voltage_v, line, "as read"))
        self.plot.show_parts(parts)
        self.plot.box.autoRange(padding=0.04)
