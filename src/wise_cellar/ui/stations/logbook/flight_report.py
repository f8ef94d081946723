"""A flight in words: what was flown, phase by phase over what was expected, where the minutes went, what it teaches."""

from __future__ import annotations

import math

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.logbook import FlownFlight, Phase
from wise_cellar.core.logbook.apart import Apart, signed_minutes
from wise_cellar.core.units import (
    format_amps,
    format_mah,
    format_minutes,
    format_number,
    format_share,
    format_speed,
    format_volts,
    format_watts,
)
from wise_cellar.ui.state.flight_facts import Shown
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.lines import Line, Lines, WordTable
from wise_cellar.ui.widgets.panel import button_row, heading
from wise_cellar.ui.widgets.row_table import ROW_PX, RowTable

HEADS = ("Phase", "From", "For", "Watts", "Expected", "Amps", "Volts", "Deepest", "Throttle", "Speed", "Drawn", "Given")
SHARES = (0.12, 0.11, 0.11, 0.07, 0.08, 0.07, 0.08, 0.08, 0.07, 0.08, 0.08, 0.05)
APART_PX = 620
"""So wide at the most: minutes stay beside their words."""
SMALL = 11.5


class FlightReport(QWidget):
    """``mission_wanted`` asks to have the flight among the missions, ``sensor_wanted`` to have the craft know its
    sensors, ``found_wanted`` to have the phases as they are found again."""

    mission_wanted = pyqtSignal()
    sensor_wanted = pyqtSignal()
    found_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(6)
        self.words = Lines()
        self.words.setSpacing(1)
        column.addLayout(self.words)
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        self._apart_title, self._beside_title = heading("Where the minutes went"), heading("")
        self.apart, self.beside = WordTable(wrapped=(0,)), WordTable(wrapped=(0,))
        self.table = RowTable("Phases", HEADS, SHARES)
        for title, table in ((self._apart_title, self.apart), (self._beside_title, self.beside)):
            table.setHorizontalSpacing(14)
            table.setVerticalSpacing(2)
            column.addWidget(title)
            column.addWidget(table.held(APART_PX))
        self._phases_title = heading("Phase by phase")
        column.addWidget(self._phases_title)
        column.addWidget(self.table)
        self.mission, self.sensor = QPushButton("Any design flies it"), QPushButton("Let the craft know its sensors")
        self.found = QPushButton("Phases as found")
        self.mission.setToolTip("Puts what was flown among the missions: for this design or any other, and for Compare")
        self.sensor.setToolTip("Amps and volts of its logs are put right from then on, where nothing else tells how")
        self.found.setToolTip("Lets the edges that were moved go")
        column.addLayout(button_row(
            (self.mission, self.mission_wanted.emit), (self.sensor, self.sensor_wanted.emit),
            (self.found, self.found_wanted.emit),
        ))  # fmt: skip
        column.addStretch(1)

    def show_error(self, sentence: str, role: str = "error") -> None:
        """Why there is nothing to tell."""
        self.words.show_lines([Line(sentence, role)] if sentence else [])
        for table in (self.apart, self.beside):
            table.show_rows([])
        for widget in (
            self.table, self._apart_title, self._beside_title, self._phases_title, self.mission, self.sensor,
            self.found,
        ):  # fmt: skip
            widget.hide()

    def show_flight(self, shown: Shown, beside: str) -> None:
        """What it says; ``beside`` is the name of the flight that it is compared with."""
        fact = shown.fact
        logged = isinstance(fact, FlownFlight)
        self.words.show_lines([Line(sentence) for sentence in fact.sentences()])
        self._apart_title.show()
        self.apart.show_rows(_apart_rows(shown.parts, "planned", "flown"))
        self._beside_title.setVisible(shown.beside is not None)
        if shown.beside is not None:
            self._beside_title.setText(f"Against {beside}: what was not alike")
            self.beside.show_rows(_apart_rows(shown.beside, "that flight", "this one"))
        else:
            self.beside.show_rows([])
        self._phases_title.setVisible(logged)
        self.mission.show()
        self.sensor.setVisible(isinstance(fact, FlownFlight) and fact.sensor is not None)
        self.found.setVisible(bool(shown.flown.entry.edges))
        self.table.setVisible(logged)
        if isinstance(fact, FlownFlight):
            rows = [_row(phase, expected.watts) for phase, expected in zip(fact.phases, fact.expected, strict=True)]
            tips = [", ".join(f"{head.lower()} {line.text}" for head, line in zip(HEADS[1:], row[1:], strict=True)
                              if line.text) for row in rows]  # fmt: skip
            self.table.setFixedHeight(ROW_PX * (len(rows) + 1) + 8)
            self.table.show_rows(rows, [f"{row[0].text}: {tip}" for row, tip in zip(rows, tips, strict=True)])


def _apart_rows(parts: Apart, first: str, last: str) -> list[list[Line]]:
    told = [(first, format_minutes(parts.first_s))]
    told += [(f"{part.name}: {part.words}", signed_minutes(part.seconds)) for part in parts.parts]
    told += [("not explained", signed_minutes(parts.left_s)), (last, format_minutes(parts.last_s))]
    strong = (0, len(told) - 1)
    return [[Line(text, "", SMALL, strong=place in strong) for text in row] for place, row in enumerate(told)]


def _row(phase: Phase, expected_w: float) -> list[Line]:
    told = (
        str(phase.kind), format_minutes(phase.from_s), format_minutes(phase.seconds), format_watts(phase.watts),
        "" if math.isnan(expected_w) else format_watts(expected_w), format_amps(phase.amps), format_volts(phase.volts),
        format_volts(phase.least_v), "" if math.isnan(phase.throttle) else format_share(phase.throttle),
        "" if math.isnan(phase.speed_m_s) else format_speed(phase.speed_m_s),
        format_mah(phase.mah), f"{format_number(phase.wh, 1)}\u00a0Wh",
    )  # fmt: skip
    return [Line(words, "", SMALL) for words in told]
