"""The Cellar station."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QStackedWidget

from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.base import MARGINS, Station
from wise_cellar.ui.stations.cellar import DOORWAY
from wise_cellar.ui.stations.cellar.begin_page import BeginPage
from wise_cellar.ui.stations.cellar.shelves_page import ShelvesPage


class CellarStation(Station):
    """Every design on its shelf; while a craft is begun, its sentence."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        row = QHBoxLayout(self)
        row.setContentsMargins(*MARGINS)
        self._pages = QStackedWidget()
        row.addWidget(self._pages)
        self.shelves = ShelvesPage(session)
        self.shelves.page_requested.connect(self.page_requested)
        self._pages.addWidget(self.shelves)
        self._begin: BeginPage | None = None

    def refresh(self) -> None:
        """Show the sentence that is being filled in, else the shelves."""
        page = self.shelves if self.session.sentence is None else self.begin
        self._pages.setCurrentWidget(page)
        page.refresh()

    @property
    def begin(self) -> BeginPage:
        """The sentence that a craft begins with: made for the first of them, for all its gaps are asked for their room
        whenever the shelves are laid out."""
        if self._begin is None:
            self._begin = BeginPage(self.session)
            self._pages.addWidget(self._begin)
        return self._begin

    @property
    def settled(self) -> bool:
        """Whether nothing is being flown beside the window."""
        return self.shelves.settled and (self._begin is None or self._begin.settled)

    def close_work(self) -> None:
        """Stop flying."""
        if self._begin is not None:
            self._begin.close_work()
        self.shelves.close_work()

    def leave_workspace(self) -> None:
        """Forget what was flown of it."""
        self.shelves.leave_workspace()

    def focus_field(self, path: str) -> bool:
        """Put the focus on the gap that stands for a field, while a craft is begun."""
        return self.session.sentence is not None and self.begin.focus_gap(path)
