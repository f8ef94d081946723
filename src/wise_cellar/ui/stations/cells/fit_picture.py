"""The present cell's own discharges against the model that is flown, and what the two differ by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, Qt

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.curves import DischargeCurve, ModelParameters, simulate
from wise_cellar.core.documents import CellType
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.units import bare_number, format_celsius, format_number, format_significant
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, SOLID, Curve, Level, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text
from wise_cellar.ui.widgets.saved_plots import SavedPlots

DRAWN_POINTS = 700


@dataclass(frozen=True)
class Against:
    """One discharge as measured, and the same current and temperature put through the model."""

    name: str
    charge_ah: Floats
    measured_v: Floats
    model_v: Floats
    held_out: bool
    rms_mv: float


def hold_against(cell: CellType, curves: Sequence[tuple[DischargeCurve, bool]]) -> list[Against]:
    """Each discharge against the model of ``cell``; the flag says whether it is used in the fit."""
    # Of the specimen that was discharged, not of the median of several.
    model = ModelParameters.of_cell(cell.changed(bench_results=()))
    found = []
    for curve, in_fit in curves:
        thin = curve.thinned(DRAWN_POINTS)
        volts = simulate(model, thin)[0]
        rms = 1e3 * float(np.sqrt(np.mean((volts - thin.voltage_v) ** 2)))
        found.append(Against(curve.name, thin.charge_c / 3600, thin.voltage_v, volts, not in_fit, rms))
    return found


def load_words(curve: DischargeCurve) -> str:
    """Current and temperatures of a discharge in few words."""
    low, high = (float(value) - ZERO_CELSIUS_K for value in (curve.temperature_k.min(), curve.temperature_k.max()))
    warm = format_celsius(low) if high - low < 1.5 else f"{bare_number(low, '°C')} to {format_celsius(high)}"
    amps = float(curve.current_a.max())
    return (
        f"{format_significant(amps, 3)} A, {warm}"
        if curve.constant
        else f"up to {format_significant(amps, 3)} A, {warm}"
    )


class FitPicture(SavedPlots):
    """Volts above, the difference in millivolts under it, both over the charge drawn."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The cell's own discharges against its model")
        self.shown: tuple[Against, ...] = ()
        self._read: float | None = None

    def lay_out(self) -> None:
        """Two plots over one axis."""
        self.volts, self.residual = Plot("Ah"), Plot("Ah")
        self.volts.name_axes("Volts", "V")
        self.residual.name_axes("Model over measured", "mV")
        self.addItem(self.volts, 0, 0)
        self.addItem(self.residual, 1, 0)
        self.ci.layout.setRowStretchFactor(0, 5)
        self.ci.layout.setRowStretchFactor(1, 3)
        self.ci.layout.setVerticalSpacing(4)
        self.residual.box.setXLink(self.volts.box)
        self.volts.bottom.setStyle(showValues=False)
        self.volts.bottom.setHeight(2)
        self.scene().sigMouseMoved.connect(self._moved)

    def show_against(self, shown: Sequence[Against]) -> None:
        """Draw these."""
        self.shown = tuple(shown)
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The present ones: measured thin and dotted in ink, the model in colour."""
        volts, off_by = [], []
        for place, one in enumerate(self.shown):
            colour = colours.series[place % len(colours.series)]
            volts.append(Curve(one.charge_ah, one.model_v, Stroke(colour, 2.0, _dash(one)), f"{one.name}, model"))
            volts.append(
                Curve(one.charge_ah, one.measured_v, Stroke(colours.ink, 1.2, DOTTED), f"{one.name}, measured")
            )
            difference = 1e3 * (one.model_v - one.measured_v)
            off_by.append(Curve(one.charge_ah, difference, Stroke(colour, 1.6, _dash(one)), one.name))
        for plot in (self.volts, self.residual):
            plot.dress(colours)
        self.volts.show_parts(volts)
        self.residual.show_parts([*off_by, Level(0.0, Stroke(colours.faint, 1.0))])
        self._show_key()
        for plot in (self.volts, self.residual):
            plot.show_empty(not self.shown)
        if not self.shown:
            return
        low = min(float(one.measured_v.min()) for one in self.shown)
        high = max(float(one.measured_v.max()) for one in self.shown)
        off = np.concatenate([1e3 * (one.model_v - one.measured_v)[one.measured_v > low + 0.3] for one in self.shown])
        reach = max(10.0, 1.1 * float(np.percentile(np.abs(off), 99))) if off.size else 10.0
        self.volts.box.setRange(
            xRange=(0, 1.02 * max(float(one.charge_ah.max()) for one in self.shown)),
            yRange=(low - 0.05, high + 0.05), padding=0, disableAutoRange=True,
        )  # fmt: skip
        self.residual.box.setRange(yRange=(-reach, reach), padding=0, disableAutoRange=True)

    def _moved(self, position: QPointF) -> None:
        box = self.volts.box
        inside = self.sceneRect().contains(position)
        self._read = box.mapSceneToView(position).x() if inside else None
        self._show_key()

    def as_csv(self) -> str:
        """Measured and modelled volts of every discharge."""
        rows = (
            [one.name, *(f"{value:.5f}" for value in row)]
            for one in self.shown
            for row in zip(one.charge_ah, one.measured_v, one.model_v, strict=True)
        )
        return csv_text([["discharge", "charge_ah", "measured_v", "model_v"], *rows])

    def _show_key(self) -> None:
        self.key.setText(self.key_words())
        self.say("".join(f"{one.name}: off by {format_number(one.rms_mv, 1)} millivolts. " for one in self.shown))

    def key_words(self) -> str:
        """Each discharge's name and how closely the model meets it."""
        if not self.shown:
            return "No discharges of this cell yet: import logs of it, or trace a printed chart, under Discharges."
        colours = colours_of(self)
        keys = [Key("measured", colours.ink, DOTTED)]
        for place, one in enumerate(self.shown):
            text = f"{one.name}{', held out' if one.held_out else ''}: {format_number(one.rms_mv, 1)} mV"
            if self._read is not None and 0 <= self._read <= one.charge_ah[-1]:
                apart = np.interp(self._read, one.charge_ah, 1e3 * (one.model_v - one.measured_v))
                text += f" ({format_number(float(apart), 0, signed=True)} here)"
            keys.append(Key(text, colours.series[place % len(colours.series)], _dash(one)))
        return key_text(keys, colours)


def _dash(one: Against) -> Qt.PenStyle:
    return DASHED if one.held_out else SOLID
