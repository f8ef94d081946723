"""The Build station: six pages, each made when it is first looked at."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import suppress
from functools import cached_property
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from wise_cellar.core.build import Tray, judge
from wise_cellar.core.build.making import Making, whereabouts
from wise_cellar.core.build.steps import Bench
from wise_cellar.core.documents import CellType, DocumentError, NumberedCell
from wise_cellar.core.units import counted
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.pack_making import built_packs, in_packs, making
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.build import DOORWAY
from wise_cellar.ui.stations.build.building import resting_volts
from wise_cellar.ui.stations.build.match_work import MatchWork
from wise_cellar.ui.stations.build.materials_page import MaterialsPage
from wise_cellar.ui.stations.build.packs_work import PacksWork
from wise_cellar.ui.stations.build.sheets_panel import Sheet, SheetsPanel, Subject
from wise_cellar.ui.stations.build.steps_work import StepsWork
from wise_cellar.ui.stations.build.taps_page import TapsPage
from wise_cellar.ui.stations.build.tray_work import TABLES, TrayWork
from wise_cellar.ui.widgets.pages import PageStack
from wise_cellar.ui.widgets.panel import scrolling

SIDE = 320
PAGES = ("Tray", "Match", "Materials", "Steps", "Taps", "Packs")
TRAY, MATCH, MATERIALS, STEPS, TAPS, PACKS = range(6)
MATCHED = (MATCH, STEPS, TAPS)
"""Pages that go by the groups of the tray."""
SHEETS = {MATCH: Sheet.FACES, MATERIALS: Sheet.MATERIALS, STEPS: Sheet.STEPS, TAPS: Sheet.TAPS, PACKS: Sheet.LABEL}
"""Pages with something to put on paper, and what is offered first."""


class BuildStation(Station):
    """The tray of the first pack's cell type, the groups that can be made of it, and the packs that are."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.tray: Tray | None = None
        self._judged: tuple[CellType, list[NumberedCell], Mapping[int, str]] | None = None
        column, self.headline, self._side = self.lay_out(SIDE)
        self._pages = PageStack(PAGES, "What is worked on", column, self._side)
        self.pages = self._pages.segments
        self.pages.chosen.connect(self._show_page)
        self._show_page(TRAY)

    # Pages

    def _made(self, name: str) -> bool:
        return name in self.__dict__

    @cached_property
    def on_tray(self) -> TrayWork:
        """The tray."""
        work = TrayWork(self.session, self)
        self._pages.put(TRAY, work.page, work.panels)
        return work

    @cached_property
    def on_match(self) -> MatchWork:
        """Its groups."""
        work = MatchWork(self.session, self)
        self._pages.put(MATCH, scrolling(work.page), [work.panel])
        work.matched.connect(self._take_groups)
        work.beside_shown.connect(lambda: self.page_requested.emit("Compare", "Side by side"))
        return work

    @cached_property
    def materials(self) -> MaterialsPage:
        """What the pack takes."""
        page = MaterialsPage()
        self._pages.put(MATERIALS, scrolling(page), [])
        page.save.clicked.connect(self._ask_materials)
        return page

    @cached_property
    def steps(self) -> StepsWork:
        """The making of a pack."""
        work = StepsWork(self.session, self)
        self._pages.put(STEPS, work.page, [work.panel])
        work.shown.connect(self._show_headline)
        return work

    @cached_property
    def taps(self) -> TapsPage:
        """Its balance lead."""
        page = TapsPage()
        self._pages.put(TAPS, scrolling(page), [])
        return page

    @cached_property
    def packs(self) -> PacksWork:
        """Those that were built."""
        work = PacksWork(self.session, self)
        self._pages.put(PACKS, work.page, [work.panel])
        work.panel.steps_asked.connect(self._show_steps_of)
        return work

    @cached_property
    def paper(self) -> SheetsPanel:
        """What goes on paper."""
        panel = SheetsPanel(self.subject)
        self._side.insertWidget(self._side.count() - 1, panel)
        return panel

    def pages_ahead(self) -> Iterator[object]:
        """Every page."""
        for name in ("on_tray", "on_match", "materials", "steps", "taps", "packs"):
            yield getattr(self, name)

    # The station

    @property
    def settled(self) -> bool:
        """Whether the tray is matched, and a repair worked out."""
        return (not self._made("on_match") or self.on_match.settled) and (not self._made("packs") or self.packs.settled)

    def close_work(self) -> None:
        """Stop what runs beside the window."""
        if self._made("on_match"):
            self.on_match.close_work()
        if self._made("packs"):
            self.packs.close_work()

    def leave_workspace(self) -> None:
        """Show no pack of the present one."""
        if self._made("steps"):
            self.steps.forget()
        if self._made("packs"):
            self.packs.forget()

    def refresh(self) -> None:
        """Judge the tray of the present cell type, and show the page that is looked at."""
        cell = self.session.complete.pack.cell
        packs = in_packs(self.session, cell.id)
        there = [one for one in cells_of(self.session, cell.id)
                 if one.number not in packs or not packs[one.number].finished]  # fmt: skip
        of = (cell, there, whereabouts(built_packs(self.session), cell.id))
        if of != self._judged:
            self._judged, self.tray = of, judge(*of)
        self._show()

    def _show_page(self, page: int) -> None:
        self._pages.show(page)
        if page in SHEETS:
            self.paper.choose(SHEETS[page])
        if self._made("paper"):
            self.paper.setVisible(page in SHEETS)
        self._show()
        self._pages.show_panels(page)

    def _show(self) -> None:
        """Bring the page in view up to date."""
        tray, page = self.tray, self.pages.current
        if tray is None:
            return
        if page == TRAY:
            self.on_tray.show_tray(tray, self.groups)
        elif page == MATERIALS:
            self.materials.show_build(self.session.answer.build, len(tray.usable))
        elif page == PACKS:
            self.packs.refresh()
        elif page == STEPS:
            self.steps.refresh(self.groups)
        elif page == TAPS:
            self._show_taps(tray)
        if page in MATCHED:
            self.on_match.show_tray(tray)
        self._show_headline()

    @property
    def groups(self) -> tuple[tuple[NumberedCell, ...], ...]:
        """Those that the tray was matched into for this recipe; none before."""
        return self.on_match.groups if self._made("on_match") else ()

    def _take_groups(self) -> None:
        """Groups have come: what goes by them is told so."""
        page = self.pages.current
        if page == TAPS and self.tray is not None:
            self._show_taps(self.tray)
        elif page == STEPS and self.steps.pack is None:
            self.steps.refresh(self.groups)

    def _show_headline(self) -> None:
        page = self.pages.current
        recipe = self.session.complete.pack.recipe
        words = "Packs that were built, as they are today"
        if page == TRAY:
            words = self.on_tray.headline()
        elif page == MATCH:
            words = self.on_match.headline()
        elif page == MATERIALS:
            words = f"What {recipe.series_count}S {recipe.parallel_count}P takes"
        elif page == STEPS:
            words = self.steps.headline()
        elif page == TAPS:
            pack = self.steps.pack
            series = recipe.series_count if pack is None else pack.recipe.series_count
            whose = f"{series}S" if pack is None else pack.name
            words = f"The balance lead of {whose}: {series + 1} pins from the most negative up"
        self.headline.setText(words)

    def _show_steps_of(self, pack_id: str) -> None:
        self.steps.pack_id = pack_id
        self.pages.choose(STEPS)

    def _show_taps(self, tray: Tray) -> None:
        """Expect of each group what its cells were last read at; where none was read, what the tray's were.

        With a pack that was begun under Steps, its own, and what was read of its pins.
        """
        made = self.steps.with_taps()
        if made is not None:
            self.taps.show_groups(*made)
        else:
            series = self.session.complete.pack.recipe.series_count
            self.taps.show_groups(resting_volts(tray, self.groups[:series], series))

    def subject(self) -> Subject:
        """What a sheet is of: the pack that is looked at, or the design with the groups in view."""
        session, page = self.session, self.pages.current
        pack = self.steps.pack if page in (STEPS, TAPS) else self.packs.pack if page == PACKS else None
        if pack is not None:
            with suppress(DocumentError):
                return Subject(making(session, pack), session.complete, session.answer)
        groups = self.on_match.in_view if page == MATCH else self.groups
        build = session.answer.build
        bench = Bench.of(build, groups, cells_of(session, build.cell.id))
        return Subject(Making(bench), session.complete, session.answer)

    # Files

    def take_in(self, paths: list[Path]) -> bool:
        """Take tables of numbered cells that were dropped on the window; whether all of them are such."""
        return self.on_tray.take_in(paths)

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
        self.materials.tell(f"{path} holds {counted(len(self.materials.found), 'row')} now.")
