"""Rows of a list in a document, each of several fields: parts on the scale, loads on the bus, specimens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.fields import Field, field_for
from wise_cellar.ui.widgets.panel import note, reveal


class RowList(QWidget):
    """Rows over the tuple at ``path``; each row has the fields ``names``. Rows are added and removed as edits.

    What a row is made from has a ``name``. Without ``units`` numbers stand alone; ``heads`` over them, or a note above,
    say what they are.
    """

    def __init__(
        self,
        session: Session,
        path: str,
        names: Sequence[str],
        words: str,
        fresh: Callable[[], Any],
        widths: Sequence[int],
        units: bool = True,
        heads: Sequence[str] = (),
    ) -> None:
        super().__init__()
        self._units = units
        self._session, self._path, self._names, self._words = session, path, names, words
        self._fresh, self._widths = fresh, widths
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self._heads = self._made_heads(heads)
        column.addWidget(self._heads)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        column.addLayout(self._rows)
        self.error = note(role="error")
        self.error.hide()
        column.addWidget(self.error)
        self._add = QPushButton(f"Add a {words}")
        self._add.setProperty("role", "quiet")
        self._add.clicked.connect(self.add_row)
        column.addWidget(self._add, 0, Qt.AlignmentFlag.AlignLeft)
        self._removers: list[QPushButton] = []
        self._row_widgets: list[QWidget] = []
        self._fields: list[list[Field]] = []

    def refresh(self) -> None:
        """Show the present rows; widgets are only made or dropped when the number of rows is another."""
        count = len(self._session.value(self._path))
        while len(self._row_widgets) < count:
            self._make_row(len(self._row_widgets))
        while len(self._row_widgets) > count:
            self._fields.pop()
            self._removers.pop()
            widget = self._row_widgets.pop()
            self._rows.removeWidget(widget)
            widget.setParent(None)
            widget.deleteLater()
        self._heads.setVisible(count > 0)
        for row in self._fields:
            for field in row:
                field.refresh()

    def add_row(self) -> None:
        """Add a row and put the focus on its name."""
        if self._change([*self._session.value(self._path), self._fresh()], f"Add a {self._words}"):
            entry = self._fields[-1][0].entry
            entry.setFocus(Qt.FocusReason.OtherFocusReason)
            if isinstance(entry, QLineEdit):
                entry.selectAll()
            reveal(entry)

    def remove_row(self, place: int) -> None:
        """Remove a row, and leave the focus where it stood."""
        rows = list(self._session.value(self._path))
        gone = rows.pop(place)
        if self._change(rows, f"Remove a {self._words}", f"Removed the {self._words}: {gone.name}."):
            near = self._removers[min(place, len(rows) - 1)] if rows else self._add
            near.setFocus(Qt.FocusReason.OtherFocusReason)

    def _change(self, rows: list[Any], label: str, gone: str = "") -> bool:
        try:
            self._session.edit(self._path, tuple(rows), label, gone)
        except (DocumentError, WorkspaceError) as error:
            self.error.setText(str(error))
            self.error.show()
            return False
        self.error.hide()
        # A panel below the edge is refreshed once the window is painted, and what comes next asks for its rows.
        self.refresh()
        return True

    def _made_heads(self, heads: Sequence[str]) -> QWidget:
        widget, line = QWidget(), _line()
        widget.setLayout(line)
        for head, width in zip(heads, self._widths, strict=False):
            label = note(head)
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            label.setFixedWidth(width)
            line.addWidget(label)
        line.addStretch(1)
        return widget

    def _make_row(self, place: int) -> None:
        widget, line = QWidget(), _line()
        column = QVBoxLayout(widget)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(line)
        fields = []
        for name, width in zip(self._names, self._widths, strict=True):
            field = field_for(self._session, f"{self._path}.{place}.{name}")
            field.hide_label()
            field.say_in(column)
            if not self._units:
                field.hide_unit()
            if width:
                field.setFixedWidth(width)
            line.addWidget(field, 0 if width else 1)
            fields.append(field)
        remove = QPushButton("×")
        remove.setProperty("role", "quiet")
        remove.setFixedWidth(24)
        remove.setToolTip(f"Remove this {self._words}")
        remove.setAccessibleName(f"Remove {self._words} {place + 1}")
        remove.clicked.connect(lambda: self.remove_row(place))
        line.addWidget(remove, 0, Qt.AlignmentFlag.AlignTop)
        self._removers.append(remove)
        self._rows.addWidget(widget)
        self._row_widgets.append(widget)
        self._fields.append(fields)


def _line() -> QHBoxLayout:
    """A row to be filled from the left."""
    line = QHBoxLayout()
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    return line
