"""What the Cells station reads from files and writes to them: tables of cell types, logs, printed charts."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QWidget

from wise_cellar.core.documents import CellType, DocumentError, TracedChart
from wise_cellar.store import WorkspaceError
from wise_cellar.store.cell_tables import is_cell_table, read_cell_table, write_cell_table
from wise_cellar.ui.state.cell_edits import take_in_cells
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.cells.import_dialog import ImportDialog
from wise_cellar.ui.stations.cells.trace_dialog import TraceDialog

TABLES = "Table (*.csv)"
LOG_SUFFIXES = (".csv", ".txt", ".tsv", ".log")
PICTURE_SUFFIXES = (".png", ".jpg", ".jpeg", ".bmp", ".gif", ".webp", ".tif", ".tiff")
LOGS = "Logs (*.csv *.txt *.tsv *.log);;All (*)"


class CellFiles(QObject):
    """Asks for files and takes them in; ``tell`` shows a sentence, and whether it is a refusal."""

    imported = pyqtSignal()
    """The import panel was left."""

    def __init__(self, station: QWidget, session: Session, tell: Callable[..., None]) -> None:
        super().__init__(station)
        self._station, self._session, self._tell = station, session, tell
        self.dialog: QDialog | None = None
        """The panel that stands open over the window."""

    def ask_table_in(self) -> None:
        """Ask for a table of cell types."""
        name, _ = QFileDialog.getOpenFileName(self._station, "Import a table of cell types", "", TABLES)
        if name:
            self.take_in_table(Path(name))

    def take_in_table(self, path: Path) -> None:
        """Import a table of cell types; rows that are wrong are named, the rest is taken."""
        try:
            table = read_cell_table(path)
            taken = take_in_cells(self._session, table.rows, path.name) if table.rows else 0
        except (DocumentError, WorkspaceError) as error:
            self._tell(str(error), error=True)
            return
        words = f"{taken} cell types came from {path.name}."
        more = len(table.refusals) - 3
        faults = " ".join(table.refusals[:3]) + (f" And {more} more." if more > 0 else "")
        self._tell(f"{words} {faults}" if faults else words, error=bool(faults))

    def ask_table_out(self) -> None:
        """Ask where to, and export every cell type as one table."""
        name, _ = QFileDialog.getSaveFileName(self._station, "Export the shelf", "cells.csv", TABLES)
        if name:
            self.put_out_table(Path(name))

    def put_out_table(self, path: Path) -> None:
        """Export every cell type as one table."""
        try:
            write_cell_table(path, self._session.all(CellType))
        except (DocumentError, WorkspaceError) as error:
            self._tell(str(error), error=True)
            return
        self._tell(f"{len(self._session.all(CellType))} cell types were written to {path}.")

    def ask_import(self) -> None:
        """Ask for logs of the present cell's discharges."""
        names, _ = QFileDialog.getOpenFileNames(self._station, "Import discharges", "", LOGS)
        if names:
            self.open_import([Path(name) for name in names])

    def open_import(self, paths: list[Path]) -> ImportDialog:
        """Open the import panel on these files."""
        dialog = ImportDialog(self._station, self._session, paths)
        dialog.finished.connect(lambda _result: self.imported.emit())
        self._open(dialog)
        return dialog

    def take_in(self, paths: list[Path]) -> bool:
        """Import logs, tables of cell types or a picture of a chart by what they are; ``False`` for none of them."""
        tables = [path for path in paths if path.suffix.lower() in LOG_SUFFIXES]
        pictures = [path for path in paths if path.suffix.lower() in PICTURE_SUFFIXES]
        cells = [path for path in tables if is_cell_table(path)]
        logs = [path for path in tables if path not in cells]
        for path in cells:
            self.take_in_table(path)
        if logs:
            self.open_import(logs)
        elif pictures:
            self.open_trace(picture=pictures[0])
        return bool(tables or pictures)

    def open_trace(self, chart: TracedChart | None = None, picture: Path | None = None) -> TraceDialog | None:
        """Open the tracing panel on a chart that is kept, or on a picture, which is asked for if not given."""
        try:
            dialog = TraceDialog(self._station, self._session, chart)
        except WorkspaceError as error:
            self._tell(str(error), error=True)
            return None
        if chart is None:
            if picture is None:
                picture = dialog.ask_picture()
            if picture is None:
                return None
            dialog.open_picture(picture)
        self._open(dialog)
        return dialog

    def _open(self, dialog: QDialog) -> None:
        """Open a panel over the window; it goes when it is left."""
        self.dialog = dialog
        dialog.finished.connect(lambda _result: self._close(dialog))
        dialog.open()

    def _close(self, dialog: QDialog) -> None:
        if self.dialog is dialog:
            self.dialog = None
        dialog.deleteLater()

    def close_dialog(self) -> None:
        """Close the panel that stands open."""
        if self.dialog is not None:
            self.dialog.close()
