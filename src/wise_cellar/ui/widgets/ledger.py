"""A ledger: rows of a name, a bar and figures in columns, that can be copied as text."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QAction, QFontMetricsF, QGuiApplication, QKeySequence, QPainter, QPaintEvent

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.rows import LEFT, RIGHT, Rows

NAME, TOP, ROW = 124.0, 28, 23


@dataclass(frozen=True)
class LedgerRow:
    """One line. ``share`` fills the bar; ``values`` stand in the columns; ``field`` is where to go from the row."""

    name: str
    share: float
    values: tuple[str, ...]
    field: str


class Ledger(Rows):
    """Rows under a title with a total. ``columns``: heading and width in pixels of each; no headings, no line of
    them."""

    def __init__(self, title: str, columns: Sequence[tuple[str, float]]) -> None:
        self._headed = any(heading for heading, _ in columns)
        super().__init__(title, top=TOP + (18 if self._headed else 0), row=ROW)
        self._columns = tuple(columns)
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
        self.set_rows([row.field for row in rows], [self._told_of(row) for row in rows], self.as_text())

    def _told_of(self, row: LedgerRow) -> str:
        """A row in words."""
        headed = zip((heading for heading, _ in self._columns), row.values, strict=True)
        return f"{row.name}: {', '.join(' '.join(part for part in (value, head) if part) for head, value in headed)}."

    def as_text(self) -> str:
        """The ledger as tab-separated lines."""
        lines = [f"{self.title}\t{self._total}"]
        if self._headed:
            lines.append("\t".join(["", *(heading for heading, _ in self._columns)]))
        lines += ["\t".join([row.name, *row.values]) for row in self.rows]
        return "\n".join(lines).replace("\u202f", " ").replace("\u00a0", " ")

    def copy(self) -> None:
        """Put the ledger on the clipboard."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.as_text())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Title, headings, rows and bars."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw_title(painter, self._total)
        bar_width = max(self.width() - NAME - sum(width for _, width in self._columns) - 4, 20.0)
        if self._headed:
            painter.setFont(font(11.5))
            painter.setPen(colours.colour("faint"))
            for box, heading in zip(self._boxes(TOP - 2), (h for h, _ in self._columns), strict=True):
                painter.drawText(box, RIGHT, heading)
        painter.setFont(font(13))
        metrics = QFontMetricsF(painter.font())
        for place, row in enumerate(self.rows):
            top = float(self.top + place * self.row)
            painter.setPen(colours.colour("ink"))
            name = metrics.elidedText(row.name, Qt.TextElideMode.ElideRight, NAME - 8)
            painter.drawText(QRectF(0, top, NAME, self.row), LEFT, name)
            for column, (box, value) in enumerate(zip(self._boxes(top), row.values, strict=True)):
                painter.setPen(colours.colour("faint" if column else "ink"))
                painter.drawText(box, RIGHT, value)
            bar = QRectF(NAME, top + self.row / 2 - 2, bar_width, 4)
            painter.fillRect(bar, colours.colour("rule"))
            bar.setWidth(bar_width * min(max(row.share, 0.0), 1.0))
            painter.fillRect(bar, colours.colour("ink"))
        self.draw_focus(painter)

    def _boxes(self, top: float) -> list[QRectF]:
        """The columns of a line, from the left."""
        right, boxes = float(self.width()), []
        for _, width in reversed(self._columns):
            boxes.append(QRectF(right - width, top, width, self.row))
            right -= width
        return boxes[::-1]
