"""The shelves: every design, craft, mission and cell type; beside them what can be done with the chosen ones."""

from __future__ import annotations

from collections.abc import Callable, Generator, Sequence
from functools import partial
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CellType, CompleteDesign, Craft, Design, DocumentError, Mission
from wise_cellar.store import WorkspaceError
from wise_cellar.store.library import Library
from wise_cellar.ui.state import cellar_edits
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.stream import Stream
from wise_cellar.ui.stations.cellar.cell_sentence import CellSentence
from wise_cellar.ui.stations.cellar.chosen_panel import ChosenPanel
from wise_cellar.ui.stations.cellar.shelf_list import ShelfList
from wise_cellar.ui.stations.cellar.shelf_rows import Flown, Order, Shelf, arranged, shelf_rows
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.panel import heading, note, scrolling_column, sheet
from wise_cellar.ui.widgets.search_line import SearchLine
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.tick_box import TickBox
from wise_cellar.ui.widgets.turning import PictureAndColumn, TurningBar

SIDE = 300
SHELVES = tuple(Shelf)


class ShelvesPage(QWidget):
    """A list with its search, order and kinds; the chosen ones beside it."""

    page_requested = pyqtSignal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._flown: dict[str, Flown] = {}
        self._flying = Stream(self)
        self._flying.came.connect(self._take)
        panel, inside = sheet()
        inside.addLayout(self._top())
        self.empty_words = note("", "")
        inside.addWidget(self.empty_words)
        self.list = ShelfList()
        inside.addWidget(self.list, 1)
        area, side = scrolling_column(SIDE)
        self.chosen = ChosenPanel(session)
        side.addWidget(self.chosen)
        self.cell_sentence = CellSentence(session)
        self.cell_sentence.made.connect(lambda made: self.list.choose([made]))
        side.addWidget(self.cell_sentence)
        side.addWidget(self._more())
        side.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(PictureAndColumn(panel, area))
        self.list.chosen.connect(self._show_chosen)
        self.list.opened.connect(self._open)
        self.list.deleted.connect(self._delete)
        for signal, act in (
            (self.chosen.open_wanted, self._open), (self.chosen.copy_wanted, self._copy),
            (self.chosen.beside_wanted, self._put_beside), (self.chosen.archive_wanted, self._archive),
            (self.chosen.delete_wanted, self._delete),
        ):  # fmt: skip
            signal.connect(act)

    def _top(self) -> QVBoxLayout:
        column = QVBoxLayout()
        second = QHBoxLayout()
        self.which = Segments([str(shelf) for shelf in SHELVES], "Shelf", 15)
        self.which.chosen.connect(lambda _: self.refresh())
        begin = QPushButton("Begin with a craft of your own   Ctrl+N")
        begin.clicked.connect(self._session.draft.begin)
        self.search = SearchLine()
        self.search.setPlaceholderText("Search names, recipes, missions and notes")
        self.search.setAccessibleName("Search the shelf")
        self.search.textChanged.connect(lambda _: self._show())
        self.order = Chooser()
        self.order.addItems([str(order) for order in Order])
        self.order.setAccessibleName("Order")
        self.order.activated.connect(lambda _: self._show())
        self.archived = TickBox("Archived ones too")
        self.archived.toggled.connect(lambda _: self._show())
        second.addWidget(self.search, 1)
        second.addWidget(self.order)
        second.addWidget(self.archived)
        column.addWidget(TurningBar([self.which], [begin], 12))
        column.addLayout(second)
        return column

    def _more(self) -> QWidget:
        panel, inside = sheet()
        inside.addWidget(heading("From the sample world"))
        inside.addWidget(note("A single craft, mission or cell of the samples, for a workspace of your own."))
        self.samples = Chooser()
        self.samples.setAccessibleName("Sample to take over")
        inside.addWidget(self.samples)
        self.take_over = QPushButton("Take it over")
        self.take_over.clicked.connect(self._take_over)
        inside.addWidget(self.take_over)
        self._samples_panel = panel
        return panel

    # Showing

    @property
    def shelf(self) -> Shelf:
        """The one in view."""
        return SHELVES[self.which.current]

    def refresh(self) -> None:
        """Show the present documents, and fly the designs that have changed."""
        designs = self.shelf is Shelf.DESIGNS
        for place in (1, 2):
            item = self.order.model().index(place, 0)  # type: ignore[union-attr]
            self.order.view().setRowHidden(item.row(), not designs)  # type: ignore[union-attr]
        self.order.setItemText(0, "by craft" if designs else "by kind")
        if not designs and self.order.currentIndex() in (1, 2):
            self.order.setCurrentIndex(0)
        self.cell_sentence.setVisible(self.shelf is Shelf.CELLS)
        self._show()
        self._fly()
        self._show_samples()

    def _show(self) -> None:
        session = self._session
        changed = session.workspace.changed_at(self.shelf.model)
        every = shelf_rows(session.library, self.shelf, self._flown, changed, session.complete)
        order = list(Order)[self.order.currentIndex()]
        rows = arranged(every, order, self.search.text(), changed, archived=self.archived.isChecked())
        hidden = sum(row.document.archived for row in every)
        words = "" if rows else f"Nothing here is called that. {hidden} archived." if every else "Nothing is here yet."
        self.empty_words.setText(words)
        self.empty_words.setVisible(not rows)
        self.list.show_rows(rows, grouped=order is Order.GROUP)
        if not self.list.selected:
            self.list.choose([row.document.id for row in rows if row.present][:1])
        self._show_chosen()

    def _show_chosen(self) -> None:
        self.chosen.show_rows(self.list.selected, self.shelf)

    # Flying

    def _fly(self) -> None:
        """Answer the designs that are not known as they are now, beside the window."""
        designs = self._session.all(Design)
        wanted = []
        for key, design in designs.items():
            parts, known = _parts(self._session.library, design), self._flown.get(key)
            # Documents are values, and an edit puts another one: the same ones have the same answer.
            if known is None or any(part is not was for part, was in zip(parts, known.parts, strict=False)):
                wanted.append(parts)
        self._flown = {key: one for key, one in self._flown.items() if key in designs}
        if wanted:
            self._flying.run(partial(_answers, wanted))

    def _take(self, one: Flown) -> None:
        self._flown[one.parts[0].id] = one
        if self.shelf is Shelf.DESIGNS and self.isVisible():
            self._show()

    @property
    def settled(self) -> bool:
        """Whether every design has been flown."""
        return not self._flying.busy

    def close_work(self) -> None:
        """Stop flying."""
        self._flying.close()

    def leave_workspace(self) -> None:
        """Another is about to be shown: what is known is of this one."""
        self._flying.stop()
        self._flown.clear()
        self.search.clear()

    # Doing

    def _try(self, act: Callable[[], object]) -> bool:
        try:
            act()
        except (DocumentError, WorkspaceError) as error:
            self.chosen.say(str(error))
            return False
        self.chosen.say("")
        return True

    def _open(self) -> None:
        rows = self.list.selected
        if len(rows) != 1:
            return
        document = rows[0].document
        if self.shelf is Shelf.DESIGNS:
            if self._try(lambda: self._session.open_design(document.id)):
                self.page_requested.emit("Flight", "")
            return
        path = {Shelf.CRAFTS: "design.craft_id", Shelf.MISSIONS: "design.mission_id",
                Shelf.CELLS: "design.packs.0.cell_type_id"}[self.shelf]  # fmt: skip
        self._try(lambda: self._session.edit(path, document.id))

    def _copy(self) -> None:
        documents = [row.document for row in self.list.selected]
        copied: list[str] = []
        if self._try(lambda: copied.extend(cellar_edits.copy_all(self._session, documents))):
            self.list.choose(copied)

    def _put_beside(self) -> None:
        """The first of the chosen ones becomes the present design, the others stand beside it."""
        rows = self.list.selected
        named = [(row.name, self._session.library.assembled(row.document)) for row in rows]
        if self._try(lambda: self._session.open_design(rows[0].document.id)):
            self._session.compared.put_beside(named[1:])
            self.page_requested.emit("Compare", "Side by side")

    def _archive(self) -> None:
        documents = [row.document for row in self.list.selected]
        self._try(lambda: cellar_edits.archive_all(self._session, documents))

    def _delete(self) -> None:
        documents = [row.document for row in self.list.selected]
        if documents:
            self._try(lambda: self._session.remove(documents))

    # Samples

    def _show_samples(self) -> None:
        """Those that are not here."""
        offered = cellar_edits.samples(self._session, self.shelf.model)
        self._samples_panel.setVisible(bool(offered))
        names = [one.name for one in offered]
        if names != [self.samples.itemText(place) for place in range(self.samples.count())]:
            self.samples.clear()
            self.samples.addItems(names)

    def _take_over(self) -> None:
        offered = cellar_edits.samples(self._session, self.shelf.model)
        place = self.samples.currentIndex()
        if 0 <= place < len(offered):
            self._try(lambda: cellar_edits.take_over(self._session, offered[place]))
            self.list.choose([offered[place].id])


def _parts(library: Library, design: Design) -> tuple[Any, ...]:
    """A design and the documents that it names: its craft, mission and cell types."""
    cells = dict.fromkeys(pack.cell_type_id for pack in design.packs)
    named = library.known(Craft, design.craft_id), library.known(Mission, design.mission_id)
    return (design, *named, *(library.known(CellType, cell) for cell in cells))


def _answers(designs: Sequence[tuple[Any, ...]]) -> Generator[Flown]:
    """Each design's minutes, mass and plan."""
    for parts in designs:
        design, craft, mission, *cells = parts
        try:
            answered = answer(CompleteDesign(design=design, craft=craft, mission=mission, cells=tuple(cells)))
        except (DocumentError, ValueError) as error:
            yield Flown(parts, refusal=str(error))
            continue
        yield Flown(parts, answered.duration_s, answered.takeoff_mass_g, answered.packs[0].build.layout)
