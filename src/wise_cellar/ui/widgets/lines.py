"""Columns and tables of words that are told again and again what to say: their labels are made once and reused."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import note, show_role


@dataclass(frozen=True)
class Line:
    """Words and their looks: the role is faint, error, caution or none, the size in pixels."""

    text: str
    role: str = ""
    size: float = 13
    strong: bool = False


class _Said:
    """A label and what it says; one that was never seen has not met the style sheet yet."""

    def __init__(self, label: QLabel) -> None:
        self.label = label
        self._line: Line | None = None

    def say(self, line: Line) -> None:
        """Say this."""
        before, self._line = self._line, line
        if before is None or (line.size, line.strong) != (before.size, before.strong):
            self.label.setFont(font(line.size, strong=line.strong))
        if before is None:
            self.label.setProperty("role", line.role)
        elif line.role != before.role:
            show_role(self.label, line.role)
        if before is None or line.text != before.text:
            self.label.setText(line.text)
        self.label.show()


class Lines(QVBoxLayout):
    """A column of wrapping lines. ``make`` makes a label: a note, or a paragraph that can be marked."""

    def __init__(self, make: Callable[[], QLabel] = note) -> None:
        super().__init__()
        self._make = make
        self._said: list[_Said] = []
        self.lines: tuple[Line, ...] = ()

    def show_lines(self, lines: Sequence[Line]) -> None:
        """Say these lines and nothing else."""
        for place, line in enumerate(lines):
            if place == len(self._said):
                self._said.append(_Said(self._make()))
                self.addWidget(self._said[place].label)
            self._said[place].say(line)
        for idle in self._said[len(lines) :]:
            idle.label.hide()
        self.lines = tuple(lines)


class WordTable(QGridLayout):
    """A table of words: a row of lines each; the first column stands left, the others right. Words of the columns
    ``wrapped`` go over several lines where there is no room."""

    def __init__(self, wrapped: Sequence[int] = ()) -> None:
        super().__init__()
        self._wrapped = frozenset(wrapped)
        for column in wrapped:
            self.setColumnStretch(column, 1)
        self._said: dict[tuple[int, int], _Said] = {}

    def show_rows(self, rows: Sequence[Sequence[Line]]) -> None:
        """Say these rows and nothing else."""
        wanted = {(row, column): line for row, lines in enumerate(rows) for column, line in enumerate(lines)}
        for place, line in wanted.items():
            if place not in self._said:
                self._said[place] = _Said(Label())
                label = self._said[place].label
                side = Qt.AlignmentFlag.AlignRight if place[1] else Qt.AlignmentFlag.AlignLeft
                if place[1] or self._wrapped:
                    label.setAlignment(side | Qt.AlignmentFlag.AlignTop if self._wrapped else side)
                label.setWordWrap(place[1] in self._wrapped)
                self.addWidget(self._said[place].label, *place)
            self._said[place].say(line)
        for place in self._said.keys() - wanted.keys():
            self._said[place].label.hide()

    def held(self, most_px: int) -> QWidget:
        """Itself in a part that grows no wider: from a row's first word to its last the eye must find its way."""
        holder = QWidget()
        holder.setMaximumWidth(most_px)
        holder.setLayout(self)
        self.setContentsMargins(0, 0, 0, 0)
        return holder
