"""A sheet to choose how large text is."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import QDialog, QPushButton, QWidget

from wise_cellar.ui.theme.text_size import SIZES, chosen_size
from wise_cellar.ui.widgets.panel import dialog_column, note
from wise_cellar.ui.widgets.segments import Segments

WIDTH = 460
EXPLAINED = (
    "On top of what the desktop asks for. All that is drawn grows with the text; where there is less room, what stands"
    " beside a picture stands under it."
)


class TextSizeSheet(QDialog):
    """A size is kept as it is chosen; ``again`` starts the window again, which shows it."""

    def __init__(self, owner: QWidget, settings: QSettings, again: Callable[[], object]) -> None:
        super().__init__(owner)
        self._settings, self._again = settings, again
        column = dialog_column(self, "Text size", width=WIDTH)
        self.sizes = Segments([f"{size} %" for size in SIZES], "Text size")
        self.sizes.choose(SIZES.index(chosen_size(settings)))
        self.sizes.chosen.connect(self._take)
        column.addWidget(self.sizes, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(note(EXPLAINED))
        self.words = note(role="")
        column.addWidget(self.words)
        self.start = QPushButton("Start again at this size")
        self.start.clicked.connect(self._start)
        column.addWidget(self.start, 0, Qt.AlignmentFlag.AlignLeft)
        self._shown = self.sizes.current
        self._show()

    def _take(self, place: int) -> None:
        self._settings.setValue("text_percent", SIZES[place])
        self._show()

    def _show(self) -> None:
        other = self.sizes.current != self._shown
        self.words.setText("Shown from the next start on; nothing that you made is lost by it." if other else "")
        self.start.setEnabled(other)

    def _start(self) -> None:
        self.accept()
        self._again()
