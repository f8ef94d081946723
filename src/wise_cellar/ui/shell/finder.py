"""Find: reaches any command, design, craft, cell, mission or field by typing."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QWidget

from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.popover import Popover

MOST_SHOWN = 12
WIDTH = 560


@dataclass(frozen=True)
class Findable:
    """Something to be found: its kind, its words, keys or more words beside it, and what to do; ``also`` are words that
    are not shown but may be typed for it."""

    kind: str
    text: str
    beside: str
    go: Callable[[], object]
    also: str = ""
    changes: bool = False
    """Whether it changes something: then it never stands before what was typed."""


def matching(things: Sequence[Findable], typed: str) -> list[Findable]:
    """Things in which every typed word begins a word, or stands anywhere; better matches first: whole words before
    beginnings, the name before what is told beside it, and what changes something after what does not."""
    words = typed.lower().split()
    found = []
    for place, thing in enumerate(things):
        points = _points(thing, words)
        if points is not None:
            found.append((points, thing.changes and bool(words), place, thing))
    return [thing for *_, thing in sorted(found, key=lambda one: one[:3])]


def _points(thing: Findable, words: Sequence[str]) -> int | None:
    """How far a thing is from what was typed; none where a word is not in it."""
    name, beside = thing.text.lower(), f"{thing.kind} {thing.beside} {thing.also}".lower()
    named, told = (text.replace(",", " ").replace(":", " ").split() for text in (name, beside))
    total = 0 if not words or name == " ".join(words) else 1
    for word in words:
        if word in named:
            total += 0 if name.startswith(word) else 1
        elif any(start.startswith(word) for start in named):
            total += 2 if name.startswith(word) else 3
        elif word in told:
            total += 4
        elif any(start.startswith(word) for start in told):
            total += 6
        elif word in name:
            total += 8
        elif word in beside:
            total += 9
        else:
            return None
    return total


class Finder(Popover):
    """A line and what matches it; Enter goes. ``more`` brings what takes longer to gather, one part at a time while
    nothing else is to be done."""

    def __init__(self, owner: QWidget, things: Sequence[Findable], more: Iterable[Sequence[Findable]] = ()) -> None:
        super().__init__(owner)
        self._things, self._more = list(things), iter(more)
        self.whole = False
        """Whether everything has been gathered."""
        self._idle = QTimer(self)
        self._idle.timeout.connect(self._gather)
        self._shown: list[Findable] = []
        self.setFixedWidth(WIDTH)
        self.line = QLineEdit()
        self.line.setFont(font(15))
        self.line.setPlaceholderText("A command, cell, craft, design or field")
        self.line.setAccessibleName("Find")
        self.line.textChanged.connect(self._search)
        self.line.returnPressed.connect(self._go)
        self.line.installEventFilter(self)
        self.column.addWidget(self.line)
        self.list = QListWidget()
        self.list.setAccessibleName("What was found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(lambda _item: self._go())
        self.column.addWidget(self.list)
        self.nothing_found = note("Nothing is called that. Try part of a name, such as “lead” or “Tarn”.")
        self.column.addWidget(self.nothing_found)
        self._search("")
        self.line.setFocus()

    def open_over(self, window: QWidget) -> None:
        """Show near the top of the window."""
        self.adjustSize()
        self.move(window.mapToGlobal(QPoint((window.width() - WIDTH) // 2, 84)))
        self.show()
        self._idle.start(0)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Up and down walk the list while typing."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + step) % self.list.count())
                return True
        return super().eventFilter(watched, event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Gather nothing more."""
        self._idle.stop()
        super().closeEvent(event)

    def _gather(self) -> None:
        """One more part; what was chosen stays chosen."""
        part = next(self._more, None)
        if part is None:
            self.whole = True
            self._idle.stop()
            self.nothing_found.setVisible(not self._shown)
            return
        row = self.list.currentRow()
        chosen = self._shown[row] if 0 <= row < len(self._shown) else None
        self._things += part
        if self.line.text():
            self._search(self.line.text())
            if row > 0 and chosen in self._shown:
                self.list.setCurrentRow(self._shown.index(chosen))

    def _search(self, typed: str) -> None:
        self._shown = matching(self._things, typed)[:MOST_SHOWN]
        self.list.clear()
        for thing in self._shown:
            beside = f"   {thing.beside}" if thing.beside else ""
            self.list.addItem(QListWidgetItem(f"{thing.text}   ·   {thing.kind}{beside}"))
        self.list.setCurrentRow(0)
        self.list.setFixedHeight(max(len(self._shown), 1) * max(self.list.sizeHintForRow(0), 24) + 6)
        self.list.setVisible(bool(self._shown))
        self.nothing_found.setVisible(self.whole and not self._shown)
        self.adjustSize()

    def _go(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._shown):
            chosen = self._shown[row]
            self.close()
            chosen.go()
