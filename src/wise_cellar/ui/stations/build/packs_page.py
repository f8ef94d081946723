"""Packs that were built: each as it is today, and what was measured of the chosen one against what was predicted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.build.inspection import Compared, Inspection
from wise_cellar.core.documents import BuiltPack, PackState
from wise_cellar.core.units import format_grams, format_number, format_share, format_volts
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.lines import Line, Lines, WordTable
from wise_cellar.ui.widgets.panel import paragraph, scrolling
from wise_cellar.ui.widgets.row_table import RowTable

HEADS = ("Pack", "Built of", "State", "Holds", "Resists", "Weighs", "Read on")
SHARES = (0.18, 0.25, 0.15, 0.1, 0.1, 0.11, 0.11)
COMPARED_PX = 620
NONE = "No pack is begun yet: choose its cells under Match, and begin it under Steps."


def stage_words(pack: BuiltPack) -> str:
    """Where a pack stands in its life."""
    if pack.retired:
        return "retired"
    if pack.repair is not None:
        return "being repaired"
    return "finished" if pack.finished else "half built"


@dataclass(frozen=True)
class Shelved:
    """A pack with what is told of it in its row."""

    pack: BuiltPack
    made_of: str
    state: PackState | None
    """As it is today; none where its readings cannot be."""

    @property
    def words(self) -> str:
        """Where it stands in its life."""
        return stage_words(self.pack)

    def row(self) -> tuple[Line, ...]:
        """For the table."""
        pack, state = self.pack, self.state
        role = "faint" if pack.retired else ""
        told = state is not None and pack.finished
        texts = (
            pack.name, self.made_of, self.words,
            format_share(state.capacity_percent / 100) if told and state is not None else "",
            format_share(state.resistance_percent / 100) if told and state is not None else "",
            format_grams(pack.recipe.weighed_g) if pack.recipe.weighed_g is not None else "",
            str(pack.checks[-1].day) if pack.checks else "",
        )  # fmt: skip
        return tuple(Line(text, role, 11.5) for text in texts)


class PacksPage(QWidget):
    """A row a pack; under it the chosen one."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.shelved: tuple[Shelved, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        self.table = RowTable("Packs that were built", HEADS, SHARES)
        self.table.setMinimumHeight(90)
        below = QWidget()
        under = QVBoxLayout(below)
        under.setContentsMargins(0, 6, 10, 0)
        under.setSpacing(10)
        self.verdict = Lines(paragraph)
        under.addLayout(self.verdict)
        self._compared = WordTable()
        self._compared.setHorizontalSpacing(24)
        self._compared.setVerticalSpacing(4)
        under.addWidget(self._compared.held(COMPARED_PX))
        self.sentences = Lines(paragraph)
        under.addLayout(self.sentences)
        under.addStretch(1)
        self.divided = Divided("packs", self.table, scrolling(below))
        self.divided.share(38, 62)
        column.addWidget(self.divided, 1)
        self.table.chosen.connect(self._say_chosen)

    @property
    def current(self) -> Shelved | None:
        """The chosen one."""
        place = self.table.place
        return self.shelved[place] if 0 <= place < len(self.shelved) else None

    def show_packs(self, shelved: Sequence[Shelved], current: str) -> None:
        """Show these packs; ``current`` is the identifier of the chosen one."""
        self.shelved = tuple(shelved)
        self.table.show_rows([one.row() for one in shelved])
        ids = [one.pack.id for one in shelved]
        if ids:
            self.table.choose(ids.index(current) if current in ids else 0)
        else:
            self.show_inspection(None)

    def show_inspection(self, found: Inspection | None, refused: str = "") -> None:
        """Show what was measured of the chosen pack."""
        if found is None:
            self.verdict.show_lines([])
            self._compared.show_rows([])
            self.sentences.show_lines([Line(refused, "error") if refused else Line(NONE, "faint")])
            return
        rows = [[Line(head, "faint", 11.5) for head in ("", "predicted", "measured", "difference")]]
        rows += [[Line(text, size=11.5) for text in _words(line)] for line in found.lines]
        self._compared.show_rows(rows)
        first, *others = found.sentences
        self.verdict.show_lines([Line(first, "", 15, strong=True)])
        self.sentences.show_lines([Line(sentence) for sentence in others])

    def _say_chosen(self, place: int) -> None:
        if 0 <= place < len(self.shelved):
            self.chosen.emit(self.shelved[place].pack.id)


def _words(line: Compared) -> tuple[str, str, str, str]:
    def told(value: float | None, *, signed: bool = False) -> str:
        if value is None:
            return ""
        if line.unit == "g":
            return format_grams(value, 1, signed=signed)
        if line.unit == "V":
            return f"{format_number(1000 * value, 0, signed=True)} mV" if signed else format_volts(value, 3)
        return f"{format_number(value, 1, signed=signed)} mΩ"

    return line.name, told(line.predicted), told(line.measured) or "not yet", told(line.apart, signed=True)
