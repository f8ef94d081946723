"""Discharge curves of up to four cells at the power the present craft cruises with."""

from __future__ import annotations

from collections.abc import Sequence

import pyqtgraph as pg
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.shelf import Discharge
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plots import DASHED, DOTTED, SOLID, Key, clear_curves, dress_plot, key_text, make_plot, pen

MOST_SHOWN = 4
_DASHES = (SOLID, DASHED, DOTTED, Qt.PenStyle.DashDotLine)


class DischargePicture(pg.GraphicsLayoutWidget):  # type: ignore[misc]
    """Volts against ampere-hours of one cell."""

    # On the class, because the toolkit sends the first palette before __init__ is done.
    _drawn_in: Colours | None = None

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
        colours = colours_of(self)
        self._drawn_in = colours
        self.setBackground(colours.sheet)
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

    def changeEvent(self, event: QEvent | None) -> None:
        """Redraw in the other colour set."""
        super().changeEvent(event)
        palette_changed = event is not None and event.type() == QEvent.Type.PaletteChange
        if palette_changed and self._drawn_in is not None and self._drawn_in is not colours_of(self):
            self.show_curves(self._curves)
