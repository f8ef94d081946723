"""Documents of a workspace that cannot be shown: why, and what can be done about each."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from wise_cellar.core.documents import DocumentError
from wise_cellar.store import Broken, WorkspaceError
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.document_edits import delete_broken, mend
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.panel import fitted, heading, note, paragraph, show_role

SIZE = (880, 560)


class BrokenDialog(QDialog):
    """A list at the left; the chosen document's text at the right, to be mended, exported as it is, or deleted."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._session = session
        self.broken: list[Broken] = []
        self.setWindowTitle("What cannot be shown")
        self.resize(*SIZE)
        column = QVBoxLayout(fitted(self))
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(8)
        column.addWidget(heading("What of this workspace cannot be shown"))
        column.addWidget(note("Everything else is whole. These stay in the file as they are until you decide."))
        row = QHBoxLayout()
        row.setSpacing(14)
        self.list = QListWidget()
        self.list.setAccessibleName("What cannot be shown")
        self.list.setFixedWidth(230)
        self.list.setWordWrap(True)
        self.list.currentRowChanged.connect(self._show)
        row.addWidget(self.list)
        row.addLayout(self._right(), 1)
        column.addLayout(row, 1)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        bottom = QHBoxLayout()
        bottom.addStretch(1)
        bottom.addWidget(close)
        column.addLayout(bottom)
        self._fill()

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.why = paragraph(role="error")
        column.addWidget(self.why)
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("The document as text")
        self.text.setFont(font(11.5))
        column.addWidget(self.text, 1)
        self.said = note()
        column.addWidget(self.said)
        buttons = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        actions: tuple[tuple[str, Callable[[], None]], ...] = (
            ("Keep as mended", self.mend),
            ("Export as it is…", self._ask_where),
            ("Delete", self.delete),
        )
        for words, do in actions:
            button = self.buttons[words] = QPushButton(words)
            button.clicked.connect(do)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        return column

    def _fill(self) -> None:
        self.broken = self._session.library.broken
        self.list.clear()
        for one in self.broken:
            self.list.addItem(f"{one.name}\n{one.kind.replace('_', ' ')}")
        self.list.setCurrentRow(0 if self.broken else -1)
        for button in self.buttons.values():
            button.setEnabled(bool(self.broken))
        if not self.broken:
            self.why.setText("")
            self.text.setPlainText("")

    @property
    def present(self) -> Broken | None:
        """The chosen one."""
        row = self.list.currentRow()
        return self.broken[row] if 0 <= row < len(self.broken) else None

    def _show(self, _row: int) -> None:
        one = self.present
        if one is not None:
            self.why.setText(one.sentence)
            self.text.setPlainText(one.body)

    def _try(self, do: Callable[[], object], done: str) -> None:
        try:
            do()
        except (DocumentError, WorkspaceError) as error:
            show_role(self.said, "error")
            self.said.setText(str(error))
            return
        show_role(self.said, "faint")
        self.said.setText(done)

    def mend(self) -> None:
        """Keep the text as it stands now, if it can be read."""
        one = self.present
        if one is not None:
            self._try(lambda: mend(self._session, one, self.text.toPlainText()), f"{one.name} is whole again.")
            if one not in self._session.library.broken:
                self._fill()

    def delete(self) -> None:
        """Take it out of the workspace."""
        one = self.present
        if one is not None:
            self._try(lambda: delete_broken(self._session, one), f"{one.name} is deleted; undo puts it back.")
            self._fill()

    def _ask_where(self) -> None:
        one = self.present
        if one is not None:
            name, _ = QFileDialog.getSaveFileName(self, "Export as it is", f"{one.id}.json"[-100:], "Text (*.json)")
            if name:
                self.export_to(Path(name))

    def export_to(self, path: Path) -> None:
        """Write the text as the workspace has it."""
        one = self.present
        if one is not None:
            self._try(lambda: write_whole(path, one.body), f"Written to {path}.")
