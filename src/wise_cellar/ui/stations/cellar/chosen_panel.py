"""What can be done with the documents that are chosen on a shelf; of one: its name, notes and where it is used."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.cellar_edits import change_all
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.cellar.shelf_rows import Shelf, ShelfRow, users
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, note, sheet

MOST_NAMED, MOST_BESIDE = 6, 4
_OPEN = {Shelf.DESIGNS: "Open it", Shelf.CRAFTS: "Fly it in this design", Shelf.MISSIONS: "Fly it in this design",
         Shelf.CELLS: "Build this design of it"}  # fmt: skip


class Notes(QPlainTextEdit):
    """Lines of notes, taken when they are left."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(13))
        self.setTabChangesFocus(True)
        self.setPlaceholderText("Notes")
        self.setAccessibleName("Notes")
        self.setFixedHeight(92)

    def focusOutEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """They are taken."""
        super().focusOutEvent(event)
        self.left.emit()


class ChosenPanel(QWidget):
    """A panel beside the shelf."""

    open_wanted = pyqtSignal()
    copy_wanted = pyqtSignal()
    beside_wanted = pyqtSignal()
    archive_wanted = pyqtSignal()
    delete_wanted = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._shown: ShelfRow | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        self._title = heading("")
        inside.addWidget(self._title)
        self.name = EntryLine()
        self.name.setAccessibleName("Name")
        self.name.submitted.connect(self._rename)
        inside.addWidget(self.name)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setProperty("role", "faint")
        inside.addWidget(self.words)
        self.notes = Notes()
        self.notes.left.connect(self._note)
        inside.addWidget(self.notes)
        self.buttons: dict[str, QPushButton] = {}
        for key, words, wanted in (
            ("open", "Open it", self.open_wanted), ("beside", "Put them side by side", self.beside_wanted),
            ("copy", "Copy", self.copy_wanted), ("archive", "Archive", self.archive_wanted),
            ("delete", "Delete", self.delete_wanted),
        ):  # fmt: skip
            button = QPushButton(words)
            button.clicked.connect(wanted)
            self.buttons[key] = button
            inside.addWidget(button)
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)

    def say(self, sentence: str) -> None:
        """Why something was refused."""
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))

    def show_rows(self, rows: Sequence[ShelfRow], shelf: Shelf) -> None:
        """Show what can be done with these."""
        one = rows[0] if len(rows) == 1 else None
        if (one.document.id if one else None) != (self._shown.document.id if self._shown else None):
            self.say("")
        self._shown = one
        self._title.setText("Choose one" if not rows else one.name if one else f"{len(rows)} chosen")
        self._title.setVisible(one is None)
        for widget in (self.name, self.words):
            widget.setVisible(one is not None)
        self.notes.setVisible(one is not None and hasattr(one.document, "notes"))
        if one is not None:
            self.name.show_text(one.name)
            self.words.setText(self._about(one, shelf))
            if hasattr(one.document, "notes") and not self.notes.hasFocus():
                self.notes.setPlainText(one.document.notes)
        open_button, archive = self.buttons["open"], self.buttons["archive"]
        open_button.setText(_OPEN[shelf])
        archive.setText("Bring back" if rows and all(row.document.archived for row in rows) else "Archive")
        open_button.setVisible(one is not None)
        self.buttons["beside"].setVisible(shelf is Shelf.DESIGNS and 1 < len(rows) <= MOST_BESIDE)
        for key in ("copy", "archive", "delete"):
            self.buttons[key].setVisible(bool(rows))

    def _about(self, row: ShelfRow, shelf: Shelf) -> str:
        lines = [row.words, row.beside]
        if row.flown is not None and row.flown.refusal:
            lines.append(row.flown.refusal)
        if shelf is not Shelf.DESIGNS:
            names = [design.name for design in users(self._session.library, row.document)]
            more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
            lines.append("Used in no design." if not names else f"Used in {', '.join(names[:MOST_NAMED])}{more}.")
        if row.changed:
            lines.append(f"Last changed {row.changed}.")
        return "\n".join(lines)

    def _rename(self, text: str) -> None:
        row = self._shown
        if row is None or text == row.name:
            return
        if self._try(lambda: change_all(self._session, [row.document], f"Rename {row.name}", name=text)):
            self.name.accept_shown(text)

    def _note(self) -> None:
        row, text = self._shown, self.notes.toPlainText()
        if row is not None and text != getattr(row.document, "notes", text):
            self._try(lambda: change_all(self._session, [row.document], f"Note on {row.name}", notes=text))

    def _try(self, act: Callable[[], object]) -> bool:
        try:
            act()
        except (DocumentError, WorkspaceError) as error:
            self.say(str(error))
            return False
        self.say("")
        return True
