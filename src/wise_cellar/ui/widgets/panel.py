"""Sheets, headings and labels."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import (
    QWIDGETSIZE_MAX,
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QScrollBar,
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
    column = QVBoxLayout(fitted(dialog))
    column.setContentsMargins(24, 20, 24, 24)
    column.setSpacing(12)
    column.addWidget(heading(title or window_title))
    return column


class _FittedArea(QScrollArea):
    """As large as what is in it, or as the screen, and then it scrolls."""

    def __init__(self, inside: QWidget) -> None:
        super().__init__()
        make_scrolling(self, inside)
        inside.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Grow with what is in it: words that come, an entry that is refused."""
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().eventFilter(watched, event)

    def minimumSizeHint(self) -> QSize:
        """All of it, where the screen has room."""
        inside, screen = self.widget(), self.screen()
        if inside is None or screen is None:
            return super().minimumSizeHint()
        wanted, high = inside.minimumSizeHint(), screen.availableSize().height() - SCREEN_EDGE_PX
        if inside.hasHeightForWidth():
            wanted.setHeight(max(wanted.height(), inside.heightForWidth(max(self.width(), wanted.width()))))
        bar = self.verticalScrollBar()
        beside = bar.sizeHint().width() if bar is not None and wanted.height() > high else 0
        return QSize(wanted.width() + beside, min(wanted.height(), high))

    def sizeHint(self) -> QSize:
        """The same, or as wide as what is in it would like."""
        inside, least = self.widget(), self.minimumSizeHint()
        return least if inside is None else QSize(max(inside.sizeHint().width(), least.width()), least.height())


def fitted(dialog: QDialog) -> QWidget:
    """What a sheet holds: all of it in view where the screen has room, else it scrolls."""
    inside = QWidget()
    whole = QVBoxLayout(dialog)
    whole.setContentsMargins(0, 0, 0, 0)
    whole.addWidget(_FittedArea(inside))
    return inside


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
SCREEN_EDGE_PX = 60
"""Of a screen's height that a sheet leaves free, for its title and what the desktop shows."""
"""For so long a column that is still being laid out keeps what was to be seen in sight."""


def reveal(widget: QWidget) -> None:
    """Scroll all that holds ``widget`` until it is seen, and keep it so while a column is still laid out."""
    parent = widget.parentWidget()
    while parent is not None:
        if isinstance(parent, QScrollArea):
            _reveal_in(parent, widget)
        parent = parent.parentWidget()


def _reveal_in(area: QScrollArea, widget: QWidget) -> None:
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
    make_scrolling(area, inside)
    return area


def make_scrolling(area: QScrollArea, inside: QWidget) -> None:
    """Put ``inside`` into an area, and let it scroll up and down only."""
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(inside)


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


class _QuietBar(QScrollBar):
    """A scroll bar that is seen only where there is something to scroll."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Nothing, where all is in view."""
        if self.maximum() > self.minimum():
            super().paintEvent(event)


class SideArea(QScrollArea):
    """A column of fixed width that scrolls up and down only; or, under a picture, one as wide as that and as high as
    what is in it, which scrolls with it.

    Beside it the room of the scroll bar is kept: else all of it is laid out anew, and painted a second time, whenever a
    word more makes it scroll.
    """

    def __init__(self, inside: QWidget, width: int) -> None:
        super().__init__()
        self._width, self.under = width, False
        self.setVerticalScrollBar(_QuietBar())
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        make_scrolling(self, inside)
        self.setFixedWidth(width)
        inside.installEventFilter(self)

    def stand_under(self, under: bool) -> None:
        """Stand under the picture, or beside it."""
        if under == self.under:
            return
        self.under = under
        kept = Qt.ScrollBarPolicy.ScrollBarAlwaysOff if under else Qt.ScrollBarPolicy.ScrollBarAlwaysOn
        self.setVerticalScrollBarPolicy(kept)
        if under:
            self.setMinimumWidth(0)
            self.setMaximumWidth(QWIDGETSIZE_MAX)
        else:
            self.setFixedWidth(self._width)
        self._fit()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Follow what is in it."""
        if self.under and event is not None and event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Resize):
            self._fit()
        return super().eventFilter(watched, event)

    def _fit(self) -> None:
        inside, viewport = self.widget(), self.viewport()
        high = 0
        if self.under and inside is not None and viewport is not None:
            high = inside.heightForWidth(viewport.width()) if inside.hasHeightForWidth() else 0
            high = max(high, inside.minimumSizeHint().height())
        if high != self.minimumHeight():
            self.setMinimumHeight(high)


def scrolling_column(width: int, spacing: int = 12) -> tuple[SideArea, PanelColumn]:
    """A column of fixed width that scrolls up and down only."""
    inside = QWidget()
    column = PanelColumn(inside)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(spacing)
    return SideArea(inside, width), column
