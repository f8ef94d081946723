"""The tray: its picture, its table, what is told beside them, and tables that come and go."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from wise_cellar.core.build import Fate, Tray
from wise_cellar.core.documents import DocumentError, NumberedCell
from wise_cellar.core.units import counted
from wise_cellar.store import WorkspaceError
from wise_cellar.store.tray_tables import is_tray_table, read_tray_table, write_tray_table
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of, take_in
from wise_cellar.ui.stations.build.cell_panel import CellPanel, TrayPanel
from wise_cellar.ui.stations.build.tray_picture import TrayPicture
from wise_cellar.ui.stations.build.tray_table import TrayModel, TrayTable
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.panel import note

TABLES = "Tables (*.csv *.tsv *.txt)"
HOW = "Enter goes on to the next cell, Tab to the next reading; a number with its unit can be pasted. Delete removes."


class TrayWork(QObject):
    """Keeps :attr:`page` and its two panels."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self.tray: Tray | None = None
        self.cell, self.whole = CellPanel(session), TrayPanel(session)
        self.page = QWidget()
        self._lay_out()
        self.whole.take_in.clicked.connect(self._ask_in)
        self.whole.put_out.clicked.connect(self._ask_out)
        self.model.refused.connect(self._say_refused)
        self.table.cell_chosen.connect(self._choose)
        self.picture.pointed.connect(self.table.choose)

    @property
    def panels(self) -> tuple[QWidget, ...]:
        """Beside the page."""
        return self.cell, self.whole

    def _lay_out(self) -> None:
        column = QVBoxLayout(self.page)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(4)
        self.picture = TrayPicture()
        column.addWidget(self.picture.key)
        lower = QWidget()
        under = QVBoxLayout(lower)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(4)
        self.model = TrayModel(self._session, self.page)
        self.table = TrayTable(self.model, self._session)
        self.table.setMinimumHeight(110)
        under.addWidget(self.table, 1)
        self.refused = note(role="error")
        self.refused.hide()
        under.addWidget(self.refused)
        under.addWidget(note(HOW))
        divided = Divided("tray", self.picture, lower)
        divided.share(46, 54)
        column.addWidget(divided, 1)

    def headline(self) -> str:
        """How many cells are sound."""
        if self.tray is None or not self.tray.cells:
            name = self._session.complete.pack.cell.name
            return f"No {name} is numbered yet: type the readings of the first cell into the last row"
        counts = self.tray.counts()
        bad = counts[Fate.NEVER]
        must = "all may be used" if not bad else f"{bad} must not be used"
        return f"{counts[Fate.USE]} of {len(self.tray.cells)} cells of {self.tray.cell_type.name} are sound; {must}"

    def show_tray(self, tray: Tray, groups: Sequence[Sequence[NumberedCell]]) -> None:
        """Show these cells, and the groups that they were matched into."""
        if tray is self.tray and tuple(tuple(group) for group in groups) == self.picture.groups:
            return
        self.tray = tray
        self.model.show_tray(tray)
        self.whole.show_tray(tray)
        self.picture.show_tray(tray, groups)
        self._choose(self.table.currentIndex().row())

    def _say_refused(self, sentence: str) -> None:
        self.refused.setText(sentence)
        self.refused.setVisible(bool(sentence))

    def _choose(self, row: int) -> None:
        cells = self.tray.cells if self.tray is not None else ()
        there = 0 <= row < len(cells)
        self.cell.show_cell(cells[row] if there else None)
        self.picture.choose(row if there else -1)

    # Tables

    def _ask_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.page, "Cells from a table", "", TABLES)
        if name:
            self.take_in_table(Path(name))

    def take_in(self, paths: list[Path]) -> bool:
        """Take tables of numbered cells that were dropped on the window; whether all of them are such."""
        if not paths or not all(is_tray_table(path) for path in paths):
            return False
        for path in paths:
            self.take_in_table(path)
        return True

    def take_in_table(self, path: Path) -> None:
        """Put the cells of a table into the tray; rows that are wrong are named, the rest is taken."""
        cell_type = self._session.complete.pack.cell
        try:
            found = read_tray_table(path)
            new, more = take_in(self._session, cell_type.id, found.rows, path.name)
        except (DocumentError, WorkspaceError) as error:
            self.whole.tell(str(error), error=True)
            return
        words = (
            f"{counted(new, 'cell')} came from {path.name} into the tray of {cell_type.name}, and {more} that"
            f" {'was' if more == 1 else 'were'} there {'is' if more == 1 else 'are'} read anew."
        )
        self.whole.tell(" ".join([words, *found.refusals[:3]]), error=bool(found.refusals))

    def _ask_out(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self.page, "The tray as a table", "tray.csv", TABLES)
        if name:
            self.put_out_table(Path(name))

    def put_out_table(self, path: Path) -> None:
        """Write the tray as one table."""
        cells = cells_of(self._session, self._session.complete.pack.cell.id)
        try:
            write_tray_table(path, cells)
        except DocumentError as error:
            self.whole.tell(str(error), error=True)
            return
        self.whole.tell(f"{path} holds {counted(len(cells), 'cell')} now.")
