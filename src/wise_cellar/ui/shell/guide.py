"""What explains: the handbook at the present station, and the sheets of the Help menu."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QWidget

from wise_cellar.handbook import page_at
from wise_cellar.ui.shell.handbook_window import HandbookWindow
from wise_cellar.ui.shell.help_sheets import about_sheet, shortcuts_sheet, trust_sheet
from wise_cellar.ui.state.session import Session


class Guide:
    """Opens over ``owner``. ``station`` tells the title of the one in view, ``bindings`` the keys that are bound."""

    def __init__(
        self,
        owner: QWidget,
        session: Session,
        station: Callable[[], str],
        bindings: Callable[[], Sequence[tuple[str, str]]],
    ) -> None:
        self._owner, self._session, self._station, self._bindings = owner, session, station, bindings
        self.handbook: HandbookWindow | None = None

    def open_handbook(self) -> None:
        """The handbook at the present station; while it is there already, the keys."""
        if self.handbook is not None and self.handbook.isVisible():
            self.show_shortcuts()
            return
        self.show_handbook(page_at(self._station()).name)

    def show_handbook(self, name: str, word: str = "") -> None:
        """A page of the handbook, and a word of it."""
        if self.handbook is None:
            self.handbook = HandbookWindow(self._owner)
            self.handbook.keys_wanted.connect(self.show_shortcuts)
        self.handbook.show_page(name, word)

    def show_shortcuts(self) -> None:
        """A sheet of the keys."""
        shortcuts_sheet(self._owner, self._bindings())

    def show_about(self) -> None:
        """A sheet on the program."""
        about_sheet(self._owner)

    def show_trust(self) -> None:
        """A sheet on what the answer rests on."""
        spread = self._session.spread
        trust_sheet(self._owner, spread.doubts.words if spread is not None else "")
