"""A flight written down with what people have: minutes and what the charger put back. It counts once both are told."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QWidget

from wise_cellar.core.documents import KnownFlight
from wise_cellar.core.units import QuantityError, format_quantity, format_significant, parse_typed, unit_of_field
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.fields import ENTRY_WIDTH
from wise_cellar.ui.widgets.labels import Label, unit_label
from wise_cellar.ui.widgets.panel import note

ASKED = (("duration_min", "Minutes it flew"), ("charge_used_mah", "Charge put back"),
         ("mean_voltage_v", "Mean volts under load"))  # fmt: skip
NEEDED = ("duration_min", "charge_used_mah")


class NewFlight(QWidget):
    """Empty lines; ``told`` brings what was typed once all that is needed is. What this design would do stands in them
    in faint letters."""

    told = pyqtSignal(dict)

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        self.lines: dict[str, EntryLine] = {}
        self._values: dict[str, float] = {}
        for row, (name, title) in enumerate(ASKED):
            line = EntryLine()
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            line.setMaximumWidth(ENTRY_WIDTH)
            line.setAccessibleName(title)
            line.submitted.connect(self._taker(name, title, line))
            self.lines[name] = line
            grid.addWidget(Label(title), row, 0)
            grid.addWidget(line, row, 1)
            grid.addWidget(unit_label(unit_of_field(name)), row, 2)
        grid.setColumnStretch(0, 1)
        self.error = note(role="error")
        self.error.hide()
        grid.addWidget(self.error, len(ASKED), 0, 1, 3)

    def show_expected(self, expected: KnownFlight | None) -> None:
        """What this design would have done, while the lines are empty; nothing of one that does not fly."""
        for name, line in self.lines.items():
            value = getattr(expected, name, None)
            line.setPlaceholderText("" if value is None else format_significant(value, 4))

    def clear(self) -> None:
        """Empty lines for another flight."""
        self._values = {}
        for line in self.lines.values():
            line.accept_shown("")
        self._say("")

    def _taker(self, name: str, title: str, line: EntryLine) -> Callable[[str], None]:
        def take(text: str) -> None:
            unit = unit_of_field(name)
            if not text.strip():
                self._values.pop(name, None)
                line.accept_shown("")
                return
            try:
                value = parse_typed(text, unit)
                if value <= 0:
                    raise QuantityError(f"it must be more than 0; write {unit.example}.")
            except QuantityError as error:
                self._say(f"{title}: {error}")
                return
            self._values[name] = value
            line.accept_shown(format_quantity(value, unit))
            self._say("")
            if all(needed in self._values for needed in NEEDED):
                self.told.emit(dict(self._values))

        return take

    def _say(self, sentence: str) -> None:
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))

    def refuse(self, sentence: str) -> None:
        """Why what was told cannot be; it stays in the lines."""
        self._say(sentence)
