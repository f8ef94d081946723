"""A sheet of the backups of the workspace: one is opened beside the present one, which stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QPushButton, QWidget

from wise_cellar.core.units import format_number
from wise_cellar.store.backups import DAYS, Backup
from wise_cellar.store.reading import told
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import dialog_column, note

WORDS = (
    f"A workspace is kept as it was found on each of the last {DAYS} days on which it was opened, and before a newer"
    " Wise Cellar changes its tables. Opening one puts it beside the present workspace under a name of its own; neither"
    " the workspace nor the backup is changed."
)
NONE = "None is kept yet: the first is made when this workspace is opened the next time."
WIDE = 520


class BackupsSheet(QDialog):
    """A row a backup, the latest first; ``restore`` is told which one to open."""

    def __init__(self, owner: QWidget, backups: Sequence[Backup], restore: Callable[[Backup], None]) -> None:
        super().__init__(owner)
        column = dialog_column(self, "Backups")
        self.said = note(WORDS)
        self.said.setMinimumWidth(WIDE)
        column.addWidget(self.said)
        grid = QGridLayout()
        grid.setHorizontalSpacing(24)
        grid.setVerticalSpacing(4)
        self.buttons: list[QPushButton] = []
        for row, backup in enumerate(backups):
            button = QPushButton("Open a copy")
            button.setAccessibleName(f"Open a copy of {_words(backup)}")
            button.clicked.connect(lambda _checked=False, backup=backup: restore(backup))
            self.buttons.append(button)
            size = Label(f"{format_number(backup.size / 1e6, 1)} MB")
            grid.addWidget(Label(_words(backup)), row, 0)
            grid.addWidget(size, row, 1, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(button, row, 2)
        grid.setColumnStretch(0, 1)
        column.addLayout(grid)
        column.addWidget(note(f"They stand in {told(backups[0].path.parent)}." if backups else NONE))


def _words(backup: Backup) -> str:
    """The day; and of which version it was."""
    day = f"{backup.day:%A}, {backup.day.isoformat()}"
    return day if backup.version is None else f"{day}, before version {backup.version + 1} of its tables"
