"""The chosen step: what to do and with what, its caution, the volts to expect and a place for those that were read."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build.making import Making
from wise_cellar.core.build.steps import Expected, Step
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import QuantityError, format_number, parse_typed, unit_of_field
from wise_cellar.core.words import lower_first
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.pack_making import close_step, note_step, open_step, read_step
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, sheet

VOLTS = unit_of_field("reading_v")
WRONG = (
    "A reading is not as it should be. Mend it and read again; where it is right all the same, write in the note why."
)
NOT_BEGUN = "Begin the pack to write readings down."


class _Reading(QWidget):
    """One reading: what, what to expect, a line to type into, and what it says."""

    left = pyqtSignal()
    """Enter: go on."""

    def __init__(self, write: Callable[[str, float | None], None]) -> None:
        super().__init__()
        self._write = write
        self.expected: Expected | None = None
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setVerticalSpacing(1)
        self._words = note("", "")
        grid.addWidget(self._words, 0, 0, 1, 2)
        self.line = EntryLine()
        self.line.quantity = "volts"
        self.line.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.line.setMaximumWidth(90)
        self.line.submitted.connect(self._take)
        self.line.returnPressed.connect(self._go_on)
        grid.addWidget(self.line, 1, 0)
        self._told = Label()
        self._told.setProperty("role", "faint")
        grid.addWidget(self._told, 1, 1)
        grid.setColumnStretch(1, 1)
        self.said = Lines()
        grid.addLayout(self.said, 2, 0, 1, 2)

    def show_reading(self, expected: Expected, volts: float | None, lines: list[Line], *, typed: bool) -> None:
        """Show what to expect, and what was read; ``typed``: whether it can be written down."""
        self.expected = expected
        self._words.setText(expected.words)
        self.line.setAccessibleName(expected.words)
        within = format_number(expected.within_v, 3 if expected.within_v < 0.1 else 2)
        self._told.setText(f"expect {format_number(expected.volts, 3)} ± {within} V")
        self.line.setVisible(typed)
        self.line.show_text("" if volts is None else format_number(volts, 3))
        self.said.show_lines(lines)

    def _take(self, text: str) -> None:
        if self.expected is None:
            return
        try:
            volts = parse_typed(text, VOLTS) if text.strip() else None
            self._write(self.expected.key, volts)
        except (QuantityError, DocumentError, WorkspaceError) as error:
            # It stays to be corrected.
            self.said.show_lines([Line(str(error), "error", 11.5)])
            return
        self.line.accept_shown("" if volts is None else format_number(volts, 3))

    def _go_on(self) -> None:
        if self.line.finish():
            self.left.emit()


class StepPanel(QWidget):
    """``closed`` tells that the step was done or left out."""

    closed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.making: Making | None = None
        self.step: Step | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        self.title = heading("")
        self.title.setWordWrap(True)
        inside.addWidget(self.title)
        self.cautions = Lines()
        inside.addLayout(self.cautions)
        self.words = Lines()
        inside.addLayout(self.words)
        self._head = note("Volts to expect", "")
        inside.addWidget(self._head)
        self._column = QVBoxLayout()
        self._column.setSpacing(2)
        inside.addLayout(self._column)
        self.readings: list[_Reading] = []
        self.together = Lines()
        inside.addLayout(self.together)
        self._note_row = QWidget()
        row = QHBoxLayout(self._note_row)
        row.setContentsMargins(0, 0, 0, 0)
        self.note = EntryLine()
        self.note.setAccessibleName("Note")
        self.note.submitted.connect(self._take_note)
        row.addWidget(Label("Note"))
        row.addWidget(self.note, 1)
        inside.addWidget(self._note_row)
        buttons = QHBoxLayout()
        self.done, self.leave = QPushButton("Done"), QPushButton("Leave it out")
        self.again = QPushButton("Open it again")
        self.done.clicked.connect(lambda _on: self._close(left_out=False))
        self.leave.clicked.connect(lambda _on: self._close(left_out=True))
        self.leave.setProperty("role", "quiet")
        self.again.clicked.connect(lambda _on: self._open())
        for button in (self.done, self.leave, self.again):
            buttons.addWidget(button)
        buttons.addStretch(1)
        inside.addLayout(buttons)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)

    def show_step(self, making: Making, place: int) -> None:
        """Show one step."""
        other = self.step is None or self.step.key != making.steps[place].key
        self.making, self.step = making, making.steps[place]
        step, record, pack = self.step, making.record(self.step), making.pack
        self.title.setText(f"{place + 1}  {step.title}")
        self.cautions.show_lines([Line(sentence, "caution", 11.5) for sentence in step.told])
        self.words.show_lines(_words(step))
        begun = pack is not None
        self._head.setText("Volts to expect" if begun else f"Volts to expect. {NOT_BEGUN}")
        self._head.setVisible(bool(step.expected))
        self._show_readings(making, step, typed=begun)
        self.together.show_lines([Line(words, "error", 11.5) for words in making.together(step)])
        self._note_row.setVisible(begun)
        self.note.show_text(record.note)
        self.done.setVisible(begun and not record.closed)
        self.leave.setVisible(begun and not record.closed)
        self.again.setVisible(begun and record.closed)
        if other:
            self.attempt.hide()

    def _show_readings(self, making: Making, step: Step, *, typed: bool) -> None:
        while len(self.readings) < len(step.expected):
            reading = _Reading(self._write)
            reading.left.connect(self._goer(len(self.readings)))
            self._column.addWidget(reading)
            self.readings.append(reading)
        read, judged = making.read(step), making.judged(step)
        for place, one in enumerate(self.readings):
            one.setVisible(place < len(step.expected))
            if place >= len(step.expected):
                one.expected = None
                continue
            expected = step.expected[place]
            lines = []
            if expected.key in judged:
                said = judged[expected.key]
                lines = [Line(said.sentence, "faint" if said.fine else "error", 11.5)]
                lines += [Line(said.advice, "", 11.5)] if said.advice else []
            one.show_reading(expected, read.get(expected.key), lines, typed=typed)

    def go_on(self) -> None:
        """Put the focus where the step goes on: its first reading that is missing, else the button."""
        for one in self.readings:
            if one.isVisible() and one.line.isVisible() and not one.line.text():
                one.line.setFocus(Qt.FocusReason.OtherFocusReason)
                return
        (self.done if self.done.isVisible() else self.again).setFocus(Qt.FocusReason.OtherFocusReason)

    def _write(self, key: str, volts: float | None) -> None:
        if self.making is not None and self.making.pack is not None and self.step is not None:
            read_step(self._session, self.making.pack, self.step.key, key, volts)

    def _goer(self, place: int) -> Callable[[], None]:
        def go() -> None:
            below = [one for one in self.readings[place + 1 :] if one.isVisible()]
            (below[0].line if below else self.done).setFocus(Qt.FocusReason.OtherFocusReason)

        return go

    def _take_note(self, text: str) -> None:
        if self.making is None or self.making.pack is None or self.step is None:
            return
        pack, key = self.making.pack, self.step.key
        if self.attempt.make(lambda: note_step(self._session, pack, key, text)):
            self.note.accept_shown(text.strip())

    def _close(self, *, left_out: bool) -> None:
        if self.making is None or self.making.pack is None or self.step is None:
            return
        pack, step = self.making.pack, self.step
        if not left_out and self.making.wrong(step) and not self.making.record(step).note:
            self.attempt.say(WRONG)
            return
        title = lower_first(step.title)
        if self.attempt.make(lambda: close_step(self._session, pack, step.key, title, left_out=left_out)):
            self.closed.emit()

    def _open(self) -> None:
        if self.making is None or self.making.pack is None or self.step is None:
            return
        pack, step = self.making.pack, self.step
        self.attempt.make(lambda: open_step(self._session, pack, step.key, lower_first(step.title)))


def _words(step: Step) -> list[Line]:
    """What to do, with what, and how long heat may stay."""
    lines = [Line(sentence) for sentence in step.do]
    if step.tools:
        lines.append(Line(f"With: {', '.join(step.tools)}.", "faint", 11.5))
    lines += [Line(piece, "faint", 11.5) for piece in step.pieces]
    if step.heat:
        lines.append(Line(step.heat, "caution", 11.5))
    return lines
