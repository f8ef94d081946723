"""A drawn list of rows that can be walked by keys and clicked, each row leading to a field."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.picture import Picture

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class Rows(Picture):
    """Title and rows of one height. Up, down, Home and End walk the rows; Enter or a click asks for the row's field."""

    field_requested = pyqtSignal(str)

    def __init__(self, title: str, *, top: int, row: int) -> None:
        super().__init__(title)
        self.title, self.top, self.row = title, top, row
        self._fields: list[str] = []
        self._told: list[str] = []
        self._at = -1
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def set_rows(self, fields: Sequence[str], told: Sequence[str], whole: str) -> None:
        """The field of every row, what is said of it, and what is said of them all."""
        self._fields, self._told = list(fields), list(told)
        self._at = min(self._at, len(fields) - 1)
        self.tell(whole)
        self.setFixedHeight(self.sizeHint().height())
        self.update()

    def sizeHint(self) -> QSize:
        """Title and rows."""
        return QSize(240, self.top + self.row * len(self._fields))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Walk the rows; Enter goes to the field."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self._go_to(self._at + step)
        elif event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self._go_to(0 if event.key() == Qt.Key.Key_Home else len(self._fields) - 1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and 0 <= self._at < len(self._fields):
            self.field_requested.emit(self._fields[self._at])
        else:
            super().keyPressEvent(event)

    def _go_to(self, place: int) -> None:
        self._at = min(max(place, 0), len(self._fields) - 1)
        self.read(self._told[self._at] if self._at >= 0 else "")
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A click goes to the field of the row."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        place = int((event.position().y() - self.top) // self.row)
        if 0 <= place < len(self._fields):
            self._at = place
            self.update()
            self.field_requested.emit(self._fields[place])

    def draw_title(self, painter: QPainter, beside: str, *, small: bool = False) -> None:
        """Title at the left, a few words at the right."""
        colours = colours_of(self)
        painter.setFont(font(15, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QRectF(0, 0, self.width(), 24), LEFT, self.title)
        painter.setFont(font(11.5 if small else 13))
        painter.setPen(colours.colour("faint"))
        painter.drawText(QRectF(0, 0, self.width(), 24), RIGHT, beside)

    def draw_focus(self, painter: QPainter) -> None:
        """A ring around the row in focus, or around the title before a row was chosen."""
        if not self.hasFocus():
            return
        painter.setPen(colours_of(self).colour("verdigris"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        top, height = (0.5, 23) if self._at < 0 else (self.top + self._at * self.row + 0.5, self.row - 1)
        painter.drawRoundedRect(QRectF(0.5, top, self.width() - 1, height), 3, 3)
