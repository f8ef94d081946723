"""The balance lead pin by pin: what to expect at each, a place for what was read, and what the readings say."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from wise_cellar.core.build.taps import Diagnosis, diagnose
from wise_cellar.core.build.wiring import Against, Readings, expected
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import QuantityError, format_number, format_volts, parse_typed, unit_of_field
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import note, paragraph
from wise_cellar.ui.widgets.picture import Picture
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.tick_box import TickBox

VOLTS = unit_of_field("reading_v")
PIN, PLUG_HIGH, WIRE = 40.0, 34.0, 44.0
MOST_IN_ONE_COLUMN = 7
CAUTION = (
    "Read before anything is plugged in: a probe that slips shorts two neighbours. One wire is cut and joined at a"
    " time, the others insulated."
)


class PlugPicture(Picture):
    """The plug with its pins in their order, black at the most negative; from the pins' side or the wires'."""

    def __init__(self) -> None:
        super().__init__("The balance plug")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.volts: tuple[float, ...] = ()
        self.mirrored = False
        self._wrong: frozenset[int] = frozenset()

    def show_plug(self, volts: Sequence[float], wrong: Sequence[int], *, mirrored: bool) -> None:
        """Expected volts of every pin over the first, the pins that something is wrong with, and the side."""
        self.volts, self._wrong, self.mirrored = tuple(volts), frozenset(wrong), mirrored
        told = [
            f"pin {place} {format_volts(volts)}{', wrong' if place - 1 in self._wrong else ''}"
            for place, volts in enumerate(self.volts, 1)
        ]
        self.tell(", ".join(told), told)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """One row of pins."""
        return QSize(int(PIN * max(len(self.volts), 3)) + 40, int(PLUG_HIGH + WIRE) + 24)

    def minimumSizeHint(self) -> QSize:
        """As high, and as narrow as may be."""
        return QSize(200, self.sizeHint().height())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Plug, pins, wires."""
        if not self.volts:
            return
        colours, painter = colours_of(self), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pins = len(self.volts)
        pin = min(PIN, (self.width() - 20) / pins)
        painter.setPen(QPen(colours.colour("faint"), 1.4))
        painter.setBrush(colours.colour("ground"))
        painter.drawRoundedRect(QRectF(10, 10, pin * pins, PLUG_HIGH), 3, 3)
        painter.setFont(font(11.5))
        for place, volts in enumerate(self.volts):
            at = pins - 1 - place if self.mirrored else place
            x = 10 + at * pin
            ends = {0: "ink", pins - 1: "brick"}
            wrong = place in self._wrong
            painter.setPen(QPen(colours.colour("ochre" if wrong else ends.get(place, "faint")), 3.0 if wrong else 2.0))
            painter.drawLine(int(x + pin / 2), int(10 + PLUG_HIGH), int(x + pin / 2), int(10 + PLUG_HIGH + WIRE - 18))
            painter.setPen(colours.colour("ink"))
            box = QRectF(x, 10, pin, PLUG_HIGH)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{place + 1}{' !' if wrong else ''}")
            painter.setPen(colours.colour("faint"))
            under = QRectF(x - 6, 10 + PLUG_HIGH + WIRE - 18, pin + 12, 18)
            if pin >= 30:
                painter.drawText(under, Qt.AlignmentFlag.AlignCenter, format_number(volts, 1))
        painter.drawText(
            QRectF(18 + pin * pins, 10, 120, PLUG_HIGH), Qt.AlignmentFlag.AlignVCenter,
            "− on the right" if self.mirrored else "− on the left",
        )  # fmt: skip


class TapsPage(QWidget):
    """Fields for the readings of a lead, and what they say as soon as the last one is there."""

    def __init__(self) -> None:
        super().__init__()
        self._of_tray: tuple[float, ...] = ()
        self.found: Diagnosis | None = None
        self._keep: Callable[[int, float | None], None] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(8)
        bar = QHBoxLayout()
        self.against = Segments([str(one) for one in Against], "How the pins are read")
        self.against.chosen.connect(lambda _place: self._show())
        self.side = TickBox("seen from the wires")
        self.side.clicked.connect(lambda _on: self._show())
        bar.addWidget(self.against)
        bar.addStretch(1)
        bar.addWidget(self.side)
        column.addLayout(bar)
        rest = QHBoxLayout()
        self.rest = EntryLine()
        self.rest.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.rest.setMaximumWidth(90)
        self.rest.setAccessibleName("Volts at which a cell rests now")
        self.rest.submitted.connect(self._taker(self.rest))
        rest.addWidget(Label("A cell rests now at"))
        rest.addWidget(self.rest)
        self.rest_words = note("as the tray was read; type what they rest at, where they were charged since")
        rest.addWidget(self.rest_words, 1)
        column.addLayout(rest)
        self.picture = PlugPicture()
        column.addWidget(self.picture)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(4)
        column.addLayout(self._grid)
        self.lines: list[EntryLine] = []
        self._told: list[tuple[Label, Label]] = []
        self.error = note(role="error")
        self.error.hide()
        column.addWidget(self.error)
        self.sentences = Lines(paragraph)
        column.addLayout(self.sentences)
        row = QHBoxLayout()
        self.clear = QPushButton("Clear the readings")
        self.clear.setProperty("role", "quiet")
        self.clear.clicked.connect(self._clear)
        row.addWidget(self.clear)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(note(CAUTION, "caution"))
        column.addStretch(1)

    def show_groups(
        self, group_v: Sequence[float], kept: Mapping[int, float] | None = None,
        keep: Callable[[int, float | None], None] | None = None,
    ) -> None:  # fmt: skip
        """Expect these volts of the groups, from the negative end; readings stay where the count is the same.

        Of a pack that was begun, ``kept`` are its pins' readings against the first, by the pin's place counted from 0,
        and ``keep`` writes one down.
        """
        changed = len(group_v) != len(self._of_tray) or (keep is None) != (self._keep is None)
        self._keep = keep
        self._of_tray = tuple(group_v)
        mean = sum(self._of_tray) / len(self._of_tray)
        self.rest.setPlaceholderText(format_number(mean, 3))
        if changed:
            self._make_lines()
        if kept is not None and self.against.current == 0:
            for place, line in enumerate(self.lines[:-1], 1):
                volts = kept.get(place)
                line.show_text("" if volts is None else format_number(volts, 3))
        self._show()

    @property
    def group_v(self) -> tuple[float, ...]:
        """Volts expected of each group: as it was typed for all of them, else as their cells were read."""
        if not self.rest.text().strip():
            return self._of_tray
        return (parse_typed(self.rest.text(), VOLTS),) * len(self._of_tray)

    def _make_lines(self) -> None:
        for line, (title, told) in zip(self.lines, self._told, strict=True):
            for widget in (line, title, told):
                self._grid.removeWidget(widget)
                widget.deleteLater()
        self.lines, self._told = [], []
        count = len(self._of_tray) + 1
        rows = count if count <= MOST_IN_ONE_COLUMN else -(-count // 2)
        for place in range(count):
            line = EntryLine()
            line.quantity = "volts"
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            line.setMaximumWidth(90)
            line.submitted.connect(self._taker(line))
            title, told = Label(), Label()
            told.setProperty("role", "faint")
            row, side = place % rows, 3 * (place // rows)
            self._grid.addWidget(title, row, side)
            self._grid.addWidget(line, row, side + 1)
            self._grid.addWidget(told, row, side + 2)
            self.lines.append(line)
            self._told.append((title, told))
        self._grid.setColumnStretch(6, 1)

    def show_readings(self, readings: Readings) -> None:
        """Put readings into the lines, as an instrument would."""
        self.against.choose(list(Against).index(readings.against))
        for line, volts in zip(self.lines, (*readings.volts, readings.main_v), strict=True):
            line.accept_shown("" if volts is None else format_number(volts, 3))
        self._show()

    def _taker(self, line: EntryLine) -> Callable[[str], None]:
        def take(text: str) -> None:
            if text.strip():
                try:
                    value: float | None = parse_typed(text, VOLTS)
                except QuantityError as error:
                    self._say(str(error))
                    return
                line.accept_shown("" if value is None else format_number(value, 3))
            else:
                value = None
                line.accept_shown("")
            self._say("")
            self._write_down(line, value)
            self._show()

        return take

    def _write_down(self, line: EntryLine, volts: float | None) -> None:
        """Keep a pin's reading with its pack, where one is shown and the pin was read against the first."""
        pins = self.lines[:-1]
        if self._keep is None or self.against.current != 0 or line not in pins:
            return
        try:
            self._keep(1 + pins.index(line), volts)
        except (DocumentError, WorkspaceError) as error:
            self._say(str(error))

    def _say(self, sentence: str) -> None:
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))

    def _clear(self) -> None:
        for line in self.lines:
            if line.text():
                line.accept_shown("")
                self._write_down(line, None)
        self._say("")
        self._show()

    def _read(self) -> list[float | None]:
        return [parse_typed(line.text(), VOLTS) if line.text().strip() else None for line in self.lines]

    def _show(self) -> None:
        if not self._of_tray:
            return
        against = list(Against)[self.against.current]
        wanted = expected(self.group_v, against)
        for place, ((title, told), line) in enumerate(zip(self._told, self.lines, strict=True)):
            last = place == len(self.lines) - 1
            words = (
                "Main plug, red on positive"
                if last
                else (f"Pin {place + 2} against pin {1 if against is Against.NEGATIVE else place + 1}")
            )
            title.setText(words)
            line.setAccessibleName(words)
            told.setText(f"expect {format_volts(sum(self.group_v) if last else wanted[place])}")
        read = self._read()
        self._diagnose(read, against)
        wrong = (
            []
            if self.found is None or self.found.best.right
            else sorted(
                {pin for fault in self.found.best.faults for pin in (fault.first, fault.second) if fault.kind in PINNED}
            )
        )
        levels = (0.0, *expected(self.group_v))
        self.picture.show_plug(levels, wrong, mirrored=self.side.isChecked())
        self.clear.setVisible(any(value is not None for value in read))

    def _diagnose(self, read: Sequence[float | None], against: Against) -> None:
        self.found = None
        pins, main = read[:-1], read[-1]
        missing = sum(value is None for value in pins)
        if missing:
            words = (
                f"Read all pins, and type what the meter shows: {missing} to go."
                if missing < len(pins)
                else ("Read each pin with a meter, and type what it shows: the readings are judged together.")
            )
            self.sentences.show_lines([Line(words, "faint")])
            return
        try:
            self.found = diagnose(self.group_v, Readings(tuple(float(v) for v in pins if v is not None), against, main))
        except DocumentError as error:
            self.sentences.show_lines([Line(str(error), "error")])
            return
        first, *others = self.found.sentences()
        harm = not self.found.best.right or not self.found.explained
        self.sentences.show_lines(
            [Line(first, "error" if harm else "", 15, strong=True), *(Line(words) for words in others)]
        )


PINNED = ("swap", "miss", "off")
"""Faults that are of one wire or two, which the picture can point to."""
