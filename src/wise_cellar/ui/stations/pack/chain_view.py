"""The chain: every link from cell to ESC, a bar for the punch and a mark for cruise, each against its limit."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from wise_cellar.core.pack import Link
from wise_cellar.core.units import format_share
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.marks import ROLE, State, draw_mark

ROW, TOP = 24, 30
NAME, NUMBERS = 142.0, 116.0


def link_state(link: Link) -> State:
    """State of a link by its worse share."""
    return State.OVER if link.worst_share > 1 else State.CAUTION if link.worst_share > 0.85 else State.FINE


def link_words(link: Link) -> str:
    """The worse of cruise and punch in amps: "33 A of 45 A"."""
    if link.cruise_share > 1 or link.cruise_share > link.punch_share:
        return f"cruise {link.cruise_a:.0f} of {link.cruise_limit_a:.0f} A"
    return f"{link.punch_a:.0f} of {link.punch_limit_a:.0f} A"


class ChainView(QWidget):
    """Links in current order. A click or Enter on one asks for its field."""

    field_requested = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._links: tuple[Link, ...] = ()
        self._punch_s = 0.0
        self._at = -1
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("The chain")

    def show_links(self, links: tuple[Link, ...], punch_s: float) -> None:
        """Show these links."""
        self._links, self._punch_s = links, punch_s
        self.setFixedHeight(self.sizeHint().height())
        self.setAccessibleDescription(
            "; ".join(
                f"{k.name}: {format_share(k.cruise_share)} at cruise, {format_share(k.punch_share)} at punch"
                for k in links
            )
        )
        self.update()

    def sizeHint(self) -> QSize:
        """Title and rows."""
        return QSize(320, TOP + ROW * len(self._links))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down walk the links; Enter goes to the field."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self._at = min(max(self._at + step, 0), len(self._links) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and 0 <= self._at < len(self._links):
            self.field_requested.emit(self._links[self._at].field)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A click goes to the field of the link."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        row = int((event.position().y() - TOP) // ROW)
        if 0 <= row < len(self._links):
            self.field_requested.emit(self._links[row].field)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Title, then a row a link."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(15, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QRectF(0, 0, self.width(), 24), left, "The chain")
        painter.setFont(font(11.5))
        painter.setPen(colours.colour("faint"))
        painter.drawText(QRectF(0, 0, self.width(), 24), right, f"bar: punch of {self._punch_s:g} s   mark: cruise")
        metrics = QFontMetricsF(font(13))
        bar_left = 18 + NAME
        bar_width = max(self.width() - bar_left - NUMBERS, 20.0)
        for place, link in enumerate(self._links):
            top = float(TOP + place * ROW)
            state = link_state(link)
            draw_mark(painter, state, QRectF(0, top + 7, 10, 10), colours)
            painter.setFont(font(13))
            painter.setPen(colours.colour("ink"))
            painter.drawText(QRectF(18, top, NAME - 6, ROW), left,
                             metrics.elidedText(link.name, Qt.TextElideMode.ElideRight, NAME - 8))  # fmt: skip
            bar = QRectF(bar_left, top + 8, bar_width, 8)
            painter.fillRect(bar, colours.colour("rule"))
            painter.fillRect(
                QRectF(bar.x(), bar.y(), bar_width * min(link.punch_share, 1.0), 8),
                colours.colour(ROLE[state]),
            )
            mark = bar.x() + bar_width * min(link.cruise_share, 1.0)
            painter.fillRect(QRectF(mark - 1, bar.y() - 4, 2, 16), colours.colour("ink"))
            painter.setPen(colours.colour("faint" if state is State.FINE else ROLE[state]))
            painter.drawText(QRectF(0, top, self.width(), ROW), right, link_words(link))
            if self.hasFocus() and place == self._at:
                painter.setPen(colours.colour("verdigris"))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(QRectF(0.5, top + 0.5, self.width() - 1, ROW - 1), 3, 3)
        if self.hasFocus() and self._at < 0:
            painter.setPen(colours.colour("verdigris"))
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, 23), 3, 3)
