"""A cell type, or a battery bought whole, told in a few words: "a 21700 of 4 200 mAh and 70 g, good for 45 A"."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.begin import Description, cell_name, cell_type_of, read_description
from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.units import format_grams
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.panel import heading, note, sheet

EXAMPLE = "21700, 4200 mAh, {}, 45 A, 15 mΩ"
"""What may be said of a cell; ``{}`` stands for its mass."""
EXAMPLE_G = 70.0


class CellSentence(QWidget):
    """A line; Enter makes the cell type. ``made`` brings its identifier."""

    made = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._said: Description | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        inside.addWidget(heading("A cell in a few words"))
        inside.addWidget(note("A cylinder by its size, or a pack bought whole: what its label says, in any order."))
        self.line = EntryLine()
        self.line.setPlaceholderText(EXAMPLE.format(format_grams(EXAMPLE_G)))
        self.line.setAccessibleName("A cell in a few words")
        self.line.textChanged.connect(self._understand)
        self.line.returnPressed.connect(self.make)
        inside.addWidget(self.line)
        self.words = note()
        inside.addWidget(self.words)
        self.button = QPushButton("Make it")
        self.button.clicked.connect(self.make)
        inside.addWidget(self.button)
        self._understand("")

    def _understand(self, text: str) -> None:
        """Say at once what is understood, or what is not."""
        self._said, words, wrong = None, "", ""
        if text.strip():
            try:
                self._said = read_description(text)
                self._cell(self._said)
                words = f"Understood: {self._said.words}. The rest is usual for its class."
            except DocumentError as error:
                self._said, wrong = None, str(error)
        self.words.setText(wrong or words)
        self.words.setVisible(bool(wrong or words))
        self.line.setProperty("wrong", "true" if wrong else "false")
        self.button.setEnabled(self._said is not None)

    def _cell(self, said: Description) -> CellType:
        name = cell_name(said, said.series_count or 1)
        return cell_type_of(said, self._session.free_id(CellType, name), name)

    def make(self) -> None:
        """Put it on the shelf, what was not said marked as an estimate."""
        if self._said is None:
            return
        cell = self._cell(self._said)
        try:
            self._session.commit(f"Add {cell.name}", [cell])
        except (DocumentError, WorkspaceError) as error:
            self.words.setText(str(error))
            self.words.show()
            return
        self.line.accept_shown("")
        self.made.emit(cell.id)
