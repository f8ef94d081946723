"""The answer band: five answers that never move. Each is a button that leads to the field that governs it."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from wise_cellar.core.answer import Answer, Spread
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import (
    bare_number,
    format_celsius,
    format_change,
    format_grams,
    format_mah,
    format_minutes,
    format_number,
    format_range,
    format_share,
    format_significant,
    format_volts,
    of_limit,
)
from wise_cellar.core.words import upper_first
from wise_cellar.handbook import meaning_of
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.labels import tip

HEIGHT, LOW_HEIGHT = 104, 46


@dataclass(frozen=True)
class ShownAnswer:
    """What one answer says. ``tone`` is fine, caution or over; ``better`` is whether the change is welcome."""

    heading: str
    value: str
    beside: str
    below: str
    change: str
    better: bool | None
    tone: str
    field: str
    bar: tuple[float, float] | None = None
    """Shares at cruise (mark) and at punch (bar)."""
    why: str = ""
    """What stands behind it, for the tooltip."""


class AnswerButton(QAbstractButton):
    """One answer."""

    def __init__(self, weight: int) -> None:
        super().__init__()
        self.weight, self.last, self.low = weight, False, False
        self.shown: ShownAnswer | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_answer(self, shown: ShownAnswer) -> None:
        """Show an answer."""
        if shown == self.shown:
            return
        self.shown = shown
        said = ", ".join(part for part in (shown.value, shown.beside, shown.below, shown.change) if part)
        self.setText(shown.value)
        self.setAccessibleName(shown.heading)
        self.setAccessibleDescription(said)
        about = (meaning_of(shown.heading), shown.why, "Click for why, and for what governs it.")
        self.setToolTip(tip("\n".join(part for part in about if part)))
        self.update()

    def sizeHint(self) -> QSize:
        """Fixed height, so that the band never moves."""
        return QSize(4 * self.weight, LOW_HEIGHT if self.low else HEIGHT)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Heading, value, lines under it."""
        if self.shown is None:
            return
        colours, shown = colours_of(self), self.shown
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse():
            painter.fillRect(self.rect(), colours.colour("sheet"))
        if not self.last:
            painter.fillRect(QRectF(self.width() - 1, 12, 1, self.height() - 24), colours.colour("rule"))
        if self.hasFocus():
            painter.setPen(colours.colour("verdigris"))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(3.5, 3.5, -4.5, -3.5), 3, 3)
        left, width = (8.0, self.width() - 14.0) if self.low else (16.0, self.width() - 28.0)
        self._line(painter, colours, shown.heading, "faint", 11.5, QRectF(left, 3 if self.low else 8, width, 18))
        value_font = self._fitting(shown, width)
        painter.setFont(value_font)
        painter.setPen(colours.colour("ink"))
        value_at = QRectF(left, 19, width, 24) if self.low else QRectF(left, 24, width, 30)
        painter.drawText(value_at, Qt.AlignmentFlag.AlignVCenter, shown.value)
        used = QFontMetricsF(value_font).horizontalAdvance(shown.value) + 7
        tone = {"fine": "faint", "caution": "ochre", "over": "brick"}[shown.tone]
        beside = shown.beside
        if QFontMetricsF(font(13)).horizontalAdvance(beside) > width - used:
            beside = beside.split(" of ")[0]  # the share itself, where there is no room for what it is of
        beside_at = QRectF(left + used, value_at.y() + 2 * (not self.low), width - used, value_at.height())
        self._line(painter, colours, beside, tone, 13, beside_at)
        if self.low:
            return  # what else there is to say stands in the tooltip and behind a click
        top = 54.0
        if shown.bar is not None:
            self._bar(painter, colours, shown, QRectF(left, 58, width, 5))
            top = 63.0
        below = QRectF(left, top, width, 20)
        if not shown.change:
            below.setHeight(36)
        self._line(painter, colours, shown.below, "faint", 11.5, below, wraps=not shown.change)
        if shown.change:
            role = {True: "verdigris", False: "ochre", None: "faint"}[shown.better]
            self._line(painter, colours, shown.change, role, 11.5, QRectF(left, top + 17, width, 18))

    def _fitting(self, shown: ShownAnswer, width: float) -> QFont:
        """The largest of the sizes in which the value fits with what stands beside it."""
        room = width - QFontMetricsF(font(13)).horizontalAdvance(shown.beside) - 8
        for size in (15.0,) if self.low else (22.0, 18.0, 15.0):
            candidate = font(size, strong=True)
            if QFontMetricsF(candidate).horizontalAdvance(shown.value) <= room:
                return candidate
        return font(13, strong=True)

    @staticmethod
    def _line(painter: QPainter, colours: Colours, text: str, role: str, size: float, box: QRectF,
              *, wraps: bool = False) -> None:  # fmt: skip
        painter.setFont(font(size))
        painter.setPen(colours.colour(role))
        if not wraps:
            text = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, box.width())
        align = Qt.AlignmentFlag.AlignTop if wraps else Qt.AlignmentFlag.AlignVCenter
        painter.drawText(box, align.value | (Qt.TextFlag.TextWordWrap.value if wraps else 0), text)

    @staticmethod
    def _bar(painter: QPainter, colours: Colours, shown: ShownAnswer, box: QRectF) -> None:
        cruise, punch = shown.bar or (0.0, 0.0)
        painter.fillRect(box, colours.colour("rule"))
        role = {"fine": "verdigris", "caution": "ochre", "over": "brick"}[shown.tone]
        painter.fillRect(QRectF(box.x(), box.y(), box.width() * min(punch, 1.0), box.height()), colours.colour(role))
        mark = box.x() + box.width() * min(cruise, 1.0)
        painter.fillRect(QRectF(mark - 1, box.y() - 2, 2, box.height() + 4), colours.colour("ink"))


class AnswerBand(QWidget):
    """Five answers in a row."""

    why_requested = pyqtSignal(int)
    """The place of an answer among the five."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.buttons = [AnswerButton(weight) for weight in (21, 17, 21, 23, 30)]
        for place, button in enumerate(self.buttons):
            button.clicked.connect(lambda _checked=False, at=place: self.why_requested.emit(at))
            row.addWidget(button, button.weight)
        self.buttons[-1].last = True
        session.changed.connect(self.refresh)
        session.compared.pin_changed.connect(self.refresh)
        session.spread_changed.connect(self.refresh)
        self.refresh()

    def show_low(self, low: bool) -> None:
        """One line a value, in a low window; or all that there is to say."""
        self.setFixedHeight(LOW_HEIGHT if low else HEIGHT)
        for button in self.buttons:
            button.low = low
            button.updateGeometry()
            button.update()

    def refresh(self) -> None:
        """Show the present answer, and its change since the pin."""
        pinned = self._session.compared.pinned[1] if self._session.compared.pinned else None
        for button, shown in zip(
            self.buttons,
            answers_shown(self._session.complete, self._session.answer, pinned, self._session.spread),
            strict=True,
        ):
            button.show_answer(shown)


def _range_words(spread: Spread | None) -> str:
    return "" if spread is None else f"8 of 10 flights fall into this range, with {spread.doubts.words}."


def _afterwards(answer: Answer, hold: str) -> str:
    """What is left and what a pilot reads after it, or what a run on the bench gave."""
    volts = f"{format_volts(answer.soon_v)} after 10\u00a0s, {format_volts(answer.hour_v)} after an hour"
    warmth = f"{format_celsius(answer.hottest_c)}, {bare_number(answer.inside_c, '°C')} inside"
    if answer.on_bench:
        gave = f"{format_mah(answer.given_mah)}, {format_number(answer.energy_used_wh, 1)}\u00a0Wh given"
        return f"{gave}; {volts}; {warmth}"
    left = f"{format_share(answer.charge_left)}, {format_minutes(answer.hover_left_s)} of {hold} left"
    return f"{left}; {volts}; {warmth}"


def _minutes_range(spread: Spread | None) -> str:
    """``33 … 39``, in minutes or, for short flights, tenths of one."""
    return "" if spread is None else format_range(*spread.duration_s)


def answers_shown(
    complete: CompleteDesign, answer: Answer, pinned: Answer | None, spread: Spread | None = None
) -> tuple[ShownAnswer, ...]:
    """The five answers in words and numbers."""
    late, weak = answer.late_punch, answer.weak_link
    bar = "the flight" if weak.by_flight else f"punch, {format_significant(answer.punch_s)} s"
    share = weak.worst_share
    limit = complete.craft.max_takeoff_mass_g
    heavy = limit is not None and answer.takeoff_mass_g > limit
    room = f"of {format_grams(limit)} allowed" if limit else f"pack {format_grams(answer.build.mass_g)}"
    hold = "hover" if complete.craft.wing is None else "loiter"
    ended_well = answer.reason.ending.value <= 1
    because = "It lands because" if ended_well else "It comes down because"
    if answer.on_bench:
        because = "It ends because"

    def since(text: str) -> str:
        return f"{text} since the pin" if pinned and text else ""

    minutes = mass = volts = link = reason = ""
    longer = lighter = stronger = safer = None
    first = "first punch" if complete.craft.wing is None else "launch"
    if pinned:
        seconds = round(answer.duration_s) - round(pinned.duration_s)
        minutes = ("+" if seconds > 0 else "") + format_minutes(seconds) if seconds else "no change"
        longer = None if seconds == 0 else seconds > 0
        grams = round(answer.takeoff_mass_g) - round(pinned.takeoff_mass_g)
        mass, lighter = format_change(grams, 0, "g"), None if grams == 0 else grams < 0
        change = late.volts_a_cell - pinned.late_punch.volts_a_cell
        volts, stronger = format_change(change, 2, "V"), None if abs(change) < 0.005 else change > 0
        points = 100 * (share - pinned.weak_link.worst_share)
        link, safer = format_change(points, 0, "points"), None if abs(points) < 0.5 else points < 0
        reason = f"pinned: {pinned.reason.words}" if pinned.reason.words != answer.reason.words else ""
    return (
        ShownAnswer(
            upper_first(answer.where), format_minutes(answer.duration_s), _minutes_range(spread),
            answer.other_end_words or f"{first} {answer.early_punch.volts_words}", since(minutes), longer, "fine",
            answer.duration_field, why=_range_words(spread),
        ),
        ShownAnswer(
            "Take-off mass", format_grams(answer.takeoff_mass_g), "", room, since(mass), lighter,
            "over" if heavy else "fine", answer.mass_field,
        ),
        ShownAnswer(
            "Late punch", late.volts_words.removesuffix(" a cell"), "" if late.collapsed else "a cell",
            f"thrust {format_number(late.thrust_margin, 1)} × {complete.craft.margin_over}", since(volts), stronger,
            "over" if late.collapsed else "fine",
            answer.punch_field,
        ),
        ShownAnswer(
            "Weakest link", weak.name.split(",")[0], of_limit(share, "limit"),
            f"mark: cruise   bar: {bar}", since(link), safer,
            "over" if share > 1 else "caution" if share > 0.85 else "fine", weak.field,
            bar=(weak.cruise_share, max(weak.punch_share, weak.flown_share)),
        ),
        ShownAnswer(
            because, answer.reason.words, "", _afterwards(answer, hold), reason, None,
            "fine" if ended_well else "over", answer.reason.field,
        ),
    )  # fmt: skip
