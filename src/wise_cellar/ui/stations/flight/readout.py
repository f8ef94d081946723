"""What every trace says at the cursor, in two lines under the traces."""

from __future__ import annotations

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer
from wise_cellar.core.units import (
    format_amps,
    format_celsius,
    format_mah,
    format_minutes,
    format_number,
    format_significant,
    format_volts,
)
from wise_cellar.core.words import lower_first
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.flow_layout import FlowLayout
from wise_cellar.ui.widgets.labels import Label

ROOMY = 680
"""In so much width both lines stay lines."""
EACH, EACH_WOULD = "Each cell gives", "Each cell would give"
NOW = ("Under load", "At rest", EACH, "Throttle", "Used", "Cells")
PUNCH = ("Sags to", EACH_WOULD, "Thrust margin")


def values_at(answer: Answer, second: float) -> dict[str, str]:
    """Texts of every trace at a time, by its words."""
    series, pack = answer.series, answer.packs[0]
    each = series.at(pack.series.amps, second) / pack.build.recipe.parallel_count
    return {
        "Under load": format_volts(series.at(series.loaded_v, second)),
        "At rest": format_volts(series.at(series.resting_v, second)),
        EACH: format_amps(each),
        "Throttle": f"{format_number(series.at(series.throttle, second) * 100, 0)} %",
        "Used": format_mah(series.at(series.charge_used_mah, second)),
        "Cells": format_celsius(series.at(series.temperature_c, second)).replace(" ", "\u00a0"),
        "Sags to": format_volts(series.at(series.punch_v, second)),
        EACH_WOULD: format_amps(series.at(series.punch_a, second), 0),
        "Thrust margin": format_number(series.at(series.thrust_margin, second), 1),
    }


class Readout(QWidget):
    """The cursor's values."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.labels: dict[str, QLabel] = {}
        self._names: dict[str, QLabel] = {}
        self._when, punch, self.margin = Label(), Label("If full throttle came now"), Label()
        for label in (self._when, punch):
            label.setFont(font(13, strong=True))
        self.margin.setProperty("role", "faint")
        self.margin.setFont(font(11.5))
        column.addWidget(self._line(self._when, NOW))
        column.addWidget(self._line(punch, PUNCH, self.margin))

    def _line(self, head: QLabel, names: tuple[str, ...], *after: QLabel) -> QWidget:
        """A line of names and values, which wraps where there is little room."""
        holder = QWidget()
        policy = holder.sizePolicy()
        policy.setHeightForWidth(True)
        holder.setSizePolicy(policy)
        flow = FlowLayout(holder, gap=11, line_gap=1)
        flow.addWidget(head)
        for name in names:
            pair = QWidget()
            row = QHBoxLayout(pair)
            row.setContentsMargins(0, 0, 0, 0)
            row.setSpacing(4)
            told, value = Label(name), Label()
            told.setProperty("role", "faint")
            told.setFont(font(11.5))
            value.say_of(name)
            row.addWidget(told)
            row.addWidget(value)
            self._names[name], self.labels[name] = told, value
            flow.addWidget(pair)
        for label in after:
            flow.addWidget(label)
        return holder

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Where there is little room the traces have it: what is told of the whole flight gives way."""
        self.margin.setVisible(self.width() >= ROOMY)
        super().resizeEvent(event)

    def show_margin(self, wanted: float, until_s: float, end_s: float) -> None:
        """Until when the thrust margin that is wanted is there."""
        if until_s >= end_s - 1.0:
            self.margin.setText(f"A thrust margin of {format_significant(wanted)} is there to the end.")
        elif until_s <= 0:
            self.margin.setText(f"A thrust margin of {format_significant(wanted)} is never there.")
        else:
            self.margin.setText(
                f"A thrust margin of {format_significant(wanted)} is there until {format_minutes(until_s)}."
            )

    def show_at(self, answer: Answer, second: float) -> None:
        """Show the values at a time; of several packs the recipe's cells are told."""
        self._when.setText(f"At {format_minutes(second)}")
        whose = "" if len(answer.packs) == 1 else f" of the {lower_first(answer.packs[0].complete.name)}"
        for name, words in ((EACH, "cell{} gives"), (EACH_WOULD, "cell{} would give")):
            self._names[name].setText(f"Each {words.format(whose)}")
        for name, text in values_at(answer, second).items():
            self.labels[name].setText(text)
