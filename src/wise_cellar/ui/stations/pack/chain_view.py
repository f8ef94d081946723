"""The chain: every link from cell to ESC, a bar for the punch and a mark for cruise, each against its limit."""

from __future__ import annotations

import math

from PyQt6.QtCore import QEvent, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QHelpEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip

from wise_cellar.core.pack import Link
from wise_cellar.core.units import format_amps, format_number, format_rise, format_share, format_significant, of_limit
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.marks import ROLE, State, draw_mark
from wise_cellar.ui.widgets.rows import LEFT, RIGHT, Rows

NAME, NUMBERS = 142.0, 146.0


def link_state(link: Link) -> State:
    """State of a link by its worse share."""
    return State.OVER if link.worst_share > 1 else State.CAUTION if link.worst_share > 0.85 else State.FINE


def link_words(link: Link) -> str:
    """The worst of cruise and punch in amps, how long the punch may last where heat limits it, and of the flight."""
    if link.words:
        return link.words
    if link.by_flight and link.flown_rise_k is not None and link.rise_allowed_k is not None:
        return f"+{format_rise(link.flown_rise_k)} of {format_rise(link.rise_allowed_k)} in flight"
    if link.by_flight and link.held_a:
        return f"{format_number(link.held_a, 0)} of {format_amps(link.cruise_limit_a, 0)}, too long"
    if link.cruise_share > link.punch_share:
        return f"cruise {format_number(link.cruise_a, 0)} of {format_amps(link.cruise_limit_a, 0)}"
    if link.punch_limit_a <= 0:
        # Cruise alone is too much: no burst is allowed after it, and its share says more than that.
        return f"{format_amps(link.punch_a, 0)}, {of_limit(link.punch_share, 'limit')}"
    amps = f"{format_number(link.punch_a, 0)} of {format_amps(link.punch_limit_a, 0)}"
    if link.allowed_s is None or not math.isfinite(link.allowed_s):
        return amps
    return f"{amps}, {format_number(link.allowed_s, 0)} s"


def link_tip(link: Link) -> str:
    """All of a link in words."""
    lines = [
        link.name,
        (
            f"Cruise {format_amps(link.cruise_a)}, {format_share(link.cruise_share)} of"
            f" {format_amps(link.cruise_limit_a)}"
        ),
        f"Punch {format_amps(link.punch_a)}, {format_share(link.punch_share)} of what its length allows",
    ]
    if link.rises_k is not None:
        lines.append(
            f"+{format_rise(link.rises_k[0])} at cruise, +{format_rise(link.rises_k[1])} at the end of the punch"
        )
    if link.flown_rise_k is not None:
        lines.append(f"+{format_rise(link.flown_rise_k)} at its warmest along the flight")
    if link.held_a:
        lines.append(f"{format_amps(link.held_a)} for longer than a burst may last")
    if link.allowed_s is not None:
        lasts = "for good" if math.isinf(link.allowed_s) else f"{format_number(link.allowed_s, 0)} s"
        lines.append(f"The punch current is allowed {lasts}")
    return "\n".join(lines)


class ChainView(Rows):
    """Links in current order."""

    def __init__(self) -> None:
        super().__init__("The chain", top=30, row=24)
        self._links: tuple[Link, ...] = ()
        self._punch_s = 0.0

    def show_links(self, links: tuple[Link, ...], punch_s: float) -> None:
        """Show these links."""
        self._links, self._punch_s = links, punch_s
        told = [
            f"{k.name}: {k.cruise_share:.0%} at cruise, {k.punch_share:.0%} at punch, {k.flown_share:.0%} in flight"
            for k in links
        ]
        self.set_rows([link.field for link in links], told, "; ".join(told))

    def event(self, event: QEvent | None) -> bool:
        """Tell the numbers of the link under the pointer."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            place = (event.pos().y() - self.top) // self.row
            inside = 0 <= place < len(self._links)
            QToolTip.showText(event.globalPos(), link_tip(self._links[place]) if inside else "", self)
            return True
        return super().event(event)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Title, then a row a link."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw_title(
            painter, f"bar: punch of {format_significant(self._punch_s)} s, or the flight   mark: cruise", small=True
        )
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
            bar.setWidth(bar_width * min(max(link.punch_share, link.flown_share), 1.0))
            painter.fillRect(bar, colours.colour(ROLE[state]))
            mark = bar_left + bar_width * min(link.cruise_share, 1.0)
            painter.fillRect(QRectF(mark - 1, top + 4, 2, 16), colours.colour("ink"))
            painter.setPen(colours.colour("faint" if state is State.FINE else ROLE[state]))
            painter.drawText(QRectF(0, top, self.width(), self.row), RIGHT, link_words(link))
        self.draw_focus(painter)
