"""A sheet to choose what everything is shown in: grams or ounces, millimetres or inches, a point or a comma."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QPushButton, QWidget

from wise_cellar.core.shown import CHOICES, READY, Units, units
from wise_cellar.core.units import (
    format_celsius,
    format_grams,
    format_metres,
    format_mm,
    format_speed,
    format_volts,
)
from wise_cellar.core.words import upper_first
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import dialog_column, note
from wise_cellar.ui.widgets.segments import Segments

MARKS = ("3.30", "3,30")
ENTRIES = (
    "What you type may be in any unit, such as 5 in or 127 mm; a number alone is in the unit beside its field. Files"
    " that are written keep grams, millimetres, degrees Celsius and metres, with the unit in each name."
)


class UnitsSheet(QDialog):
    """A row a quantity; ``choose`` is told of every change at once."""

    def __init__(self, owner: QWidget, choose: Callable[[Units], bool]) -> None:
        super().__init__(owner)
        self._choose = choose
        column = dialog_column(self, "Units")
        ready = QHBoxLayout()
        for name, wanted in READY.items():
            button = QPushButton(f"All {name}")
            button.clicked.connect(lambda _checked=False, wanted=wanted: self._take_all(wanted))
            ready.addWidget(button)
        ready.addStretch(1)
        column.addLayout(ready)
        grid = QGridLayout()
        grid.setHorizontalSpacing(24)
        grid.setVerticalSpacing(4)
        self.rows: dict[str, Segments] = {}
        for row, (quantity, choices) in enumerate([*CHOICES.items(), ("decimal mark", MARKS)]):
            self.rows[quantity] = segments = Segments(choices, upper_first(quantity))
            segments.chosen.connect(lambda _place: self._take())
            grid.addWidget(Label(upper_first(quantity)), row, 0)
            grid.addWidget(segments, row, 1, Qt.AlignmentFlag.AlignLeft)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        self.example = note(role="")
        column.addWidget(self.example)
        words = note(ENTRIES)
        words.setMinimumWidth(440)
        column.addWidget(words)
        self._show()

    def _show(self) -> None:
        present = units()
        for quantity, segments in self.rows.items():
            chosen = (
                int(present.decimal_comma)
                if quantity not in CHOICES
                else segments.words.index(getattr(present, quantity))
            )
            segments.blockSignals(True)
            segments.choose(chosen)
            segments.blockSignals(False)
        self.example.setText(
            f"As in {format_grams(1540)}, {format_mm(127)}, {format_metres(120)}, {format_speed(9)},"
            f" {format_celsius(12)}, {format_volts(3.3)}."
        )

    def _take(self) -> None:
        chosen = {quantity: self.rows[quantity].word for quantity in CHOICES}
        self._tell(Units(**chosen, decimal_comma=bool(self.rows["decimal mark"].current)))

    def _take_all(self, wanted: Units) -> None:
        self._tell(replace(wanted, decimal_comma=units().decimal_comma))

    def _tell(self, wanted: Units) -> None:
        self._choose(wanted)
        self._show()
