"""The other pages of Compare: the same mass of another kind, side by side, and what a little more of anything costs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.search import DesignColumn, Difference, Flown, Growth, Reference, Slope, Space, Swap, in_short
from wise_cellar.core.shown import shown
from wise_cellar.core.units import (
    bare_number,
    format_grams,
    format_mah,
    format_minutes,
    format_number,
    format_share,
    format_volts,
)
from wise_cellar.core.words import upper_first
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.compare.overlay import OverlayPicture
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.column_table import ColumnTable
from wise_cellar.ui.widgets.fields import QuantityField
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.ledger import Ledger, LedgerRow
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import empty, heading, note

SWAP_PACK = "design.search.swap_pack_id"


def signed(value: float, decimals: int) -> str:
    """A change, with its sign."""
    return ("+" if round(value, decimals) >= 0 else "−") + format_number(abs(value), decimals)


def signed_minutes(seconds: float) -> str:
    """A change of minutes, with its sign."""
    return ("+" if seconds >= 0 else "−") + format_minutes(abs(seconds))


class SwapPage(QWidget):
    """Lithium-ion packs as heavy as a given one."""

    taken = pyqtSignal(int)
    chosen = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._ids: list[str] = []
        self._places: list[int] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        row.addWidget(Label("In place of"))
        self.packs = Chooser()
        self.packs.setAccessibleName("Pack that is swapped")
        self.packs.activated.connect(self._choose)
        row.addWidget(self.packs)
        self.within = QuantityField(session, "design.search.swap_percent")
        row.addWidget(self.within)
        row.addStretch(1)
        column.addLayout(row)
        self.words = note(role="")
        self.words.setFont(font(13))
        column.addWidget(self.words)
        self.table = ColumnTable("Packs of the same mass")
        self.table.taken.connect(self.taken)
        self.table.chosen.connect(self.chosen)
        column.addWidget(self.table, 1)
        column.addWidget(note("Enter or a double click takes a pack. Only those that are searched are offered."))

    def refresh(self) -> None:
        """Show what may be swapped."""
        packs = [cell for cell in self._session.all(CellType).values() if cell.whole_pack and not cell.archived]
        self._ids = ["", *(pack.id for pack in packs)]
        self.packs.clear()
        self.packs.addItems(["this design's pack", *(pack.name for pack in packs)])
        chosen = self._session.value(SWAP_PACK)
        self.packs.setCurrentIndex(self._ids.index(chosen) if chosen in self._ids else 0)
        self.within.refresh()

    def _choose(self, place: int) -> None:
        try:
            self._session.edit(SWAP_PACK, self._ids[place], "Choose the pack that is swapped")
        except (DocumentError, WorkspaceError) as error:
            self.words.setText(str(error))

    def show_unfit(self, sentence: str) -> None:
        """Say why the chosen pack cannot be swapped here."""
        self.words.setText(sentence)
        self._places = []
        self.table.show_columns(self.table.shown_columns, np.zeros(0, np.intp))

    def show_swaps(self, reference: Reference, found: Sequence[Swap], space: Space, flown: Flown) -> None:
        """Show the packs and what they change."""
        was = reference.flown
        self.words.setText(
            f"{reference.name}: {format_grams(was.pack_g[0])}, {format_minutes(float(was.duration_s[0]))}, thrust"
            f" {format_number(was.early_margin[0], 1)} times {space.complete.craft.margin_over} in a first punch and"
            f" {format_number(was.late_margin[0], 1)} in a late one."
            + ("" if found else " None of the packs that are searched is as heavy and keeps to the limits.")
        )
        places = [swap.place for swap in found]
        at = space.places(flown.row[np.array(places, np.intp)])
        names = [f"{space.series[s]}S {space.parallel[p]}P {space.cells[c].name}"
                 for s, p, c in zip(at.series, at.parallel, at.cells, strict=True)]  # fmt: skip
        swaps = np.arange(len(found))
        self._places = places

        def column(key: str, head: str, meaning: str, values: list[float], text: Callable[[Any], str]) -> DesignColumn:
            return DesignColumn(key, head, meaning, np.array(values, float), text)

        columns = (
            DesignColumn("pack", "Pack", "Series, parallel and cell", np.array(names, dtype=object), str),
            column("pack_g", f"Pack {shown('g').symbol}", "Its mass", [swap.pack_g for swap in found],
                   lambda v: bare_number(v, "g")),
            column("more_s", "Minutes", "Gained or lost", [swap.more_s for swap in found], signed_minutes),
            column("early", "First punch", "Change of the thrust margin in a first punch",
                   [swap.early_margin for swap in found], lambda v: signed(v, 2)),
            column("late", "Late punch", "Change of the thrust margin in a late punch",
                   [swap.late_margin for swap in found], lambda v: signed(v, 2)),
            column("late_v", "Late V", "Change of volts a cell in a late punch", [swap.late_v for swap in found],
                   lambda v: signed(v, 2)),
        )  # fmt: skip
        self.table.show_columns(columns, swaps, sort=("more_s", True))

    def place_of(self, row: int) -> int:
        """Place, in the search, of a row of the table."""
        return self._places[row]


@dataclass(frozen=True)
class Standing:
    """A design that stands in a column: its answer, and what it has more than the first."""

    name: str
    answer: Answer
    more: Difference | None
    pack: str = ""
    """What its first pack is made of."""


class BesidePage(QWidget):
    """Two to four designs as columns, the first one this design; what differs in sentences; traces over each other."""

    dropped = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.hint = note(
            "Nothing stands beside this design yet: pin an answer (Ctrl+D), or choose a dot and put it beside.", ""
        )
        column.addWidget(self.hint, 0, Qt.AlignmentFlag.AlignTop)
        self._grid_home = QWidget()
        self._grid = QGridLayout(self._grid_home)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(0)
        column.addWidget(self._grid_home)
        self._sentences = Lines()
        column.addLayout(self._sentences)
        self.picture = OverlayPicture()
        column.addWidget(self.picture.key)
        column.addWidget(self.picture, 1)
        self.sentences: list[str] = []

    def show_designs(self, designs: Sequence[Standing]) -> None:
        """Show designs; the others are held against the first."""
        alone = len(designs) < 2
        self.hint.setVisible(alone)
        for widget in (self._grid_home, self.picture, self.picture.key):
            widget.setVisible(not alone)
        empty(self._grid)
        self.sentences = [f"{one.name}: {one.more.sentence()}" for one in designs if one.more is not None]
        judged = [f"{one.pack or one.name}: {in_short(designs[0].answer, one.answer)}" for one in designs[1:]]
        self.sentences += judged
        self._sentences.show_lines([
            *(Line(sentence, size=11.5) for sentence in self.sentences[: len(designs) - 1]),
            *(Line(sentence, strong=True) for sentence in judged),
        ])  # fmt: skip
        if alone:
            return
        for line, (name, values) in enumerate(_lines(designs)):
            label = Label(name)
            label.setProperty("role", "faint")
            self._grid.addWidget(label, line, 0)
            for place, value in enumerate(values):
                cell = Label(value)
                cell.setFont(font(13, strong=line == 0))
                cell.setWordWrap(line == 0)
                cell.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
                self._grid.addWidget(cell, line, place + 1)
        for place in range(1, len(designs)):
            button = QPushButton("Take away")
            button.setProperty("role", "quiet")
            button.setAccessibleName(f"Take {designs[place].name} away")
            button.clicked.connect(lambda _checked=False, which=place: self.dropped.emit(which))
            self._grid.addWidget(button, 99, place + 1, Qt.AlignmentFlag.AlignRight)
        self.picture.show_designs([(one.name, one.answer) for one in designs])


def _lines(designs: Sequence[Standing]) -> list[tuple[str, list[str]]]:
    """Answers, then the ledger of grams, a value a design."""
    answers = [one.answer for one in designs]
    masses: dict[str, list[float]] = {}
    for place, answered in enumerate(answers):
        for entry in answered.build.masses:
            name = "Cells" if entry.field == "cell.mass_g" else entry.name
            masses.setdefault(name, [0.0] * len(answers))[place] += entry.mass_g
    benched = any(answered.on_bench for answered in answers)
    given = [f"{format_mah(a.given_mah)}, {format_number(a.energy_used_wh, 1)} Wh" for a in answers]
    few = sorted(masses.items(), key=lambda item: -max(item[1]))[:4]
    return [
        ("", [f"{one.pack}\n{one.name}" if one.pack and one.pack not in one.name else one.name for one in designs]),
        (_where(answers), [_minutes(a, answers) for a in answers]),
        *([("Given", given)] if benched else []),
        ("Take-off mass", [format_grams(a.takeoff_mass_g) for a in answers]),
        ("Late punch", [f"{format_volts(a.late_punch.volts_a_cell)}, thrust"
                        f" {format_number(a.late_punch.thrust_margin, 1)} ×" for a in answers]),
        ("Weakest link", [f"{a.weak_link.name}, {format_share(a.weak_link.worst_share)}" for a in answers]),
        ("Ends because", [a.reason.words for a in answers]),
        *((name, [format_grams(value, 1) for value in values]) for name, values in few),
        ("Wiring", [f"{format_number(1e3 * a.build.wiring_ohm, 1)} mΩ" for a in answers]),
        ("Cells resist", [f"{format_number(1e3 * _cells_ohm(a), 1)} mΩ" for a in answers]),
    ]  # fmt: skip


def _where(answers: Sequence[Answer]) -> str:
    """Where the minutes of all are spent."""
    places = {answered.where for answered in answers}
    return upper_first(places.pop()) if len(places) == 1 else "Duration"


def _minutes(answered: Answer, answers: Sequence[Answer]) -> str:
    """Its minutes; and where, where not all are spent alike."""
    told = format_minutes(answered.duration_s)
    return told if len({one.where for one in answers}) == 1 else f"{told} {answered.where}"


def _cells_ohm(answered: Answer) -> float:
    """All cells of the pack, as a 10 s pulse reads them."""
    recipe = answered.build.recipe
    return answered.cell_dcir_ohm * recipe.series_count / recipe.parallel_count


class SlopesPage(QWidget):
    """What one gram, one milliohm, one degree and the like cost, in seconds; and each further cell in parallel."""

    field_requested = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("What a little more of anything changes in this design"))
        self.ledger = Ledger("Seconds in the air", (("for", 130.0), ("seconds", 90.0)))
        self.ledger.field_requested.connect(self.field_requested)
        column.addWidget(self.ledger)
        column.addWidget(note("By flying a step to both sides of where the design stands. A row leads to its field."))
        self.grown = Ledger(
            "With more in parallel",
            (("take-off", 80.0), ("in the air", 100.0), ("a cell more", 90.0), ("late thrust", 80.0)),
        )
        self.grown.field_requested.connect(self.field_requested)
        column.addWidget(self.grown)
        column.addStretch(1)

    def show_slopes(self, slopes: Sequence[Slope]) -> None:
        """Show them, steepest first."""
        most = max((abs(slope.seconds) for slope in slopes), default=1.0) or 1.0
        self.ledger.show_rows("", [
            LedgerRow(slope.name, abs(slope.seconds) / most, (slope.unit, f"{signed(slope.seconds, 1)} s"), slope.field)
            for slope in slopes
        ])  # fmt: skip

    def show_growth(self, grown: Growth) -> None:
        """Show what every count in parallel brings."""
        longest = max(float(grown.minutes.max()), 1e-9)
        rows = []
        for place, count in enumerate(grown.parallel.tolist()):
            more = f"{signed(float(grown.marginal_s[place - 1]), 0)} s" if place else ""
            rows.append(LedgerRow(
                f"{count}P" + (", longest" if place == grown.peak else ""),
                float(grown.minutes[place]) / longest,
                (
                    format_grams(float(grown.takeoff_g[place])),
                    format_minutes(float(grown.flown.duration_s[place])), more,
                    f"{format_number(grown.flown.late_margin[place], 1)} ×",
                ),
                "design.packs.0.recipe.parallel_count",
            ))  # fmt: skip
        self.grown.show_rows("", rows)
