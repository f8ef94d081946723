"""A line above the answer band for what was refused or done; it stays until the next action or its time is over."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from wise_cellar.ui.widgets.labels import Label

SHOWN_MS = 12_000


class NoticeLine(QFrame):
    """One sentence and a way to close it."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 12, 4)
        self.label = Label()
        self.label.setWordWrap(True)
        row.addWidget(self.label, 1)
        close = QPushButton("Close")
        close.setProperty("role", "quiet")
        close.clicked.connect(self.hide)
        row.addWidget(close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str, *, error: bool = False) -> None:
        """Show a sentence."""
        self.label.setText(sentence)
        self.label.setProperty("role", "error" if error else "")
        style = self.label.style()
        if style is not None:
            style.unpolish(self.label)
            style.polish(self.label)
        self.label.setAccessibleName(sentence)
        self.show()
        self._timer.start(SHOWN_MS)
