"""Groups out of the tray: as good as can be, as they came, and at their worst; each with what it flies."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build import Matched
from wise_cellar.ui.stations.build.building import WAYS, Built, Wanted
from wise_cellar.ui.stations.build.groups_picture import GroupsPicture
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, paragraph, sheet
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.tick_box import TickBox

MOST_PACKS = 20


class MatchPage(QWidget):
    """The groups, and sentences under them. ``way_chosen`` tells which order is looked at."""

    way_chosen = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(8)
        self.ways = Segments(WAYS, "Order of the cells")
        self.ways.chosen.connect(lambda _place: self._show())
        column.addWidget(self.ways, 0, Qt.AlignmentFlag.AlignLeft)
        self.picture = GroupsPicture()
        column.addWidget(self.picture)
        self.sentences = Lines(paragraph)
        column.addLayout(self.sentences)
        column.addStretch(1)
        self.built: Built | None = None

    @property
    def shown(self) -> Matched | None:
        """The groups in view."""
        return self.built.ways[self.ways.current] if self.built is not None else None

    def show_built(self, built: Built) -> None:
        """Show what came of matching."""
        self.built = built
        self._show()

    def show_error(self, sentence: str) -> None:
        """Say why there are no groups."""
        self.built = None
        self.picture.show_groups(None)
        self.sentences.show_lines([Line(sentence, "error")])
        self.way_chosen.emit()

    def _show(self) -> None:
        if self.built is None:
            return
        self.picture.show_groups(self.shown)
        self.sentences.show_lines([Line(sentence) for sentence in self.built.sentences(self.ways.current)])
        self.way_chosen.emit()


class WantedPanel(QWidget):
    """What is asked of the tray."""

    changed = pyqtSignal()
    beside_asked = pyqtSignal()
    """To put the groups in view beside the design."""
    fly_asked = pyqtSignal(bool)
    """To fly the groups in view; or, where false, all groups alike again."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        inside.addWidget(heading("What is built"))
        self.words = note()
        inside.addWidget(self.words)
        grid = QGridLayout()
        self.lines: dict[str, EntryLine] = {}
        for row, (name, title, example) in enumerate((
            ("packs", "Equal packs of this tray", "1"), ("forbidden", "Stay in the tray", "such as 3, 17"),
            ("fixed", "Settled", "such as 7 in 2, 8 in 2"),
        )):  # fmt: skip
            line = EntryLine()
            line.setAccessibleName(title)
            line.setPlaceholderText(example)
            line.submitted.connect(self._taker(line))
            self.lines[name] = line
            grid.addWidget(Label(title), row, 0)
            grid.addWidget(line, row, 1)
        inside.addLayout(grid)
        self.apart_too = TickBox("Cells to use apart too")
        self.apart_too.clicked.connect(lambda _on: self.changed.emit())
        inside.addWidget(self.apart_too)
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)
        row_of_buttons = QHBoxLayout()
        self.fly, self.plain = QPushButton("Fly it as built"), QPushButton("Fly it as designed")
        self.fly.clicked.connect(lambda _checked=False: self.fly_asked.emit(True))
        self.plain.clicked.connect(lambda _checked=False: self.fly_asked.emit(False))
        row_of_buttons.addWidget(self.fly)
        row_of_buttons.addWidget(self.plain)
        row_of_buttons.addStretch(1)
        inside.addLayout(row_of_buttons)
        self.beside = QPushButton("Side by side with the design")
        self.beside.setProperty("role", "quiet")
        self.beside.clicked.connect(self.beside_asked)
        inside.addWidget(self.beside, 0, Qt.AlignmentFlag.AlignLeft)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self.state = note()
        inside.addWidget(self.state)
        inside.addWidget(
            note("Only cells of one kind, age and use, within 20 mV of each other when they are joined.", "caution")
        )

    def _taker(self, line: EntryLine) -> Callable[[str], None]:
        def take(text: str) -> None:
            line.accept_shown(text.strip())
            self.changed.emit()

        return take

    @property
    def wanted(self) -> Wanted:
        """What was typed. A number of packs that is none counts as one, and is said to be."""
        typed = self.lines["packs"].text().strip()
        packs = int(typed) if typed.isdecimal() and 1 <= int(typed) <= MOST_PACKS else 1
        refused = bool(typed) and (not typed.isdecimal() or not 1 <= int(typed) <= MOST_PACKS)
        self.say(f"Equal packs: write a number from 1 to {MOST_PACKS}." if refused else "")
        return Wanted(packs, self.apart_too.isChecked(), self.lines["forbidden"].text(), self.lines["fixed"].text())

    def say(self, sentence: str) -> None:
        """Why something typed is not taken."""
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))
