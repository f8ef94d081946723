"""A run on the bench as it was made: its charge tells the pack's capacity."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from wise_cellar.core.answer import measured_capacity_percent
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import (
    format_mah,
    format_minutes,
    format_number,
    format_significant,
    parse_typed,
    unit_of_field,
)
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, note, sheet

CHARGE = unit_of_field("capacity_mah")


class BenchPanel:
    """What was predicted, a line for the charge that was measured, and a button that takes it; ``widget`` goes into a
    column."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.widget, column = sheet()
        column.addWidget(heading("As measured on the bench"))
        self.words = note(role="")
        column.addWidget(self.words)
        row = QHBoxLayout()
        self.entry = EntryLine()
        self.entry.setAccessibleName("Charge measured on the bench")
        self.entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.entry.submitted.connect(lambda _: self.take())
        unit = Label(CHARGE.symbol)
        unit.setProperty("role", "faint")
        for part in (Label("Charge it gave"), self.entry, unit):
            row.addWidget(part)
        column.addLayout(row)
        self.button = QPushButton("Take it for the pack")
        self.button.setProperty("role", "quiet")
        self.button.clicked.connect(self.take)
        column.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(
            note("Its amps at a held throttle go to Craft, among what the craft was seen to draw, on the bench.")
        )
        self.error = note(role="error")
        self.error.hide()
        column.addWidget(self.error)

    def refresh(self) -> None:
        """Show what is predicted, where there is a run on the bench."""
        answer = self._session.answer
        self.widget.setVisible(answer.on_bench)
        self.words.setText(
            f"Predicted: {format_mah(answer.given_mah)} in {format_minutes(answer.duration_s)}, with a pack"
            f" of {format_significant(self._session.complete.pack.state.capacity_percent)} % of its cells' capacity."
        )

    def take(self) -> None:
        """Make the pack one that gives what was measured."""
        session, text = self._session, self.entry.text()
        if not text.strip():
            return
        try:
            given = parse_typed(text, CHARGE)
            percent = measured_capacity_percent(session.complete, session.answer, given)
            session.edit("design.packs.0.state.capacity_percent", percent, "Take a pack's capacity from the bench")
        except (DocumentError, WorkspaceError, ValueError) as error:
            self.error.setText(str(error))
            self.error.show()
            return
        self.error.hide()
        self.entry.accept_shown(format_number(given, 0))
