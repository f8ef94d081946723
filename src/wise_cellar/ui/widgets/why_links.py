"""Questions of the handbook that explain what is told beside them."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from wise_cellar.handbook import page_on

MOST = 2


class WhyLinks(QWidget):
    """A button a question, for the fields that findings hang on; none where no page explains them."""

    wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self.buttons = [QPushButton() for _ in range(MOST)]
        self._names = [""] * MOST
        for place, button in enumerate(self.buttons):
            button.setProperty("role", "quiet")
            button.clicked.connect(partial(self._go, place))
            self._column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)

    def show_fields(self, fields: Iterable[str]) -> None:
        """Offer the questions that explain these fields, the first ones first."""
        found = {page.name: page.title for page in map(page_on, fields) if page is not None}
        offered = list(found.items())[:MOST]
        for place, button in enumerate(self.buttons):
            there = place < len(offered)
            button.setVisible(there)
            if there:
                self._names[place], title = offered[place]
                button.setText(f"Why? {title}")
        self.setVisible(bool(offered))

    def _go(self, place: int, _checked: bool = False) -> None:
        self.wanted.emit(self._names[place])
