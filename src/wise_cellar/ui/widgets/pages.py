"""Pages of a station under their names, each with panels beside it; a page is made when it is first looked at."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.ui.widgets.panel import PanelColumn
from wise_cellar.ui.widgets.present_page import PresentPage
from wise_cellar.ui.widgets.segments import Segments


class PageStack:
    """The pages stand in ``column`` under their names, their panels in ``side``."""

    def __init__(self, names: Sequence[str], label: str, column: QVBoxLayout, side: PanelColumn) -> None:
        self.segments = Segments(names, label)
        self._side = side
        self._stack = PresentPage()
        column.addWidget(self.segments)
        column.addWidget(self._stack, 1)
        for _ in names:
            self._stack.addWidget(QWidget())
        side.addStretch(1)
        self._panels: list[tuple[QWidget, int]] = []

    def put(self, place: int, page: QWidget, panels: Sequence[QWidget]) -> None:
        """Put a page into its place, and its panels beside it."""
        empty = self._stack.widget(place)
        assert empty is not None, "every page has a place"
        shown = self._stack.currentIndex()
        self._stack.removeWidget(empty)
        empty.deleteLater()
        self._stack.insertWidget(place, page)
        self._stack.setCurrentIndex(shown)
        for panel in reversed(panels):
            self._side.insertWidget(0, panel)
            panel.setVisible(place == self.segments.current)
            self._panels.append((panel, place))

    def show(self, place: int) -> None:
        """Bring a page into view."""
        self._stack.setCurrentIndex(place)

    def show_panels(self, place: int) -> None:
        """Bring the panels of a page into view, and no others."""
        for panel, mine in self._panels:
            panel.setVisible(place == mine)
