"""The picture: every design flown, take-off mass across and minutes up, with the edge that nothing beats."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.search import Flown, Growth
from wise_cellar.core.units import format_grams
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import OVER, Plot, from_where
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Dots, Moment, Part, Stroke, Words
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text

SYMBOLS = (
    ("o", "●", "○"), ("s", "■", "□"), ("t1", "▲", "△"), ("d", "◆", "◇"), ("t", "▼", "▽"), ("p", "⬟", "⬠"),
    ("h", "⬢", "⬡"), ("t3", "◀", "◁"),
)  # fmt: skip
"""In the plot, and in its key filled and open: kinds beyond the first eight are open."""
MOST_NAMED = 12
EDGE, UNBEATEN, GROWN, UNDER = "the edge", "beaten by none in every aim", "with more in parallel", "under the margin"
PEAK, ALONE, MOST_MASS = "its peak", "its own battery alone", "the most it may weigh"
REACH_PX = 14.0
FAR, GROWN_FAR = 1.5, 1.7
"""How many times the heaviest that passes is still drawn from the start: of designs, and of the curve to its peak."""
CELL_PX, FEW_DOTS = 3.0, 200
"""Of dots of one kind nearer to each other than this one is drawn, where there are more than few of them."""


@dataclass(frozen=True)
class ShownCloud:
    """What the cloud draws."""

    flown: Flown
    passes: Bools
    edge: Bools
    """Designs that no other beats."""
    stepped: bool
    """Whether the edge is over mass and minutes only, and so is a line."""
    kinds: Ints
    """(rows,) Which kind each design is of."""
    names: tuple[str, ...]
    """Of the kinds."""
    excluded: bool
    """Whether those that break a limit are drawn too."""
    present: tuple[float, float]
    """Take-off mass, g, and minutes."""
    pinned: tuple[float, float] | None
    growth: Growth | None

    @property
    def visible(self) -> Bools:
        """Which designs are drawn."""
        return self.passes | self.excluded


class Cloud(ThemedPlots):
    """``pointed`` brings the place of the design under the pointer, or -1; ``chosen`` of one clicked or walked to;
    ``taken`` of one that shall become the design. The wheel zooms, dragging moves, Home shows all."""

    pointed = pyqtSignal(int)
    chosen = pyqtSignal(int)
    taken = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Designs by take-off mass and minutes")
        self.setToolTip("Left and right walk the edge, Enter takes a design; the wheel zooms, Home shows all")
        self.key = formatted(note())
        self.plot = Plot("g")
        self.plot.left.show_unit("min")
        self.plot.name_axes("In the air", across="take-off mass")
        self.addItem(self.plot, 0, 0)
        self.plot.box.setMouseEnabled(x=True, y=True)
        self.plot.box.setDefaultPadding(0.0)
        self.shown: ShownCloud | None = None
        self.current = -1
        self._zoomed = False
        self._under = -1
        self.plot.box.sigRangeChangedManually.connect(lambda *_: self._note_zoom())
        self.setMouseTracking(True)

    def show_designs(self, shown: ShownCloud) -> None:
        """Draw these designs; a zoom is kept."""
        self.shown = shown
        if self.current >= len(shown.flown):
            self.current = -1
        self.redraw()

    def choose(self, place: int) -> None:
        """Ring a design, saying nothing."""
        self.current = place
        self._draw_ring()

    def show_all(self) -> None:
        """Leave the zoom."""
        self._zoomed = False
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The designs, their edge, and the curve of more in parallel."""
        self.plot.dress(colours)
        shown = self.shown
        if shown is None:
            self.plot.show_parts([])
            self.plot.box.setRange(xRange=(0, 1), yRange=(0, 1), padding=0)
            return
        self._fit_range(shown)
        parts: list[Part] = []
        keys: list[Key] = []
        for add in (self._add_dots, self._add_growth, self._add_edge, self._add_present):
            add(shown, colours, parts, keys)
        self.plot.show_parts(parts)
        self.key.setText(key_text(keys, colours))
        self._draw_ring()

    def _fit_range(self, shown: ShownCloud) -> None:
        if self._zoomed:
            return
        some = shown.visible
        if shown.passes.any():
            # Those far too heavy would press the rest into a corner; the wheel reaches them.
            heaviest = max(float(shown.flown.takeoff_g[shown.passes].max()), shown.present[0])
            some = some & (shown.flown.takeoff_g <= FAR * heaviest)
        mass = np.append(shown.flown.takeoff_g[some], shown.present[0])
        minutes = np.append(shown.flown.duration_s[some] / 60, shown.present[1])
        if shown.growth is not None:
            grown = shown.growth
            near = (np.arange(len(grown.parallel)) <= grown.peak + 1) & (grown.takeoff_g <= GROWN_FAR * mass.max())
            mass, minutes = np.append(mass, grown.takeoff_g[near]), np.append(minutes, grown.minutes[near])
            if grown.alone is not None:
                mass = np.append(mass, grown.alone.takeoff_g)
                minutes = np.append(minutes, grown.alone.duration_s / 60)
        low, high, top = float(mass.min()), float(mass.max()), float(minutes.max())
        room = max(high - low, 0.05 * high) * 0.05
        bottom = from_where(float(minutes.min()), top)
        self.plot.box.setRange(xRange=(low - room, high + room), yRange=(bottom, max(top * 1.06, 1.0)), padding=0,
                           disableAutoRange=True)  # fmt: skip

    def _add_present(self, shown: ShownCloud, colours: Colours, parts: list[Part], keys: list[Key]) -> None:
        parts.append(_mark(*shown.present, "o", 17, Stroke(colours.ink, 2.2), name="this design"))
        keys.append(Key("this design", colours.ink, mark="◯"))
        if shown.pinned is not None:
            parts.append(_mark(*shown.pinned, "d", 17, Stroke(colours.ochre, 2.2), name="pinned"))
            keys.append(Key("pinned", colours.ochre, mark="◇"))

    def _add_dots(self, shown: ShownCloud, colours: Colours, parts: list[Part], keys: list[Key]) -> None:
        flown, minutes = shown.flown, shown.flown.duration_s / 60
        if shown.excluded:
            some = self._thinned(flown.takeoff_g, minutes, np.flatnonzero(~shown.passes))
            thin = Stroke(f"#70{colours.faint[1:]}", 0.8)
            parts.append(Dots(flown.takeoff_g[some], minutes[some], "x", 4, thin, name="excluded"))
        for kind, name in enumerate(shown.names):
            mine = np.flatnonzero(shown.passes & (shown.kinds == kind))
            if not len(mine):
                continue
            colour = colours.series[kind % len(colours.series)]
            symbol, *marks = SYMBOLS[kind % len(SYMBOLS)]
            is_open = kind // len(SYMBOLS) % 2
            some = self._thinned(flown.takeoff_g, minutes, mine)
            rim = Stroke(colour, 1.6) if is_open else Stroke(colours.sheet, 0.6)
            fill = "" if is_open else colour
            parts.append(Dots(flown.takeoff_g[some], minutes[some], symbol, 7, rim, fill, name))
            if len(keys) < MOST_NAMED:
                keys.append(Key(name, colour, mark=marks[is_open]))
        if shown.excluded:
            keys.append(Key("excluded", colours.faint, mark="×"))

    def _thinned(self, mass: Floats, minutes: Floats, some: Ints) -> Ints:
        """Of many dots that would lie on each other only one."""
        if len(some) <= FEW_DOTS:
            return some
        box = self.plot.box.viewRange()
        wide, high = max(self.width(), 100) / CELL_PX, max(self.height(), 100) / CELL_PX
        across = np.round((mass[some] - box[0][0]) / max(box[0][1] - box[0][0], 1e-9) * wide)
        up = np.round((minutes[some] - box[1][0]) / max(box[1][1] - box[1][0], 1e-9) * high)
        _, first = np.unique(np.stack([across, up], axis=1), axis=0, return_index=True)
        return np.asarray(some[first])

    def _add_edge(self, shown: ShownCloud, colours: Colours, parts: list[Part], keys: list[Key]) -> None:
        order = self._edge_order()
        if not len(order):
            return
        mass, minutes = shown.flown.takeoff_g[order], shown.flown.duration_s[order] / 60
        if shown.stepped:
            parts.append(Curve(np.repeat(mass, 2)[1:], np.repeat(minutes, 2)[:-1], Stroke(colours.ink, 1.4), EDGE))
            keys.append(Key(EDGE, colours.ink))
        else:
            some = self._thinned(shown.flown.takeoff_g, shown.flown.duration_s / 60, order)
            flown = shown.flown
            ring = Stroke(colours.ink, 1.2)
            parts.append(Dots(flown.takeoff_g[some], flown.duration_s[some] / 60, "o", 11, ring, name=UNBEATEN))
            keys.append(Key(UNBEATEN, colours.ink, mark="○"))

    def _add_growth(self, shown: ShownCloud, colours: Colours, parts: list[Part], keys: list[Key]) -> None:
        grown = shown.growth
        if grown is None:
            return
        handles = grown.handles
        good = 0 if handles is None else handles + 1
        parts.append(Curve(grown.takeoff_g[:good], grown.minutes[:good], Stroke(colours.faint, 1.6, DASHED), GROWN))
        past = max(good - 1, 0)
        parts.append(Curve(grown.takeoff_g[past:], grown.minutes[past:], Stroke(colours.brick, 1.6, DOTTED), UNDER))
        peak = grown.peak
        highest = float(grown.takeoff_g[peak]), float(grown.minutes[peak])
        parts.append(_mark(*highest, "star", 13, Stroke(colours.ink, 1.0), colours.ochre, PEAK))
        parts += [
            Words(f"{count}P", float(mass), float(minutes), colours.faint, f"#c0{colours.sheet[1:]}")
            for count, mass, minutes in zip(grown.parallel, grown.takeoff_g, grown.minutes, strict=True)
        ]
        if grown.alone is not None:
            bare = grown.alone
            parts.append(Dots(bare.takeoff_g, bare.duration_s / 60, "s", 13, Stroke(colours.ink, 1.8), name=ALONE))
            keys.append(Key(ALONE, colours.ink, mark="□"))
        if grown.class_g is not None:
            most = f"{format_grams(grown.class_g)}, the most it may weigh"
            parts.append(Moment(grown.class_g, Stroke(colours.ochre, 1.2, DASHED), MOST_MASS))
            keys.append(Key(most, colours.ochre, DASHED))
        keys.append(Key(GROWN, colours.faint, DASHED))
        keys.append(Key(UNDER, colours.brick, DOTTED))
        keys.append(Key(PEAK, colours.ochre, mark="★"))

    def _draw_ring(self) -> None:
        ring: list[Part] = []
        if self.shown is not None and 0 <= self.current < len(self.shown.flown):
            flown, place = self.shown.flown, self.current
            at = float(flown.takeoff_g[place]), float(flown.duration_s[place] / 60)
            ring.append(_mark(*at, "o", 15, Stroke(colours_of(self).verdigris, 2.6)))
        self.plot.show_parts(ring, OVER)

    def _edge_order(self) -> Ints:
        """Places of the edge, lightest first."""
        assert self.shown is not None
        edge = np.flatnonzero(self.shown.edge)
        return np.asarray(edge[np.argsort(self.shown.flown.takeoff_g[edge], kind="stable")])

    def nearest(self, position: QPointF) -> int:
        """Place of the drawn design nearest to a point of this widget, within reach; else -1."""
        shown = self.shown
        if shown is None or not len(shown.flown):
            return -1
        box = self.plot.box
        at = box.mapSceneToView(self.mapToScene(position.toPoint()))
        per_x, per_y = box.viewPixelSize()
        away = np.hypot((shown.flown.takeoff_g - at.x()) / per_x, (shown.flown.duration_s / 60 - at.y()) / per_y)
        away = np.where(shown.visible, away, np.inf)
        place = int(np.argmin(away))
        return place if away[place] <= REACH_PX else -1

    def _note_zoom(self) -> None:
        self._zoomed = True

    def _pick(self, place: int) -> None:
        self.choose(place)
        self.chosen.emit(place)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Tell what is under the pointer."""
        super().mouseMoveEvent(event)
        if event is not None and not event.buttons():
            place = self.nearest(event.position())
            if place != self._under:
                self._under = place
                self.pointed.emit(place)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Choose what was clicked."""
        super().mouseReleaseEvent(event)
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            place = self.nearest(event.position())
            if place >= 0:
                self._pick(place)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Take what was clicked twice."""
        super().mouseDoubleClickEvent(event)
        if event is not None:
            place = self.nearest(event.position())
            if place >= 0:
                self.taken.emit(place)

    def own_key(self, event: QKeyEvent) -> bool:
        """Left and right walk the edge, Enter takes, Home shows all, plus and minus zoom."""
        if self.shown is None:
            return False
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._walk(1 if key == Qt.Key.Key_Right else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current >= 0:
            self.taken.emit(self.current)
        elif key == Qt.Key.Key_Home:
            self.show_all()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Equal):
            self._zoomed = True
            factor = 1.25 if key == Qt.Key.Key_Minus else 0.8
            self.plot.box.scaleBy((factor, factor))
        else:
            return False
        return True

    def _walk(self, step: int) -> None:
        order = self._edge_order()
        if not len(order):
            return
        assert self.shown is not None
        at = np.flatnonzero(order == self.current)
        if len(at):
            place = int(np.clip(at[0] + step, 0, len(order) - 1))
        else:
            mass = self.shown.flown.takeoff_g
            start = mass[self.current] if self.current >= 0 else self.shown.present[0]
            place = int(np.argmin(np.abs(mass[order] - start)))
        self._pick(int(order[place]))


def _mark(
    mass_g: float, minutes: float, symbol: str, size: float, stroke: Stroke, fill: str = "", name: str = ""
) -> Dots:
    """One dot by itself."""
    return Dots(np.array([mass_g]), np.array([minutes]), symbol, size, stroke, fill, name)
