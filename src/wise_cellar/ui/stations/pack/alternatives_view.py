"""Other arrangements as small plans, the best first; a click or Enter takes one."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.pack import Alternative, PackLayout
from wise_cellar.core.units import format_mm, format_size
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.marks import State, draw_mark
from wise_cellar.ui.widgets.pack_plan import draw_plan
from wise_cellar.ui.widgets.picture import Picture

CARD_WIDTH, CARD_HEIGHT, GAP = 132, 138, 8


class AlternativesView(Picture):
    """Cards side by side, as many as there is room for."""

    taken = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__("Other arrangements")
        self.shown: tuple[Alternative, ...] = ()
        self._present: PackLayout | None = None
        self._at = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(CARD_HEIGHT)

    def sizeHint(self) -> QSize:
        """Two cards."""
        return QSize(2 * CARD_WIDTH + GAP, CARD_HEIGHT)

    def show_alternatives(self, found: Sequence[Alternative], present: PackLayout) -> None:
        """Show these, the present layout marked."""
        self.shown, self._present = tuple(found), present
        self._at = min(self._at, max(len(found) - 1, 0))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if found else Qt.FocusPolicy.NoFocus)
        self._describe()
        self.update()

    def _describe(self) -> None:
        if self.shown:
            self.tell(f"{self._at + 1} of {len(self.shown)}: {card_words(self.shown[self._at])}")

    @property
    def first(self) -> int:
        """The card at the left; later ones come into view as the keys reach them."""
        room = max(int((self.width() + GAP) // (CARD_WIDTH + GAP)), 1)
        return max(self._at - room + 1, 0)

    def card_at(self, x: float) -> int | None:
        """The alternative under a point."""
        place = self.first + int(x // (CARD_WIDTH + GAP))
        return place if place < len(self.shown) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the card under the pointer."""
        place = self.card_at(event.position().x()) if event is not None else None
        if place is not None:
            self._at = place
            self.taken.emit(self.shown[place])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right walk, Enter takes."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self._at = min(max(self._at + step, 0), max(len(self.shown) - 1, 0))
            self._describe()
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.shown:
            self.taken.emit(self.shown[self._at])
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """The chosen card gets a ring."""
        super().focusInEvent(event)
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """The cards."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place in range(self.first, len(self.shown)):
            left = (place - self.first) * (CARD_WIDTH + GAP)
            if left + CARD_WIDTH > self.width():
                break
            self._card(painter, QRectF(left + 0.5, 0.5, CARD_WIDTH - 1, CARD_HEIGHT - 1), place)

    def _card(self, painter: QPainter, box: QRectF, place: int) -> None:
        colours, one = colours_of(self), self.shown[place]
        mine = self._present is not None and one.layout.cells == self._present.cells
        chosen = self.hasFocus() and place == self._at
        painter.setPen(QPen(colours.colour("verdigris" if chosen or mine else "rule"), 2.0 if chosen else 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 3, 3)
        draw_plan(painter, QRectF(box.x() + 8, box.y() + 7, box.width() - 16, 44), one.layout, colours)
        draw_mark(painter, State.FINE if one.fits else State.OVER, QRectF(box.x() + 8, box.y() + 57, 10, 10), colours)
        painter.setFont(font(11.5))
        metrics = QFontMetricsF(painter.font())
        lines = card_words(one).split("\n")
        for number, line in enumerate(lines):
            painter.setPen(colours.colour("ink" if number == 0 else "faint"))
            left = 22 if number == 0 else 8
            room = QRectF(box.x() + left, box.y() + 53 + 16 * number, box.width() - left - 6, 16)
            text = metrics.elidedText(line, Qt.TextElideMode.ElideRight, room.width())
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


def card_words(one: Alternative) -> str:
    """Name, size and room, strip and balance point."""
    layout = one.layout
    size = format_size(layout.length_mm, layout.width_mm, layout.height_mm)
    fit = (
        "does not fit"
        if not one.fits
        else f"{format_mm(one.spare_mm)} to spare"
        if one.spare_mm is not None
        else "no bay"
    )
    lines = [one.words, size, fit, f"{format_mm(one.strip_mm)} of strip"]
    if one.balance is not None:
        lines.append(f"balance at {format_mm(one.balance.after_mm, signed=True)}")
    return "\n".join(lines)
