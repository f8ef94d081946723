"""Pages of which one is in view, and asks for its own room only."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QStackedWidget


class PresentPage(QStackedWidget):
    """The toolkit's own asks for what the largest of its pages needs, in view or not."""

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(lambda _place: self.updateGeometry())

    def sizeHint(self) -> QSize:
        """Of the page in view."""
        page = self.currentWidget()
        return super().sizeHint() if page is None else page.sizeHint()

    def minimumSizeHint(self) -> QSize:
        """Of the page in view as its words wrap now. Those out of view are not asked: each would be laid out for it
        whenever a word in it has changed."""
        page = self.currentWidget()
        layout = page.layout() if page is not None else None
        if page is None or layout is None:
            return super().minimumSizeHint()
        wanted = page.minimumSizeHint()
        high = layout.minimumHeightForWidth(self.width()) if layout.hasHeightForWidth() else 0
        return QSize(wanted.width(), high or wanted.height())

    def hasHeightForWidth(self) -> bool:
        """No: the toolkit would ask every page, and how high it would like to be."""
        return False

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Words wrap anew."""
        super().resizeEvent(event)
        if event is not None and event.size().width() != event.oldSize().width():
            self.updateGeometry()
