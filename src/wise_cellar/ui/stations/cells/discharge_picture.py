"""Discharge curves of up to four cells at the present amps a cell, with a crosshair, to be saved in open formats."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.shelf import Discharge
from wise_cellar.core.units import format_number
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.plot import OVER, Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, SOLID, Curve, Moment, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text
from wise_cellar.ui.widgets.saved_plots import SavedPlots

MOST_SHOWN = 4
DASHES = (SOLID, DASHED, DOTTED, Qt.PenStyle.DashDotLine)
HEIGHTS, WIDTHS = ("Volts", "Watts"), ("Ah", "Wh")
STEP_SHARE = 0.01


class DischargePicture(SavedPlots):
    """One cell's volts or watts against its charge or energy. Left and right move the crosshair."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Discharge curves of the chosen cells; left and right move the crosshair")
        self.height_of, self.width_of = HEIGHTS[0], WIDTHS[0]
        self.plot = Plot()
        self.addItem(self.plot, 0, 0)
        self.cursor: float | None = None
        self.curves: tuple[Discharge, ...] = ()
        self.scene().sigMouseMoved.connect(self._moved)

    def show_curves(self, curves: Sequence[Discharge]) -> None:
        """Draw these curves."""
        self.curves = tuple(curves)
        self.redraw()

    def show_axes(self, height_of: str, width_of: str) -> None:
        """Draw volts or watts against Ah or Wh."""
        if width_of != self.width_of:
            self.cursor = None
        self.height_of, self.width_of = height_of, width_of
        self.redraw()

    def points(self, curve: Discharge) -> tuple[Floats, Floats]:
        """What is drawn of a curve."""
        across = curve.charge_ah if self.width_of == WIDTHS[0] else curve.energy_wh
        up = curve.voltage_v if self.height_of == HEIGHTS[0] else curve.voltage_v * curve.current_a
        return across, up

    def draw(self, colours: Colours) -> None:
        """The present curves."""
        self.plot.dress(colours)
        self.plot.bottom.show_unit(self.width_of)
        self.plot.name_axes(self.height_of, self.height_of[0])
        self.plot.show_parts([
            Curve(*self.points(curve), Stroke(colours.series[place], 2.0, DASHES[place]), curve.cell.name)
            for place, curve in enumerate(self.curves)
        ])  # fmt: skip
        self._show_cursor()
        if self.curves:
            drawn = [self.points(curve) for curve in self.curves]
            low, high = min(float(y.min()) for _, y in drawn), max(float(y.max()) for _, y in drawn)
            room = 0.06 * (high - low)
            self.plot.box.setRange(
                xRange=(0, max(float(x.max()) for x, _ in drawn) * 1.02 + 0.01),
                yRange=(low - room, high + room),
                padding=0,
                disableAutoRange=True,
            )

    def read_at(self, across: float) -> list[tuple[str, float | None]]:
        """Each curve's name and height at ``across``; none beyond its end."""
        found: list[tuple[str, float | None]] = []
        for curve in self.curves:
            x, y = self.points(curve)
            found.append((curve.cell.name, float(np.interp(across, x, y)) if across <= x[-1] else None))
        return found

    def move_cursor(self, across: float | None) -> None:
        """Put the crosshair there, or take it away."""
        most = max((float(self.points(curve)[0].max()) for curve in self.curves), default=0.0)
        self.cursor = None if across is None or not 0 <= across <= most else across
        self._show_cursor()

    def _show_cursor(self) -> None:
        """The crosshair, and what it reads."""
        line = Stroke(colours_of(self).faint, 1.0)
        self.plot.show_parts([Moment(self.cursor, line)] if self.cursor is not None else [], OVER)
        self.key.setText(self.key_words())
        self.say(self._read())

    def _read(self) -> str:
        """What the crosshair reads."""
        if self.cursor is None:
            return ""
        read = [
            f"{name} {self.plot.up_words(height)}" if height is not None else f"{name} is empty"
            for name, height in self.read_at(self.cursor)
        ]
        return f"At {self.plot.across_words(self.cursor)}: {', '.join(read)}."

    def _moved(self, position: QPointF) -> None:
        box = self.plot.box
        inside = box.sceneBoundingRect().contains(position)
        self.move_cursor(box.mapSceneToView(position).x() if inside else None)

    def own_key(self, event: QKeyEvent) -> bool:
        """Left and right move the crosshair, Escape takes it away."""
        most = max((float(self.points(curve)[0].max()) for curve in self.curves), default=0.0)
        steps = {Qt.Key.Key_Left: -STEP_SHARE, Qt.Key.Key_Right: STEP_SHARE}
        if event.key() in steps and most > 0:
            start = self.cursor if self.cursor is not None else 0.5 * most
            self.move_cursor(min(max(start + steps[Qt.Key(event.key())] * most, 0.0), most))
        elif event.key() == Qt.Key.Key_Escape:
            self.move_cursor(None)
        else:
            return False
        return True

    def key_words(self) -> str:
        """Each curve's name and what the crosshair reads on it."""
        colours = colours_of(self)
        unit, decimals = ("V", 2) if self.height_of == HEIGHTS[0] else ("W", 1)
        heights: list[float | None] = [None] * len(self.curves)
        if self.cursor is not None:
            heights = [height for _, height in self.read_at(self.cursor)]
        keys = []
        for place, (curve, height) in enumerate(zip(self.curves, heights, strict=True)):
            read = f" {format_number(height, decimals)} {unit}" if height is not None else ""
            dash = DASHES[place] if DASHES[place] is not Qt.PenStyle.DashDotLine else DASHED
            keys.append(Key(f"{curve.cell.name}{read}", colours.series[place], dash))
        at = f"at {format_number(self.cursor, 2)} {self.width_of}" if self.cursor is not None else ""
        return key_text(keys, colours) + (f"&nbsp;&nbsp; {at}" if at else "")

    # Saving

    def as_csv(self) -> str:
        """The curves as a table, one row a point, units in the column names."""
        head = ["cell", "current_a", "charge_ah", "energy_wh", "voltage_v", "temperature_c"]
        rows = (
            [c.cell.name, f"{c.current_a:.4f}", *(f"{value:.5f}" for value in row)]
            for c in self.curves
            for row in zip(c.charge_ah, c.energy_wh, c.voltage_v, c.temperature_c, strict=True)
        )
        return csv_text([head, *rows])
