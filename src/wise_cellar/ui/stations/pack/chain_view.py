"""The chain: every link from cell to ESC, a bar for the punch and a mark for cruise, each against its limit."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent

from wise_cellar.core.pack import Link
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.marks import ROLE, State, draw_mark
from wise_cellar.ui.widgets.rows import LEFT, RIGHT, Rows

NAME, NUMBERS = 142.0, 116.0


def link_state(link: Link) -> State:
    """State of a link by its worse share."""
    return State.OVER if link.worst_share > 1 else State.CAUTION if link.worst_share > 0.85 else State.FINE


def link_words(link: Link) -> str:
    """The worse of cruise and punch in amps: "33 A of 45 A"."""
    if link.cruise_share > 1 or link.cruise_share > link.punch_share:
        return f"cruise {link.cruise_a:.0f} of {link.cruise_limit_a:.0f} A"
    return f"{link.punch_a:.0f} of {link.punch_limit_a:.0f} A"


class ChainView(Rows):
    """Links in current order."""

    def __init__(self) -> None:
        super().__init__("The chain", top=30, row=24)
        self._links: tuple[Link, ...] = ()
        self._punch_s = 0.0

    def show_links(self, links: tuple[Link, ...], punch_s: float) -> None:
        """Show these links."""
        self._links, self._punch_s = links, punch_s
        self.setAccessibleDescription(
            "; ".join(f"{k.name}: {k.cruise_share:.0%} at cruise, {k.punch_share:.0%} at punch" for k in links)
        )
        self.set_fields([link.field for link in links])

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Title, then a row a link."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw_title(painter, f"bar: punch of {self._punch_s:g} s   mark: cruise", small=True)
        painter.setFont(font(13))
        metrics = QFontMetricsF(painter.font())
        bar_left = 18 + NAME
        bar_width = max(self.width() - bar_left - NUMBERS, 20.0)
        for place, link in enumerate(self._links):
            top = float(self.top + place * self.row)
            state = link_state(link)
            draw_mark(painter, state, QRectF(0, top + 7, 10, 10), colours)
            painter.setPen(colours.colour("ink"))
            name = metrics.elidedText(link.name, Qt.TextElideMode.ElideRight, NAME - 8)
            painter.drawText(QRectF(18, top, NAME - 6, self.row), LEFT, name)
            bar = QRectF(bar_left, top + 8, bar_width, 8)
            painter.fillRect(bar, colours.colour("rule"))
            bar.setWidth(bar_width * min(link.punch_share, 1.0))
            painter.fillRect(bar, colours.colour(ROLE[state]))
            mark = bar_left + bar_width * min(link.cruise_share, 1.0)
            painter.fillRect(QRectF(mark - 1, top + 4, 2, 16), colours.colour("ink"))
            painter.setPen(colours.colour("faint" if state is State.FINE else ROLE[state]))
            painter.drawText(QRectF(0, top, self.width(), self.row), RIGHT, link_words(link))
        self.draw_focus(painter)
