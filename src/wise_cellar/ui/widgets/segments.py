"""A row of words of which one is chosen: for views of a panel, and for the axes of a picture."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import show_role


class _Word(Label):
    """One word; underlined in verdigris when chosen."""

    def __init__(self, text: str, size: float) -> None:
        super().__init__(text)
        self.chosen = False
        self._size = size
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setContentsMargins(0, 2, 0, 5)
        # Wide enough for the heavier face, so that nothing moves when another word is chosen.
        self.setMinimumWidth(int(QFontMetricsF(font(size, strong=True)).horizontalAdvance(text)) + 2)

    def show_chosen(self, chosen: bool) -> None:
        """Stand out, or not."""
        self.chosen = chosen
        show_role(self, "" if chosen else "faint")
        self.setFont(font(self._size, strong=chosen))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The word and its line."""
        super().paintEvent(event)
        if self.chosen:
            painter = QPainter(self)
            painter.setPen(QPen(colours_of(self).colour("verdigris"), 2.0))
            painter.drawLine(QPoint(0, self.height() - 2), QPoint(self.width(), self.height() - 2))


class Segments(QWidget):
    """Words side by side; a click or the arrow keys choose one."""

    chosen = pyqtSignal(int)

    def __init__(self, words: Sequence[str], name: str, size: float = 13) -> None:
        super().__init__()
        self._words = list(words)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(name)
        row = QHBoxLayout(self)
        row.setContentsMargins(2, 0, 2, 0)
        row.setSpacing(14)
        self._labels = [_Word(word, size) for word in words]
        for label in self._labels:
            row.addWidget(label)
        self.current = 0
        self._show()

    @property
    def words(self) -> list[str]:
        """All of them."""
        return list(self._words)

    @property
    def word(self) -> str:
        """The chosen word."""
        return self._words[self.current]

    def choose(self, place: int) -> None:
        """Choose a word; says so only when it is another."""
        place = min(max(place, 0), len(self._labels) - 1)
        if place == self.current:
            return
        self.current = place
        self._show()
        self.chosen.emit(place)

    def _show(self) -> None:
        for place, label in enumerate(self._labels):
            label.show_chosen(place == self.current)
        self.setAccessibleDescription(self._words[self.current])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the word under the pointer."""
        if event is None:
            return
        for place, label in enumerate(self._labels):
            if label.geometry().adjusted(-7, -4, 7, 4).contains(event.pos()):
                self.choose(place)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right."""
        if event is None:
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() in steps:
            self.choose(self.current + steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """A hairline around it while it has the focus."""
        if self.hasFocus():
            painter = QPainter(self)
            painter.setPen(colours_of(self).colour("verdigris"))
            painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 3, 3)
