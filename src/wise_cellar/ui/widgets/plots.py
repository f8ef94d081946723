"""Plots in the product's look: hairline grid, tabular numbers, a key above the curves instead of labels on them."""

from __future__ import annotations

import html
from collections.abc import Sequence
from dataclasses import dataclass

import pyqtgraph as pg
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QShowEvent

from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, SOLID

pg.setConfigOptions(antialias=True)

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
    """

    # On the class, because the toolkit sends the first palette before __init__ is done.
    _drawn_in: Colours | None = None
    _waiting = False
    _laid_out = False

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
        # Else ranges are settled while painting, and everything is painted a second time.
        self.scene().prepareForPaint()

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
