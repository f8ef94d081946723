"""How an answer comes about, step by step, to read and to copy."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import Asked, as_text, explain
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, sheet


class ExplainPanel(QWidget):
    """One of the five answers, explained."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        top = QHBoxLayout()
        top.addWidget(heading("How it comes about"), 1)
        self.copy_button = QPushButton("Copy")
        self.copy_button.setAccessibleName("Copy the explanation")
        self.copy_button.clicked.connect(self.copy)
        top.addWidget(self.copy_button, 0, Qt.AlignmentFlag.AlignRight)
        inside.addLayout(top)
        self.asked = Chooser()
        self.asked.setAccessibleName("What is explained")
        self.asked.addItems([asked.value for asked in Asked])
        self.asked.activated.connect(lambda _: self.refresh())
        inside.addWidget(self.asked)
        self._steps = Lines()
        self._steps.setSpacing(4)
        inside.addLayout(self._steps)

    @property
    def chosen(self) -> Asked:
        """What is explained now."""
        return list(Asked)[self.asked.currentIndex()]

    def refresh(self) -> None:
        """Explain the present answer, once somebody can read it."""
        if not self.isVisible():
            return
        lines: list[Line] = []
        for step in explain(self._session.complete, self._session.answer, self.chosen):
            lines += [Line(step.name, "faint", 11.5, strong=True), Line(step.sentence)]
        self._steps.show_lines(lines)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Explain what is the answer by now."""
        super().showEvent(event)
        self.refresh()

    def copy(self) -> None:
        """Put the steps on the clipboard."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            steps = explain(self._session.complete, self._session.answer, self.chosen)
            clipboard.setText(as_text(self.chosen, steps))
