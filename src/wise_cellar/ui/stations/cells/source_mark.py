"""Where a value comes from, as a mark beside it: filled if measured, a ring from a sheet, broken for an estimate."""

from __future__ import annotations

from datetime import date

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QLineEdit, QPushButton, QWidget

from wise_cellar.core.documents import SourceKind
from wise_cellar.core.words import quoted
from wise_cellar.ui.theme import colours_of
from wise_cellar.ui.widgets.labels import tip
from wise_cellar.ui.widgets.panel import heading, note
from wise_cellar.ui.widgets.popover import Popover
from wise_cellar.ui.widgets.source_drawing import draw_source


class SourceMark(QAbstractButton):
    """The mark of one value; a click or Enter opens the choice of source and date."""

    changed = pyqtSignal(object, object)

    def __init__(self, title: str) -> None:
        super().__init__()
        self._title = title
        self.kind = SourceKind.MAKERS_SHEET
        self.day: date | None = None
        self.setFixedSize(QSize(20, 24))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(self._open)

    def show_source(self, kind: SourceKind, day: date | None) -> None:
        """Show a source."""
        self.kind, self.day = kind, day
        words = f"{kind}, {day.isoformat()}" if day else str(kind)
        self.setToolTip(tip(words))
        self.setAccessibleName(f"Source of {self._title}: {words}")
        self.update()

    def sizeHint(self) -> QSize:
        """Fixed."""
        return QSize(20, 24)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """The mark, and a ring while it has the focus."""
        painter, colours = QPainter(self), colours_of(self)
        if self.hasFocus():
            painter.setPen(colours.colour("verdigris"))
            painter.drawRoundedRect(self.rect().adjusted(0, 2, -1, -3), 3, 3)
        draw_source(painter, self.kind, QRectF(5, 7, 10, 10), colours)

    def _open(self) -> None:
        popover = Popover(self)
        popover.column.addWidget(heading(f"Source of {self._title}"))
        line = QLineEdit(self.day.isoformat() if self.day else "")
        line.setPlaceholderText("date, such as 2026-03-14")
        line.setAccessibleName("Date of the source")
        error = note(role="error")
        error.hide()

        def take(kind: SourceKind) -> None:
            text = line.text().strip()
            try:
                day = date.fromisoformat(text) if text else None
            except ValueError:
                error.setText(f"{quoted(text)} is no date; write one such as 2026-03-14.")
                error.show()
                return
            popover.close()
            self.changed.emit(kind, day)

        row = QWidget()
        choices = QHBoxLayout(row)
        choices.setContentsMargins(0, 0, 0, 0)
        for kind in SourceKind:
            button = QPushButton(str(kind))
            button.clicked.connect(lambda _checked=False, k=kind: take(k))
            choices.addWidget(button)
        popover.column.addWidget(line)
        popover.column.addWidget(error)
        popover.column.addWidget(row)
        line.returnPressed.connect(lambda: take(self.kind))
        popover.open_below(self)
        line.setFocus()
        line.selectAll()
