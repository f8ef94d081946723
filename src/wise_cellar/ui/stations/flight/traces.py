"""The picture of the Flight station: the mission strip and four traces over one time axis, with a cursor."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from wise_cellar.core.answer import Answer, Series
from wise_cellar.core.documents import BlockKind, LandingBasis
from wise_cellar.core.units import (
    format_amps,
    format_celsius,
    format_minutes,
    format_number,
    format_share,
    format_volts,
)
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.flight.block_strip import BlockStrip, Span, spans
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import BEHIND, OVER, Plot
from wise_cellar.ui.widgets.plot_grid import Quantity
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Band, Curve, Level, Moment, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text, title_text

BAND_ALPHA = 46
BEYOND_END = 1.08
"""Room after the end for flights of the band that last longer."""
EDGE = 5.0
"""Pixels to an edge of a block within which it can be pulled."""
QUANTITIES = (
    Quantity("Volts a cell"),
    Quantity("Amps, whole pack"),
    Quantity("Throttle", "%"),
    Quantity("Cells", "°C"),
)

STRETCH = (46, 18, 16, 20)
"""How the room is parted between them."""


class Traces(ThemedPlots):
    """Mission strip and traces. The cursor follows the pointer and the left and right keys."""

    cursor_moved = pyqtSignal(float)
    block_chosen = pyqtSignal(int)
    length_asked = pyqtSignal(int, float)
    """A block, and the seconds that it is to last."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Flight over time; left and right move the cursor")
        self.key = formatted(note())
        self.selected_block = 0
        self.cursor_s = 0.0
        self._parked = True
        self._pulled: tuple[Span, float] | None = None
        self.viewport().setMouseTracking(True)
        layout = self.ci.layout
        layout.setVerticalSpacing(1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.strip = Plot()
        self.addItem(self.strip, 0, 0)
        self.strip.bottom.hide()
        self.strip.left.setStyle(showValues=False)
        self.strip.left.setGrid(False)
        self.strip.setFixedHeight(32)
        self.strip.box.setYRange(0, 1, padding=0)
        self._blocks = BlockStrip()
        self.strip.box.addItem(self._blocks)
        self._titles, self.plots = [], []
        for place, (stretch, quantity) in enumerate(zip(STRETCH, QUANTITIES, strict=True)):
            title = self.addLabel("", 1 + 2 * place, 0, justify="left")
            title.item.document().setDocumentMargin(1)  # the toolkit's own costs the traces a fifth of a low window
            self._titles.append(title)
            plot = Plot("min")
            plot.left.show_unit(quantity.unit, told=True)
            plot.name_axes(quantity.name)
            self.addItem(plot, 2 + 2 * place, 0)
            layout.setRowPreferredHeight(2 + 2 * place, 5.0 * stretch)
            layout.setRowStretchFactor(2 + 2 * place, stretch)
            plot.box.setXLink(self.strip.box)
            plot.bottom.setStyle(autoExpandTextSpace=False)
            if place < 3:
                plot.bottom.setStyle(showValues=False)
                plot.bottom.setHeight(2)
            self.plots.append(plot)
        self.scene().sigMouseMoved.connect(self._pointer)
        self.scene().sigMouseClicked.connect(self._clicked)

    @property
    def series(self) -> Series:
        """What is drawn."""
        return self._session.answer.series

    @property
    def end_s(self) -> float:
        """The end of the flight, pauses included."""
        return float(self.series.time_s[-1])

    def draw(self, colours: Colours) -> None:
        """The present flight."""
        answer, complete = self._session.answer, self._session.complete
        series, minutes = answer.series, answer.series.time_s / 60
        flown = spans(self._session)
        for plot in (self.strip, *self.plots):
            plot.dress(colours)
        self.strip.left.setPen(Stroke(colours.sheet).pen())
        self._blocks.show_blocks(flown, self.selected_block, colours)
        c = colours.series
        volts, amps, throttle, heat = self.plots
        landing, least = complete.landing_voltage_v, max(p.cell.min_voltage_v for p in complete.packs)
        rule = complete.design.landing
        by_volts = rule.basis in (LandingBasis.LOADED, LandingBasis.BURSTS)
        landing = rule.burst_voltage_v if rule.basis is LandingBasis.BURSTS else landing
        uneven = [pack for pack in answer.packs if pack.weakest_words]
        over, events = Stroke(colours.brick, 1.2, DASHED), self._events(colours, flown)
        volts.show_parts([
            *([Level(landing, Stroke(colours.ochre, 1.2, DASHED), "landing at")] if by_volts else []),
            Level(least, over, "minimum"),
            Curve(minutes, series.resting_v, Stroke(colours.faint, 1.4, DASHED), "at rest"),
            Curve(minutes, series.punch_v, Stroke(c[4], 1.6, DOTTED), "if full throttle came now"),
            Curve(minutes, series.loaded_v, Stroke(c[0], 2.2), "under load"),
            self._rebound(answer, c[0]),
            *(Curve(minutes, pack.series.cell_v, Stroke(c[1], 1.8, DASHED), pack.weakest_words) for pack in uneven),
            *events,
        ])  # fmt: skip
        amps.show_parts([Curve(minutes, series.pack_a, Stroke(c[1]), "current"), *events])
        throttle.show_parts([Curve(minutes, series.throttle * 100, Stroke(c[2]), "throttle"), *events])
        hottest = min(pack.cell.max_temperature_c for pack in complete.packs)
        warmth = Curve(minutes, series.temperature_c, Stroke(c[3]), "hottest cell")
        heat.show_parts([warmth, Level(hottest, over, "most it may be"), *events])
        keys = [
            Key("under load, then at rest", c[0]),
            Key("at rest", colours.faint, DASHED),
            Key("if full throttle came now", c[4], DOTTED),
            *(Key(f"{pack.weakest_words}, the weakest, under load", c[1], DASHED) for pack in uneven),
            *([Key(f"landing {format_number(landing, 2)}", colours.ochre, DASHED)] if by_volts else []),
            Key(f"minimum {format_number(least, 2)}", colours.brick, DASHED),
            Key("landing begins, flight ends", colours.ink, DOTTED),
        ]
        self.key.setText(key_text(keys, colours))
        for label, quantity in zip(self._titles, QUANTITIES, strict=True):
            if label.text != title_text(quantity.title, colours):
                label.setText(title_text(quantity.title, colours), justify="left")
        weakest = min((float(pack.series.cell_v.min()) for pack in uneven), default=least)
        low = min(float(series.punch_v.min()), float(series.loaded_v.min()), least, weakest) - 0.1
        high = max(float(series.resting_v.max()), landing) + 0.06
        volts.box.setYRange(max(low, 0), high, padding=0)
        amps.box.setYRange(0, max(float(series.pack_a.max()) * 1.08, 1), padding=0)
        throttle.box.setYRange(0, 106, padding=0)
        self.strip.box.setXRange(0, max(self.end_s / 60 * BEYOND_END, 0.05), padding=0)
        self._shade(colours)
        self.move_cursor(0.75 * self.end_s if self._parked else min(self.cursor_s, self.end_s))

    def _rebound(self, answer: Answer, colour: str) -> Curve:
        """The volts of cells that rest, from the end of the flight on."""
        seconds, volts = answer.rebound
        seen = np.append(seconds[seconds < (BEYOND_END - 1) * self.end_s], (BEYOND_END - 1) * self.end_s)
        return Curve((self.end_s + seen) / 60, np.interp(seen, seconds, volts), Stroke(colour, 1.4, DASHED))

    def _fit_heat(self) -> None:
        """The scale of the warmth holds the flight, and the range about it once that has come."""
        spread, flown = self._session.spread, self._session.answer.series.temperature_c
        every = flown if spread is None else np.concatenate([flown, spread.bands.temperature_c.ravel()])
        low, high = min(float(np.nanmin(every)) - 2, 10.0), max(float(np.nanmax(every)) * 1.05, 40.0)
        self.plots[-1].box.setYRange(low, high, padding=0)

    def show_range(self) -> None:
        """Shade the range that has come."""
        if self.isVisible():
            self._shade(colours_of(self))
        else:
            self.redraw()

    def _shade(self, colours: Colours) -> None:
        """Shade what 8 of 10 flights do, behind the traces; nothing before their range has come.

        Amps and throttle are shaded to the end of this flight only: beyond it they jump whenever one of the few flights
        that go on begins to land.
        """
        self._fit_heat()
        volts, amps, throttle, heat = self.plots
        if self._session.spread is None:
            for plot in self.plots:
                plot.show_parts([], BEHIND)
            return
        bands = self._session.spread.bands
        minutes = bands.time_s / 60
        last = max(int(np.searchsorted(bands.time_s, self.end_s)), 2)
        for plot, values, colour in (
            (volts, bands.loaded_v, colours.series[0]),
            (amps, bands.pack_a[:, :last], colours.series[1]),
            (throttle, 100 * bands.throttle[:, :last], colours.series[2]),
            (heat, bands.temperature_c, colours.series[3]),
        ):
            low, high = values
            plot.show_parts([Band(minutes[: len(low)], low, high, colour, BAND_ALPHA)], BEHIND)

    def _events(self, colours: Colours, flown: list[Span]) -> list[Part]:
        """Dotted lines where the landing begins and where the flight ends."""
        landings = [span.start_s for span in flown if span.kind is BlockKind.LANDING]
        return [Moment(second / 60, Stroke(colours.ink, 1.0, DOTTED)) for second in (*landings[:1], self.end_s)]

    def move_cursor(self, second: float) -> None:
        """Put the cursor at a time of the flight."""
        self.cursor_s = float(np.clip(second, 0, self.end_s))
        line = Stroke(colours_of(self).ink, 1.2)
        for plot in (self.strip, *self.plots):
            plot.show_parts([Moment(self.cursor_s / 60, line)], OVER)
        self.say(self._read())
        self.cursor_moved.emit(self.cursor_s)

    def _read(self) -> str:
        """What the cursor reads."""
        series = self.series
        at = min(int(np.searchsorted(series.time_s, self.cursor_s)), len(series.time_s) - 1)
        read = (
            f"{format_volts(float(series.loaded_v[at]))} a cell under load", format_amps(float(series.pack_a[at])),
            f"throttle {format_share(float(series.throttle[at]))}", format_celsius(float(series.temperature_c[at])),
        )  # fmt: skip
        return f"Cursor at {format_minutes(self.cursor_s)}: {', '.join(read)}."

    def own_key(self, event: QKeyEvent) -> bool:
        """Left and right by a hundredth of the flight, with Shift by a tenth; Home and End to its ends."""
        duration = self.end_s
        step = duration / (10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 100)
        moves = {Qt.Key.Key_Left: self.cursor_s - step, Qt.Key.Key_Right: self.cursor_s + step,
                 Qt.Key.Key_Home: 0.0, Qt.Key.Key_End: duration}  # fmt: skip
        wanted = moves.get(Qt.Key(event.key()))
        if wanted is None:
            return False
        self._parked = False
        self.move_cursor(wanted)
        return True

    def select_block(self, block: int) -> None:
        """Mark a block of the strip."""
        self.selected_block = block
        self._blocks.show_blocks(spans(self._session), block, colours_of(self))

    # Pulling the edges of blocks

    def edge_at(self, scene_point: QPointF) -> Span | None:
        """The span whose end lies under a point of the strip, and can be pulled: the first of a block of fixed
        length."""
        if not self.strip.sceneBoundingRect().contains(scene_point):
            return None
        blocks, seen = self._session.complete.mission.blocks, set[int]()
        found: list[tuple[float, Span]] = []
        for span in spans(self._session):
            away = abs(self.strip_x(span.end_s) - scene_point.x())
            if span.block not in seen and blocks[span.block].duration_s is not None and away <= EDGE:
                found.append((away, span))
            seen.add(span.block)
        return min(found, key=lambda each: each[0])[1] if found else None

    def strip_x(self, second: float) -> float:
        """Where a time of the flight lies on the scene."""
        return float(self.strip.box.mapViewToScene(QPointF(second / 60, 0.5)).x())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take hold of an edge."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            span = self.edge_at(self.mapToScene(event.pos()))
            if span is not None:
                self._pulled = (span, span.end_s)
                return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Pull an edge; over one, the pointer says that it can be pulled."""
        if event is None:
            return
        point = self.mapToScene(event.pos())
        if self._pulled is not None:
            second = float(self.strip.box.mapSceneToView(point).x()) * 60
            self._pulled = (self._pulled[0], second)
            self.move_cursor(second)
            return
        shape = Qt.CursorShape.SplitHCursor if self.edge_at(point) is not None else Qt.CursorShape.ArrowCursor
        self.viewport().setCursor(shape)
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let the edge go: whole seconds, five at a time in longer blocks."""
        if self._pulled is None:
            super().mouseReleaseEvent(event)
            return
        (span, second), self._pulled = self._pulled, None
        wanted = second - span.start_s
        grain = 5 if wanted > 120 else 1
        if abs(second - span.end_s) > 0.5:
            self.length_asked.emit(span.block, float(max(round(wanted / grain) * grain, 1)))

    def _second_at(self, scene_point: QPointF) -> float | None:
        view = self.plots[0].box
        left = view.sceneBoundingRect()
        if not left.left() <= scene_point.x() <= left.right():
            return None
        return float(view.mapSceneToView(scene_point).x()) * 60

    def _pointer(self, scene_point: QPointF) -> None:
        second = self._second_at(scene_point)
        if second is not None:
            self._parked = False
            self.move_cursor(second)

    def _clicked(self, event: object) -> None:
        point = event.scenePos()  # type: ignore[attr-defined]
        second = self._second_at(point)
        if second is None or not self.strip.sceneBoundingRect().contains(point):
            return
        for span in spans(self._session):
            if span.start_s <= second <= span.end_s:
                self.block_chosen.emit(span.block)
