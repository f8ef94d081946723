"""Sheets, headings and labels."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from wise_cellar.ui.theme import font, polish_again
from wise_cellar.ui.widgets.labels import Label


def sheet(spacing: int = 8, margin: int = 14) -> tuple[QWidget, QVBoxLayout]:
    """A panel of the sheet colour and its column."""
    panel = QWidget()
    panel.setObjectName("sheet")
    panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    column = QVBoxLayout(panel)
    column.setContentsMargins(margin, margin - 2, margin, margin)
    column.setSpacing(spacing)
    return panel, column


def heading(text: str) -> QLabel:
    """Heading of a part of a sheet."""
    label = Label(text)
    label.setFont(font(15, strong=True))
    return label


def dialog_column(dialog: QDialog, window_title: str, title: str = "", width: int = 0) -> QVBoxLayout:
    """The column of a sheet beside the window, under its title; the sheet goes when it is closed."""
    dialog.setWindowTitle(window_title)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setMinimumWidth(width)
    column = QVBoxLayout(dialog)
    column.setContentsMargins(24, 20, 24, 24)
    column.setSpacing(12)
    column.addWidget(heading(title or window_title))
    return column


def note(text: str = "", role: str = "faint") -> QLabel:
    """A small wrapping line; ``role`` is faint, error or caution."""
    label = Label(text)
    label.setFont(font(11.5))
    label.setProperty("role", role)
    label.setWordWrap(True)
    label.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    return label


def show_role(label: QLabel, role: str) -> None:
    """Give a line another role, and let the style sheet see it."""
    label.setProperty("role", role)
    polish_again([label])


def paragraph(text: str = "", role: str = "", size: float = 13) -> QLabel:
    """A wrapping line that can be marked and copied, for a page that scrolls: it asks for no more height than its width
    makes it need."""
    label = note(text, role)
    label.setFont(font(size))
    label.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


def empty(layout: QLayout) -> None:
    """Drop every widget of a layout."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.setParent(None)
            widget.deleteLater()


REVEAL_MS = 300
"""For so long a column that is still being laid out keeps what was to be seen in sight."""


def reveal(widget: QWidget) -> None:
    """Scroll the column that holds ``widget`` until it is seen, and keep it so while the column is still laid out."""
    parent = widget.parentWidget()
    while parent is not None and not isinstance(parent, QScrollArea):
        parent = parent.parentWidget()
    if parent is None:
        return
    area = parent
    area.ensureWidgetVisible(widget, 0, 24)
    bar = area.verticalScrollBar()
    assert bar is not None

    def again() -> None:
        if not sip.isdeleted(widget):
            area.ensureWidgetVisible(widget, 0, 24)

    follows = bar.rangeChanged.connect(again)
    QTimer.singleShot(0, lambda: None if sip.isdeleted(area) else again())
    QTimer.singleShot(REVEAL_MS, lambda: None if sip.isdeleted(bar) else bar.rangeChanged.disconnect(follows))


def scrolling(inside: QWidget) -> QScrollArea:
    """``inside`` in an area that scrolls up and down only, where it is too high."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(inside)
    return area


def button_row(*buttons: tuple[QPushButton, Callable[[], object]]) -> QHBoxLayout:
    """Buttons beside each other, each with what it does."""
    row = QHBoxLayout()
    for button, run in buttons:
        button.clicked.connect(lambda _on, run=run: run())
        row.addWidget(button)
    row.addStretch(1)
    return row


class PanelColumn(QVBoxLayout):
    """Panels one under the other, a stretch under the last.

    What lies below the edge of a usual window is added with :meth:`add_later`: it is put in its place, and so dressed
    and laid out, when all above it is painted.
    """

    completed = pyqtSignal()
    """The last of them is in its place."""

    def __init__(self, holder: QWidget) -> None:
        super().__init__(holder)
        self._later: list[QWidget] = []
        self._idle = QTimer(holder)
        self._idle.timeout.connect(self._put_one)

    def add_later(self, panel: QWidget) -> None:
        """Add a panel above the stretch once nothing else is to be done."""
        self._later.append(panel)
        self._idle.start(0)

    @property
    def complete(self) -> bool:
        """Whether every panel is in its place."""
        return not self._later

    def put_all(self) -> None:
        """Put every panel in its place at once: one of them is looked for."""
        while not self.complete:
            self._put_one()

    def _put_one(self) -> None:
        self.insertWidget(self.count() - 1, self._later.pop(0))
        if self.complete:
            self._idle.stop()
            self.completed.emit()


def scrolling_column(width: int, spacing: int = 12) -> tuple[QScrollArea, PanelColumn]:
    """A column of fixed width that scrolls up and down only."""
    inside = QWidget()
    column = PanelColumn(inside)
    column.setContentsMargins(0, 0, 4, 0)
    column.setSpacing(spacing)
    area = scrolling(inside)
    area.setFixedWidth(width)
    return area, column
