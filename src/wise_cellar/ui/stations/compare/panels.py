"""Beside the picture: the design that is chosen, what is searched, what must be kept to."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import CellType, DocumentError, Wishes
from wise_cellar.core.units import format_number
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import CheckField, QuantityField, TextField, field_for
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, sheet

CELLS = "design.search.cell_ids"
LIST_ROWS, ROW_PX = 6, 23


class ChosenPanel(QWidget):
    """The design under the ring: its figures, why it is excluded, and what to do with it."""

    taken = pyqtSignal()
    beside = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        self.title = heading("")
        self.title.setWordWrap(True)
        inside.addWidget(self.title)
        self.words = note(role="")
        self.words.setFont(font(13))
        inside.addWidget(self.words)
        self.reasons = Lines()
        inside.addLayout(self.reasons)
        row = QHBoxLayout()
        self.take_button, self.beside_button = QPushButton("Take it"), QPushButton("Put beside")
        self.take_button.setToolTip("Make it this design; undo gives the present one back")
        self.beside_button.setToolTip("Compare it with this design, side by side")
        self.take_button.clicked.connect(self.taken)
        self.beside_button.clicked.connect(self.beside)
        row.addWidget(self.take_button)
        row.addWidget(self.beside_button)
        row.addStretch(1)
        inside.addLayout(row)

    def show_design(self, title: str, words: str, reasons: Sequence[str]) -> None:
        """Show a design; without a title, what to do first."""
        chosen = bool(title)
        self.title.setText(title or "Choose a dot")
        self.words.setText(
            words if chosen else "Click one, or walk the edge with the arrow keys. Enter takes it into the recipe."
        )
        self.reasons.show_lines([Line(sentence, "error", 11.5) for sentence in reasons])
        self.take_button.setVisible(chosen)
        self.beside_button.setVisible(chosen)


class CellList(QListWidget):
    """The shelf with a tick at every type that is searched. All ticked is kept as all, also of cells to come."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._loading = False
        self.setAccessibleName("Cell types that are searched")
        self.setFixedHeight(LIST_ROWS * ROW_PX + 6)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setUniformItemSizes(True)
        self.itemChanged.connect(lambda _item: self._ticked())

    def refresh(self) -> None:
        """Show what is searched."""
        chosen = set(self._session.value(CELLS))
        cells = [cell for cell in self._session.all(CellType).values() if not cell.archived or cell.id in chosen]
        self._loading = True
        if [self._id(row) for row in range(self.count())] != [cell.id for cell in cells]:
            self.clear()
            for cell in cells:
                fresh = QListWidgetItem(cell.name)
                fresh.setData(Qt.ItemDataRole.UserRole, cell.id)
                fresh.setFlags(fresh.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                self.addItem(fresh)
        for row, cell in enumerate(cells):
            item = self.item(row)
            if item is not None:
                ticked = not chosen or cell.id in chosen
                item.setText(cell.name)
                item.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)
        self._loading = False

    def tick(self, ids: Sequence[str]) -> None:
        """Search these; none named: all."""
        self._session.edit(CELLS, tuple(ids), "Choose the cells that are searched")

    def ticked(self) -> list[str]:
        """Those with a tick."""
        return [self._id(row) for row in range(self.count())
                if (item := self.item(row)) is not None and item.checkState() is Qt.CheckState.Checked]  # fmt: skip

    def _id(self, row: int) -> str:
        item = self.item(row)
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ""

    def _ticked(self) -> None:
        if self._loading:
            return
        ids = self.ticked()
        if not ids:
            # One is the least; the last tick stays.
            self.refresh()
            return
        self.tick([] if len(ids) == self.count() else ids)


class _RangeField(TextField):
    """A range such as 3:8, in a box as wide as a number's."""

    def __init__(self, session: Session, path: str, unset: str) -> None:
        super().__init__(session, path)
        self.entry.setProperty("role", "")
        self.entry.setPlaceholderText(unset)
        self.entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._row.addSpacing(40)


class SearchPanel(QWidget):
    """What is searched, how many designs that is, and how far they are flown."""

    stopped = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("What is searched"))
        self.cells = CellList(session)
        inside.addWidget(self.cells)
        row = QHBoxLayout()
        self.all_button, self.own_button = QPushButton("All cells"), QPushButton("This design's only")
        for button, ids in ((self.all_button, False), (self.own_button, True)):
            button.setProperty("role", "quiet")
            button.clicked.connect(lambda _checked=False, own=ids: self._choose(own))
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        self.fields = FieldGrid(
            [
                _RangeField(session, "design.search.series", "near now"),
                _RangeField(session, "design.search.parallel", "as now"),
                _RangeField(session, "design.search.gauges", "as now"),
                *(CheckField(session, f"design.search.{name}") for name in ("every_joint", "every_policy")),
            ]
        )
        inside.addWidget(self.fields)
        row = QHBoxLayout()
        self.words = note()
        self.stop_button = QPushButton("Stop")
        self.stop_button.clicked.connect(self.stopped)
        row.addWidget(self.words, 1)
        row.addWidget(self.stop_button)
        inside.addLayout(row)
        self.error = note(role="error")
        inside.addWidget(self.error)

    def _choose(self, own: bool) -> None:
        try:
            self.cells.tick([self._session.complete.pack.cell.id] if own else [])
        except (DocumentError, WorkspaceError) as error:
            self.error.setText(str(error))
            self.error.show()

    def refresh(self) -> None:
        """Show the present choice."""
        self.cells.refresh()
        self.fields.refresh()

    def show_progress(self, flown: int, total: int, *, busy: bool) -> None:
        """How far it is."""
        done = f"{format_number(total, 0)} designs flown." if not busy and flown == total else (
            f"{format_number(flown, 0)} of {format_number(total, 0)} designs flown{'…' if busy else ', then stopped.'}"
        )  # fmt: skip
        self.words.setText(done)
        self.stop_button.setText("Stop" if busy else "Fly them all")
        self.stop_button.setVisible(busy or flown < total)
        self.error.hide()

    def show_error(self, sentence: str) -> None:
        """Why nothing is searched."""
        self.words.setText("")
        self.stop_button.hide()
        self.error.setText(sentence)
        self.error.show()


class WishesPanel(QWidget):
    """Limits of the user's own."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("What it must keep to"))
        inside.addWidget(note("Limits of craft and cells always hold. Besides them:"))
        paths = [f"design.search.wishes.{name}" for name in Wishes.model_fields]
        self.fields = FieldGrid(
            [
                QuantityField(session, path, default=lambda: "any") if not path.endswith("into_bay")
                else field_for(session, path)
                for path in paths
            ]
        )  # fmt: skip
        inside.addWidget(self.fields)

    def refresh(self) -> None:
        """Show the present wishes."""
        self.fields.refresh()


class SaidPanel(QWidget):
    """A heading and what is to be said under it; hidden while that is nothing."""

    def __init__(self, title: str) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=4)
        column.addWidget(panel)
        inside.addWidget(heading(title))
        self.words = note(role="")
        self.words.setFont(font(13))
        inside.addWidget(self.words)
        self.hide()

    def say(self, words: str) -> None:
        """Say this."""
        self.words.setText(words)
        self.setVisible(bool(words))
