"""The craft's own counter: when each way of calling home calls, and what every pack would still hold."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.documents import LandingRule
from wise_cellar.core.extend import CounterOutcome
from wise_cellar.core.units import format_mah, format_minutes, format_number
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import QuantityField, field_for
from wise_cellar.ui.widgets.panel import note, paragraph
from wise_cellar.ui.widgets.rows import LEFT, RIGHT, Rows

HEAD, LINE, FOOT = 24.0, 18.0, 12.0
NAME, FIGURE = 190.0, 132.0
HONEST = (
    "A craft that counts charge sees only what flows through its own battery. What helps is to tell it the truth:"
    " the capacity of its counter where it lets you set one, or landing by volts under load, which all packs share."
    " Wise Cellar does not offer to cut a battery's data line, to bridge its protection or to switch a failsafe"
    " off: they are what brings the craft down where a cell fails, and nothing else aboard would."
)


class CounterRows(Rows):
    """The three ways, each with a bar for every pack; Enter or a click takes one as the landing rule."""

    def __init__(self) -> None:
        super().__init__("What calls the pilot home", top=30, row=int(HEAD + 2 * LINE + FOOT))
        self.outcomes: tuple[CounterOutcome, ...] = ()
        self._present: LandingRule | None = None

    def show_outcomes(self, outcomes: Sequence[CounterOutcome], present: LandingRule) -> None:
        """Show them; the design's own rule is marked."""
        self.outcomes, self._present = tuple(outcomes), present
        packs = max((len(outcome.packs) for outcome in outcomes), default=2)
        self.row = int(HEAD + packs * LINE + FOOT)
        whole = self.as_text()
        self.set_rows([str(place) for place in range(len(self.outcomes))], whole.splitlines(), whole)

    def as_text(self) -> str:
        """All of it as lines."""
        return "\n".join(
            f"{outcome.words}: {_when(outcome)}; "
            + ", ".join(f"{pack.name} {format_mah(pack.left_mah)} left" for pack in outcome.packs)
            for outcome in self.outcomes
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Words, minutes, and a bar for what every pack holds."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw_title(painter, "Enter takes one as the landing rule", small=True)
        for place, outcome in enumerate(self.outcomes):
            self._draw(painter, colours, float(self.top + place * self.row), outcome)
        self.draw_focus(painter)

    def _draw(self, painter: QPainter, colours: Colours, top: float, outcome: CounterOutcome) -> None:
        mine = outcome.rule == self._present
        painter.setFont(font(13, strong=True))
        painter.setPen(colours.colour("verdigris" if mine else "ink"))
        words = f"{outcome.words}{' — the present rule' if mine else ''}"
        painter.drawText(QRectF(8, top, self.width() - 260, HEAD), LEFT, words)
        painter.setFont(font(13))
        painter.setPen(colours.colour("ink" if outcome.called else "brick"))
        painter.drawText(QRectF(self.width() - 340, top, 332, HEAD), RIGHT, _when(outcome))
        painter.setFont(font(11.5))
        for number, pack in enumerate(outcome.packs):
            y = top + HEAD + number * LINE
            painter.setPen(colours.colour("faint"))
            painter.drawText(QRectF(8, y, NAME - 8, LINE), LEFT, f"{pack.name} still holds")
            bar = QRectF(NAME, y + LINE / 2 - 3, self.width() - NAME - FIGURE - 8, 6)
            painter.fillRect(bar, colours.colour("rule"))
            bar.setWidth(bar.width() * min(max(pack.left_share, 0.0), 1.0))
            painter.fillRect(bar, QColor(colours.series[number % len(colours.series)]))
            painter.setPen(colours.colour("ink"))
            figure = f"{format_mah(max(pack.left_mah, 0))}, {format_number(100 * max(pack.left_share, 0), 0)} %"
            painter.drawText(QRectF(self.width() - FIGURE - 8, y, FIGURE, LINE), RIGHT, figure)


def _when(outcome: CounterOutcome) -> str:
    if not outcome.called:
        return f"never calls: cells are empty after {format_minutes(outcome.duration_s)}"
    return f"calls at {format_minutes(outcome.call_s)}, down at {format_minutes(outcome.duration_s)}"


class CounterPage(QWidget):
    """The three ways, what the counter goes by, and what is not offered. ``taken`` brings a rule to land by."""

    taken = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 10, 0)
        column.setSpacing(10)
        self.rows = CounterRows()
        self.rows.field_requested.connect(lambda place: self.taken.emit(self.rows.outcomes[int(place)].rule))
        column.addWidget(self.rows)
        self.fields = FieldGrid(
            [
                field_for(session, "design.landing.charge_percent"),
                QuantityField(session, "design.landing.counter_mah", default=lambda: "its label"),
            ],
            columns=2,
        )
        column.addWidget(self.fields)
        column.addWidget(paragraph(HONEST, "caution", 11.5))
        self.nothing = note("The craft has no battery of its own beside this pack: what it counts is all there is.")
        column.addWidget(self.nothing)
        column.addStretch(1)
        column.setAlignment(Qt.AlignmentFlag.AlignTop)

    def show_outcomes(self, outcomes: Sequence[CounterOutcome]) -> None:
        """Show what was flown for the present design."""
        own = self._session.complete.own_battery is not None
        self.rows.setVisible(own)
        self.nothing.setVisible(not own)
        self.rows.show_outcomes(outcomes, self._session.complete.design.landing)
        self.fields.refresh()
