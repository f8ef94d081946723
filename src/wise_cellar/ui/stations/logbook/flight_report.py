"""A recorded flight in words: what was flown, phase by phase over what was expected, and what it teaches."""

from __future__ import annotations

import math

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import Recording
from wise_cellar.core.logbook import FlownFlight, Phase
from wise_cellar.core.units import (
    QuantityError,
    entry_text,
    format_amps,
    format_mah,
    format_minutes,
    format_speed,
    format_volts,
    format_watts,
    parse_typed,
    unit_of_field,
)
from wise_cellar.ui.state.learned_edits import PACK
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines, WordTable
from wise_cellar.ui.widgets.panel import button_row

CHARGE = unit_of_field("charge_mah")
HEADS = ("Phase", "From", "For", "Watts", "Expected", "Amps", "Volts", "Speed", "Drawn")
ENTRY_PX = 110


class FlightReport(QWidget):
    """``told`` brings what the charger put back, mAh, or none where that was taken out again."""

    told = pyqtSignal(object)
    pack_wanted = pyqtSignal()
    """The design's pack is to be as this flight told it."""
    power_wanted = pyqtSignal()
    """The craft is to know this flight."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.addWidget(Label("The charger put back, mAh"))
        self.returned = EntryLine()
        self.returned.setAccessibleName("Charge that the charger put back")
        self.returned.setPlaceholderText("not told")
        self.returned.setFixedWidth(ENTRY_PX)
        self.returned.submitted.connect(self._submit)
        row.addWidget(self.returned)
        row.addStretch(1)
        column.addLayout(row)
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        self.words = Lines()
        self.words.setSpacing(1)
        column.addLayout(self.words)
        self.pack, self.power = QPushButton("Let the pack be so"), QPushButton("Let the craft know its power")
        self.pack.setToolTip("The design flies its pack with this capacity and resistance, as measured")
        self.power.setToolTip("Its longest steady phase becomes a known flight of the craft")
        self.table = WordTable()
        self.table.setHorizontalSpacing(14)
        self.table.setVerticalSpacing(2)
        column.addLayout(self.table)
        column.addLayout(button_row((self.pack, self.pack_wanted.emit), (self.power, self.power_wanted.emit)))
        column.addStretch(1)

    def show_recording(self, recording: Recording) -> None:
        """Which flight it is; what it says is being computed."""
        mah = recording.returned_mah
        self.returned.accept_shown("" if mah is None else entry_text(mah, CHARGE))
        self.attempt.hide()
        self.show_error("Reading the flight…", "faint")

    def show_error(self, sentence: str, role: str = "error") -> None:
        """Why there is nothing to tell."""
        self.words.show_lines([Line(sentence, role)])
        self.table.show_rows([])
        for button in (self.pack, self.power):
            button.hide()

    def show_flight(self, found: FlownFlight) -> None:
        """What it says."""
        self.words.show_lines([Line(sentence) for sentence in found.sentences()])
        told = {one.name for one in found.learned if one.told}
        self.pack.setVisible(bool(told & set(PACK)))
        self.power.setVisible("power" in told)
        rows = [[Line(head, "faint", 11.5) for head in HEADS]]
        rows += [_row(phase, expected.watts) for phase, expected in zip(found.phases, found.expected, strict=True)]
        self.table.show_rows(rows)

    def _submit(self, text: str) -> None:
        try:
            mah = parse_typed(text, CHARGE) if text.strip() else None
        except QuantityError as error:
            self.attempt.say(str(error))
            return
        if mah is not None and mah <= 0:
            self.attempt.say("What was put back is more than nought; leave it empty where nobody knows.")
            return
        self.attempt.hide()
        self.returned.accept_shown("" if mah is None else entry_text(mah, CHARGE))
        self.told.emit(mah)


def _row(phase: Phase, expected_w: float) -> list[Line]:
    speed = "" if math.isnan(phase.speed_m_s) else format_speed(phase.speed_m_s)
    expected = "" if math.isnan(expected_w) else format_watts(expected_w)
    told = (
        format_minutes(phase.from_s), format_minutes(phase.seconds), format_watts(phase.watts), expected,
        format_amps(phase.amps), format_volts(phase.volts), speed, format_mah(phase.mah),
    )  # fmt: skip
    return [Line(str(phase.kind), "", 11.5), *(Line(words, "", 11.5) for words in told)]
