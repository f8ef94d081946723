"""A part that paints itself, and is known as a picture to whoever does not see it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QSize, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QToolTip

from wise_cellar.ui.widgets.focus import draw_focus
from wise_cellar.ui.widgets.labels import Label

NOTHING = "Nothing is drawn here yet."


class Picture(Label):
    """Named for what it shows; :meth:`tell` says what is to be seen in it, and what can be walked to.

    The toolkit takes a label that holds an image for a picture, and has no other way to say so.
    """

    _seen = ""
    _stops: tuple[str, ...] = ()
    _stop = -1

    def __init__(self, name: str) -> None:
        super().__init__()
        unseen = QPixmap(1, 1)
        unseen.fill(Qt.GlobalColor.transparent)
        self.setPixmap(unseen)
        self.setAccessibleName(name)
        self.setAccessibleDescription(NOTHING)

    def sizeHint(self) -> QSize:
        """As large as its layout makes it."""
        return QSize()

    def minimumSizeHint(self) -> QSize:
        """As small as its layout makes it."""
        return QSize()

    def tell(self, seen: str, stops: Sequence[str] = ()) -> None:
        """Say what is to be seen, and what left and right walk along where the picture has no keys of its own."""
        self._seen = seen
        if tuple(stops) != self._stops:
            self._stops, self._stop = tuple(stops), -1
            self.setFocusPolicy(Qt.FocusPolicy.TabFocus if stops else Qt.FocusPolicy.NoFocus)
        self.read(self._stops[self._stop] if self._stop >= 0 else "")

    def read(self, words: str) -> None:
        """Say what the keys have reached, before all that is to be seen."""
        self.setAccessibleDescription(" ".join(part for part in (words, self._seen) if part) or NOTHING)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right, Home and End walk."""
        if event is None:
            return
        last = len(self._stops) - 1
        stops = {
            Qt.Key.Key_Left: max(self._stop - 1, 0), Qt.Key.Key_Right: min(self._stop + 1, last), Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: last,
        }  # fmt: skip
        if last < 0 or event.key() not in stops:
            super().keyPressEvent(event)
            return
        self._stop = stops[Qt.Key(event.key())]
        self.read(self._stops[self._stop])
        QToolTip.showText(self.mapToGlobal(self.rect().topLeft()), self._stops[self._stop], self)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Leave what was walked."""
        super().focusOutEvent(event)
        if self._stop >= 0:
            self._stop = -1
            self.read("")
            QToolTip.hideText()

    def event(self, event: QEvent | None) -> bool:
        """A hairline around a picture that is walked, over what it paints."""
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.Paint and self._stops and self.hasFocus():
            draw_focus(self)
        return done
