"""Search, filters and footing above the shelf."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QMenu, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import FormFactor
from wise_cellar.core.shelf import Footing
from wise_cellar.ui.widgets.search_line import SearchLine
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.tick_box import TickBox
from wise_cellar.ui.widgets.turning import TurningBar

FOOTINGS = tuple(Footing)


class ShelfBar(QWidget):
    """``searched`` when the words or the limits filter change, ``changed`` when other rows must be flown."""

    searched = pyqtSignal()
    changed = pyqtSignal()
    add_asked = pyqtSignal(object)
    table_in_asked = pyqtSignal()
    table_out_asked = pyqtSignal()
    archive_asked = pyqtSignal()
    delete_asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.search = SearchLine()
        self.search.setPlaceholderText("Search")
        self.search.setAccessibleName("Search the shelf by name, form or chemistry")
        self.search.setMinimumWidth(96)
        self.search.setMaximumWidth(200)
        self.search.textChanged.connect(self.searched)
        self.fine_only = TickBox("within limits")
        self.fine_only.setToolTip("Only cells that stay within their limits here, and whose sheet is not impossible")
        self.fine_only.toggled.connect(self.searched)
        self.archived = TickBox("archived too")
        self.archived.toggled.connect(self.changed)
        self.footing = Segments([str(footing) for footing in FOOTINGS], "Cells are compared at")
        self.footing.chosen.connect(lambda _place: self.changed.emit())
        self.more = QPushButton("Shelf…")
        self.more.setToolTip("Add, archive or delete cell types; import or export the shelf as a table")
        menu = QMenu(self.more)
        for form in FormFactor:
            action = menu.addAction(f"Add a {'cell, ' if not form.value.startswith('p') else ''}{form}")
            if action is not None:
                action.triggered.connect(lambda _checked=False, f=form: self.add_asked.emit(f))
        menu.addSeparator()
        for words, signal in (
            ("Import a table…", self.table_in_asked), ("Export the table…", self.table_out_asked),
            ("Archive the chosen, or put them back", self.archive_asked), ("Delete the chosen", self.delete_asked),
        ):  # fmt: skip
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(lambda _checked=False, s=signal: s.emit())
        self.more.setMenu(menu)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(TurningBar([self.search, self.fine_only, self.archived], [self.footing, self.more], 8))

    def hide_none(self) -> None:
        """Search for nothing and filter nothing; the archived ones stay away."""
        self.search.clear()
        self.fine_only.setChecked(False)
        self.archived.setChecked(False)

    @property
    def present_footing(self) -> Footing:
        """On what footing cells are compared."""
        return FOOTINGS[self.footing.current]
