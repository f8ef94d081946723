"""Charges of a pack: what went in, and its groups before and after, by hand or from a log."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import BuiltPack, DocumentError, PackCharge
from wise_cellar.core.logbook.charged import charge_in
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.core.pack.cautions import STAY_WITH_IT
from wise_cellar.core.units import QuantityError, format_mah, format_volts, parse_typed, unit_of_field
from wise_cellar.core.words import quoted
from wise_cellar.store.logs import read_piece
from wise_cellar.ui.state.pack_life import charge_pack, uncharge_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import button_row, heading, note, sheet

LINES = (("day", "Charged on"), ("charge_mah", "Put in"), ("before_v", "Groups before"), ("after_v", "Groups after"))
SHOWN = 4
"""Of the latest."""
VOLTS = unit_of_field("before_v")


class ChargesPanel(QWidget):
    """Lines to write a charge down; the latest ones under them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.pack: BuiltPack | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("A charge"))
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        self.lines: dict[str, EntryLine] = {}
        for row, (name, title) in enumerate(LINES):
            line = EntryLine()
            line.setAccessibleName(title)
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(Label(title), row, 0)
            grid.addWidget(line, row, 1)
            self.lines[name] = line
        inside.addLayout(grid)
        self.write, self.read, self.back = (
            QPushButton("Write it down"), QPushButton("Read its log…"), QPushButton("Take the last back"),
        )  # fmt: skip
        self.back.setProperty("role", "quiet")
        inside.addLayout(button_row((self.write, self._write), (self.read, self._ask_in)))
        inside.addLayout(button_row((self.back, self._take_back)))
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self.told = Lines()
        inside.addLayout(self.told)
        inside.addWidget(note(STAY_WITH_IT, "caution"))

    def show_pack(self, pack: BuiltPack | None) -> None:
        """Show a pack; what was typed of another is forgotten."""
        other = pack is None or self.pack is None or self.pack.id != pack.id
        self.pack = pack
        self.setEnabled(pack is not None)
        if pack is None:
            return
        if other:
            self.attempt.hide()
            self._clear()
        example = " ".join(["4.19"] * min(pack.recipe.series_count, 4))
        self.lines["day"].setPlaceholderText(str(date.today()))
        self.lines["charge_mah"].setPlaceholderText("such as 9345 mAh")
        for name in ("before_v", "after_v"):
            self.lines[name].setPlaceholderText(f"such as {example}")
        self.back.setVisible(bool(pack.charges))
        self.told.show_lines([Line(_words(charge), "faint", 11.5) for charge in reversed(pack.charges[-SHOWN:])])

    def _write(self) -> None:
        pack = self.pack
        if pack is None:
            return

        def write() -> None:
            try:
                charge_pack(self._session, pack, self._typed())
            except QuantityError as error:
                raise DocumentError(str(error)) from error

        if self.attempt.make(write):
            self._clear()

    def _typed(self) -> PackCharge:
        """What is typed; raises :class:`DocumentError` or :class:`QuantityError` with a sentence."""
        typed = {name: line.text().strip() for name, line in self.lines.items()}
        try:
            day = date.fromisoformat(typed["day"]) if typed["day"] else date.today()
        except ValueError as error:
            raise DocumentError(f"{quoted(typed['day'])} is no date; write one such as 2026-03-14.") from error
        if not typed["charge_mah"]:
            raise DocumentError("Write down what the charger put in.")
        volts = {name: [parse_typed(one, VOLTS) for one in typed[name].replace(";", " ").split()]
                 for name in ("before_v", "after_v")}  # fmt: skip
        mah = parse_typed(typed["charge_mah"], unit_of_field("charge_mah"))
        return PackCharge.from_data({"day": day, "charge_mah": mah, **volts})

    def _ask_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "The log of a charge", "", "Tables (*.csv *.txt)")
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Take a charge from its log; on the day that it tells, else today."""
        pack = self.pack
        if pack is None:
            return

        def take() -> None:
            piece = read_piece(path)
            if not isinstance(piece, Piece):
                raise DocumentError(f"{path.name} is a track; the log of a charge is wanted.")
            day = date.today() if piece.begun_at is None else piece.begun_at.date()
            charge_pack(self._session, pack, charge_in(piece.log, day, path.name))

        self.attempt.make(take)

    def _take_back(self) -> None:
        pack = self.pack
        if pack is not None:
            self.attempt.make(lambda: uncharge_pack(self._session, pack))

    def _clear(self) -> None:
        for line in self.lines.values():
            line.accept_shown("")


def _words(charge: PackCharge) -> str:
    told = [f"{charge.day}: {format_mah(charge.charge_mah)}"]
    for volts, when in ((charge.before_v, "before"), (charge.after_v, "after")):
        if volts:
            told.append(f"{when} {format_volts(min(volts), 3)} … {format_volts(max(volts), 3)}")
    return ", ".join(told)
