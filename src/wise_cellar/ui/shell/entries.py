"""What is still being typed when a window is left: taken, or shown once more; never dropped without a word."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from wise_cellar.core.words import quoted
from wise_cellar.ui.shell.notice import NoticeLine
from wise_cellar.ui.widgets.entry_line import EntryLine, being_typed
from wise_cellar.ui.widgets.fields import FIELDS


class Entries:
    """The entries of one window. ``go_to_field`` shows the station and the field of a path."""

    def __init__(self, window: QWidget, notice: NoticeLine, go_to_field: Callable[[str], None]) -> None:
        self._window, self._notice, self._go_to_field = window, notice, go_to_field
        self._asked: set[tuple[EntryLine, str]] = set()

    def forget(self) -> None:
        """Leave what was typed and refused: what it was typed into is not shown any more."""
        self._asked = set()
        for line in being_typed(self._window):
            line.go_back()

    def all_taken(self) -> bool:
        """Whether every entry has been taken; those that are refused are shown once, and given up when asked again."""
        refused = [line for line in being_typed(self._window) if not line.finish()]
        left = {(line, line.text()) for line in refused}
        if left <= self._asked:
            return True
        self._asked = left
        field = next((field for field in FIELDS.within(self._window) if field.entry is refused[0]), None)
        if field is not None:
            self._go_to_field(field.path)
        refused[0].setFocus(Qt.FocusReason.OtherFocusReason)
        self._notice.say(
            f"{quoted(refused[0].text())} was typed and is not taken: correct it, press Escape to leave it, or close"
            " again.",
            error=True,
        )
        return False

    def once_taken(self, run: Callable[[], object]) -> Callable[[], None]:
        """The same command, once everything that is being typed is taken."""

        def taken() -> None:
            if self.all_taken():
                run()

        return taken
