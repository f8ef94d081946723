"""The walk through the sample world: one line above the answers, which can be left and gone on with at any time."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSettings, QSize, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from wise_cellar.ui.stations.doorway import Doorway
from wise_cellar.ui.stations.walk import Moment, WalkStep
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.marks import State, draw_mark

AT, DONE = "walk_at", "walk_done"
MARK = 16
LOOK_MS = 250
"""So often it is looked whether the step is done: a page turned, a pin set and a value typed are told in many ways."""


@dataclass(frozen=True)
class Stop:
    """A step of the walk and the station that asks for it."""

    station: str
    step: WalkStep


def stops(doorways: Sequence[Doorway]) -> tuple[Stop, ...]:
    """The whole walk in working order."""
    return tuple(Stop(doorway.title, step) for doorway in doorways for step in doorway.walk)


class _Ticks(QWidget):
    """A mark for each step: done, present, to come."""

    def __init__(self, count: int) -> None:
        super().__init__()
        self._count, self._done, self._at = count, frozenset[int](), 0
        self.setFixedSize(QSize(MARK * count + 4, 20))

    def show_done(self, done: frozenset[int], at: int) -> None:
        """Show these."""
        self._done, self._at = done, at
        self.setAccessibleName(f"Step {at + 1} of {self._count}, {len(done)} done")
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Ticks, and rings for what is to come."""
        painter, colours = QPainter(self), colours_of(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place in range(self._count):
            box = QRectF(place * MARK + 2, 4, 11, 11)
            if place in self._done:
                draw_mark(painter, State.FINE, box, colours)
                continue
            painter.setPen(colours.colour("verdigris" if place == self._at else "faint"))
            painter.drawEllipse(box.adjusted(2, 2, -2, -2))


class WalkBar(QFrame):
    """What is to be tried now. ``wanted`` asks for a station and a page of it."""

    wanted = pyqtSignal(str, str)

    def __init__(self, doorways: Sequence[Doorway], settings: QSettings, moment: Callable[[], Moment]) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.stops = stops(doorways)
        self._settings, self._moment = settings, moment
        self._began: Moment | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 12, 6)
        self._ticks = _Ticks(len(self.stops))
        row.addWidget(self._ticks)
        self.words = Label()
        self.words.setFont(font(13))
        self.words.setWordWrap(True)
        row.addWidget(self.words, 1)
        self.there, self.later, self.leave_button = (
            QPushButton("Take me there"), QPushButton("Skip this"), QPushButton("Leave the walk")
        )  # fmt: skip
        for button, act in ((self.there, self._go), (self.later, self._skip), (self.leave_button, self.leave)):
            button.clicked.connect(act)
            row.addWidget(button)
        self._looking = QTimer(self)
        self._looking.setInterval(LOOK_MS)
        self._looking.timeout.connect(self.look)
        self.hide()

    @property
    def at(self) -> int:
        """The present step."""
        return min(int(self._settings.value(AT, 0)), len(self.stops) - 1)

    @property
    def done(self) -> frozenset[int]:
        """Steps that are done."""
        text = str(self._settings.value(DONE, "") or "")
        return frozenset(int(part) for part in text.split() if part.isdigit())

    def go_on(self) -> None:
        """Show the walk where it was left; from the start where all of it is done."""
        if len(self.done) >= len(self.stops):
            self._settings.setValue(DONE, "")
            self._settings.setValue(AT, 0)
        self.show()
        self._looking.start()
        self._begin()
        self._go()

    def leave(self) -> None:
        """For now; it goes on here."""
        self._looking.stop()
        self.hide()

    def look(self) -> None:
        """Something was done: whether it was what the step asks for."""
        if self._began is None:
            return
        if not self.stops[self.at].step.done(self._began, self._moment()):
            return
        self._settings.setValue(DONE, " ".join(str(place) for place in sorted({*self.done, self.at})))
        self._next()

    def _next(self) -> None:
        left = [place for place in range(len(self.stops)) if place not in self.done]
        if not left:
            self._began = None
            self._ticks.show_done(self.done, self.at)
            self.words.setText("That was all of it. Ctrl+N begins with a craft of your own.")
            self.there.hide()
            self.later.hide()
            return
        self._settings.setValue(AT, next((place for place in left if place > self.at), left[0]))
        self._begin()

    def _begin(self) -> None:
        stop = self.stops[self.at]
        self._began = self._moment()
        self._ticks.show_done(self.done, self.at)
        self.words.setText(f"{stop.station}: {stop.step.text}")
        self.there.show()
        self.later.show()

    def _go(self) -> None:
        stop = self.stops[self.at]
        self.wanted.emit(stop.station, stop.step.page)

    def _skip(self) -> None:
        self._settings.setValue(AT, (self.at + 1) % len(self.stops))
        self._begin()
