"""Why an answer is as it is: the field that governs it, ready to be changed, its range, and how it comes about."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLineEdit, QPushButton, QWidget

from wise_cellar.core.answer import Asked, explain
from wise_cellar.core.documents import CompleteDesign, field_info
from wise_cellar.core.units import format_range
from wise_cellar.core.words import upper_first
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.fields import Field, field_for
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note
from wise_cellar.ui.widgets.popover import Popover

WIDTH = 430
_PLAIN = (int, float, str, bool)


class WhyPopover(Popover):
    """Opens over an answer of the band. ``go`` leads to the station of its field."""

    def __init__(self, owner: QWidget, session: Session, place: int, path: str, go: Callable[[str], None]) -> None:
        super().__init__(owner)
        self._session, self._asked, self.path = session, list(Asked)[place], path
        self.setFixedWidth(WIDTH)
        self.column.addWidget(heading(upper_first(self._asked.value)))
        self.column.addWidget(note("It hangs most on"))
        self.field = _field(session, path)
        if self.field is not None:
            self.field.refresh()
            self.column.addWidget(self.field)
        words = upper_first(field_info(CompleteDesign, path).title)
        self.there = QPushButton("Go there" if self.field is not None else f"{words}: go there")
        self.there.clicked.connect(lambda: self._leave(go))
        self.column.addWidget(self.there, 0, Qt.AlignmentFlag.AlignLeft)
        self.range = Label()
        self.column.addWidget(self.range)
        self.steps = Lines()
        self.steps.setSpacing(3)
        self.column.addLayout(self.steps)
        self._show()
        session.changed.connect(self._show)
        session.spread_changed.connect(self._show)
        first = self.field.entry if self.field is not None else self.there
        first.setFocus()
        if isinstance(first, QLineEdit):
            first.selectAll()

    def open_above(self, owner: QWidget) -> None:
        """Over the band, inside the window."""
        self.adjustSize()
        window = owner.window()
        at = owner.mapToGlobal(QPoint(0, -self.height() - 4))
        if window is not None:
            right = window.mapToGlobal(QPoint(window.width() - 8, 0)).x()
            top = window.mapToGlobal(QPoint(0, 8)).y()
            at.setX(min(at.x(), right - self.width()))
            at.setY(max(at.y(), top))
        self.move(at)
        self.show()

    def _show(self) -> None:
        """The present explanation."""
        spread = self._session.spread
        told = ""
        if self._asked is Asked.MINUTES and spread is not None:
            told = f"8 of 10 flights: {format_range(*spread.duration_s)} min"
        self.range.setText(told)
        self.range.setVisible(bool(told))
        lines: list[Line] = []
        for step in explain(self._session.complete, self._session.answer, self._asked):
            lines += [Line(step.name, "faint", 11.5, strong=True), Line(step.sentence)]
        self.steps.show_lines(lines)
        if self.field is not None and self.field.stands:
            self.field.refresh()

    def _leave(self, go: Callable[[str], None]) -> None:
        self.close()
        go(self.path)


def _field(session: Session, path: str) -> Field | None:
    """A field for the path, where it is a single value."""
    try:
        value = session.value(path)
    except KeyError:
        return None
    return field_for(session, path) if value is None or isinstance(value, _PLAIN) else None
