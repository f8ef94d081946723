"""Parts side by side, which stand under each other where there is no room: in a narrow window, or with large text."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QVBoxLayout, QWidget

from wise_cellar.ui.widgets.panel import SideArea, scrolling

ACROSS, DOWN = QBoxLayout.Direction.LeftToRight, QBoxLayout.Direction.TopToBottom
NARROW_PX, LEAST_PICTURE_PX = 780, 420
"""Width under which a column stands under its picture, and how high that is then at the least."""


class TurningBar(QWidget):
    """Controls in one row: some at its left, others at its right."""

    def __init__(self, left: Sequence[QWidget], right: Sequence[QWidget], gap: int) -> None:
        super().__init__()
        self._gap = gap
        self._box = QBoxLayout(ACROSS, self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(gap)
        self._groups = [self._group(left), self._group(right)]
        self._box.addWidget(self._groups[0])
        self._box.addStretch(1)
        self._box.addWidget(self._groups[1])

    def _group(self, widgets: Sequence[QWidget]) -> QWidget:
        group = QWidget()
        row = QHBoxLayout(group)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(self._gap)
        for widget in widgets:
            row.addWidget(widget)
        return group

    def minimumSizeHint(self) -> QSize:
        """No wider than the wider of the two."""
        return QSize(max(group.minimumSizeHint().width() for group in self._groups), self._box.minimumSize().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """One row where there is room for it."""
        super().resizeEvent(event)
        needed = sum(group.minimumSizeHint().width() for group in self._groups) + 2 * self._gap
        fits = self.width() >= needed
        self._box.setDirection(ACROSS if fits else DOWN)
        self._box.setAlignment(self._groups[1], Qt.AlignmentFlag(0) if fits else Qt.AlignmentFlag.AlignLeft)


class _Inside(QWidget):
    """What scrolls where it has less room than it needs; else it would where it has less than it likes."""

    under = False

    def heightForWidth(self, width: int) -> int:
        """What it needs; parts under each other are always laid as high as they would like."""
        layout = self.layout()
        if layout is None:
            return -1
        return layout.heightForWidth(width) if self.under else layout.minimumHeightForWidth(width)


class PictureAndColumn(QWidget):
    """A picture with a scrolling column beside it; under it where it is narrow, and then both scroll together."""

    def __init__(self, picture: QWidget, column: SideArea, margins: tuple[int, int, int, int] = (0, 0, 0, 0)) -> None:
        super().__init__()
        self._inside = _Inside()
        self._row = QHBoxLayout(self._inside)
        self._row.setContentsMargins(*margins)
        self._row.setSpacing(12)
        self._row.addWidget(picture, 1)
        self._row.addWidget(column)
        self._picture, self._column = picture, column
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scrolling(self._inside))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Beside, or under."""
        super().resizeEvent(event)
        under = self.width() < NARROW_PX
        if under != self._column.under:
            self._inside.under = under
            self._row.setDirection(DOWN if under else ACROSS)
            self._picture.setMinimumHeight(LEAST_PICTURE_PX if under else 0)
            self._column.stand_under(under)
