"""Whether a group of the chosen pack is worth mending, and its repair."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build.repair import RepairPlan
from wise_cellar.core.documents import BuiltPack
from wise_cellar.ui.state.pack_life import begin_repair, finish_repair, give_repair_up
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, sheet


class RepairPanel(QWidget):
    """``steps_asked`` names a pack whose repair was begun."""

    steps_asked = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.pack: BuiltPack | None = None
        self.plan: RepairPlan | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        inside.addWidget(heading("Repair"))
        self.words = Lines()
        inside.addLayout(self.words)
        row = QHBoxLayout()
        self.begin, self.repaired = QPushButton("Begin to repair it"), QPushButton("It is repaired")
        self.give_up = QPushButton("Give it up")
        self.give_up.setProperty("role", "quiet")
        for button in (self.begin, self.repaired, self.give_up):
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        self.begin.clicked.connect(lambda _on: self._begin_repair())
        self.repaired.clicked.connect(lambda _on: self._make(finish_repair))
        self.give_up.clicked.connect(lambda _on: self._make(give_repair_up))
        self.attempt = Attempt()
        inside.addWidget(self.attempt)

    def show_plan(self, pack: BuiltPack, plan: RepairPlan | None, words: Sequence[str]) -> None:
        """Show what a repair would bring; or why there is none."""
        self.pack, self.plan = pack, plan
        open_one = pack.repair
        if open_one is not None:
            numbers = ", ".join(str(number) for number in open_one.put_in)
            words = [f"Group {open_one.group} gets cells {numbers}: see Its steps."]
        self.words.show_lines(
            [Line(sentence, "", 13 if place == 0 else 11.5, strong=place == 0 and plan is not None)
             for place, sentence in enumerate(words)]
        )  # fmt: skip
        self.begin.setVisible(plan is not None and open_one is None)
        self.repaired.setVisible(open_one is not None)
        self.give_up.setVisible(open_one is not None)

    def _make(self, edit: Callable[[Session, BuiltPack], object]) -> None:
        pack = self.pack
        if pack is not None:
            self.attempt.make(lambda: edit(self._session, pack))

    def _begin_repair(self) -> None:
        pack, plan = self.pack, self.plan
        if pack is None or plan is None:
            return
        if self.attempt.make(lambda: begin_repair(self._session, pack, plan)):
            self.steps_asked.emit(pack.id)
