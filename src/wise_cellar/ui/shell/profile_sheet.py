"""How one device talks, corrected by pointing: what its last line holds, and what each piece of it is."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QDialog, QFileDialog, QGridLayout, QHBoxLayout, QPushButton, QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import one_line
from wise_cellar.instruments import Profile, profile_to_toml
from wise_cellar.instruments.correcting import (
    CHOICES,
    DECIMALS,
    SEPARATORS,
    Piece,
    asked_with,
    corrected,
    parted,
    pieces,
)
from wise_cellar.instruments.profile import Form
from wise_cellar.instruments.quantities import quantity_of
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.desk import Desk, Device
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import dialog_column, note

WIDTH, MOST_LETTERS, MOST_OF_A_PIECE = 570, 66, 24
ASIDE = "left aside"
FORMS = {
    Form.COLUMNS: "columns", Form.PAIRS: "key=value", Form.PATTERN: "a pattern", Form.ANSWERS: "answers, one each",
}  # fmt: skip
"""Between which one may choose; messages of a protocol stay what they are."""
TABLES = "Profiles (*.toml)"
NOTHING = "Nothing has come yet: what it sends is shown here, to be told what it is."
HOW = "Say of each piece what it is. Listening goes on by this profile, which stays here under its name."


class _PieceRow:
    """One piece of the line: its text, what it is, its unit."""

    def __init__(self, piece: Piece, grid: QGridLayout, row: int) -> None:
        self.source = piece.source
        self._label = Label(one_line(f"{piece.source}: {piece.text}", MOST_OF_A_PIECE))
        self.quantity, self.unit = Chooser(), Chooser()
        self.quantity.setAccessibleName(f"What {piece.source} is")
        self.unit.setAccessibleName(f"Unit of {piece.source}")
        self.quantity.addItems([ASIDE, *(quantity_of(name).title for name in CHOICES)])
        self.quantity.currentIndexChanged.connect(lambda _at: self._show_units())
        for column, widget in enumerate((self._label, self.quantity, self.unit)):
            grid.addWidget(widget, row, column)
        self._show_units()

    def choose(self, quantity: str, unit: str) -> None:
        """Say what it is; empty leaves it aside."""
        self.quantity.setCurrentIndex(CHOICES.index(quantity) + 1 if quantity in CHOICES else 0)
        self.unit.setCurrentIndex(max(self.unit.findText(unit), 0))

    def _show_units(self) -> None:
        at = self.quantity.currentIndex()
        self.unit.clear()
        if at > 0:
            self.unit.addItems(list(quantity_of(CHOICES[at - 1]).units))
        self.unit.setEnabled(at > 0)

    @property
    def meaning(self) -> tuple[str, str] | None:
        """Quantity and unit; none where it is left aside."""
        at = self.quantity.currentIndex()
        return (CHOICES[at - 1], self.unit.currentText()) if at > 0 else None

    def remove(self, grid: QGridLayout) -> None:
        """Take it off the panel."""
        for widget in (self._label, self.quantity, self.unit):
            grid.removeWidget(widget)
            widget.hide()
            widget.deleteLater()


class ProfileSheet(QDialog):
    """Opened from the card of a device."""

    def __init__(self, owner: QWidget, desk: Desk, device: Device) -> None:
        super().__init__(owner)
        self._desk, self._device = desk, device
        self._profile, self._line = device.profile, ""
        self.rows: list[_PieceRow] = []
        column = dialog_column(self, "How it talks", f"How {device.address} talks", WIDTH)
        self.line = Label()
        self.line.setFont(font(13))
        column.addWidget(self.line)
        column.addLayout(self._made_forms())
        self.pattern = EntryLine()
        self.pattern.setAccessibleName("Pattern of a line")
        self.pattern.setPlaceholderText(r"U (?P<volts>[0-9.]+) I (?P<amps>[0-9.]+)")
        self.pattern.accept_shown(self._profile.lines.pattern)
        self.pattern.setVisible(self._profile.lines.form is Form.PATTERN)
        self.pattern.submitted.connect(lambda _text: self._part())
        column.addWidget(self.pattern)
        self._grid = QGridLayout()
        self._grid.setColumnStretch(1, 1)
        column.addLayout(self._grid)
        column.addLayout(self._made_ends())
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        column.addWidget(note(HOW))
        column.addStretch(1)
        desk.heard.connect(self._heard)
        desk.changed.connect(self._close_with_its_device)
        self._show_line()

    def _made_forms(self) -> QHBoxLayout:
        lines = self._profile.lines
        row = QHBoxLayout()
        self.form, self.separator, self.decimal = Chooser(), Chooser(), Chooser()
        self.form.addItems(list(FORMS.values()) if lines.form in FORMS else [lines.form.value])
        self.separator.addItems(list(SEPARATORS.values()))
        self.decimal.addItems(list(DECIMALS.values()))
        if lines.form in FORMS:
            self.form.setCurrentIndex(list(FORMS).index(lines.form))
        if lines.separator in SEPARATORS:
            self.separator.setCurrentIndex(list(SEPARATORS).index(lines.separator))
        self.decimal.setCurrentIndex(list(DECIMALS).index(lines.decimal))
        for title, chooser in (
            ("Its lines are", self.form), ("Parted by", self.separator), ("Decimal mark", self.decimal),
        ):  # fmt: skip
            chooser.setAccessibleName(title)
            chooser.activated.connect(lambda _at: self._part())
            row.addWidget(Label(title))
            row.addWidget(chooser)
        self.form.setEnabled(lines.form in FORMS)
        self.separator.setEnabled(lines.form is Form.COLUMNS)
        row.addStretch(1)
        return row

    def _made_ends(self) -> QGridLayout:
        grid = QGridLayout()
        self.name, self.baud, self.asked, self.off = EntryLine(), EntryLine(), EntryLine(), EntryLine()
        self.asked.accept_shown("; ".join(self._profile.talk.ask))
        self.asked.setPlaceholderText("nothing: it is only listened to")
        self.asked.submitted.connect(lambda _text: self._part())
        self.off.accept_shown(self._profile.told.off)
        self.off.setPlaceholderText("it takes no such order")
        shipped = self._profile.name not in self._desk.own
        self.name.accept_shown(f"{self._profile.name}, mine"[:60] if shipped else self._profile.name)
        self.baud.accept_shown(str(self._profile.talk.baud))
        self.take, self.save = QPushButton("Talk so"), QPushButton("Save as a file…")
        self.baud.setEnabled(self._device.address.startswith("serial:"))
        for row, (title, widget) in enumerate((
            ("Name", self.name), ("Baud rate", self.baud), ("Asked with", self.asked), ("Switched off with", self.off),
        )):  # fmt: skip
            widget.setAccessibleName(title)
            grid.addWidget(Label(title), row, 0)
            grid.addWidget(widget, row, 1)
        for row, (button, run) in enumerate(((self.take, self._take), (self.save, self._ask_out))):
            button.setAutoDefault(False)
            button.clicked.connect(lambda _on, run=run: run())
            grid.addWidget(button, row, 2)
        return grid

    def _heard(self, device: Device) -> None:
        if device is self._device and not self._line:
            self._show_line()

    def _close_with_its_device(self) -> None:
        if self._device not in self._desk.devices:
            self.close()

    def _show_line(self) -> None:
        """The last line that came, and its pieces, each as the profile has it."""
        self._line = self._device.lines[-1] if self._device.lines else ""
        self.line.setText(one_line(self._line, MOST_LETTERS) if self._line else NOTHING)
        for one in self.rows:
            one.remove(self._grid)
        self.rows = []
        for number, piece in enumerate(pieces(self._profile, self._line, self._device.heads) if self._line else []):
            row = _PieceRow(piece, self._grid, number)
            known = self._profile.lines.at(piece.source)
            if known is not None:
                row.choose(known.quantity, known.unit)
            self.rows.append(row)

    def _part(self) -> None:
        """Another form of its lines: their pieces are others."""
        form = self._profile.lines.form
        if form in FORMS:
            form = list(FORMS)[self.form.currentIndex()]
        separator = list(SEPARATORS)[self.separator.currentIndex()]
        decimal = list(DECIMALS)[self.decimal.currentIndex()]

        def part() -> None:
            ask = asked_with(self.asked.text())
            self._profile = parted(self._profile, form, separator, decimal, self.pattern.text(), ask)
            self.pattern.accept_shown(self.pattern.text())
            self.asked.accept_shown("; ".join(ask))

        self.pattern.setVisible(form is Form.PATTERN)
        if self.attempt.make(part):
            self.separator.setEnabled(form is Form.COLUMNS)
            self._show_line()

    def profile(self) -> Profile:
        """As it is chosen now; raises :class:`DocumentError`."""
        if not self.baud.text().strip().isdecimal():
            raise DocumentError("The baud rate is a whole number, such as 9600 or 115200.")
        meanings = {row.source: row.meaning for row in self.rows if row.meaning is not None}
        name, off = self.name.text().strip(), self.off.text().strip()
        return corrected(self._profile, meanings, name, int(self.baud.text()), off)

    def _take(self) -> None:
        def take() -> None:
            profile = self.profile()
            self._desk.keep_profile(profile)
            self._desk.talk_by(self._device, profile)
            self._profile = profile

        if self.attempt.make(take):
            self.close()

    def _ask_out(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "The profile as a file", f"{self.name.text()}.toml", TABLES)
        if name:
            self.put_out(Path(name))

    def put_out(self, path: Path) -> None:
        """Write the profile as a file."""
        self.attempt.make(lambda: write_whole(path, profile_to_toml(self.profile())))
