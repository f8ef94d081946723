"""Labels and tooltips that show text as it is: a name that looks like mark-up must never be read as mark-up.

The toolkit's own label guesses from its text whether it is rich; one that was written by a stranger could then name
files to load. So every label here is plain, and what we format ourselves says so.
"""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QLabel, QWidget

from wise_cellar.core.shown import shown
from wise_cellar.core.units import Unit

UNIT_WIDTH = 34
_UNITS = (
    "% ° °C °F K g kg oz lb mm cm m km in ft mi nmi m² dm² ft² ml s min h V mV A mA W kW Wh Ah mAh Ω mΩ N J Pa rpm AWG"
    " m/s km/h mph kn Wh/kg g/ml g/dm² kg/m³"
)
_BEFORE_A_UNIT = re.compile(rf"(?<=\d) (?=(?:{'|'.join(map(re.escape, _UNITS.split()))})(?![\w²³/]))")


class Label(QLabel):
    """A line of plain text."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._of, self._text = "", ""
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def say_of(self, name: str) -> None:
        """Told with ``name`` before its text by those who do not see what stands beside it."""
        self._of = name
        self._say()

    def _say(self) -> None:
        if self._of:
            self.setAccessibleName(f"{self._of}: {self.text()}")

    def setText(self, text: str | None) -> None:
        """Show other words. What holds them in view is laid out anew only where they need other room; the toolkit has
        that done for every digit that changes."""
        if text == self._text:
            return
        self._text = text or ""
        drawn = unbroken(self._text) if self.textFormat() is Qt.TextFormat.PlainText else self._text
        if self.isVisible():
            with laid_out_for(self, self._room):
                super().setText(drawn)
        else:
            super().setText(drawn)
        self._say()

    def text(self) -> str:
        """The words, as they were given."""
        return self._text

    def _room(self) -> QSize:
        """What the words need: those that wrap, in the width that they have, which mark-up does not ask for."""
        if not self.wordWrap():
            return self.sizeHint()
        if self.textFormat() is Qt.TextFormat.RichText:
            return QSize(0, self.heightForWidth(self.width()))
        return QSize(self.minimumSizeHint().width(), self.heightForWidth(self.width()))


def unbroken(text: str) -> str:
    """The text, whose numbers stay with their units where it wraps."""
    return _BEFORE_A_UNIT.sub("\u00a0", text)


def unit_label(unit: Unit) -> Label:
    """What stands behind an entry: its unit, as that is shown."""
    label = Label(shown(unit.symbol).symbol)
    label.setProperty("role", "faint")
    label.setMinimumWidth(UNIT_WIDTH)
    return label


@contextmanager
def laid_out_for(widget: QWidget, room: Callable[[], QSize]) -> Iterator[None]:
    """Around words that come to a widget in view: what holds it is laid out anew only where they need other room."""
    before = room()
    # What is hidden takes no part in a layout, which is then not told of them.
    widget.setAttribute(Qt.WidgetAttribute.WA_WState_Hidden, True)
    yield
    widget.setAttribute(Qt.WidgetAttribute.WA_WState_Hidden, False)
    if room() != before:
        widget.updateGeometry()


def formatted(label: QLabel) -> QLabel:
    """The label made to show mark-up of our own; whoever sets its text escapes what others wrote."""
    label.setTextFormat(Qt.TextFormat.RichText)
    return label


def tip(text: str) -> str:
    """A tooltip that shows ``text`` as it is."""
    return f"<span>{html.escape(text)}</span>" if "<" in text else text
