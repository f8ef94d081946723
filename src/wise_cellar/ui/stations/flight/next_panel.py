"""What to weigh or measure next: three steps, each with what it would bring, and its field a click away."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QObject, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import NextStep, Spread, WhatNext, what_next
from wise_cellar.core.units import format_narrowing, format_range
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.marks import State, draw_mark
from wise_cellar.ui.widgets.panel import empty, heading, note, sheet

LINE = 18


class NextPanel(QObject):
    """``widget`` goes into a column; the steps are flown beside the window."""

    field_requested = pyqtSignal(str)

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._worker = Worker(self)
        self._worker.finished.connect(self._show)
        self.found: WhatNext | None = None
        """Of the present design; none while it is being flown."""
        self.widget, inside = sheet()
        inside.addWidget(heading("What next"))
        self.words = note()
        inside.addWidget(self.words)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(6)
        inside.addLayout(self._rows)
        self.buttons: list[QPushButton] = []

    @property
    def settled(self) -> bool:
        """Whether the steps have been flown."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop flying."""
        self._worker.close()

    def ask(self, spread: Spread | None) -> None:
        """Fly what each step would leave of a range."""
        self.found = None
        if spread is None:
            self._worker.forget()
            return
        self.words.setText("Flying what each measurement would leave of the range…")
        complete, answer = self._session.complete, self._session.answer
        self._worker.run(partial(what_next, complete, answer, spread), of=(complete, spread))

    def _show(self, found: WhatNext) -> None:
        self.found, self.buttons = found, []
        empty(self._rows)
        now = self._session.spread
        range_now = format_range(*now.duration_s) if now is not None else ""
        self.words.setText(
            f"The range is {range_now} min. What would narrow it most:"
            if found.steps
            else "Nothing that you could weigh or measure would narrow the range by much."
        )
        for step in found.steps:
            self._rows.addWidget(self._step(step))
        if found.done:
            self._rows.addWidget(_Done(found.done))

    def _step(self, step: NextStep) -> QWidget:
        now = self._session.spread
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        button = QPushButton(step.name)
        button.clicked.connect(lambda _checked=False, field=step.field: self.field_requested.emit(field))
        column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(note(step.how))
        then = step.low_s, step.high_s
        gain = Label(format_narrowing(now.duration_s if now is not None else then, then))
        button.setAccessibleDescription(f"{step.how} {gain.text()}")
        column.addWidget(gain)
        self.buttons.append(button)
        return box


class _Done(QWidget):
    """What is told already, each behind a tick."""

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__()
        self._names = tuple(names)
        self.setFixedHeight(LINE * len(self._names) + 4)
        self.setAccessibleName("Done: " + ", ".join(names))

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """A line each."""
        painter, colours = QPainter(self), colours_of(self)
        painter.setFont(font(11.5))
        for place, name in enumerate(self._names):
            draw_mark(painter, State.FINE, QRectF(1, 4 + LINE * place + 3, 10, 10), colours)
            painter.setPen(colours.colour("faint"))
            box = QRectF(18, 4 + LINE * place, self.width() - 18, LINE)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, name)
