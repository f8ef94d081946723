"""A row of words of which one is chosen: for views of a panel, and for the axes of a picture."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QLineF, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QTabBar

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.register import Register

APART, EDGE, LINE_PX = 14, 2, 2.0
"""Pixels between words, at both ends, and of the line under the chosen one."""

SEGMENTS: Register[Segments] = Register()
"""All rows of words that there are."""


class Segments(QTabBar):
    """Words side by side; a click or the arrow keys choose one."""

    chosen = pyqtSignal(int)

    def __init__(self, words: Sequence[str], name: str, size: float = 13) -> None:
        super().__init__()
        SEGMENTS.put(self)
        self._size = size
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.setDrawBase(False)
        self.setExpanding(False)
        self.setUsesScrollButtons(False)
        self.setElideMode(Qt.TextElideMode.ElideNone)
        for place, word in enumerate(words):
            self.addTab(word)
            # The toolkit tells the chosen word in place of the row's own name.
            self.setAccessibleTabName(place, f"{name}: {word}")
        self.currentChanged.connect(self.chosen)

    @property
    def words(self) -> list[str]:
        """All of them."""
        return [self.tabText(place) for place in range(self.count())]

    @property
    def current(self) -> int:
        """Place of the chosen word."""
        return self.currentIndex()

    @property
    def word(self) -> str:
        """The chosen word."""
        return self.tabText(self.current)

    def choose(self, place: int) -> None:
        """Choose a word; says so only when it is another."""
        self.setCurrentIndex(min(max(place, 0), self.count() - 1))

    def place_at(self, point: QPoint) -> int:
        """The word under a point, with half the room to its neighbours; −1 where there is none."""
        return self.tabAt(QPoint(point.x(), self.height() // 2))

    # How they look

    def tabSizeHint(self, place: int) -> QSize:
        """As wide as the heavier face, so that nothing moves when another word is chosen, and half the room beside."""
        metrics = QFontMetricsF(font(self._size, strong=True))
        wide = int(metrics.horizontalAdvance(self.tabText(place))) + 2
        ends = (place == 0) + (place == self.count() - 1)
        return QSize(wide + APART - ends * (APART // 2 - EDGE), round(metrics.height()) + 7)

    def minimumTabSizeHint(self, place: int) -> QSize:
        """The same: a word is never cut."""
        return self.tabSizeHint(place)

    def _room(self, place: int) -> QRectF:
        """Where a word stands."""
        box = QRectF(self.tabRect(place))
        left = EDGE if place == 0 else APART // 2
        right = EDGE if place == self.count() - 1 else APART // 2
        return box.adjusted(left, 0, -right, 0)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Words, a line in verdigris under the chosen one, and a hairline around it all while it has the focus."""
        colours, painter = colours_of(self), QPainter(self)
        for place in range(self.count()):
            box, chosen = self._room(place), place == self.current
            painter.setFont(font(self._size, strong=chosen))
            painter.setPen(colours.colour("ink" if chosen else "faint"))
            painter.drawText(box.adjusted(0, 2, 0, -5), Qt.AlignmentFlag.AlignVCenter, self.tabText(place))
            if chosen:
                painter.setPen(QPen(colours.colour("verdigris"), LINE_PX))
                painter.drawLine(QLineF(box.left(), self.height() - 2.0, box.right(), self.height() - 2.0))
        if self.hasFocus():
            painter.setPen(colours.colour("verdigris"))
            painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 3, 3)

    # What does something

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the word under the pointer."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            place = self.place_at(event.pos())
            if place >= 0:
                self.choose(place)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right."""
        if event is None:
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() in steps:
            self.choose(self.current + steps[Qt.Key(event.key())])
        else:
            event.ignore()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Leave the wheel to the page."""
        if event is not None:
            event.ignore()
