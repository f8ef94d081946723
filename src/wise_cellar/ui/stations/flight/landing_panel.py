"""The landing rule, the ready policies side by side, and the card of alarms to set."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer, PolicyOutcome, alarm_card, alarm_values, card_lines, card_values
from wise_cellar.core.documents import AlarmNames, DocumentError, LandingBasis, LandingPolicy
from wise_cellar.core.units import format_mah, format_minutes, format_number, format_share, format_volts
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import Field, QuantityField, field_for
from wise_cellar.ui.widgets.lines import Line, WordTable
from wise_cellar.ui.widgets.panel import heading, note, sheet

_FIELDS = ("basis", "policy", "own_voltage_v", "hold_s", "burst_voltage_v", "resting_voltage_v", "charge_percent",
           "counter_mah", "counter_sees", "least_margin", "strict_minimum")  # fmt: skip
_ALWAYS = {"basis", "least_margin", "strict_minimum"}
_OF_BASIS = {
    LandingBasis.LOADED: {"policy", "own_voltage_v", "hold_s"},
    LandingBasis.BURSTS: {"burst_voltage_v"},
    LandingBasis.RESTING: {"resting_voltage_v"},
    LandingBasis.CHARGE: {"charge_percent"},
    LandingBasis.COUNTER: {"charge_percent", "counter_mah", "counter_sees"},
}
_HEADINGS = ("", "V", "or left", "minutes", "used", "at rest", "hover left")


class LandingPanel(QWidget):
    """What calls the craft home, and what each way leaves."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        panel, inside = sheet()
        inside.addWidget(heading("Landing rule"))
        self.fields = FieldGrid(
            [
                QuantityField(session, f"design.landing.{name}", default=lambda: "the label")
                if name == "counter_mah"
                else field_for(session, f"design.landing.{name}")
                for name in _FIELDS
            ]
        )
        inside.addWidget(self.fields)
        self.words = note()
        inside.addWidget(self.words)
        self._grid = WordTable()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(2)
        inside.addLayout(self._grid)
        column.addWidget(panel)
        column.addWidget(self._card_panel())
        self.outcomes: tuple[PolicyOutcome, ...] = ()

    def _card_panel(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        inside.addWidget(heading("Alarm card"))
        self.card = note(role="")
        self.card.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        inside.addWidget(self.card)
        inside.addWidget(note("For a device: each value, and, to fill in, what yours calls it. Kept with the craft."))
        names = QGridLayout()
        names.setVerticalSpacing(2)
        names.setColumnStretch(1, 1)
        self.values: list[QLabel] = []
        self.names: list[Field] = []
        for row_number, field in enumerate(AlarmNames.model_fields):
            value, entry = note(role=""), field_for(self._session, f"craft.alarm_names.{field}")
            value.setWordWrap(False)
            entry.hide_label()
            if isinstance(entry.entry, QLineEdit):
                entry.entry.setProperty("role", "")  # a box at rest too: nothing else says that it can be filled in
                entry.entry.setPlaceholderText("its name there")
            names.addWidget(value, row_number, 0)
            names.addWidget(entry, row_number, 1)
            self.values.append(value)
            self.names.append(entry)
        inside.addLayout(names)
        row = QHBoxLayout()
        self.copy_button, self.save_button = QPushButton("Copy"), QPushButton("Save the values…")
        self.copy_button.setAccessibleName("Copy the alarm card")
        self.copy_button.clicked.connect(self.copy)
        self.save_button.clicked.connect(self._ask_where)
        row.addWidget(self.copy_button)
        row.addWidget(self.save_button)
        row.addStretch(1)
        inside.addLayout(row)
        inside.addWidget(
            note(
                "Read what you load into a craft, and leave its failsafes as they are: these are alarms only.",
                "caution",
            )
        )
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)
        return panel

    def refresh(self, answer: Answer) -> None:
        """Show the present rule and card."""
        complete = self._session.complete
        rule = complete.design.landing
        self.fields.refresh()
        for field in self.fields.fields:
            name = field.path.rsplit(".", 1)[1]
            own = name != "own_voltage_v" or rule.policy is LandingPolicy.OWN
            told_apart = name != "counter_sees" or complete.own_battery is not None
            field.setVisible(name in _ALWAYS or (name in _OF_BASIS[rule.basis] and own and told_apart))
        self.words.setText(
            f"{self._calls()} {format_share(answer.charge_left)} of the charge is left at the end. Ten seconds"
            f" after, cells read {format_volts(answer.soon_v)}, an hour after"
            f" {format_volts(answer.hour_v)}."
        )
        card = alarm_card(complete, answer)
        self.card.setText("\n".join(card_lines(complete, card)[1:]))
        for label, entry, value in zip(self.values, self.names, alarm_values(card), strict=True):
            label.setText(f"{value.name} = {value.text}")
            entry.refresh()

    def _calls(self) -> str:
        complete = self._session.complete
        used = complete.landing_charge_mah
        if used is not None:
            return f"Calls at {format_mah(used)}."
        if complete.design.landing.basis is LandingBasis.BURSTS:
            return f"Calls when a burst shows {format_volts(complete.design.landing.burst_voltage_v)} a cell."
        if complete.design.landing.basis is LandingBasis.RESTING:
            return f"Calls at {format_volts(complete.design.landing.resting_voltage_v)} a cell at rest."
        reserve = complete.design.landing.reserve
        or_left = "" if reserve is None else f" or with {format_share(reserve)} of the charge left, whichever is first"
        return f"Calls at {format_volts(complete.landing_voltage_v)} a cell under load{or_left}."

    def show_policies(self, outcomes: tuple[PolicyOutcome, ...]) -> None:
        """One line a policy, the design's own marked."""
        self.outcomes = outcomes
        rule = self._session.complete.design.landing
        rows = [[Line(words, "faint", 11.5) for words in _HEADINGS]]
        for outcome in outcomes:
            mine = rule.basis is LandingBasis.LOADED and rule.policy is outcome.policy
            if outcome.policy is None:
                mine = rule.basis is LandingBasis.BURSTS
            values = (
                "in bursts" if outcome.policy is None else outcome.policy.value,
                format_number(outcome.threshold_v, 2),
                "" if outcome.reserve is None else format_share(outcome.reserve),
                format_number(outcome.duration_s / 60, 1),
                format_share(outcome.used_share),
                format_volts(outcome.resting_v),
                format_minutes(outcome.hover_left_s),
            )
            rows.append([Line(text, size=11.5, strong=mine) for text in values])
        self._grid.show_rows(rows)

    def copy(self) -> None:
        """Put the card on the clipboard."""
        complete, clipboard = self._session.complete, QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText("\n".join(card_lines(complete, alarm_card(complete, self._session.answer))))

    def _ask_where(self) -> None:
        name = f"{self._session.complete.design.id}-alarms.txt"
        path, _ = QFileDialog.getSaveFileName(self, "Save the alarm values", name, "Lines (*.txt);;Table (*.csv)")
        if path:
            self.save(Path(path))

    def save(self, path: Path) -> None:
        """Write the values as lines, or as a table by the name's ending; a sentence where that cannot be."""
        complete = self._session.complete
        card, table = alarm_card(complete, self._session.answer), path.suffix.lower() == ".csv"
        try:
            write_whole(path, card_values(card, complete.craft.alarm_names, as_table=table))
        except DocumentError as error:
            self.error.setText(str(error))
            self.error.show()
            return
        self.error.hide()
