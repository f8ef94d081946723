"""The picture of a bus: packs at the left, each a stream as wide as its current, that flow together to the craft."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.answer import Answer
from wise_cellar.core.answer.result import weakest
from wise_cellar.core.units import (
    format_amps,
    format_celsius,
    format_minutes,
    format_share,
    format_volts,
)
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.hatching import hatch
from wise_cellar.ui.widgets.picture import Picture

BLOCK, CRAFT, GAP, EDGE, HIGH = 316.0, 160.0, 8.0, 6.0, 84
LEAST_STREAM, WIDEST_SHARE = 2.0, 0.62
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class _Stream:
    """One pack at the moment that is shown."""

    name: str
    made: str
    state: str
    amps: float
    share: float
    link: str
    over: bool


class Confluence(Picture):
    """``chosen`` brings the pack that was clicked or walked to; up and down walk, left and right move in time."""

    chosen = pyqtSignal(int)
    stepped = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__("Packs on the bus and what each gives")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip("Up and down choose a pack, left and right move in time")
        self.current = 0
        self.streams: tuple[_Stream, ...] = ()
        self._bus = ""
        self._volts = ""
        self._when = ""

    def sizeHint(self) -> QSize:
        """A block for each pack."""
        return QSize(600, 24 + HIGH * max(len(self.streams), 2))

    def show_moment(self, answer: Answer, second: float) -> None:
        """Show what every pack gives at a time."""
        series, streams = answer.series, []
        total = series.at(series.pack_a, second)
        for place, pack in enumerate(answer.packs):
            own, recipe = pack.series, pack.build.recipe
            amps = series.at(own.amps, second)
            weak = weakest([link for link in answer.links if link.pack == place])
            label = weak.name.split(": ", 1)[-1]
            made = pack.complete.cell.name
            if not pack.complete.cell.whole_pack:
                made = f"{recipe.series_count}S {recipe.parallel_count}P of {made}"
            state = (
                f"{format_volts(series.at(own.cell_v, second))} under load,"
                f" {format_share(series.at(own.soc, second))} left,"
                f" {format_celsius(series.at(own.temperature_c, second))}"
            )
            streams.append(
                _Stream(
                    pack.complete.name,
                    made,
                    state,
                    amps,
                    amps / total if total > 0 else 0.0,
                    f"{label}, {format_share(weak.worst_share)}",
                    weak.worst_share > 1,
                )
            )
        self.streams = tuple(streams)
        self.current = min(self.current, len(streams) - 1)
        self._bus, self._volts = (
            format_amps(total),
            f"{format_volts(series.at(series.loaded_v, second))} a cell",
        )
        self._when = f"At {format_minutes(second)}"
        self.tell(f"{self._when}: " + "; ".join(f"{s.name} {format_amps(s.amps)}" for s in streams))
        self._read_current()
        self.setFixedHeight(self.sizeHint().height())
        self.update()

    def choose(self, place: int) -> None:
        """Mark a pack, saying nothing."""
        self.current = place
        self._read_current()
        self.update()

    def _read_current(self) -> None:
        """Say what the marked pack is and does."""
        if self.streams:
            one = self.streams[self.current]
            self.read(f"{one.name}, {one.made}: {format_amps(one.amps)}, {one.state}.")

    # Drawing

    def _boxes(self) -> list[QRectF]:
        """The blocks of the packs, from the top."""
        count = max(len(self.streams), 1)
        high = (self.height() - 24 - GAP * (count - 1)) / count
        return [QRectF(1, 23 + place * (high + GAP), BLOCK, high) for place in range(len(self.streams))]

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Blocks, streams, the bus, and what it feeds."""
        if not self.streams:
            return
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(13, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QRectF(0, 0, self.width(), 18), LEFT, self._when)
        boxes, bus_x = self._boxes(), self.width() - CRAFT
        for place, (box, stream) in enumerate(zip(boxes, self.streams, strict=True)):
            self._draw_block(painter, colours, box, stream, place)
        whole = sum(abs(stream.amps) for stream in self.streams) or 1.0
        room = (self.height() - 24) * WIDEST_SHARE
        widths = [max(abs(stream.amps) / whole * room, LEAST_STREAM) for stream in self.streams]
        top = 23 + (self.height() - 24 - sum(widths)) / 2
        painter.fillRect(QRectF(bus_x - 2, top - 8, 4, sum(widths) + 16), colours.colour("ink"))
        y = top
        for place, (box, stream, width) in enumerate(zip(boxes, self.streams, widths, strict=True)):
            colour = QColor(colours.series[place % len(colours.series)])
            self._draw_stream(painter, box, bus_x, y + width / 2, width, stream.amps, colour)
            y += width
        self._draw_craft(painter, colours, bus_x, top, sum(widths))

    def _draw_block(self, painter: QPainter, colours: Colours, box: QRectF, stream: _Stream, place: int) -> None:
        chosen = place == self.current
        edge = colours.colour("verdigris" if chosen else "rule")
        painter.setPen(QPen(edge, 2.0 if chosen and self.hasFocus() else 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        painter.fillRect(QRectF(box.right() - EDGE, box.top() + 1, EDGE - 1, box.height() - 2),
                         QColor(colours.series[place % len(colours.series)]))  # fmt: skip
        line = 16.0
        top = box.top() + (box.height() - 4 * line) / 2
        lines = (
            (stream.name, 13.0, "ink"), (stream.made, 11.5, "ink"), (stream.state, 11.5, "faint"),
            (f"weakest: {stream.link}", 11.5, "brick" if stream.over else "faint"),
        )  # fmt: skip
        for number, (text, size, role) in enumerate(lines):
            painter.setFont(font(size, strong=number == 0))
            painter.setPen(colours.colour(role))
            # The first two lines leave room for the amps at the right.
            room = box.width() - 18 - EDGE - (96 if number < 2 else 0)
            words = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room))
            painter.drawText(QRectF(box.left() + 9, top + number * line, room, line), LEFT, words)
        right = QRectF(box.right() - EDGE - 104, top, 96, line)
        painter.setFont(font(15, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(right.translated(0, 1), RIGHT, format_amps(abs(stream.amps)))
        painter.setFont(font(11.5))
        painter.setPen(colours.colour("faint"))
        words = "taken, ◂" if stream.amps < 0 else format_share(stream.share)
        painter.drawText(right.translated(0, line + 1), RIGHT, words)

    def _draw_stream(
        self, painter: QPainter, box: QRectF, bus_x: float, y: float, width: float, amps: float, colour: QColor
    ) -> None:
        x0, y0, half = box.right(), box.center().y(), width / 2
        bend = (bus_x - x0) * 0.5
        path = QPainterPath(QPointF(x0, y0 - half))
        path.cubicTo(QPointF(x0 + bend, y0 - half), QPointF(bus_x - bend, y - half), QPointF(bus_x - 2, y - half))
        path.lineTo(QPointF(bus_x - 2, y + half))
        path.cubicTo(QPointF(bus_x - bend, y + half), QPointF(x0 + bend, y0 + half), QPointF(x0, y0 + half))
        path.closeSubpath()
        if amps < 0:
            hatch(painter, path, colour)
            return
        fill = QColor(colour)
        fill.setAlpha(90)
        painter.fillPath(path, fill)
        painter.strokePath(path, QPen(colour, 1.0))

    def _draw_craft(self, painter: QPainter, colours: Colours, bus_x: float, top: float, width: float) -> None:
        fill = colours.colour("rule")
        painter.fillRect(QRectF(bus_x + 2, top, 40, width), fill)
        point = QPainterPath(QPointF(bus_x + 42, top - 5))
        point.lineTo(QPointF(bus_x + 54, top + width / 2))
        point.lineTo(QPointF(bus_x + 42, top + width + 5))
        point.closeSubpath()
        painter.fillPath(point, fill)
        middle = top + width / 2
        painter.setFont(font(15, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QRectF(bus_x + 62, middle - 27, CRAFT - 62, 20), LEFT, self._bus)
        painter.setFont(font(11.5))
        painter.drawText(QRectF(bus_x + 62, middle - 7, CRAFT - 62, 16), LEFT, self._volts)
        painter.setPen(colours.colour("faint"))
        painter.drawText(QRectF(bus_x + 62, middle + 9, CRAFT - 62, 16), LEFT, "to the craft")

    # Choosing

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the block under the pointer."""
        if event is None:
            return
        for place, box in enumerate(self._boxes()):
            if box.contains(event.position()):
                self._pick(place)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down choose a pack; left and right move in time."""
        if event is None:
            return
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if key == Qt.Key.Key_Down else -1
            self._pick(min(max(self.current + step, 0), len(self.streams) - 1))
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.stepped.emit(1 if key == Qt.Key.Key_Right else -1)
        else:
            super().keyPressEvent(event)

    def _pick(self, place: int) -> None:
        self.choose(place)
        self.chosen.emit(place)
