"""The chosen pack: flown, built again, measured, repaired, renamed, retired."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build.repair import RepairPlan
from wise_cellar.core.documents import BuiltPack, Design, DocumentError, PackCheck
from wise_cellar.core.units import QuantityError, entry_text, format_significant, parse_typed, unit_of_field
from wise_cellar.core.words import quoted
from wise_cellar.ui.state.pack_life import (
    begin_like,
    begin_repair,
    check_pack,
    finish_repair,
    fly_pack,
    give_repair_up,
    rename_pack,
    retire_pack,
    uncheck_pack,
    weigh_pack,
)
from wise_cellar.ui.state.pack_making import remove_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.build.packs_page import Shelved
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, sheet

VOLTS = unit_of_field("reading_v")
MORE = (
    ("used_mah", "Charge used since full"), ("resistance_mohm", "Pack resistance"),
    ("temperature_c", "Its temperature"),
)  # fmt: skip
TOO_HIGH_V = 5.0
HURT = (
    "After a crash, water or a dent: outdoors, an hour's watch, no charging. Dented, wet or swollen packs are not used"
    " again."
)
HOW = "At rest, an hour after a charge or a flight; the charge used since it was full tells what each group holds."


class PackPanel(QWidget):
    """``steps_asked`` names a pack whose steps are to be shown."""

    steps_asked = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.pack: BuiltPack | None = None
        self.plan: RepairPlan | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        column.addWidget(self._made_uses())
        column.addWidget(self._made_readings())
        column.addWidget(self._made_repair())

    # Parts

    def _made_uses(self) -> QWidget:
        panel, inside = sheet()
        self.title = heading("")
        inside.addWidget(self.title)
        self.words = Lines()
        inside.addLayout(self.words)
        self.fly, self.like = QPushButton("Fly it"), QPushButton("Build another like it")
        self.steps = QPushButton("Its steps")
        row = QHBoxLayout()
        for button in (self.fly, self.like, self.steps):
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        self.fly.clicked.connect(lambda _on: self._make(fly_pack))
        self.like.clicked.connect(lambda _on: self._like())
        self.steps.clicked.connect(lambda _on: self._ask_steps())
        grid = QGridLayout()
        self.name = EntryLine()
        self.name.setAccessibleName("Name of the pack")
        self.name.submitted.connect(self._rename)
        grid.addWidget(Label("Name"), 0, 0)
        grid.addWidget(self.name, 0, 1)
        inside.addLayout(grid)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        row = QHBoxLayout()
        self.retire, self.remove = QPushButton("Retire"), QPushButton("Remove")
        for button in (self.retire, self.remove):
            button.setProperty("role", "quiet")
            row.addWidget(button)
        row.addStretch(1)
        self.retire.clicked.connect(lambda _on: self._retire())
        self.remove.clicked.connect(lambda _on: self._make(remove_pack))
        inside.addLayout(row)
        self._uses = panel
        return panel

    def _made_readings(self) -> QWidget:
        panel, inside = sheet()
        inside.addWidget(heading("What was measured"))
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        self.mass = self._line(grid, 0, "Weighs")
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
        self.more = {name: self._line(more, row, title) for row, (name, title) in enumerate(MORE)}
        inside.addLayout(more)
        self.refused = note(role="error")
        self.refused.hide()
        inside.addWidget(self.refused)
        row = QHBoxLayout()
        self.write, self.back = QPushButton("Write it down"), QPushButton("Take the last back")
        self.back.setProperty("role", "quiet")
        self.write.clicked.connect(lambda _on: self._write())
        self.back.clicked.connect(lambda _on: self._make(uncheck_pack))
        row.addWidget(self.write)
        row.addWidget(self.back)
        row.addStretch(1)
        inside.addLayout(row)
        inside.addWidget(note(HURT, "caution"))
        self._readings = panel
        return panel

    def _made_repair(self) -> QWidget:
        panel, inside = sheet()
        inside.addWidget(heading("Repair"))
        self.repair_words = Lines()
        inside.addLayout(self.repair_words)
        row = QHBoxLayout()
        self.repair, self.repaired = QPushButton("Begin to repair it"), QPushButton("It is repaired")
        self.give_up = QPushButton("Give it up")
        self.give_up.setProperty("role", "quiet")
        for button in (self.repair, self.repaired, self.give_up):
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        self.repair.clicked.connect(lambda _on: self._begin_repair())
        self.repaired.clicked.connect(lambda _on: self._make(finish_repair))
        self.give_up.clicked.connect(lambda _on: self._make(give_repair_up))
        self._repair = panel
        return panel

    @staticmethod
    def _line(grid: QGridLayout, row: int, title: str) -> EntryLine:
        line = EntryLine()
        line.setAccessibleName(title)
        line.setAlignment(Qt.AlignmentFlag.AlignRight)
        line.setMaximumWidth(110)
        grid.addWidget(Label(title), row, 0)
        grid.addWidget(line, row, 1)
        return line

    # Showing

    def show_pack(self, shelved: Shelved | None, flown_by: Sequence[Design]) -> None:
        """Show a pack; none where there is none."""
        other = shelved is None or self.pack is None or self.pack.id != shelved.pack.id
        self.pack = None if shelved is None else shelved.pack
        self._uses.setVisible(shelved is not None)
        pack = self.pack
        finished = pack is not None and pack.finished
        self._readings.setVisible(finished)
        self._repair.setVisible(finished)
        if shelved is None or pack is None:
            return
        self.title.setText(pack.name)
        told = [f"{shelved.made_of}, {shelved.words}, begun {pack.begun_on}."]
        if flown_by:
            told.append(f"Flown by {', '.join(design.name for design in flown_by)}.")
        if pack.notes:
            told.append(pack.notes)
        self.words.show_lines([Line(words, "faint", 11.5) for words in told])
        self.fly.setVisible(finished and not pack.retired and pack.repair is None)
        self.retire.setText("Use it again" if pack.retired else "Retire")
        self.retire.setVisible(finished)
        self.name.show_text(pack.name)
        grams = pack.recipe.weighed_g
        self.mass.show_text("" if grams is None else entry_text(grams, unit_of_field("mass_g")))
        self.mass.setPlaceholderText("such as 912 g")
        self.day.setPlaceholderText(str(date.today()))
        self._show_groups(pack.recipe.series_count)
        self.more["temperature_c"].setPlaceholderText(entry_text(25.0, unit_of_field("temperature_c")))
        self.back.setVisible(bool(pack.checks))
        if other:
            self.attempt.hide()
            self._refuse("")
            self._clear()

    def _show_groups(self, series: int) -> None:
        while len(self.group_lines) < series:
            place = len(self.group_lines)
            row, side = place // 2, 2 * (place % 2)
            line, label = EntryLine(), Label(f"Group {place + 1}")
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

    def show_repair(self, plan: RepairPlan | None, words: Sequence[str]) -> None:
        """Show what a repair would bring; or why there is none."""
        self.plan = plan
        pack = self.pack
        open_one = pack.repair if pack is not None else None
        if open_one is not None:
            numbers = ", ".join(str(number) for number in open_one.put_in)
            words = [f"Group {open_one.group} gets cells {numbers}: see Its steps."]
        self.repair_words.show_lines(
            [Line(sentence, "", 13 if place == 0 else 11.5, strong=place == 0 and plan is not None)
             for place, sentence in enumerate(words)]
        )  # fmt: skip
        self.repair.setVisible(plan is not None and open_one is None)
        self.repaired.setVisible(open_one is not None)
        self.give_up.setVisible(open_one is not None)

    # Doing

    def _make(self, edit: Callable[[Session, BuiltPack], object]) -> bool:
        pack = self.pack
        return pack is not None and self.attempt.make(lambda: edit(self._session, pack))

    def _rename(self, text: str) -> None:
        if self._make(lambda session, pack: rename_pack(session, pack, text)):
            self.name.accept_shown(text.strip())

    def _like(self) -> None:
        pack, made = self.pack, []
        if pack is not None and self.attempt.make(lambda: made.append(begin_like(self._session, pack))):
            self.steps_asked.emit(made[0].id)

    def _ask_steps(self) -> None:
        if self.pack is not None:
            self.steps_asked.emit(self.pack.id)

    def _retire(self) -> None:
        pack = self.pack
        if pack is not None:
            self.attempt.make(lambda: retire_pack(self._session, pack, retired=not pack.retired))

    def _begin_repair(self) -> None:
        pack, plan = self.pack, self.plan
        if pack is None or plan is None:
            return
        if self.attempt.make(lambda: begin_repair(self._session, pack, plan)):
            self.steps_asked.emit(pack.id)

    def _weigh(self, text: str) -> None:
        pack = self.pack
        if pack is None:
            return
        try:
            grams = parse_typed(text, unit_of_field("mass_g")) if text.strip() else None
            weigh_pack(self._session, pack, grams)
        except (QuantityError, DocumentError) as error:
            self._refuse(str(error))
            return
        self._refuse("")
        self.mass.accept_shown("" if grams is None else entry_text(grams, unit_of_field("mass_g")))

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
        except (QuantityError, DocumentError) as error:
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
