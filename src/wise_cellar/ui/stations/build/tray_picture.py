"""Every measured cell as a dot, capacity across and resistance up; the groups of a pack joined by lines."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.build import Fate, JudgedCell, Tray
from wise_cellar.core.documents import NumberedCell
from wise_cellar.core.physics.arrays import Bools, Floats
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import OVER, Plot
from wise_cellar.ui.widgets.plot_parts import Curve, Dots, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text, title_text

REACH_PX = 14.0
MARKS = {Fate.USE: ("o", "●", "used"), Fate.APART: ("d", "◆", "used apart"), Fate.NEVER: ("x", "×", "not used")}
EMPTY = "Type a capacity and a resistance beside two cells: each is a dot here then."


class TrayPicture(ThemedPlots):
    """``pointed`` brings the place of the cell that was clicked."""

    pointed = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setAccessibleName("Cells of the tray by capacity and resistance")
        self.key = formatted(note())
        self.tray: Tray | None = None
        self.groups: tuple[tuple[NumberedCell, ...], ...] = ()
        self.chosen = -1

    def lay_out(self) -> None:
        """One plot."""
        self.plot = Plot("mAh")
        self.plot.name_axes("Resistance", "mΩ")
        self.addItem(self.plot, 0, 0)

    def show_tray(self, tray: Tray, groups: Sequence[Sequence[NumberedCell]] = ()) -> None:
        """Draw these cells, and the groups that they lie in."""
        self.tray, self.groups = tray, tuple(tuple(group) for group in groups)
        self.redraw()

    def choose(self, place: int) -> None:
        """Ring a cell."""
        self.chosen = place
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """Dots by verdict, lines from every cell of a group to its middle."""
        self.plot.dress(colours)
        self.plot.show_title(title_text("Resistance, mΩ", colours))
        cells = self.tray.cells if self.tray is not None else ()
        at = _places(cells)
        there: Bools = np.asarray(np.isfinite(at).all(axis=1))
        self.plot.show_empty(there.sum() < 2)
        if there.sum() < 2:
            self.key.setText(EMPTY)
            return
        parts: list[Part] = [*self._lines(colours)]
        keys: list[Key] = []
        for fate, colour in ((Fate.USE, colours.verdigris), (Fate.APART, colours.ochre), (Fate.NEVER, colours.brick)):
            some: Bools = np.array([one.fate is fate for one in cells]) & there
            if some.any():
                symbol, mark, words = MARKS[fate]
                parts.append(Dots(at[some, 0], at[some, 1], symbol, 9, Stroke(colours.sheet, 0.8), colour, words))
                keys.append(Key(f"{int(some.sum())} {words}", colour, mark=mark))
        self.plot.show_parts(parts)
        ring: list[Part] = []
        if 0 <= self.chosen < len(cells) and there[self.chosen]:
            x, y = at[self.chosen]
            ring.append(Dots(np.array([x]), np.array([y]), "o", 17, Stroke(colours.ink, 2.0)))
        self.plot.show_parts(ring, OVER)
        sound: Bools = np.array([one.fate is not Fate.NEVER for one in cells]) & there
        seen = at[sound if sound.sum() >= 2 else there]
        low, high = seen.min(axis=0), seen.max(axis=0)
        room = np.maximum((high - low) * 0.08, np.array([10.0, 0.2]))
        beyond = int((there & ~np.all((at >= low - room) & (at <= high + room), axis=1)).sum())
        if beyond:
            keys.append(Key(f"{beyond} beyond the picture", colours.faint, mark="→"))
        if self.groups:
            keys.append(Key("a group", colours.faint))
        self.key.setText(key_text(keys, colours))
        self.plot.box.setRange(
            xRange=(low[0] - room[0], high[0] + room[0]), yRange=(low[1] - room[1], high[1] + room[1]), padding=0,
            disableAutoRange=True,
        )  # fmt: skip

    def _lines(self, colours: Colours) -> list[Part]:
        lines: list[Part] = []
        for group in self.groups:
            at = np.array([_place(cell) for cell in group])
            at = at[np.isfinite(at).all(axis=1)]
            if len(at) < 2:
                continue
            star = np.repeat(at, 2, axis=0)
            star[1::2] = at.mean(axis=0)
            lines.append(Curve(star[:, 0], star[:, 1], Stroke(colours.faint, 1.0)))
        return lines

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the dot under the pointer."""
        super().mousePressEvent(event)
        if event is None or event.button() != Qt.MouseButton.LeftButton or self.tray is None:
            return
        place = self.nearest(event.position())
        if place >= 0:
            self.pointed.emit(place)

    def nearest(self, position: QPointF) -> int:
        """Place of the cell nearest to a point of this widget, within reach; else −1."""
        at = _places(self.tray.cells if self.tray is not None else ())
        if not np.isfinite(at).all(axis=1).any():
            return -1
        where = self.plot.box.mapSceneToView(self.mapToScene(position.toPoint()))
        per_x, per_y = self.plot.box.viewPixelSize()
        away = np.hypot((at[:, 0] - where.x()) / per_x, (at[:, 1] - where.y()) / per_y)
        away = np.where(np.isfinite(away), away, np.inf)
        place = int(np.argmin(away))
        return place if away[place] <= REACH_PX else -1


def _place(cell: NumberedCell) -> tuple[float, float]:
    resistance = cell.dcir_mohm if cell.dcir_mohm is not None else cell.ac_resistance_mohm
    return (
        np.nan if cell.capacity_mah is None else cell.capacity_mah,
        np.nan if resistance is None else resistance,
    )


def _places(cells: Sequence[JudgedCell]) -> Floats:
    """(cells, 2) Capacity and resistance, not a number where one was not measured."""
    return np.array([_place(one.cell) for one in cells], float).reshape(-1, 2)
