"""The Build station."""

from __future__ import annotations

from contextlib import suppress
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QStackedWidget, QVBoxLayout, QWidget

from wise_cellar.core.build import Fate, Tray, judge
from wise_cellar.core.build.making import Making, whereabouts
from wise_cellar.core.build.steps import Bench
from wise_cellar.core.documents import DocumentError, NumberedCell
from wise_cellar.store import WorkspaceError
from wise_cellar.store.reading import write_whole
from wise_cellar.store.tray_tables import is_tray_table, read_tray_table, write_tray_table
from wise_cellar.ui.state.pack_making import built_packs, in_packs, making
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of, fly_as_built, take_in
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.build import DOORWAY
from wise_cellar.ui.stations.build.building import WAYS, Built, as_designed, build_all, read_wanted, resting_volts
from wise_cellar.ui.stations.build.cell_panel import CellPanel, TrayPanel
from wise_cellar.ui.stations.build.match_page import MatchPage, WantedPanel
from wise_cellar.ui.stations.build.materials_page import MaterialsPage
from wise_cellar.ui.stations.build.packs_work import PacksWork
from wise_cellar.ui.stations.build.sheets_panel import Sheet, SheetsPanel, Subject
from wise_cellar.ui.stations.build.steps_work import StepsWork
from wise_cellar.ui.stations.build.taps_page import TapsPage
from wise_cellar.ui.stations.build.tray_picture import TrayPicture
from wise_cellar.ui.stations.build.tray_table import TrayModel, TrayTable
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.panel import note, scrolling
from wise_cellar.ui.widgets.segments import Segments

SIDE = 320
TABLES = "Tables (*.csv *.tsv *.txt)"
PAGES = ("Tray", "Match", "Materials", "Steps", "Taps", "Packs")
TRAY, MATCH, MATERIALS, STEPS, TAPS, PACKS = range(6)
MATCHED = (MATCH, STEPS, TAPS)
"""Pages that go by the groups of the tray."""
SHEETS = {MATCH: Sheet.FACES, MATERIALS: Sheet.MATERIALS, STEPS: Sheet.STEPS, TAPS: Sheet.TAPS, PACKS: Sheet.LABEL}
"""Pages with something to put on paper, and what is offered first."""
HOW = "Enter goes on to the next cell, Tab to the next reading; a number with its unit can be pasted. Delete removes."


class BuildStation(Station):
    """The tray of the first pack's cell type, and the groups that can be made of it."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.tray: Tray | None = None
        self._worker = Worker(self)
        column, self.headline, side = self.lay_out(SIDE)
        self.pages = Segments(PAGES, "What is worked on")
        column.addWidget(self.pages)
        self._stack = QStackedWidget()
        column.addWidget(self._stack, 1)
        self.match_page = MatchPage()
        self._stack.addWidget(self._tray_page())
        self._stack.addWidget(scrolling(self.match_page))
        self.materials = MaterialsPage()
        self._stack.addWidget(scrolling(self.materials))
        self.steps = StepsWork(session, self)
        self._stack.addWidget(self.steps.page)
        self.packs = PacksWork(session, self)
        self.packs.panel.steps_asked.connect(self._show_steps_of)
        self.taps = TapsPage()
        self._stack.addWidget(scrolling(self.taps))
        self._stack.addWidget(self.packs.page)
        self.paper = SheetsPanel(self.subject)
        self.cell, self.whole, self.wanted = CellPanel(session), TrayPanel(session), WantedPanel()
        for panel in (self.cell, self.whole, self.wanted, self.steps.panel, self.packs.panel, self.paper):
            side.addWidget(panel)
        side.addStretch(1)
        self.materials.save.clicked.connect(self._ask_materials)
        self.whole.take_in.clicked.connect(self._ask_in)
        self.whole.put_out.clicked.connect(self._ask_out)
        self.pages.chosen.connect(self._show_page)
        self.wanted.changed.connect(self._match)
        self.wanted.fly_asked.connect(self._fly)
        self.wanted.beside_asked.connect(self._put_beside)
        self.match_page.way_chosen.connect(self._show_way)
        self._worker.finished.connect(self._take)
        self.steps.shown.connect(self._show_headline)
        self._worker.failed.connect(lambda error: self.match_page.show_error(str(error)))
        self._show_page(TRAY)

    def _tray_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(4)
        self.picture = TrayPicture()
        column.addWidget(self.picture.key)
        lower = QWidget()
        under = QVBoxLayout(lower)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(4)
        self.model = TrayModel(self.session, self)
        self.table = TrayTable(self.model, self.session)
        self.table.setMinimumHeight(110)
        under.addWidget(self.table, 1)
        self.refused = note(role="error")
        self.refused.hide()
        under.addWidget(self.refused)
        under.addWidget(note(HOW))
        self.divided = Divided("tray", self.picture, lower)
        self.divided.share(46, 54)
        column.addWidget(self.divided, 1)
        self.model.refused.connect(self._say_refused)
        self.table.cell_chosen.connect(self._choose)
        self.picture.pointed.connect(self.table.choose)
        return page

    @property
    def settled(self) -> bool:
        """Whether the tray is matched."""
        return not self._worker.busy and self.packs.settled

    def close_work(self) -> None:
        """Stop matching."""
        self._worker.close()
        self.packs.close_work()

    def leave_workspace(self) -> None:
        """Show no pack of the present one."""
        self.steps.forget()
        self.packs.forget()

    def refresh(self) -> None:
        """Judge the tray of the present cell type, and match it where that is looked at."""
        cell = self.session.complete.pack.cell
        packs = in_packs(self.session, cell.id)
        there = [one for one in cells_of(self.session, cell.id)
                 if one.number not in packs or not packs[one.number].finished]  # fmt: skip
        self.tray = judge(cell, there, whereabouts(built_packs(self.session), cell.id))
        self.model.show_tray(self.tray)
        self.whole.show_tray(self.tray)
        self._choose(self.table.currentIndex().row())
        self._show_headline()
        self._show_materials()
        self.picture.show_tray(self.tray, self._groups())
        self._show_making()
        self._match()

    def _show_making(self) -> None:
        """The pages of packs that are made, where one of them is looked at."""
        if self.pages.current == STEPS:
            self.steps.refresh(self._groups())
        elif self.pages.current == PACKS:
            self.packs.refresh()

    def _show_steps_of(self, pack_id: str) -> None:
        self.steps.pack_id = pack_id
        self.pages.choose(STEPS)

    def _groups(self) -> tuple[tuple[NumberedCell, ...], ...]:
        """The matched groups; none where they were of another recipe or another cell type."""
        built = self.match_page.built
        recipe, cell = self.session.complete.pack.recipe, self.session.complete.pack.cell
        if built is None or (built.ways[0].asked.series, built.ways[0].asked.parallel) != (
            recipe.series_count, recipe.parallel_count,
        ):  # fmt: skip
            return ()
        groups = built.ways[0].groups
        return groups if groups[0][0].cell_type_id == cell.id else ()

    def _say_refused(self, sentence: str) -> None:
        self.refused.setText(sentence)
        self.refused.setVisible(bool(sentence))

    def _choose(self, row: int) -> None:
        cells = self.tray.cells if self.tray is not None else ()
        there = 0 <= row < len(cells)
        self.cell.show_cell(cells[row] if there else None)
        self.picture.choose(row if there else -1)

    def _show_page(self, page: int) -> None:
        self._stack.setCurrentIndex(page)
        for panel, mine in ((self.cell, TRAY), (self.whole, TRAY), (self.wanted, MATCH), (self.steps.panel, STEPS),
                           (self.packs.panel, PACKS)):  # fmt: skip
            panel.setVisible(page == mine)
        self.paper.setVisible(page in SHEETS)
        if page in SHEETS:
            self.paper.choose(SHEETS[page])
        self._show_headline()
        self._show_making()
        self._match()

    def _show_headline(self) -> None:
        if self.tray is None:
            return
        counts, complete = self.tray.counts(), self.session.complete
        recipe, name = complete.pack.recipe, self.tray.cell_type.name
        if self.pages.current == MATERIALS:
            built = self.session.answer.build
            self.headline.setText(f"What {built.recipe.series_count}S {built.recipe.parallel_count}P takes")
        elif self.pages.current == PACKS:
            self.headline.setText("Packs that were built, as they are today")
        elif self.pages.current == STEPS:
            self.headline.setText(self._steps_words())
        elif self.pages.current == TAPS:
            pack = self.steps.pack
            series = recipe.series_count if pack is None else pack.recipe.series_count
            whose = f"{series}S" if pack is None else pack.name
            self.headline.setText(f"The balance lead of {whose}: {series + 1} pins from the most negative up")
        elif self.pages.current == MATCH:
            self.headline.setText(
                f"{recipe.series_count}S {recipe.parallel_count}P out of a tray of {len(self.tray.cells)}"
            )
        elif not self.tray.cells:
            self.headline.setText(f"No {name} is numbered yet: type the readings of the first cell into the last row")
        else:
            bad = counts[Fate.NEVER]
            must = "all may be used" if not bad else f"{bad} must not be used"
            self.headline.setText(f"{counts[Fate.USE]} of {len(self.tray.cells)} cells of {name} are sound; {must}")

    def _steps_words(self) -> str:
        found = self.steps.page.making
        if found is None or found.pack is None:
            return "Every step of this pack, and the volts to expect"
        if found.pack.finished and found.pack.repair is None:
            return f"{found.pack.name}: finished on {found.pack.finished_on}"
        count = len(found.steps)
        if found.place == count:
            return f"{found.pack.name}: all {count} steps are closed"
        return f"{found.pack.name}: step {found.place + 1} of {count} comes next"

    # Tables

    def _ask_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Cells from a table", "", TABLES)
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
        cell_type = self.session.complete.pack.cell
        try:
            found = read_tray_table(path)
            new, more = take_in(self.session, cell_type.id, found.rows, path.name)
        except (DocumentError, WorkspaceError) as error:
            self.whole.tell(str(error), error=True)
            return
        words = (
            f"{new} cells came from {path.name} into the tray of {cell_type.name}, and {more} that were there are"
            " read anew."
        )
        self.whole.tell(" ".join([words, *found.refusals[:3]]), error=bool(found.refusals))

    def _ask_out(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "The tray as a table", "tray.csv", TABLES)
        if name:
            self.put_out_table(Path(name))

    def _show_materials(self) -> None:
        if self.tray is not None:
            self.materials.show_build(self.session.answer.build, len(self.tray.usable))

    def _ask_materials(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "What the pack takes", "materials.csv", TABLES)
        if name:
            self.put_out_materials(Path(name))

    def put_out_materials(self, path: Path) -> None:
        """Write the list of materials as a table."""
        try:
            write_whole(path, self.materials.as_csv())
        except DocumentError as error:
            self.materials.tell(str(error), error=True)
            return
        self.materials.tell(f"{len(self.materials.found)} rows were written to {path}.")

    def subject(self) -> Subject:
        """What a sheet is of: the pack that is looked at, or the design with the groups in view."""
        session, page = self.session, self.pages.current
        pack = self.steps.pack if page in (STEPS, TAPS) else self.packs.pack if page == PACKS else None
        if pack is not None:
            with suppress(DocumentError):
                return Subject(making(session, pack), session.complete, session.answer)
        shown = self.match_page.shown if page == MATCH else None
        groups = shown.pack(0) if shown is not None else self._groups()
        build = session.answer.build
        bench = Bench.of(build, groups, cells_of(session, build.cell.id))
        return Subject(Making(bench), session.complete, session.answer)

    def put_out_table(self, path: Path) -> None:
        """Write the tray as one table."""
        cells = cells_of(self.session, self.session.complete.pack.cell.id)
        try:
            write_tray_table(path, cells)
        except DocumentError as error:
            self.whole.tell(str(error), error=True)
            return
        self.whole.tell(f"{len(cells)} cells were written to {path}.")

    # Matching

    def _match(self) -> None:
        if self.pages.current not in MATCHED or self.tray is None:
            return
        self._show_taps()
        complete, wanted = self.session.complete, self.wanted.wanted
        recipe = complete.pack.recipe
        self.wanted.words.setText(
            f"{recipe.series_count}S {recipe.parallel_count}P of {self.tray.cell_type.name}, as the recipe line says."
        )
        if complete.pack.cell.whole_pack:
            self._worker.forget()
            self.match_page.show_error("This battery was bought whole: nothing is built of single cells.")
            return
        try:
            asked = read_wanted(complete, wanted)
        except DocumentError as error:
            self.wanted.say(str(error))
            return
        self._worker.run(
            partial(build_all, complete, self.tray, asked, apart_too=wanted.apart_too),
            of=(as_designed(complete), self.tray, wanted),
        )

    def _show_taps(self) -> None:
        """Expect of each group what its cells were last read at; where none was read, what the tray's were.

        With a pack that was begun under Steps, its own, and what was read of its pins.
        """
        made = self.steps.with_taps()
        if made is not None:
            self.taps.show_groups(*made)
        elif self.tray is not None:
            series = self.session.complete.pack.recipe.series_count
            self.taps.show_groups(resting_volts(self.tray, self._groups()[:series], series))

    def _take(self, built: Built) -> None:
        self.match_page.show_built(built)
        self._show_taps()
        if self.tray is not None:
            self.picture.show_tray(self.tray, built.ways[0].groups)
        if self.pages.current == STEPS and self.steps.pack is None:
            self.steps.refresh(self._groups())

    def _show_way(self) -> None:
        """What the design flies now, against the groups in view."""
        built, way = self.match_page.built, self.match_page.ways.current
        state = self.session.complete.pack.state
        flies = built is not None and state == built.state(way)
        plain = state == as_designed(self.session.complete).pack.state
        self.wanted.fly.setVisible(built is not None and not flies)
        self.wanted.plain.setVisible(not plain)
        self.wanted.beside.setVisible(built is not None)
        self.wanted.state.setText(
            "This design flies these groups." if flies
            else "This design flies with all groups alike." if plain
            else "This design flies with other groups than these."
        )  # fmt: skip

    def _put_beside(self) -> None:
        """As designed and as built, in Compare."""
        built = self.match_page.built
        if built is None:
            return
        way = self.match_page.ways.current
        plain = as_designed(self.session.complete)
        other = (
            ("As designed", plain)
            if self.session.complete.pack.state == built.state(way)
            else (f"As built, {WAYS[way].lower()}", built.designs[way])
        )
        self.session.put_beside([other])
        self.page_requested.emit("Compare", "Side by side")

    def _fly(self, built: bool) -> None:
        found = self.match_page.built
        if built and found is None:
            return
        state = (
            found.state(self.match_page.ways.current)
            if built and found is not None
            else as_designed(self.session.complete).pack.state
        )
        self.wanted.attempt.make(lambda: fly_as_built(self.session, state))
