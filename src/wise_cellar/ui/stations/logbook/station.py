"""The Logbook station: four pages, each made when it is first looked at."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import Any, Protocol, TypeVar

from PyQt6.QtWidgets import QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.ui.state.flight_facts import Facts
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.logbook import DOORWAY
from wise_cellar.ui.stations.logbook.bench_work import BenchWork
from wise_cellar.ui.stations.logbook.flights_work import FlightsWork
from wise_cellar.ui.stations.logbook.learned_work import LearnedWork
from wise_cellar.ui.stations.logbook.packs_work import PacksWork
from wise_cellar.ui.widgets.pages import PageStack

SIDE = 336
PAGES = ("Flights", "Bench", "Packs", "Learned")
FLIGHTS, BENCH, PACKS, LEARNED = range(4)
NAMES = ("flights", "bench", "packs", "learned")


class Work(Protocol):
    """What every page is to the station."""

    page: QWidget
    panels: tuple[QWidget, ...]
    headline: str
    said: Any
    """Its headline is another."""

    @property
    def settled(self) -> bool:
        """Whether nothing is computed for it."""

    def refresh(self) -> None:
        """Show what is there now."""

    def close_work(self) -> None:
        """Stop what runs beside the window."""

    def leave_workspace(self) -> None:
        """Choose nothing of the present workspace."""


AnyWork = TypeVar("AnyWork", bound=Work)


class LogbookStation(Station):
    """What was flown and run, held against what was expected."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._facts = Facts()
        column, self.headline, side = self.lay_out(SIDE)
        self._pages = PageStack(PAGES, "What is looked at", column, side)
        self.pages = self._pages.segments
        self.pages.chosen.connect(self._show_page)

    @cached_property
    def flights(self) -> FlightsWork:
        """All flights, and the chosen one."""
        work = FlightsWork(self.session, self._facts, self)
        work.mission_made.connect(lambda _identifier: self.page_requested.emit("Flight", ""))
        return self._put(FLIGHTS, work)

    @cached_property
    def bench(self) -> BenchWork:
        """Runs on a load, and flights as they come."""
        return self._put(BENCH, BenchWork(self.session, self))

    @cached_property
    def packs(self) -> PacksWork:
        """Each pack's life."""
        work = PacksWork(self.session, self._facts, self)
        work.card_wanted.connect(lambda: self.page_requested.emit("Flight", "Landing"))
        return self._put(PACKS, work)

    @cached_property
    def learned(self) -> LearnedWork:
        """What flights taught."""
        return self._put(LEARNED, LearnedWork(self.session, self._facts, self))

    def _put(self, place: int, work: AnyWork) -> AnyWork:
        """Put a page into its place, and hear of its headline."""
        self._pages.put(place, work.page, work.panels)
        work.said.connect(self._say)
        return work

    def pages_ahead(self) -> Iterator[object]:
        """Every page."""
        return map(self._work, range(len(NAMES)))

    @property
    def _made(self) -> list[Work]:
        return [self.__dict__[name] for name in NAMES if name in self.__dict__]

    @property
    def settled(self) -> bool:
        """Whether everything has been predicted and judged."""
        return all(work.settled for work in self._made)

    def close_work(self) -> None:
        """Stop what runs beside the window."""
        for work in self._made:
            work.close_work()

    def leave_workspace(self) -> None:
        """What was chosen and typed belongs to the one that is left."""
        for work in self._made:
            work.leave_workspace()

    def refresh(self) -> None:
        """Show the page in view."""
        self._show_page(self.pages.current)

    def _work(self, page: int) -> Work:
        work: Work = getattr(self, NAMES[page])
        return work

    def _show_page(self, page: int) -> None:
        work = self._work(page)
        self._pages.show(page)
        self._pages.show_panels(page)
        work.refresh()
        self._say()

    def _say(self) -> None:
        if NAMES[self.pages.current] in self.__dict__:
            self.headline.setText(self._work(self.pages.current).headline)

    def take_in(self, paths: list[Path]) -> bool:
        """Take logs that were dropped on the window, and show the last; whether all of them are flights."""
        try:
            self.flights.take(paths)
        except DocumentError:
            return False
        self.pages.choose(FLIGHTS)
        return True
