"""What is bought and cut for the pack, in order of building."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build.materials import Material, materials, materials_csv
from wise_cellar.core.pack import PackBuild
from wise_cellar.core.units import format_grams, format_number
from wise_cellar.ui.widgets.lines import Line, Lines, WordTable
from wise_cellar.ui.widgets.panel import note, paragraph, show_role

HEADS = ("", "size", "count", "to cut", "to buy", "weighs")
CUT = (
    "Lengths are cut as they stand: a strip's has half its width beyond the last cell at both ends. The saw takes"
    " nothing."
)
TABLE_PX = 880
LACKING = "The tray has {} cells to use and this pack asks for {}: {} more."


class MaterialsPage(QWidget):
    """A row a material; :attr:`save` asks for the list as a table."""

    def __init__(self) -> None:
        super().__init__()
        self.found: tuple[Material, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(10)
        self._table = WordTable(wrapped=(1, 3, 4))
        self._table.setHorizontalSpacing(16)
        self._table.setVerticalSpacing(5)
        column.addWidget(self._table.held(TABLE_PX))
        self.sentences = Lines(paragraph)
        column.addLayout(self.sentences)
        row = QHBoxLayout()
        self.save = QPushButton("As a table…")
        row.addWidget(self.save)
        self.told = note(role="")
        row.addWidget(self.told, 1)
        column.addLayout(row)
        column.addWidget(note(CUT))
        column.addStretch(1)

    def show_build(self, build: PackBuild, usable: int) -> None:
        """Show what a pack takes, and what of its cells the tray has."""
        self.found = materials(build)
        rows = [[Line(head, "faint", 11.5) for head in HEADS]]
        for one in self.found:
            texts = (
                one.name, one.size, format_number(one.count, 0), one.cut_words, one.stock_words,
                format_grams(one.grams, 1) if one.grams else "",
            )  # fmt: skip
            rows.append([Line(text, size=11.5) for text in texts])
        total = sum(one.grams for one in self.found)
        rows.append([
            Line("Together", size=11.5, strong=True), *(Line("", size=11.5) for _ in HEADS[2:]),
            Line(format_grams(total, 1), size=11.5, strong=True),
        ])  # fmt: skip
        self._table.show_rows(rows)
        wanted = len(build.layout.cells)
        words = []
        if not build.cell.whole_pack and usable < wanted:
            words.append(Line(LACKING.format(usable, wanted, wanted - usable), "caution"))
        piece = build.recipe.strip.piece_mm
        if piece is not None and any(one.stock is None and "strip" in one.name.lower() for one in self.found):
            words.append(Line("The longest piece does not come out of the strip at hand: see Pack, Joining.", "error"))
        cost = sum(one.price for one in self.found if one.price is not None)
        if cost:
            words.append(Line(f"Its cells cost {format_number(cost, 2)}; nothing else has a price here."))
        self.sentences.show_lines(words)

    def tell(self, sentence: str, *, error: bool = False) -> None:
        """Say what came of saving it."""
        show_role(self.told, "error" if error else "")
        self.told.setText(sentence)

    def as_csv(self) -> str:
        """The list as a table."""
        return materials_csv(self.found)
