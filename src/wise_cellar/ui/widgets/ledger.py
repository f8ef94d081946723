"""A ledger: rows of a name, a bar, a number and a share, that can be copied as text."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QAction, QFontMetricsF, QGuiApplication, QKeySequence, QPainter, QPaintEvent

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.rows import LEFT, RIGHT, Rows

NAME, NUMBERS, BESIDE = 150.0, 132.0, 58.0


@dataclass(frozen=True)
class LedgerRow:
    """One line. ``share`` fills the bar; ``field`` is where to go when the row is chosen."""

    name: str
    share: float
    value: str
    beside: str
    field: str


class Ledger(Rows):
    """Rows under a title with a total."""

    def __init__(self, title: str) -> None:
        super().__init__(title, top=28, row=23)
        self._total = ""
        self.rows: tuple[LedgerRow, ...] = ()
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        copy = QAction("Copy as text", self)
        copy.setShortcut(QKeySequence.StandardKey.Copy)
        copy.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        copy.triggered.connect(self.copy)
        self.addAction(copy)

    def show_rows(self, total: str, rows: Sequence[LedgerRow]) -> None:
        """Show these rows."""
        self._total, self.rows = total, tuple(rows)
        self.setAccessibleDescription(self.as_text())
        self.set_fields([row.field for row in rows])

    def as_text(self) -> str:
        """The ledger as tab-separated lines."""
        lines = [f"{self.title}\t{self._total}"]
        lines += [f"{row.name}\t{row.value}\t{row.beside}" for row in self.rows]
        return "\n".join(lines).replace("\u202f", " ").replace("\u00a0", " ")

    def copy(self) -> None:
        """Put the ledger on the clipboard."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.as_text())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Title, rows and bars."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw_title(painter, self._total)
        painter.setFont(font(13))
        metrics, width = QFontMetricsF(painter.font()), self.width()
        bar_width = max(width - NAME - NUMBERS, 20.0)
        for place, row in enumerate(self.rows):
            top = float(self.top + place * self.row)
            painter.setPen(colours.colour("ink"))
            name = metrics.elidedText(row.name, Qt.TextElideMode.ElideRight, NAME - 8)
            painter.drawText(QRectF(0, top, NAME, self.row), LEFT, name)
            painter.drawText(QRectF(0, top, width - BESIDE, self.row), RIGHT, row.value)
            painter.setPen(colours.colour("faint"))
            painter.drawText(QRectF(0, top, width, self.row), RIGHT, row.beside)
            bar = QRectF(NAME, top + self.row / 2 - 2, bar_width, 4)
            painter.fillRect(bar, colours.colour("rule"))
            bar.setWidth(bar_width * min(max(row.share, 0.0), 1.0))
            painter.fillRect(bar, colours.colour("ink"))
        self.draw_focus(painter)
