"""The list of a shelf: a row a document, drawn once for what is in view, however many there are."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QKeySequence, QPainter
from PyQt6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from wise_cellar.ui.stations.cellar.shelf_rows import ShelfRow
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.pack_plan import draw_plan

ROW, HEAD = 56, 26
PLAN, RIGHT = 84.0, 150.0
"""Room for the plan of a pack at the left, and for minutes and mass at the right."""


class ShelfModel(QAbstractListModel):
    """Rows with a heading over each group where groups are shown: a heading is a text."""

    def __init__(self) -> None:
        super().__init__()
        self.items: list[ShelfRow | str] = []

    def show_rows(self, rows: Sequence[ShelfRow], *, grouped: bool) -> None:
        """Show these."""
        items: list[ShelfRow | str] = []
        for row in rows:
            if grouped and (not items or not isinstance(items[-1], ShelfRow) or items[-1].group != row.group):
                items.append(row.group)
            items.append(row)
        if items != self.items:
            self.beginResetModel()
            self.items = items
            self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """Headings too."""
        return 0 if parent.isValid() else len(self.items)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text, for copying and for those who do not see it."""
        item = self.items[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return item if isinstance(item, str) else item.said
        if role == Qt.ItemDataRole.ToolTipRole and isinstance(item, ShelfRow):
            return f"{item.name}\n{item.words}"
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Headings are not chosen."""
        if index.isValid() and isinstance(self.items[index.row()], str):
            return Qt.ItemFlag.ItemIsEnabled
        return super().flags(index)


class _Painter(QStyledItemDelegate):
    """Draws a row: the plan of the pack, name and words, and at the right minutes and mass."""

    def sizeHint(self, _option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """Fixed heights."""
        model = index.model()
        assert isinstance(model, ShelfModel)
        return QSize(200, HEAD if isinstance(model.items[index.row()], str) else ROW)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """One row or heading."""
        model, widget = index.model(), option.widget
        if painter is None or widget is None or not isinstance(model, ShelfModel):
            return
        item, colours, box = model.items[index.row()], colours_of(widget), QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if isinstance(item, str):
            painter.setFont(font(11.5))
            painter.setPen(colours.colour("faint"))
            painter.drawText(box.adjusted(10, 6, 0, 0), Qt.AlignmentFlag.AlignVCenter, item)
        else:
            chosen = bool(option.state & QStyle.StateFlag.State_Selected)
            focused = bool(option.state & QStyle.StateFlag.State_HasFocus)
            _draw_row(painter, box, item, colours, chosen=chosen, focused=focused)
        painter.restore()


def _draw_row(painter: QPainter, box: QRectF, row: ShelfRow, colours: Colours, *, chosen: bool, focused: bool) -> None:
    if chosen:
        painter.fillRect(box.adjusted(0, 1, 0, -1), colours.colour("chosen"))
        painter.fillRect(QRectF(box.x(), box.y() + 1, 3, box.height() - 2), colours.colour("verdigris"))
    if focused:
        painter.setPen(colours.colour("verdigris"))
        painter.drawRoundedRect(box.adjusted(1.5, 1.5, -1.5, -1.5), 3, 3)
    faint, present = ("ink", "ink") if chosen else ("faint", "verdigris")
    left = box.x() + 12
    if row.flown is not None and row.flown.layout is not None:
        draw_plan(painter, QRectF(left, box.y() + 8, PLAN - 14, box.height() - 16), row.flown.layout, colours)
    if row.has_plan:
        left += PLAN
    room = box.right() - RIGHT - left
    marks = "   ".join(word for word, on in (("open now", row.present), ("sample", row.document.sample),
                                              ("archived", row.document.archived)) if on)  # fmt: skip
    painter.setFont(font(15, strong=True))
    painter.setPen(colours.colour(faint if row.document.archived else "ink"))
    name = QFontMetricsF(painter.font()).elidedText(row.name, Qt.TextElideMode.ElideRight, room - 90)
    used = QFontMetricsF(painter.font()).horizontalAdvance(name)
    painter.drawText(QRectF(left, box.y() + 6, room, 22), Qt.AlignmentFlag.AlignVCenter, name)
    painter.setFont(font(11.5))
    painter.setPen(colours.colour(present if row.present else faint))
    painter.drawText(QRectF(left + used + 12, box.y() + 7, 200, 22), Qt.AlignmentFlag.AlignVCenter, marks)
    painter.setPen(colours.colour(faint))
    words = QFontMetricsF(painter.font()).elidedText(row.words, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QRectF(left, box.y() + 28, room, 20), Qt.AlignmentFlag.AlignVCenter, words)
    right = QRectF(box.right() - RIGHT, box.y() + 6, RIGHT - 12, 22)
    align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
    painter.drawText(right.translated(0, 22), align, row.changed)
    painter.setFont(font(13))
    painter.setPen(colours.colour("ink"))
    painter.drawText(right, align, row.beside)


class ShelfList(QListView):
    """Rows to choose from, several with Shift or Ctrl; Enter and a double click open one."""

    opened = pyqtSignal()
    chosen = pyqtSignal()
    deleted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._rows = ShelfModel()
        self.setModel(self._rows)
        self.setItemDelegate(_Painter(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setAccessibleName("Shelf")
        self.doubleClicked.connect(lambda _index: self.opened.emit())
        selection = self.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(lambda *_: self.chosen.emit())

    @property
    def rows(self) -> list[ShelfRow]:
        """Those in view, headings aside."""
        return [item for item in self._rows.items if isinstance(item, ShelfRow)]

    @property
    def selected(self) -> list[ShelfRow]:
        """The chosen ones, in the order in which they stand."""
        found = [self._rows.items[index.row()] for index in sorted(self.selectedIndexes())]
        return [item for item in found if isinstance(item, ShelfRow)]

    def show_rows(self, rows: Sequence[ShelfRow], *, grouped: bool) -> None:
        """Show these; what was chosen stays chosen."""
        kept = [row.document.id for row in self.selected]
        bar = self.verticalScrollBar()
        at = bar.value() if bar is not None else 0
        self._rows.show_rows(rows, grouped=grouped)
        self.choose(kept)
        if bar is not None:
            bar.setValue(at)

    def choose(self, identifiers: Sequence[str]) -> None:
        """Choose documents; none of them is chosen twice."""
        selection = self.selectionModel()
        if selection is None or [row.document.id for row in self.selected] == list(identifiers):
            return
        selection.clearSelection()
        for place, item in enumerate(self._rows.items):
            if isinstance(item, ShelfRow) and item.document.id in identifiers:
                index = self._rows.index(place)
                selection.select(index, selection.SelectionFlag.Select)
                selection.setCurrentIndex(index, selection.SelectionFlag.NoUpdate)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter opens, Delete deletes, Ctrl+C copies the rows as text."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        elif event.key() == Qt.Key.Key_Delete:
            self.deleted.emit()
        elif event.matches(QKeySequence.StandardKey.Copy):
            copy_text("\n".join(row.said for row in self.selected or self.rows))
        else:
            super().keyPressEvent(event)


def copy_text(text: str) -> None:
    """Put a text on the clipboard."""
    from PyQt6.QtGui import QGuiApplication

    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)
