"""Plots in the product's look: hairline grid, tabular numbers, a key above the curves instead of labels on them."""

from __future__ import annotations

import html
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import QWidget

from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.focus import draw_focus
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.picture import NOTHING, Picture
from wise_cellar.ui.widgets.plot import AXIS_WIDTH, WALKED, Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, SOLID, Dots, Moment, Stroke
from wise_cellar.ui.widgets.telling import Walked, told, walked_lines

pg.setConfigOptions(antialias=True)

TELLING_MS = 250
_WALKING = (
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End,
    Qt.Key.Key_Escape,
)  # fmt: skip
_SAMPLE = {SOLID: "—", DASHED: "–\u2060\u00a0\u2060–", DOTTED: "·\u00a0·\u00a0·"}


@dataclass(frozen=True)
class Key:
    """One entry of a key: words, colour and dash."""

    text: str
    colour: str
    dash: Qt.PenStyle = SOLID
    mark: str = ""


class ThemedPlots(pg.GraphicsLayoutWidget):  # type: ignore[misc]
    """Plots that are drawn in the colour set of the moment, and only while they are in view.

    :meth:`redraw` is asked for; :meth:`draw` is what a picture is made of. One that few will see lays its plots out in
    :meth:`lay_out`, which is called once, before the first drawing.

    What it shows is told in words too, as its accessible description. Left and right walk along a line that has a name,
    up and down go to another; a picture with keys of its own says with :meth:`say` what they reach.
    """

    # On the class, because the toolkit sends the first palette before __init__ is done.
    _drawn_in: Colours | None = None
    _waiting = False
    _laid_out = False
    _telling: QTimer | None = None
    _corner: Label | None = None
    _reading = ""
    _at: tuple[int, int] | None = None
    """The line that is walked, and the stop on it."""

    def __init__(self) -> None:
        super().__init__()
        self.setViewport(Picture(""))

    def setAccessibleName(self, name: str | None) -> None:
        """What it shows; told of what it is drawn on, which is known as a picture."""
        super().setAccessibleName(name)
        self.viewport().setAccessibleName(name)

    def lay_out(self) -> None:
        """Make what is drawn on."""

    def draw(self, colours: Colours) -> None:
        """Say what is to be seen now."""
        raise NotImplementedError

    def redraw(self) -> None:
        """Draw now, or as soon as somebody can see it."""
        if self.isVisible():
            self.draw_now()
        else:
            self._waiting = True

    def draw_now(self) -> None:
        """Draw in the present colours, in view or not."""
        self._waiting = False
        if not self._laid_out:
            self._laid_out = True
            self.lay_out()
        colours = colours_of(self)
        if colours is not self._drawn_in:
            self._drawn_in = colours
            self.setBackground(colours.sheet)
        self.draw(colours)
        if self._at is not None:
            self._walk_on(self._at)
        self._tell_later()
        # Else ranges are settled while painting, and everything is painted a second time.
        self.scene().prepareForPaint()

    # Telling

    def told_plots(self) -> list[Plot]:
        """The plots that are told and walked, in the order in which they are read."""
        return sorted((one for one in self.ci.items if isinstance(one, Plot) and not one.empty), key=self._place)

    def _place(self, plot: Plot) -> tuple[int, int]:
        place: tuple[int, int] = min(self.ci.items[plot])
        return place

    def say(self, words: str) -> None:
        """Say what the keys have reached, before all that the picture shows; nothing where it is empty."""
        self._reading = words
        self._tell_later()

    def tell_now(self) -> None:
        """Put all that the picture shows into words, now."""
        words = " ".join(part for part in (self._reading, told(self.told_plots())) if part) or NOTHING
        self.setAccessibleDescription(words)
        self.viewport().setAccessibleDescription(words)

    def _tell_later(self) -> None:
        """When nothing has changed for a moment: words are for whoever listens, and the picture is not to wait."""
        if self._telling is None:
            self._telling = QTimer(self)
            self._telling.setSingleShot(True)
            self._telling.setInterval(TELLING_MS)
            self._telling.timeout.connect(self.tell_now)
        self._telling.start()

    def show_in_corner(self, words: str) -> None:
        """Say something in the corner of the picture; nothing where it is empty."""
        if self._corner is None:
            if not words:
                return
            self._corner = corner_label(self)
        self._corner.setText(words)
        self._corner.adjustSize()
        self._corner.setVisible(bool(words))

    @property
    def corner_words(self) -> str:
        """What is said in the corner."""
        return self._corner.text() if self._corner is not None and not self._corner.isHidden() else ""

    # Walking

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right along a line, Home and End to its ends, up and down to another line; Escape leaves it.

        Keys of its own come first, until it is walked.
        """
        if event is not None and self._at is None and self.own_key(event):
            return
        lines = walked_lines(self.told_plots()) if event is not None and event.key() in _WALKING else []
        if event is None or not lines:
            super().keyPressEvent(event)
            return
        line, stop = self._at or (0, 0)
        line = min(line, len(lines) - 1)
        last = len(lines[line].x) - 1
        key = Qt.Key(event.key())
        if key is Qt.Key.Key_Escape:
            if self._at is None:
                super().keyPressEvent(event)
            self._leave()
            self.tell_now()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            other = (line + (1 if key is Qt.Key.Key_Down else -1)) % len(lines)
            at = float(lines[line].x[min(stop, last)])
            self._walk_to(lines, other, int(np.argmin(np.abs(lines[other].x - at))))
        else:
            begin = self._at is None
            stops = {
                Qt.Key.Key_Left: last if begin else stop - 1, Qt.Key.Key_Right: 0 if begin else stop + 1,
                Qt.Key.Key_Home: 0, Qt.Key.Key_End: last,
            }  # fmt: skip
            self._walk_to(lines, line, min(max(stops[key], 0), last))

    def own_key(self, _event: QKeyEvent) -> bool:
        """What a picture does with a key of its own; whether it did."""
        return False

    def _walk_to(self, lines: Sequence[Walked], line: int, stop: int) -> None:
        self._leave()
        self._at = (line, stop)
        walked, colours = lines[line], colours_of(self)
        ring = Dots(walked.x[stop : stop + 1], walked.y[stop : stop + 1], "o", 13, Stroke(colours.ink, 2.0))
        walked.plot.show_parts([Moment(float(walked.x[stop]), Stroke(colours.faint, 1.0)), ring], WALKED)
        words = walked.read(stop)
        self.show_in_corner(words)
        self._reading = f"{words}."
        self.tell_now()

    def _walk_on(self, at: tuple[int, int]) -> None:
        """Stay where the keys had walked to, in what is drawn now."""
        lines = walked_lines(self.told_plots())
        self._leave()
        if lines:
            line = min(at[0], len(lines) - 1)
            self._walk_to(lines, line, min(at[1], len(lines[line].x) - 1))

    def _leave(self) -> None:
        """Stop walking."""
        if self._at is None:
            return
        self._at, self._reading = None, ""
        for plot in self.told_plots():
            plot.show_parts([], WALKED)
        self.show_in_corner("")

    # Events

    def showEvent(self, event: QShowEvent | None) -> None:
        """Draw what has waited."""
        super().showEvent(event)
        if self._waiting:
            self.redraw()

    def changeEvent(self, event: QEvent | None) -> None:
        """Redraw in the other colour set."""
        super().changeEvent(event)
        palette_changed = event is not None and event.type() == QEvent.Type.PaletteChange
        if palette_changed and self._drawn_in is not None and self._drawn_in is not colours_of(self):
            self.redraw()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Show that the keys come here."""
        super().focusInEvent(event)
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Leave what was walked."""
        super().focusOutEvent(event)
        self._leave()
        self.viewport().update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The plots, and a hairline around them while they have the focus."""
        super().paintEvent(event)
        if self.hasFocus():
            draw_focus(self.viewport())


def corner_label(picture: QWidget) -> Label:
    """A line of words in the upper left corner of a picture, hidden."""
    label = Label(parent=picture)
    label.setFont(font(11.5))
    label.setAutoFillBackground(True)
    label.setMargin(3)
    label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
    label.move(AXIS_WIDTH + 14, 4)
    label.hide()
    return label


def title_text(title: str, colours: Colours) -> str:
    """Rich text of a plot's title."""
    return f'<span style="color:{colours.ink}; font-weight:600; font-size:13px">{html.escape(title)}</span>'


def key_text(keys: Sequence[Key], colours: Colours) -> str:
    """Rich text of a key that wraps between its entries."""
    parts = []
    for key in keys:
        sample, words = key.mark or _SAMPLE[key.dash], html.escape(key.text).replace(" ", "&nbsp;")
        parts.append(
            # The word joiner keeps a dash, after which a line may break, with its words.
            f'<span style="color:{key.colour}; font-size:12px; font-weight:600">{sample}\u2060</span>'
            f'<span style="color:{colours.faint}; font-size:12px">&nbsp;{words}</span>'
        )
    return "&nbsp;&nbsp; ".join(parts)
