"""Files that come and go: exports, imports, dropped files, other workspaces."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from wise_cellar.core.documents import CellType, CompleteDesign, Craft, DocumentError, Mission
from wise_cellar.core.units import format_number
from wise_cellar.store import Workspace, WorkspaceError, read_exchange_file, write_exchange_file
from wise_cellar.store.backups import Backup, backups_of, restored
from wise_cellar.store.moving import move_in, move_out
from wise_cellar.store.reading import told
from wise_cellar.ui.shell.backups_sheet import BackupsSheet
from wise_cellar.ui.shell.notice import NoticeLine
from wise_cellar.ui.state.document_edits import take_in
from wise_cellar.ui.state.session import Session

EXPORTS = "Wise Cellar exports (*.json)"
IMPORTS = "All that can be imported (*.json *.csv *.txt *.tsv *.log *.png *.jpg *.jpeg);;All (*)"
WORKSPACES = "Wise Cellar workspaces (*.cellar)"


class Files:
    """File commands of one window.

    ``elsewhere`` takes in what is no export, or answers no.
    """

    def __init__(
        self,
        window: QWidget,
        session: Session,
        notice: NoticeLine,
        elsewhere: Callable[[list[Path]], bool],
    ) -> None:
        self._window, self._session, self._notice, self._elsewhere = window, session, notice, elsewhere

    def import_files(self) -> None:
        """Ask for files and take them in."""
        names, _ = QFileDialog.getOpenFileNames(self._window, "Import", "", IMPORTS)
        self.take_in_all([Path(name) for name in names])

    def take_in_all(self, paths: Sequence[Path]) -> None:
        """Import files: exports here, logs, tables and pictures at the station that knows them."""
        exports = [path for path in paths if path.suffix.lower() == ".json"]
        others = [path for path in paths if path not in exports]
        for path in exports:
            self.take_in(path)
        if others and not self._elsewhere(others):
            self.take_in(others[0])

    def take_in(self, path: Path) -> None:
        """Import one export."""
        try:
            found = read_exchange_file(path)
            take_in(self._session, found.document)
        except (DocumentError, WorkspaceError) as error:
            self._notice.say(str(error), error=True)
            return
        self._notice.say(" ".join([f"Imported the {found.kind} from {told(path.name)}.", *found.mended[:2]]))

    def export(self, root: str) -> None:
        """Ask where to and export the present design, or the document at the path ``root`` of it."""
        document = self._session.complete if root == "design" else self._session.value(root)
        name, _ = QFileDialog.getSaveFileName(
            self._window, "Export", f"{self._session.value(root + '.id')}.json", EXPORTS
        )
        if name:
            self.export_to(Path(name), document)

    def export_to(self, path: Path, document: CompleteDesign | Craft | CellType | Mission) -> None:
        """Export to a file."""
        try:
            write_exchange_file(path, document)
        except DocumentError as error:
            self._notice.say(str(error), error=True)
            return
        self._notice.say(f"Exported to {told(path)}.")

    def open_workspace(self) -> None:
        """Ask for a workspace and show it."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Open workspace", "", WORKSPACES)
        if name:
            self.show_workspace(Path(name))

    def new_workspace(self) -> None:
        """Ask for a file and start a workspace there from the sample world."""
        name, _ = QFileDialog.getSaveFileName(self._window, "New workspace", "workspace.cellar", WORKSPACES)
        if not name:
            return
        path = Path(name)
        if _is_there(path):
            self._notice.say(f"{told(path)} is there already; open it, or choose another name.", error=True)
            return
        self.show_workspace(path if path.suffix else path.with_suffix(".cellar"))

    def save_copy(self) -> None:
        """Ask for a file and write all that is here to it."""
        name, _ = QFileDialog.getSaveFileName(self._window, "Save a copy", "copy.cellar", WORKSPACES)
        if name:
            path = Path(name)
            self.save_copy_to(path if path.suffix else path.with_suffix(".cellar"))

    def save_copy_to(self, path: Path) -> None:
        """Write a copy; where the file that was opened is gone, go on in the copy."""
        lost = not self._session.workspace.in_place
        try:
            self._session.save_copy(path)
            if lost:
                self._session.go_on_in(Workspace.open(path))
                return
        except (DocumentError, WorkspaceError) as error:
            self._notice.say(str(error), error=True)
            return
        self._notice.say(f"A copy of all that is here is in {told(path)}.")

    def move_out(self) -> None:
        """Ask for a folder and write all that is here into it."""
        name, _ = QFileDialog.getSaveFileName(self._window, "Move all out", "wise-cellar-moved", "A new folder (*)")
        if name:
            self.move_out_to(Path(name))

    def move_out_to(self, folder: Path) -> None:
        """Write all that is here into a folder."""
        try:
            count = move_out(self._session.workspace, folder)
        except (DocumentError, WorkspaceError) as error:
            self._notice.say(str(error), error=True)
            return
        self._notice.say(f"All {format_number(count, 0)} documents are in {told(folder)}, as JSON and CSV.")

    def move_in(self) -> None:
        """Ask for a folder that was moved out, and show a new workspace of it."""
        name = QFileDialog.getExistingDirectory(self._window, "Move in", "")
        if name:
            self.move_in_from(Path(name))

    def move_in_from(self, folder: Path) -> None:
        """Show a new workspace of a folder, beside it."""
        path = folder.with_name(f"{folder.name}.cellar")
        try:
            move_in(folder, path)
        except (DocumentError, WorkspaceError) as error:
            self._notice.say(str(error), error=True)
            return
        self.show_workspace(path)

    def show_backups(self) -> None:
        """A sheet of what is kept of this workspace, to open one beside it."""
        self.backups_sheet = BackupsSheet(self._window, backups_of(self._session.workspace.path), self.restore)
        self.backups_sheet.open()

    def restore(self, backup: Backup) -> None:
        """Show what a backup holds, under a name of its own."""
        try:
            path = restored(backup, self._session.workspace.path)
        except WorkspaceError as error:
            self._notice.say(str(error), error=True)
            return
        self.backups_sheet.close()
        before = self._session.workspace.path
        self.show_workspace(path)
        if self._session.workspace.path == path:
            self._notice.say(f"This is {told(path.name)}; {told(before.name)} is as you left it.")

    def show_workspace(self, path: Path) -> None:
        """Show another workspace; on an error the present one stays."""
        try:
            if _is_there(path) and path.resolve() == self._session.workspace.path.resolve():
                self._notice.say(f"{path.name} is the workspace you are in.")
                return
            self._session.go_on_in(Workspace.open(path, backed_up=date.today()))
        except (DocumentError, WorkspaceError) as error:
            self._notice.say(str(error), error=True)


def _is_there(path: Path) -> bool:
    """Whether something stands at a path; a name that the system does not take names nothing."""
    try:
        return path.exists()
    except (OSError, ValueError):
        return False
