"""The Compare station."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QTimer

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError
from wise_cellar.core.search import (
    Flown,
    Flyers,
    Found,
    Growth,
    Reference,
    Slope,
    Space,
    bought,
    difference,
    growth,
    joined,
    present,
    sensitivity,
    swaps,
    worst_exclusion,
)
from wise_cellar.core.units import format_change
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.stream import Stream
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.compare import DOORWAY
from wise_cellar.ui.stations.compare.cloud_page import CloudPage
from wise_cellar.ui.stations.compare.pages import (
    BesidePage,
    SlopesPage,
    Standing,
    SwapPage,
    signed_minutes,
)
from wise_cellar.ui.stations.compare.panels import ChosenPanel, SaidPanel, SearchPanel, WishesPanel
from wise_cellar.ui.widgets.panel import scrolling
from wise_cellar.ui.widgets.present_page import PresentPage
from wise_cellar.ui.widgets.segments import Segments

SIDE = 348
PAGES = ("Every pack", "Same mass", "Side by side", "A little more")
CLOUD, SWAP, BESIDE, SLOPES = range(4)
MOST_PACKS = 3
MOST_KEPT, LARGEST_KEPT = 3, 20_000
"""Searches that are shown again as they came, and how many designs one of them may have."""
PAUSE_MS, BETWEEN_MS = 120, 700


@dataclass(frozen=True)
class Aside:
    """What is flown about the present design beside the search."""

    complete: CompleteDesign
    growth: Growth
    slopes: tuple[Slope, ...]
    reference: Reference | None
    """What is swapped; none where it does not go on this bus, which ``unfit`` says."""
    unfit: str
    beside: tuple[Standing, ...]


def fly_aside(
    complete: CompleteDesign, answered: Answer, pack: CellType | None,
    beside: tuple[tuple[str, CompleteDesign], ...],
) -> Aside:  # fmt: skip
    """Growth, slopes, what is swapped, and the designs that stand beside this one."""
    factor, unfit = answered.factor, ""
    reference: Reference | None = None
    try:
        reference = bought(complete, pack, factor) if pack is not None else present(complete, factor)
    except DocumentError as error:
        unfit = str(error)
    return Aside(
        complete,
        growth(complete, factor),
        sensitivity(complete, factor),
        reference,
        unfit,
        (
            Standing("This design", answered, None, complete.pack.words),
            *(
                Standing(name, found := answer(other), difference(complete, answered, other, found), other.pack.words)
                for name, other in beside
            ),
        ),
    )


class CompareStation(Station):
    """Every combination in one picture and one table; beside them the chosen one, the search and its limits."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.space: Space | None = None
        self.flown: Flown | None = None
        self.found: Found | None = None
        self.aside: Aside | None = None
        self._parts: list[Flown] = []
        self._searched: list[tuple[tuple[object, ...], Flown]] = []
        column, self.headline, side = self.lay_out(SIDE)
        self.pages = Segments(PAGES, "What is compared")
        column.addWidget(self.pages)
        self._stack = PresentPage()
        column.addWidget(self._stack, 1)
        self.cloud = CloudPage(session)
        self.swap, self.beside, self.slopes = SwapPage(session), BesidePage(), SlopesPage()
        for page in (self.cloud, self.swap, scrolling(self.beside), scrolling(self.slopes)):
            self._stack.addWidget(page)
        self.chosen, self.search, self.wishes = ChosenPanel(), SearchPanel(session), WishesPanel(session)
        self.exclusion, self.grown = SaidPanel("What excludes most"), SaidPanel("One more in parallel?")
        for panel in (self.chosen, self.exclusion, self.grown, self.search, self.wishes):
            side.addWidget(panel)
        side.addStretch(1)
        self._drawn = QElapsedTimer()
        self.searching, self._worker, self._flyers = Stream(self), Worker(self), Flyers()
        # Whoever types or steps quickly does not start a search with every key.
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._connect()

    def _connect(self) -> None:
        self.pages.chosen.connect(self._show_page)
        self.cloud.chosen.connect(lambda _place: self._show_chosen())
        self.cloud.taken.connect(self.take)
        self.swap.chosen.connect(lambda row: self.cloud.choose(self.swap.place_of(row)))
        self.swap.taken.connect(lambda row: self.take(self.swap.place_of(row)))
        self.beside.dropped.connect(self._drop)
        self.slopes.field_requested.connect(self.field_requested)
        self.chosen.taken.connect(lambda: self.take(self.cloud.current))
        self.chosen.beside.connect(self.put_beside)
        self.search.stopped.connect(self._stop)
        self.searching.came.connect(self._take_part)
        self.searching.ended.connect(self._ended)
        self.searching.failed.connect(lambda error: self.search.show_error(str(error)))
        self._worker.finished.connect(self._take_aside)
        self._worker.failed.connect(lambda error: self.search.show_error(str(error)))
        self._pause.timeout.connect(self._start)
        self.session.compared.beside_changed.connect(self._pause.start)

    @property
    def settled(self) -> bool:
        """Whether everything has been flown."""
        return not (self.searching.busy or self._worker.busy or self._pause.isActive())

    def close_work(self) -> None:
        """Stop flying."""
        self._pause.stop()
        self.searching.close()
        self._flyers.close()
        self._worker.close()

    # Searching

    def refresh(self) -> None:
        """Show the present choice; fly again what the results hang on, if it is another."""
        self.search.refresh()
        self.wishes.refresh()
        self.swap.refresh()
        self._pause.start()
        self._draw()

    def _start(self) -> None:
        complete, answered = self.session.complete, self.session.answer
        pack = self.session.all(CellType).get(complete.design.search.swap_pack_id)
        beside = list(self.session.compared.beside)
        pinned = self.session.compared.pinned
        if pinned is not None and pinned[0] != complete:
            beside.insert(0, ("Pinned", pinned[0]))
        others = tuple(beside[:MOST_PACKS])
        self._worker.run(partial(fly_aside, complete, answered, pack, others), of=(complete, pack, others))
        try:
            space = Space.searched(complete, list(self.session.all(CellType).values()))
        except DocumentError as error:
            self.searching.stop()
            self.space = None
            self.search.show_error(str(error))
            return
        if self.space is not None and self.space.question == space.question:
            # Being flown, flown already, or stopped by the user.
            self._show_progress()
            return
        self._run(space)

    def _run(self, space: Space) -> None:
        self.space, self._parts, self.flown = space, [], None
        self.cloud.choose(-1)
        known = next((flown for question, flown in self._searched if question == space.question), None)
        if known is None:
            self.searching.run(partial(self._flyers.fly, space, self.session.answer.factor))
        else:
            self.searching.stop()
            self.flown, self._parts = known, [known]
            self._searched.sort(key=lambda kept: kept[1] is not known)  # what is shown again is forgotten last
            self._draw()
        self._show_progress()

    def _stop(self) -> None:
        """Stop, or fly all of what was stopped."""
        if self.searching.busy or self.space is None:
            self.searching.stop()
            self._show_progress()
            self._draw()
        else:
            self._run(self.space)

    def _take_part(self, part: Flown) -> None:
        kept = self.flown.row[self.cloud.current] if self.flown is not None and self.cloud.current >= 0 else None
        self._parts.append(part)
        self.flown = joined(self._parts)
        self._parts = [self.flown]
        if kept is not None:
            self.cloud.keep(int(np.searchsorted(self.flown.row, kept)))
        self._show_progress()
        # Of a large search the picture fills in steps, so that the window keeps answering.
        if not self._drawn.isValid() or self._drawn.hasExpired(BETWEEN_MS):
            self._draw()
            self._drawn.start()

    def _ended(self) -> None:
        if self.space is not None and self.flown is not None and len(self.flown) <= LARGEST_KEPT:
            self._searched = [(self.space.question, self.flown), *self._searched][:MOST_KEPT]
        self._show_progress()
        self._draw()

    def _show_progress(self) -> None:
        if self.space is not None:
            flown = len(self.flown) if self.flown is not None else 0
            self.search.show_progress(flown, len(self.space.rows), busy=self.searching.busy)

    def _take_aside(self, aside: Aside) -> None:
        self.aside = aside
        self.grown.say(" ".join(aside.growth.sentences(aside.complete.pack.recipe.parallel_count)))
        self.slopes.show_slopes(aside.slopes)
        self.slopes.show_growth(aside.growth)
        self.beside.show_designs(aside.beside)
        self._draw()

    # Showing

    def _show_page(self, page: int) -> None:
        self._stack.setCurrentIndex(page)
        if page in (CLOUD, SWAP):
            self._draw()

    def _draw(self) -> None:
        """Judge, draw and list what has been flown."""
        space, flown = self.space, self.flown
        if space is None or flown is None or not len(flown):
            self.found = None
            self.headline.setText("Nothing is searched" if space is None else "Every combination is flown…")
            self.cloud.show_nothing()
            self._show_chosen()
            return
        found, wishes = self.found, self.session.complete.design.search.wishes
        if found is None or found.flown is not flown or found.space is not space or found.wishes != wishes:
            found = self.found = Found.judged_by(space, flown, wishes)
        aside = self.aside
        grown = aside.growth if aside is not None and aside.complete == self.session.complete else None
        self.cloud.show_found(found, grown)
        self.headline.setText(found.headline())
        exclusion = worst_exclusion(found.judged, flown)
        self.exclusion.say(exclusion.sentence(len(flown), flown) if exclusion is not None else "")
        self._show_chosen()
        if self._stack.currentIndex() == SWAP:
            self._fill_swaps(found)

    def _fill_swaps(self, found: Found) -> None:
        if self.aside is None:
            return
        if self.aside.reference is None:
            self.swap.show_unfit(self.aside.unfit)
            return
        share = self.session.complete.design.search.swap_percent / 100
        offered = swaps(found.space, found.flown, self.aside.reference, share, np.flatnonzero(found.judged.passes))
        self.swap.show_swaps(self.aside.reference, offered, found.space, found.flown)

    # Choosing

    def _show_chosen(self) -> None:
        place, found = self.cloud.current, self.found
        if found is None or not 0 <= place < len(found.flown):
            self.chosen.show_design("", "", ())
            return
        answered, flown = self.session.answer, found.flown
        change = (
            f"{signed_minutes(float(flown.duration_s[place]) - answered.duration_s)} and"
            f" {format_change(float(flown.takeoff_g[place]) - answered.takeoff_mass_g, 0, 'g')} against this design."
        )
        words = f"{found.figures(place)}. {change}"
        self.chosen.show_design(found.name(place), words, found.judged.reasons(place))

    def take(self, place: int) -> None:
        """Make a design of the search the present one, in one edit that undo takes back."""
        found = self.found
        if found is None or not 0 <= place < len(found.flown):
            return
        its = found.space.design(int(found.flown.row[place])).design

        def edit() -> None:
            present = self.session.complete.design
            first = present.packs[0].changed(recipe=its.packs[0].recipe, cell_type_id=its.packs[0].cell_type_id)
            # Where another design has come into view since it was flown, it may not fit beside that one's packs.
            design = present.changed(packs=(first, *present.packs[1:]), landing=its.landing)
            self.session.commit(f"Take {found.name(place)}", [design])

        self._try(edit)

    def put_beside(self) -> None:
        """Put the chosen design beside this one."""
        found, place = self.found, self.cloud.current
        if found is None or place < 0:
            return
        name, design = found.name(place), found.space.design(int(found.flown.row[place]))
        self.session.compared.put_beside([(name, design), *self.session.compared.beside][:MOST_PACKS])
        self._start()
        self.pages.choose(BESIDE)

    def _drop(self, place: int) -> None:
        assert self.aside is not None
        name = self.aside.beside[place].name
        if name == "Pinned" and self.session.compared.pinned is not None:
            self.session.compared.let_pin_go()
        self.session.compared.put_beside([one for one in self.session.compared.beside if one[0] != name])
        self._start()

    def _try(self, edit: Callable[[], object]) -> None:
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self.cloud.tell(str(error))
