"""Fields side by side: in columns, and those of one of many."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from wise_cellar.ui.widgets.fields import Field

APART = 24
"""Pixels between columns of fields."""


class FieldGrid(QWidget):
    """Fields in columns, filled downwards."""

    def __init__(self, fields: list[Field], columns: int = 1) -> None:
        super().__init__()
        self.fields = fields
        self._most, self._columns = columns, 0
        self._filled = self._waiting = False
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(APART)
        self._grid.setVerticalSpacing(4)
        self._lay(columns)

    def _lay(self, columns: int) -> None:
        if columns == self._columns:
            return
        rows = -(-len(self.fields) // columns)
        for place, field in enumerate(self.fields):
            self._grid.removeWidget(field)
            self._grid.addWidget(field, place % rows, place // rows, Qt.AlignmentFlag.AlignTop)
        for column in range(self._most):
            self._grid.setColumnStretch(column, int(column < columns))
        self._columns = columns

    def _widest(self) -> int:
        return max((field.minimumSizeHint().width() for field in self.fields), default=0)

    def minimumSizeHint(self) -> QSize:
        """Room for one column of them."""
        return QSize(self._widest(), self._grid.minimumSize().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """As many columns as there is room for."""
        super().resizeEvent(event)
        if self._most > 1:
            self._lay(min(max((self.width() + APART) // (self._widest() + APART), 1), self._most))

    def refresh(self) -> None:
        """Show the present values: the first ones at once, those of a page that is not in view as soon as it is."""
        self._waiting = self._filled and not self.isVisible()
        self._filled = True
        if not self._waiting:
            for field in self.fields:
                field.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        """What changed meanwhile."""
        super().showEvent(event)
        if self._waiting:
            self.refresh()


class SwappedFields(QWidget):
    """The fields of one of many, of the block, the load or the flight that is chosen; made anew for another."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._grid: FieldGrid | None = None
        self._key: object = None

    @property
    def fields(self) -> list[Field]:
        """Those in view."""
        return self._grid.fields if self._grid is not None else []

    def show_for(self, key: object, make: Callable[[], list[Field]]) -> None:
        """Show the fields that ``make`` gives for ``key``; of ``None`` there are none."""
        if key != self._key and self._grid is not None:
            self._grid.setParent(None)
            self._grid.deleteLater()
            self._grid = None
        self._key = key
        if key is not None and self._grid is None:
            self._grid = FieldGrid(make())
            self._column.addWidget(self._grid)
        if self._grid is not None:
            self._grid.refresh()
