"""The stations, each made when it is first asked for, or when nothing else is to be done: a window opens with one."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from importlib import import_module
from typing import TypeVar, overload

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.doorway import Doorway
from wise_cellar.ui.theme import dress_again

AnyStation = TypeVar("AnyStation", bound=Station)
IDLE_MS = 60
"""From one piece that is made ahead to the next: a key in between is answered first."""


class StationStack(QStackedWidget):
    """Shows one station at a time; a page is empty until its station is made."""

    field_requested = pyqtSignal(str)
    page_requested = pyqtSignal(str, str)
    handbook_requested = pyqtSignal(str)
    station_made = pyqtSignal(object)

    def __init__(self, session: Session, doorways: Sequence[Doorway]) -> None:
        super().__init__()
        self.doorways = tuple(doorways)
        self._session = session
        self._made: dict[int, Station] = {}
        self._undressed: set[Station] = set()
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        for _ in self.doorways:
            self.addWidget(QWidget())
        self._waiting: Iterator[str] = iter(())
        self._ahead = QTimer(self)
        self._ahead.timeout.connect(self._make_one)

    @property
    def made(self) -> list[Station]:
        """The stations that have been asked for."""
        return list(self._made.values())

    def at(self, place: int) -> Station:
        """The station at a place of the rail."""
        if place not in self._made:
            station = self._made[place] = self.doorways[place].station_class()(self._session)
            station.field_requested.connect(self.field_requested)
            station.page_requested.connect(self.page_requested)
            station.handbook_requested.connect(self.handbook_requested)
            empty = self.widget(place)
            self.insertWidget(place, station)
            if empty is not None:
                self.removeWidget(empty)
                empty.deleteLater()
            self.station_made.emit(station)
        return self._made[place]

    def remake(self) -> None:
        """Forget what was made, and make the station in view anew; the others wait until they are asked for."""
        place = self.currentIndex()
        # That one last: in place of a page that goes while it is in view another is shown.
        for at, station in sorted(self._made.items(), key=lambda one: one[0] == place):
            station.close_work()
            self.insertWidget(at, QWidget())
            if at == place:
                self.setCurrentIndex(place)
            self.removeWidget(station)
            station.deleteLater()  # and stays inside until then: outside it would lose its style sheet, part by part
        self._made.clear()
        self._undressed.clear()
        self.at(place)
        self.setCurrentIndex(place)
        if self._ahead.isActive():
            self.make_when_idle()

    def make_when_idle(self) -> None:
        """Import and make what was not shown yet, a module or a station at a time, whenever nothing else is to be done:
        its first showing then only fills it."""
        self._waiting = self._pieces()
        self._ahead.start(IDLE_MS)

    @property
    def all_made(self) -> bool:
        """Whether nothing more is to be made ahead."""
        return not self._ahead.isActive()

    def _make_one(self) -> None:
        """One piece more, until all are made or the window is closed."""
        if not self.isVisible() or next(self._waiting, None) is None:
            self._ahead.stop()

    def _pieces(self) -> Iterator[str]:
        """Imports and makes one piece after the other, and says which."""
        for place, doorway in enumerate(self.doorways):
            for name in doorway.modules():
                if name not in sys.modules:
                    import_module(name)
                    yield name
            if place not in self._made:
                self.at(place)
                yield doorway.title
            yield from (doorway.title for _page in self._made[place].pages_ahead())

    def out_of_view(self) -> list[Station]:
        """The stations that are made and not shown, which the caller leaves in their colours until they are."""
        self._undressed = {station for station in self.made if station is not self.currentWidget()}
        return list(self._undressed)

    def show_at(self, place: int) -> None:
        """Show the station at a place, in the colours of the moment."""
        station = self.at(place)
        if station in self._undressed:
            self._undressed.remove(station)
            dress_again(station)
        self.setCurrentIndex(place)
        self.setAccessibleName(self.doorways[place].title)

    def of_kind(self, kind: type[AnyStation]) -> AnyStation:
        """The station of a kind."""
        station = self.at(self.doorways.index(kind.doorway))
        assert isinstance(station, kind)
        return station


class Stations(Sequence[Station]):
    """The stations of a stack in working order, made as they are looked at."""

    def __init__(self, stack: StationStack) -> None:
        self._stack = stack

    def __len__(self) -> int:
        return len(self._stack.doorways)

    @overload
    def __getitem__(self, place: int) -> Station: ...
    @overload
    def __getitem__(self, place: slice) -> list[Station]: ...
    def __getitem__(self, place: int | slice) -> Station | list[Station]:
        if isinstance(place, slice):
            return [self._stack.at(one) for one in range(*place.indices(len(self)))]
        if not 0 <= place < len(self):
            raise IndexError(f"There is no station {place}.")
        return self._stack.at(place)
