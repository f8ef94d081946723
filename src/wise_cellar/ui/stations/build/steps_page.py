"""The steps of a pack: its picture at the chosen one, and the list of all of them."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build.making import Making
from wise_cellar.core.build.steps import Step
from wise_cellar.core.documents import BuiltPack
from wise_cellar.ui.stations.build.packs_page import stage_words
from wise_cellar.ui.stations.build.steps_picture import StepsPicture
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.row_table import RowTable

HEADS = ("", "Step", "Read", "When")
SHARES = (0.06, 0.56, 0.16, 0.22)
THIS_DESIGN = "This design, not begun"


def _row(making: Making, place: int) -> tuple[Line, ...]:
    """Number, title, readings and time of a step; closed ones faint, the next one strong."""
    step = making.steps[place]
    record, next_one = making.record(step), place == making.place
    role = "faint" if record.closed else ""
    read = ""
    if step.expected:
        judged = making.judged(step)
        bad = sum(not one.fine for one in judged.values())
        read = f"{bad} wrong" if bad else f"{len(judged)} of {len(step.expected)}"
    when = "next" if next_one and making.pack is not None else ""
    if record.at is not None:
        when = f"{'left out' if record.left_out else 'done'} {record.at:%Y-%m-%d %H:%M}"
    return (
        Line(str(place + 1), role, 11.5, strong=next_one), Line(step.title, role, 13, strong=next_one),
        Line(read, "error" if making.wrong(step) else role, 11.5), Line(when, role, 11.5, strong=next_one),
    )  # fmt: skip


class StepsPage(QWidget):
    """Which pack, its picture, its steps."""

    pack_chosen = pyqtSignal(str)
    """Its identifier; empty for the design itself."""
    begin_asked = pyqtSignal(str)
    finish_asked = pyqtSignal(bool)
    remove_asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.making: Making | None = None
        self._ids: list[str] = [""]
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(6)
        row = QHBoxLayout()
        self.which = Chooser()
        self.which.setAccessibleName("Which pack")
        self.which.setMinimumWidth(200)
        self.which.activated.connect(lambda place: self.pack_chosen.emit(self._ids[place]))
        self.name = EntryLine()
        self.name.setAccessibleName("Name of the pack to begin")
        self.name.setMaximumWidth(160)
        self.begin = QPushButton("Begin it")
        self.begin.clicked.connect(lambda _on: self.begin_asked.emit(self.name.text() or self.name.placeholderText()))
        self.finish, self.again = QPushButton("It is finished"), QPushButton("Work on it again")
        self.finish.clicked.connect(lambda _on: self.finish_asked.emit(True))
        self.again.clicked.connect(lambda _on: self.finish_asked.emit(False))
        self.remove = QPushButton("Remove")
        self.remove.setProperty("role", "quiet")
        self.remove.setToolTip("Forget this pack: its cells are in the tray again")
        self.remove.clicked.connect(lambda _on: self.remove_asked.emit())
        self._name_label = Label("named")
        for widget in (self.which, self._name_label, self.name, self.begin, self.finish, self.again, self.remove):
            row.addWidget(widget)
        row.addStretch(1)
        column.addLayout(row)
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        self.words = note()
        column.addWidget(self.words)
        self.picture = StepsPicture()
        self.table = RowTable("Steps of the pack", HEADS, SHARES)
        self.table.setMinimumHeight(110)
        self.divided = Divided("steps", self.picture, self.table)
        self.divided.share(52, 48)
        column.addWidget(self.divided, 1)
        self.table.chosen.connect(self._show_scene)

    @property
    def place(self) -> int:
        """Of the chosen step."""
        return max(self.table.place, 0)

    @property
    def step(self) -> Step | None:
        """The chosen one."""
        steps = self.making.steps if self.making is not None else ()
        return steps[min(self.place, len(steps) - 1)] if steps else None

    def show_packs(self, packs: Sequence[BuiltPack], current: str, usual_name: str) -> None:
        """Let choose among these, or the design itself."""
        ids = ["", *(pack.id for pack in packs)]
        words = [THIS_DESIGN, *(f"{pack.name}, {stage_words(pack)}" for pack in packs)]
        if ids != self._ids or [self.which.itemText(place) for place in range(self.which.count())] != words:
            self.which.clear()
            self.which.addItems(words)
            self._ids = ids
        self.which.setCurrentIndex(ids.index(current) if current in ids else 0)
        self.name.setPlaceholderText(usual_name)

    def show_making(self, making: Making, words: str) -> None:
        """Show the steps of a pack, and a line about them."""
        self.making = making
        pack = making.pack
        for widget in (self.name, self.begin, self._name_label):
            widget.setVisible(pack is None)
        repairing = pack is not None and pack.repair is not None
        self.finish.setText("It is repaired" if repairing else "It is finished")
        self.finish.setVisible(pack is not None and (repairing or not pack.finished))
        self.again.setVisible(pack is not None and pack.finished and not repairing)
        self.remove.setVisible(pack is not None and not pack.finished)
        self.words.setText(words)
        self.words.setVisible(bool(words))
        place = self.place
        self.table.show_rows(
            [_row(making, number) for number in range(len(making.steps))],
            [making.record(step).note for step in making.steps],
        )
        self.table.choose(place)
        self._show_scene(self.place)

    def _show_scene(self, place: int) -> None:
        making = self.making
        if making is None or not 0 <= place < len(making.steps):
            return
        self.picture.show_step(making.bench.build, making.numbers, making.steps[place].scene)
