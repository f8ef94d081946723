"""A line to type a value into, which never drops what was typed."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

from wise_cellar.ui.widgets.keys import is_undo, pass_to_window
from wise_cellar.ui.widgets.register import Register

_CHANGED: Register[EntryLine] = Register()
"""Lines in which something else stands than they show, in the order in which they came to."""


def being_typed(within: QWidget) -> list[EntryLine]:
    """The lines in a window, and in what stands over it, in which something was typed that is not taken."""
    return [line for line in _CHANGED.within(within) if line.untaken]


class EntryLine(QLineEdit):
    """A line that says when the user leaves it changed, and goes back on Escape."""

    submitted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.quantity = ""
        """Of what an instrument may read, by its name there; empty where none goes into it."""
        self._shown = ""
        self.editingFinished.connect(self.finish)
        self.textChanged.connect(self._note)

    def _note(self, text: str) -> None:
        """Be found by :func:`being_typed` while another text stands in it."""
        if text == self._shown:
            _CHANGED.drop(self)
        else:
            _CHANGED.put(self)

    @property
    def untaken(self) -> bool:
        """Whether something was typed that is not taken: it is still being typed, or was refused."""
        return self.isModified() and self.text() != self._shown

    def show_text(self, text: str) -> None:
        """Show a value, unless another was typed for it that is not taken."""
        if self.untaken and (self.hasFocus() or text == self._shown):
            return
        self._shown = text
        self.setText(text)
        self.setCursorPosition(0)  # a long name shows its beginning
        self.setModified(False)

    def accept_shown(self, text: str) -> None:
        """The value was taken; show it as understood."""
        self._shown = text
        self.setText(text)
        self.setModified(False)

    def finish(self) -> bool:
        """Have what was typed taken; ``False`` where it is refused."""
        if self.untaken:
            self.submitted.emit(self.text())
        return not self.untaken

    def take_readings(self, settled: Mapping[str, str]) -> set[str]:
        """Have the reading of its quantity typed into it, and Enter behind; which were taken."""
        text = settled.get(self.quantity)
        if text is None or not self.isEnabled():
            return set()
        self.setText(text)
        self.setModified(True)
        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            QApplication.sendEvent(self, QKeyEvent(kind, Qt.Key.Key_Return, Qt.KeyboardModifier.NoModifier))
        return {self.quantity}

    def go_back(self) -> None:
        """Show the value again in place of what was typed."""
        self.setText(self._shown)
        self.setModified(False)
        self.submitted.emit(self._shown)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape and undo go back to what was shown; undo with nothing typed takes the last edit back."""
        if event is None:
            return
        back = event.key() == Qt.Key.Key_Escape or is_undo(event)
        if back and self.text() != self._shown:
            self.go_back()
        elif not pass_to_window(self, event):
            super().keyPressEvent(event)
