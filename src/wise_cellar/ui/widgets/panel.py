"""Sheets, headings and labels."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

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


def reveal(widget: QWidget) -> None:
    """Scroll the column that holds ``widget`` until it is seen."""
    parent = widget.parentWidget()
    while parent is not None:
        if isinstance(parent, QScrollArea):
            parent.ensureWidgetVisible(widget, 0, 24)
            return
        parent = parent.parentWidget()


def scrolling(inside: QWidget) -> QScrollArea:
    """``inside`` in an area that scrolls up and down only, where it is too high."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(inside)
    return area


def scrolling_column(width: int, spacing: int = 12) -> tuple[QScrollArea, QVBoxLayout]:
    """A column of fixed width that scrolls up and down only."""
    inside = QWidget()
    column = QVBoxLayout(inside)
    column.setContentsMargins(0, 0, 4, 0)
    column.setSpacing(spacing)
    area = scrolling(inside)
    area.setFixedWidth(width)
    return area, column
