"""A token of the recipe line: a part of the sentence that can be changed."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QEnterEvent,
    QFontMetricsF,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PyQt6.QtWidgets import QAbstractButton, QWidget

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.labels import laid_out_for

HEIGHT = 28


class Token(QAbstractButton):
    """A chip of text. Click or Enter asks for its chooser; up, down and, with the focus, the wheel step it."""

    stepped = pyqtSignal(int)

    def __init__(self, name: str, *, steps: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.name, self._steps = name, steps
        self._hovered, self._open = False, False
        self._wheel = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.setToolTip(f"{name}: click to choose" + (", up and down to step" if steps else ""))

    def show_text(self, text: str) -> None:
        """Show the present value."""
        if text == self.text():
            return
        if self.isVisible():
            with laid_out_for(self, self.sizeHint):
                self.setText(text)
        else:
            self.setText(text)
        self.setAccessibleDescription(text)
        self.adjustSize()

    def set_open(self, is_open: bool) -> None:
        """Mark the token whose chooser is open."""
        self._open = is_open
        self.update()

    def sizeHint(self) -> QSize:
        """Text with room for the steps."""
        wide = QFontMetricsF(font(16, strong=True)).horizontalAdvance(self.text())
        return QSize(round(wide) + (28 if self._steps else 16), HEIGHT)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down step, Enter opens."""
        if event is None:
            return
        key = event.key()
        if self._steps and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(1 if key == Qt.Key.Key_Up else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """One notch, one step, where the token has the focus; else the wheel is not meant for it."""
        if event is None:
            return
        if not self._steps or not self.hasFocus():
            event.ignore()
            return
        self._wheel += event.angleDelta().y()
        while abs(self._wheel) >= 120:
            step = 1 if self._wheel > 0 else -1
            self._wheel -= 120 * step
            self.stepped.emit(step)
        event.accept()

    def enterEvent(self, event: QEnterEvent | None) -> None:
        """Show that it can be changed."""
        self._hovered = True
        self.update()
        super().enterEvent(event)

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Back to rest."""
        self._hovered = False
        self.update()
        super().leaveEvent(event)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """A chip of the sheet colour, filled with verdigris while open."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        edge = "verdigris" if self.hasFocus() or self._hovered or self._open else "rule"
        painter.setPen(QPen(colours.colour(edge), 2.0 if self.hasFocus() else 1.0))
        painter.setBrush(colours.colour("verdigris" if self._open else "sheet"))
        painter.drawRoundedRect(box, 4, 4)
        text = colours.colour("on_accent" if self._open else "ink")
        painter.setPen(text)
        painter.setFont(font(16, strong=True))
        room = box.adjusted(7, 0, -19 if self._steps else -7, 0)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, self.text())
        if self._steps:
            self._draw_steps(painter, box)

    def _draw_steps(self, painter: QPainter, box: QRectF) -> None:
        colours = colours_of(self)
        painter.setPen(Qt.PenStyle.NoPen)
        role = "on_accent" if self._open else ("verdigris" if self.hasFocus() or self._hovered else "faint")
        painter.setBrush(colours.colour(role))
        x, middle = box.right() - 11, box.center().y()
        for sign in (-1, 1):
            y = middle + sign * 3
            painter.drawPolygon(QPolygonF([QPointF(x - 3.5, y), QPointF(x + 3.5, y), QPointF(x, y + sign * 4.5)]))
