"""What the present answer is compared with: the pin, and designs that stand beside it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign, DocumentError

if TYPE_CHECKING:
    from wise_cellar.ui.state.session import Session

PIN = "pin"
"""Where the workspace keeps it."""


class Compared(QObject):
    """The pin, which is kept in the workspace, and the designs beside the present one, which are not.

    ``pin_changed`` tells that the pin is another, ``beside_changed`` that other designs stand beside the present one.
    """

    pin_changed = pyqtSignal()
    beside_changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.pinned: tuple[CompleteDesign, Answer] | None = None
        self.beside: tuple[tuple[str, CompleteDesign], ...] = ()
        """Designs that were put beside the present one, each under its name."""

    def begin(self) -> None:
        """Compare with what the workspace that is shown from now on has kept."""
        self.pinned, self.beside = self._pin_kept(), ()

    def say_again(self) -> None:
        """Word the pin's answer anew."""
        if self.pinned is not None:
            self.pinned = self.pinned[0], self._session.answer_of(self.pinned[0])

    def toggle_pin(self) -> None:
        """Keep the present answer to compare with, or let the kept one go when it is the present one."""
        self._session.no_draft()
        if self.pinned is not None and self.pinned[0] == self._session.complete:
            self.let_pin_go()
            return
        self.pinned = self._session.complete, self._session.answer
        self._session.workspace.remember(PIN, self._session.complete.to_json())
        self.pin_changed.emit()

    def let_pin_go(self) -> None:
        """Compare with no kept answer any more."""
        self.pinned = None
        self._session.workspace.remember(PIN, "")
        self.pin_changed.emit()

    def put_beside(self, designs: Sequence[tuple[str, CompleteDesign]]) -> None:
        """Let these stand beside the present design, and no others; the first names count where two are alike."""
        named: dict[str, CompleteDesign] = {}
        for name, complete in designs:
            named.setdefault(name, complete)
        self.beside = tuple(named.items())
        self.beside_changed.emit()

    def _pin_kept(self) -> tuple[CompleteDesign, Answer] | None:
        """The pin as it was left; none where it cannot be read or flown any more."""
        text = self._session.workspace.setting(PIN)
        if not text:
            return None
        try:
            complete = CompleteDesign.from_json(text)
            return complete, self._session.answer_of(complete)
        except DocumentError:
            return None
