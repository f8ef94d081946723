"""What every trace says at the cursor, as a small ledger."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from wise_cellar.core.flight import Series
from wise_cellar.core.units import format_minutes, format_number
from wise_cellar.ui.widgets.panel import heading, note

NOW = ("Under load", "At rest", "Each cell gives", "Throttle", "Used", "Cells")
PUNCH = ("Sags to", "Each cell would give", "Thrust margin")


def values_at(series: Series, second: float, parallel: int) -> dict[str, str]:
    """Texts of every trace at a time, by its words."""

    def at(values: np.ndarray) -> float:
        place = int(np.searchsorted(series.time_s, second, side="right"))
        if place >= len(series.time_s):
            return float(values[-1])
        left, right = series.time_s[place - 1], series.time_s[place]
        share = (second - left) / (right - left) if right > left else 0.0
        return float(values[place - 1] + share * (values[place] - values[place - 1]))

    return {
        "Under load": f"{at(series.loaded_v):.2f} V",
        "At rest": f"{at(series.resting_v):.2f} V",
        "Each cell gives": f"{at(series.pack_a) / parallel:.1f} A",
        "Throttle": f"{at(series.throttle) * 100:.0f} %",
        "Used": f"{format_number(at(series.charge_used_mah), 0)} mAh",
        "Cells": f"{at(series.temperature_c):.0f} °C",
        "Sags to": f"{at(series.punch_v):.2f} V",
        "Each cell would give": f"{at(series.punch_a):.0f} A",
        "Thrust margin": f"{at(series.thrust_margin):.1f}",
    }


class Readout(QWidget):
    """The cursor's values."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._when = heading("")
        column.addWidget(self._when)
        self.labels: dict[str, QLabel] = {}
        column.addLayout(self._block(NOW))
        column.addSpacing(4)
        column.addWidget(heading("If full throttle came now"))
        column.addLayout(self._block(PUNCH))
        self.margin = note()
        column.addWidget(self.margin)

    def _block(self, names: tuple[str, ...]) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for row, name in enumerate(names):
            grid.addWidget(QLabel(name), row, 0)
            value = QLabel()
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            value.setAccessibleName(name)
            grid.addWidget(value, row, 1)
            self.labels[name] = value
        return grid

    def show_margin(self, wanted: float, until_s: float, end_s: float) -> None:
        """Until when the thrust margin that is wanted is there."""
        if until_s >= end_s - 1.0:
            self.margin.setText(f"A thrust margin of {wanted:g} is there to the end.")
        elif until_s <= 0:
            self.margin.setText(f"A thrust margin of {wanted:g} is never there.")
        else:
            self.margin.setText(f"A thrust margin of {wanted:g} is there until {format_minutes(until_s)}.")

    def show_at(self, series: Series, second: float, parallel: int) -> None:
        """Show the values at a time."""
        self._when.setText(f"At {format_minutes(second)}")
        for name, text in values_at(series, second, parallel).items():
            self.labels[name].setText(text)
