"""What was measured of the chosen pack: its mass, and readings of a day."""

from __future__ import annotations

from datetime import date
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import BuiltPack, DocumentError, PackCheck
from wise_cellar.core.pack.cautions import AFTER_A_CRASH
from wise_cellar.core.units import QuantityError, Unit, entry_text, format_significant, parse_typed, unit_of_field
from wise_cellar.core.words import quoted
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.pack_life import check_pack, uncheck_pack, weigh_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label, unit_label
from wise_cellar.ui.widgets.panel import heading, note, sheet

VOLTS, MASS = unit_of_field("reading_v"), unit_of_field("mass_g")
MORE = (
    ("used_mah", "Charge used since full"), ("resistance_mohm", "Pack resistance"),
    ("temperature_c", "Its temperature"),
)  # fmt: skip
TOO_HIGH_V = 5.0
HOW = "At rest, an hour after a charge or a flight; the charge used since it was full tells what each group holds."


class ReadingsPanel(QWidget):
    """Lines to write down what was read; Enter goes on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.pack: BuiltPack | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        inside.addWidget(heading("What was measured"))
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        self.mass = self._line(grid, 0, "Weighs", MASS)
        self.mass.quantity = "mass"
        self.mass.submitted.connect(self._weigh)
        self.day = self._line(grid, 1, "Read on")
        inside.addLayout(grid)
        inside.addWidget(note(HOW))
        self._groups = QGridLayout()
        self._groups.setVerticalSpacing(4)
        inside.addLayout(self._groups)
        self.group_lines: list[EntryLine] = []
        self._group_labels: list[Label] = []
        more = QGridLayout()
        more.setVerticalSpacing(4)
        self.more = {name: self._line(more, row, title, unit_of_field(name)) for row, (name, title) in enumerate(MORE)}
        inside.addLayout(more)
        self.refused = note(role="error")
        self.refused.hide()
        inside.addWidget(self.refused)
        row = QHBoxLayout()
        self.write, self.back = QPushButton("Write it down"), QPushButton("Take the last back")
        self.back.setProperty("role", "quiet")
        self.write.clicked.connect(lambda _on: self._write())
        self.back.clicked.connect(lambda _on: self._take_back())
        row.addWidget(self.write)
        row.addWidget(self.back)
        row.addStretch(1)
        inside.addLayout(row)
        inside.addWidget(note(AFTER_A_CRASH, "caution"))

    @staticmethod
    def _line(grid: QGridLayout, row: int, title: str, unit: Unit | None = None) -> EntryLine:
        line = EntryLine()
        line.setAccessibleName(title)
        line.setAlignment(Qt.AlignmentFlag.AlignRight)
        line.setMaximumWidth(110)
        grid.addWidget(Label(title), row, 0)
        grid.addWidget(line, row, 1)
        if unit is not None:
            label = unit_label(unit)
            line.setAccessibleDescription(label.text())
            grid.addWidget(label, row, 2)
        return line

    def show_pack(self, pack: BuiltPack) -> None:
        """Show a pack; what was typed of another is forgotten."""
        other = self.pack is None or self.pack.id != pack.id
        self.pack = pack
        grams = pack.recipe.weighed_g
        self.mass.show_text("" if grams is None else entry_text(grams, MASS))
        self.mass.setPlaceholderText(f"such as {entry_text(912.0, MASS)}")
        self.day.setPlaceholderText(str(date.today()))
        self._show_groups(pack.recipe.series_count)
        self.more["temperature_c"].setPlaceholderText(entry_text(25.0, unit_of_field("temperature_c")))
        self.back.setVisible(bool(pack.checks))
        if other:
            self._refuse("")
            self._clear()

    def _show_groups(self, series: int) -> None:
        while len(self.group_lines) < series:
            place = len(self.group_lines)
            row, side = place // 2, 2 * (place % 2)
            line, label = EntryLine(), Label(f"Group {place + 1}")
            line.quantity = "volts"
            line.setAccessibleName(f"Group {place + 1} at rest")
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            line.setMaximumWidth(72)
            line.returnPressed.connect(partial(self._next_group, place))
            self._groups.addWidget(label, row, side)
            self._groups.addWidget(line, row, side + 1)
            self.group_lines.append(line)
            self._group_labels.append(label)
        for place, (line, label) in enumerate(zip(self.group_lines, self._group_labels, strict=True)):
            line.setVisible(place < series)
            label.setVisible(place < series)

    def _take_back(self) -> None:
        if self.pack is not None:
            uncheck_pack(self._session, self.pack)

    def _weigh(self, text: str) -> None:
        pack = self.pack
        if pack is None:
            return
        try:
            grams = parse_typed(text, MASS) if text.strip() else None
            weigh_pack(self._session, pack, grams)
        except (QuantityError, DocumentError, WorkspaceError) as error:
            self._refuse(str(error))
            return
        self._refuse("")
        self.mass.accept_shown("" if grams is None else entry_text(grams, MASS))

    def _next_group(self, place: int) -> None:
        below = [line for line in self.group_lines[place + 1 :] if line.isVisible()]
        (below[0] if below else self.more["used_mah"]).setFocus(Qt.FocusReason.OtherFocusReason)

    def _write(self) -> None:
        pack = self.pack
        if pack is None:
            return
        try:
            check = self._read(pack)
            check_pack(self._session, pack, check)
        except (QuantityError, DocumentError, WorkspaceError) as error:
            self._refuse(str(error))
            return
        self._refuse("")
        self._clear()

    def _read(self, pack: BuiltPack) -> PackCheck:
        """What is typed; raises :class:`DocumentError` or :class:`QuantityError` with a sentence."""
        typed = self.day.text().strip()
        try:
            day = date.fromisoformat(typed) if typed else date.today()
        except ValueError as error:
            raise DocumentError(f"{quoted(typed)} is no date; write one such as 2026-03-14.") from error
        lines = self.group_lines[: pack.recipe.series_count]
        told = [line.text().strip() for line in lines]
        missing = sum(not text for text in told)
        if 0 < missing < len(told):
            raise DocumentError(f"Read all groups or none: {missing} to go.")
        volts = [] if missing else [parse_typed(text, VOLTS) for text in told]
        far = next((value for value in volts if not 0 <= value <= TOO_HIGH_V), None)
        if far is not None:
            raise DocumentError(
                f"{format_significant(far)} V is no voltage of a group; read each against its neighbour, and write"
                " millivolts with mV."
            )
        values = {
            name: parse_typed(line.text(), unit_of_field(name)) for name, line in self.more.items()
            if line.text().strip()
        }  # fmt: skip
        if not volts and "resistance_mohm" not in values:
            raise DocumentError("Write what was read: the volts of the groups, or the resistance.")
        return PackCheck.from_data({"day": day, "group_v": volts, **values})

    def _refuse(self, sentence: str) -> None:
        self.refused.setText(sentence)
        self.refused.setVisible(bool(sentence))

    def _clear(self) -> None:
        for line in (*self.group_lines, *self.more.values(), self.day):
            line.accept_shown("")
