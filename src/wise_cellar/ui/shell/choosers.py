"""What opens under a token: a short list, or the fields that the token stands for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.entry_line import EntryLine, being_typed
from wise_cellar.ui.widgets.field_grids import SwappedFields
from wise_cellar.ui.widgets.fields import Field, field_for
from wise_cellar.ui.widgets.panel import heading, note
from wise_cellar.ui.widgets.popover import Popover
from wise_cellar.ui.widgets.search_line import SearchLine

MANY = 12
"""Of more options one is found by typing."""


@dataclass(frozen=True)
class Option:
    """One line of a list: its words, something smaller beside it, and the value it sets."""

    text: str
    beside: str
    value: Any
    go: Callable[[], object] | None = None
    """What Enter or a click does in place of setting a value."""


class ListChooser(Popover):
    """A list of options; walking it with the arrow keys tries each one at once, Enter or a click closes it."""

    def __init__(
        self,
        owner: QWidget,
        title: str,
        options: Sequence[Option],
        present: Any,
        choose: Callable[[Any], None],
    ) -> None:
        super().__init__(owner)
        self.options, self._choose = options, choose
        self.column.addWidget(heading(title))
        self._search = SearchLine()
        self._search.setPlaceholderText("Type to find")
        self._search.setAccessibleName(f"Find in {title}")
        self._search.textChanged.connect(self._filter)
        self._search.installEventFilter(self)
        self.column.addWidget(self._search)
        self._search.setVisible(len(options) > MANY)
        self._list = QListWidget()
        self._list.setAccessibleName(title)
        for option in options:
            self._list.addItem(QListWidgetItem(f"{option.text}    {option.beside}" if option.beside else option.text))
        rows = min(len(options), 9)
        self._list.setFixedHeight(rows * max(self._list.sizeHintForRow(0), 24) + 6)
        self._list.setMinimumWidth(max(self._list.sizeHintForColumn(0) + 32, 150))
        self.column.addWidget(self._list)
        self._error = note(role="error")
        self._error.hide()
        self.column.addWidget(self._error)
        self._list.setCurrentRow(next((i for i, o in enumerate(options) if o.value == present), -1))
        self._list.scrollToItem(self._list.currentItem())
        self._list.currentRowChanged.connect(self._try)
        self._list.itemClicked.connect(lambda _item: self._finish())
        self._list.installEventFilter(self)
        (self._search if len(options) > MANY else self._list).setFocus()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Enter closes; while something is typed, it takes the first that fits, and up and down walk those."""
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return super().eventFilter(watched, event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self._search.text() and not self._fits(self._list.currentRow()):
                self._walk(1, start=-1)
            self._finish()
            return True
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step is not None and watched is self._search:
            self._walk(step, start=self._list.currentRow())
            return True
        return super().eventFilter(watched, event)

    def _fits(self, row: int) -> bool:
        item = self._list.item(row)
        return item is not None and not item.isHidden()

    def _walk(self, step: int, start: int) -> None:
        """The next line that fits, from one on."""
        row = start + step
        while 0 <= row < len(self.options):
            if self._fits(row):
                self._list.setCurrentRow(row)
                return
            row += step

    def _filter(self, typed: str) -> None:
        """Show what every typed word stands in."""
        words = typed.lower().split()
        for row, option in enumerate(self.options):
            text = f"{option.text} {option.beside}".lower()
            item = self._list.item(row)
            assert item is not None, "every option has its line"
            item.setHidden(not all(word in text for word in words))

    def _finish(self) -> None:
        row = self._list.currentRow()
        go = self.options[row].go if 0 <= row < len(self.options) else None
        self.close()
        if go is not None:
            go()

    def _try(self, row: int) -> None:
        if row < 0 or self.options[row].go is not None:
            return
        try:
            self._choose(self.options[row].value)
        except (DocumentError, WorkspaceError) as error:
            self._error.setText(str(error))
            self._error.show()
            self.adjustSize()
            return
        self._error.hide()


class FieldsChooser(Popover):
    """The fields that a token stands for, each taken as soon as it is typed; ``paths`` names those that count now."""

    def __init__(
        self, owner: QWidget, session: Session, title: str, paths: Callable[[], Sequence[str]], caution: str = ""
    ) -> None:
        super().__init__(owner)
        self._session, self._paths = session, paths
        self._refused: list[tuple[EntryLine, str]] = []
        self.column.addWidget(heading(title))
        self._shown = SwappedFields()
        self._shown.setFixedWidth(330)
        self.column.addWidget(self._shown)
        if caution:
            self.column.addWidget(note(caution, "caution"))
        self._refresh()
        session.changed.connect(self._refresh)
        first = self.fields[0].entry
        first.setFocus()
        if isinstance(first, QLineEdit):
            first.selectAll()

    @property
    def fields(self) -> list[Field]:
        """The fields in view."""
        return self._shown.fields

    def _refresh(self) -> None:
        self._refused = []
        paths = tuple(self._paths())
        self._shown.show_for(paths, lambda: [field_for(self._session, path) for path in paths])
        self.adjustSize()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Take what is being typed; what is refused stays in sight with its sentence.

        The toolkit asks a popup that stays a thousand times over: what was refused is not tried again as it is.
        """
        if event is not None and not self._all_taken():
            event.ignore()
            return
        super().closeEvent(event)

    def _all_taken(self) -> bool:
        if not self._refused or [(line, line.text()) for line in being_typed(self)] != self._refused:
            self._refused = [(line, line.text()) for line in being_typed(self) if not line.finish()]
        return not self._refused
