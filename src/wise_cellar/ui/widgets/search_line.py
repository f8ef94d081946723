"""A line that filters."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit

from wise_cellar.ui.widgets.keys import pass_to_window


class SearchLine(QLineEdit):
    """Escape empties it."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape empties."""
        if event is not None and event.key() == Qt.Key.Key_Escape and self.text():
            self.clear()
            return
        if event is None or self.isUndoAvailable() or self.isRedoAvailable() or not pass_to_window(self, event):
            super().keyPressEvent(event)
