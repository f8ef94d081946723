"""What a window says by itself: what was found as it opened, what went, what nobody foresaw."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

from wise_cellar.core.units import counted
from wise_cellar.ui.shell.broken_dialog import BrokenDialog
from wise_cellar.ui.shell.notice import NoticeLine, Offer
from wise_cellar.ui.state.session import Session


class Tidings:
    """Of one window, in its line of notices; ``undo`` takes the last edit back."""

    def __init__(self, window: QWidget, session: Session, notice: NoticeLine, undo: Callable[[], object]) -> None:
        self._window, self._session, self._notice = window, session, notice
        self._undo = Offer("Undo", undo)

    def made(self, name: str) -> None:
        """A craft was made of the sentence that it began with."""
        self._notice.say(f"{name} is made, with its mission, its battery and its designs.", offer=self._undo)

    def gone(self, sentence: str) -> None:
        """Something was deleted or removed."""
        self._notice.say(sentence, offer=self._undo)

    def opening(self) -> None:
        """What is to be known of the workspace that was opened."""
        broken, remarks = self._session.library.broken, self._session.remarks
        if broken:
            count = counted(len(broken), "document")
            self._notice.say(
                f"{count} of this workspace cannot be shown. {broken[0].name}: {broken[0].sentence}", error=True,
                offer=Offer("Look", self.show_broken),
            )  # fmt: skip
        elif remarks:
            more = f" And {len(remarks) - 1} more like it." if len(remarks) > 1 else ""
            self._notice.say(remarks[0] + more)

    def show_broken(self) -> None:
        """What of the workspace cannot be shown."""
        if not self._session.library.broken:
            self._notice.say("Everything in this workspace can be shown.")
            return
        self.broken_dialog = BrokenDialog(self._window, self._session)
        self.broken_dialog.open()

    def unforeseen(self, sentence: str, details: str) -> None:
        """Something that nobody foresaw: say so, with a way to copy the details. The window goes on."""
        clipboard = QGuiApplication.clipboard()
        offer = Offer("Copy details", lambda: clipboard.setText(details)) if clipboard is not None else None
        self._notice.say(sentence, error=True, offer=offer)
