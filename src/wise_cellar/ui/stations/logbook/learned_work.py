"""What flights taught: of the present craft and of one of its packs, before and after, to take or to leave."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import BuiltPack, DocumentError, LearnedValue, SensorFact
from wise_cellar.core.logbook.entries import Lesson
from wise_cellar.core.logbook.learning import Learned
from wise_cellar.core.logbook.taking import OF_CRAFT, OF_PACK
from wise_cellar.core.units import format_amps, format_minutes, format_number, format_range, format_volts
from wise_cellar.ui.state.flight_facts import Facts, Taught, teach
from wise_cellar.ui.state.logbook_edits import flights_of, let_go, let_sensors_go, take_lesson
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, paragraph, scrolling, sheet

MOST_HEARD = 30
"""Of the craft's latest flights; with the design's pack among them."""
NAMES = (*OF_CRAFT, *OF_PACK, "liveliness")
HEADS = ("", "Before", "Flights say", "")
WHAT = {
    "power": "Power that the craft needs", "drag": "Drag", "capacity": "What the pack holds",
    "resistance": "What the pack resists", "cooling": "How well the pack is cooled",
    "lag": "How far its cells lag behind",
    "liveliness": "How lively it is flown by hand",
}  # fmt: skip
NONE = "No flight of this craft is written down yet: write down what the charger put back, or drop a log."
NO_PACK = "Of the pack no flight says anything: the design flies none of those that flew. Choose one under Packs."
HOW = (
    "Each flight speaks with its doubt, several together; one that disagrees counts less. Over what the design says"
    " now: 100 % is as thought. What flights do not tell is left as it is."
)


class LearnedWork(QObject):
    """Keeps :attr:`page` and :attr:`panels`: flights of the present design's craft with its pack."""

    said = pyqtSignal()
    """Its headline is another."""

    def __init__(self, session: Session, facts: Facts, parent: QObject) -> None:
        super().__init__(parent)
        self.session, self._facts = session, facts
        self.headline = "What flights taught"
        self.taught: Taught | None = None
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(lambda error: self._refuse(str(error)))
        self.page = QWidget()
        outer = QVBoxLayout(self.page)
        outer.setContentsMargins(0, 4, 0, 0)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(10)
        self.range = Lines(paragraph)
        column.addLayout(self.range)
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(20)
        self._grid.setVerticalSpacing(8)
        self._grid.setColumnStretch(4, 1)
        column.addLayout(self._grid)
        self.words = {name: (Label(WHAT[name]), Label(), Label()) for name in NAMES}
        self.takes = {name: QPushButton("Take it") for name in NAMES if name != "liveliness"}
        for column_, head in enumerate(HEADS):
            label = Label(head)
            label.setProperty("role", "faint")
            self._grid.addWidget(label, 0, column_)
        for row, name in enumerate(NAMES, 1):
            for place, label in enumerate(self.words[name]):
                self._grid.addWidget(label, row, place)
            if name in self.takes:
                self.takes[name].setAccessibleName(f"Take the {name} that flights say")
                self.takes[name].clicked.connect(partial(self._take_one, name))
                self._grid.addWidget(self.takes[name], row, 3)
        self.sentences = Lines(paragraph)
        column.addLayout(self.sentences)
        column.addStretch(1)
        outer.addWidget(scrolling(inside), 1)
        panel, self._kept = sheet(spacing=6)
        self._kept.addWidget(heading("Taken so far"))
        self._kept_rows = QVBoxLayout()
        self._kept.addLayout(self._kept_rows)
        self._kept.addWidget(note(HOW))
        self._lets: list[tuple[Label, QPushButton]] = []
        self.panels: tuple[QWidget, ...] = (panel,)

    @property
    def settled(self) -> bool:
        """Whether all flights have spoken."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop."""
        self._worker.close()

    def leave_workspace(self) -> None:
        """Nothing of the present one is shown any more."""
        self._worker.forget()
        self.taught = None

    @property
    def pack(self) -> BuiltPack | None:
        """The built pack that the present design flies."""
        flies = self.session.complete.design.packs[0].flies
        return None if flies is None else self.session.all(BuiltPack).get(flies.id)

    def refresh(self) -> None:
        """Ask what the flights of the present craft and pack say."""
        complete, pack = self.session.complete, self.pack
        whose = f"{complete.craft.name} with {complete.pack.words if pack is None else pack.name}"
        self.headline = f"What flights taught of {whose}"
        self.said.emit()
        self._show_kept()
        try:
            flown = flights_of(self.session, self._facts, craft_id=complete.craft.id, most=MOST_HEARD)
        except DocumentError as error:
            self._refuse(str(error))
            return
        if not flown:
            self._refuse(NONE, "faint")
            return
        mine = "" if pack is None else pack.id
        of_pack = [one for one in flown if one.entry.pack_id == mine and
                   (pack is not None or one.entry.design_id == complete.design.id)]  # fmt: skip
        of = (complete, tuple(one.of for one in flown), tuple(one.of for one in of_pack))
        if self.taught is None:
            self._refuse("Hearing what its flights say…", "faint")
        self._worker.run(partial(teach, self._facts, flown, of_pack, complete, date.today()), of=of)

    def _take(self, taught: Taught) -> None:
        self.taught = taught
        for name in NAMES:
            self._show_one(name, taught.lesson(name).of(name))
        before = f"{format_minutes(taught.before.duration_s)}, 8 of 10 within {format_range(*taught.before_s)} min"
        lines = [Line(f"Now it flies {before}.", "", 13)]
        if taught.with_it is not None and taught.with_it_s is not None:
            after = f"{format_minutes(taught.with_it.duration_s)}, 8 of 10 within {format_range(*taught.with_it_s)} min"
            wide = (taught.with_it_s[1] - taught.with_it_s[0]) / max(taught.before_s[1] - taught.before_s[0], 1.0)
            lines.append(Line(f"With all that they say: {after}.", "", 15, strong=True))
            lines.append(Line(f"The range is {format_number(100 * wide, 0)} % as wide.", "faint", 11.5))
        self.range.show_lines(lines)
        told = [Line(_heard("the craft", taught.of_craft), "faint", 11.5),
                Line(_heard("the pack", taught.of_pack), "faint", 11.5)]  # fmt: skip
        odd = dict.fromkeys((*taught.of_craft.odd, *taught.of_pack.odd))
        told += [Line(f"{name} disagrees with the others, and hardly counts: was it another pack, or flown otherwise?",
                      "caution") for name in odd]  # fmt: skip
        self.sentences.show_lines(told)

    def _show_one(self, name: str, one: Learned | None) -> None:
        _, before, said = self.words[name]
        for label in self.words[name]:
            label.setVisible(one is not None)
        if name in self.takes:
            self.takes[name].setVisible(one is not None and one.told)
        if one is None:
            return
        before.setText(f"100 ± {format_number(100 * one.before, 0)} %")
        if not one.told:
            said.setText(one.words())
        else:
            said.setText(f"{format_number(100 * one.share, 0)} ± {format_number(100 * one.doubt, 0)} %")

    def _refuse(self, sentence: str, role: str = "error") -> None:
        self.taught = None
        for name in NAMES:
            self._show_one(name, None)
        self.range.show_lines([Line(sentence, role)])
        self.sentences.show_lines([])

    def _take_one(self, name: str) -> None:
        taught = self.taught
        if taught is not None:
            self.attempt.make(lambda: take_lesson(self.session, taught.lesson(name), name, self.pack))

    def _kept_values(self) -> list[tuple[str, Callable[[], None]]]:
        """What was taken, in words, with what lets it go."""
        complete = self.session.complete
        values = [*complete.craft.learned, *complete.pack.state.learned]
        found: list[tuple[str, Callable[[], None]]] = [
            (_kept_words(value), partial(let_go, self.session, value, self.pack)) for value in values
        ]
        sensor = complete.craft.sensor
        if sensor is not None:
            found.append((_sensor_words(sensor), partial(let_sensors_go, self.session)))
        return found

    def _show_kept(self) -> None:
        kept = self._kept_values()
        while len(self._lets) < len(kept):
            label, button = Label(), QPushButton("Let it go")
            label.setWordWrap(True)
            button.setProperty("role", "quiet")
            button.clicked.connect(partial(self._let_go, len(self._lets)))
            self._kept_rows.addWidget(label)
            self._kept_rows.addWidget(button)
            self._lets.append((label, button))
        for place, (label, button) in enumerate(self._lets):
            for widget in (label, button):
                widget.setVisible(place < len(kept))
            if place < len(kept):
                label.setText(kept[place][0])
                button.setAccessibleName(f"Let go: {kept[place][0]}")

    def _let_go(self, place: int) -> None:
        kept = self._kept_values()
        if place < len(kept):
            self.attempt.make(kept[place][1])


def _heard(of: str, lesson: Lesson) -> str:
    if not lesson.flights:
        return NO_PACK if of == "the pack" else f"Of {of} no flight says anything."
    return f"Heard of {of}: {', '.join(lesson.flights)}."


def _kept_words(value: LearnedValue) -> str:
    doubt = f"± {format_number(value.doubt_percent, 1)} %"
    return f"{WHAT[value.of]}, {doubt}: {value.words}, {value.learned_on}."


def _sensor_words(sensor: SensorFact) -> str:
    percent = format_number(100 * (sensor.amps_scale - 1), 1, signed=True)
    return (
        f"Sensors: amps {percent} % and {format_amps(sensor.amps_offset_a, 2)}, volts"
        f" {format_volts(sensor.volts_offset_v)}, taken out of its logs; by {', '.join(sensor.flights)}."
    )
