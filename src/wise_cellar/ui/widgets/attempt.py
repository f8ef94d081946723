"""A line that makes edits, and says in its place what was refused."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.documents import DocumentError
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.labels import Label


class Attempt(Label):
    """Hidden while all went well."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(11.5))
        self.setProperty("role", "error")
        self.setWordWrap(True)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        self.hide()

    def make(self, edit: Callable[[], object]) -> bool:
        """Make an edit; ``False``, with its sentence shown, where it is refused and nothing has changed."""
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self.say(str(error))
            return False
        self.hide()
        return True

    def say(self, sentence: str) -> None:
        """Say why something is not done."""
        self.setText(sentence)
        self.show()
