"""A line above the answer band for what was refused or done; it stays until the next action or its time is over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import show_role

SHOWN_MS = 12_000


@dataclass(frozen=True)
class Offer:
    """What can be done about a notice: the word on its button, and what it does."""

    word: str
    do: Callable[[], object]


class NoticeLine(QFrame):
    """One sentence, at most one thing to do about it, and a way to close it."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 12, 4)
        self.label = Label()
        self.label.setWordWrap(True)
        row.addWidget(self.label, 1)
        self.button = QPushButton()
        self.button.clicked.connect(self._do)
        row.addWidget(self.button)
        close = QPushButton("Close")
        close.setProperty("role", "quiet")
        close.clicked.connect(self.hide)
        row.addWidget(close)
        self._offer: Offer | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str, *, error: bool = False, offer: Offer | None = None) -> None:
        """Show a sentence, and what can be done about it; one that reports what nobody foresaw stays."""
        self.label.setText(sentence)
        show_role(self.label, "error" if error else "")
        self.label.setAccessibleName(sentence)
        self._offer = offer
        self.button.setVisible(offer is not None)
        self.button.setText(offer.word if offer is not None else "")
        self.show()
        self._timer.start(SHOWN_MS if offer is None else 3 * SHOWN_MS)

    def _do(self) -> None:
        offer = self._offer
        self.hide()
        if offer is not None:
            offer.do()
