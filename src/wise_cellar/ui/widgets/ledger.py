"""A ledger: rows of a name, a bar, a number and a share, that can be copied as text."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QAction,
    QFontMetricsF,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from wise_cellar.ui.theme import colours_of, font

ROW, TOP = 23, 28
NAME, NUMBERS, BESIDE = 150.0, 132.0, 58.0


@dataclass(frozen=True)
class LedgerRow:
    """One line. ``share`` fills the bar; ``field`` is where to go when the row is chosen."""

    name: str
    share: float
    value: str
    beside: str
    field: str


class Ledger(QWidget):
    """Rows under a title with a total. A click or Enter on a row asks for its field."""

    field_requested = pyqtSignal(str)

    def __init__(self, title: str) -> None:
        super().__init__()
        self._title, self._total = title, ""
        self._rows: tuple[LedgerRow, ...] = ()
        self._at = -1
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        copy = QAction("Copy as text", self)
        copy.setShortcut(QKeySequence.StandardKey.Copy)
        copy.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        copy.triggered.connect(self.copy)
        self.addAction(copy)
        self.setAccessibleName(title)

    def show_rows(self, total: str, rows: Sequence[LedgerRow]) -> None:
        """Show these rows."""
        self._total, self._rows = total, tuple(rows)
        self._at = min(self._at, len(self._rows) - 1)
        self.setFixedHeight(self.sizeHint().height())
        self.setAccessibleDescription(self.as_text())
        self.update()

    @property
    def rows(self) -> tuple[LedgerRow, ...]:
        """What is shown."""
        return self._rows

    def as_text(self) -> str:
        """The ledger as tab-separated lines."""
        lines = [f"{self._title}\t{self._total}"]
        lines += [f"{row.name}\t{row.value}\t{row.beside}" for row in self._rows]
        return "\n".join(lines).replace("\u202f", " ").replace("\u00a0", " ")

    def copy(self) -> None:
        """Put the ledger on the clipboard."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.as_text())

    def sizeHint(self) -> QSize:
        """Title and rows."""
        return QSize(240, TOP + ROW * len(self._rows))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down walk the rows; Enter goes to the field."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self._at = min(max(self._at + step, 0), len(self._rows) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and 0 <= self._at < len(self._rows):
            self.field_requested.emit(self._rows[self._at].field)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A click goes to the field of the row."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        row = int((event.position().y() - TOP) // ROW)
        if 0 <= row < len(self._rows):
            self._at = row
            self.update()
            self.field_requested.emit(self._rows[row].field)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Title, rows, bars and hairlines."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width()
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(15, strong=True))
        painter.setPen(colours.colour("ink"))
        painter.drawText(QRectF(0, 0, width, 24), left, self._title)
        painter.setFont(font(13))
        painter.setPen(colours.colour("faint"))
        painter.drawText(QRectF(0, 0, width, 24), right, self._total)
        metrics = QFontMetricsF(font(13))
        bar_left, bar_width = NAME, max(width - NAME - NUMBERS, 20.0)
        for place, row in enumerate(self._rows):
            top = float(TOP + place * ROW)
            painter.setFont(font(13))
            painter.setPen(colours.colour("ink"))
            name = metrics.elidedText(row.name, Qt.TextElideMode.ElideRight, NAME - 8)
            painter.drawText(QRectF(0, top, NAME, ROW), left, name)
            painter.drawText(QRectF(0, top, width - BESIDE, ROW), right, row.value)
            painter.setPen(colours.colour("faint"))
            painter.drawText(QRectF(0, top, width, ROW), right, row.beside)
            bar = QRectF(bar_left, top + ROW / 2 - 2, bar_width, 4)
            painter.fillRect(bar, colours.colour("rule"))
            bar.setWidth(bar_width * min(max(row.share, 0.0), 1.0))
            painter.fillRect(bar, colours.colour("ink"))
            if self.hasFocus() and place == self._at:
                painter.setPen(colours.colour("verdigris"))
                painter.drawRoundedRect(QRectF(0.5, top + 0.5, width - 1, ROW - 1), 3, 3)
        if self.hasFocus() and self._at < 0:
            painter.setPen(colours.colour("verdigris"))
            painter.drawRoundedRect(QRectF(0.5, 0.5, width - 1, 23), 3, 3)
