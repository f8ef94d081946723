"""The one holder of what the window shows: the present design, its answer, the pin, and the way to change them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.answer import Answer, Spread, answer, spread
from wise_cellar.core.documents import (
    CellType,
    CompleteDesign,
    Craft,
    Design,
    Document,
    DocumentError,
    Mission,
    field_info,
    holder_of,
    replaced,
    value_at,
)
from wise_cellar.core.pack import rebuilt
from wise_cellar.store import KIND_OF, Journey, Removal, Workspace, WorkspaceError
from wise_cellar.store.library import fresh_of
from wise_cellar.store.workspace import seeded
from wise_cellar.ui.state.compared import Compared
from wise_cellar.ui.state.draft import Draft
from wise_cellar.ui.state.giving_way import window_first
from wise_cellar.ui.state.memory import Memory
from wise_cellar.ui.state.opening import Opening, opened
from wise_cellar.ui.state.sentence import Sentence
from wise_cellar.ui.state.travel import Travelled, design_shown, path_shown, seen_before
from wise_cellar.ui.state.work import Worker

if TYPE_CHECKING:
    from wise_cellar.ui.state.desk import Desk

MOST_SEEN = 50
FILLED = "Fill a gap"
QUIET_MS = 1000
"""After so long without an edit the workspace's file is made whole by itself."""


class Session(QObject):
    """Owns the workspace, the present design and the latest answer.

    Changes are made through methods, which raise :class:`DocumentError` or :class:`WorkspaceError` with a sentence and
    then have changed nothing. ``changed`` tells the stations that the design or its answer is another,
    ``spread_changed`` that the range of the answer has come; ``took_away`` says, in a sentence, what a user has just
    deleted or removed; ``began`` names a craft that was made of its sentence; ``leaving`` tells that another workspace
    is about to be shown, ``opened`` that it is.

    Without a design of its own, or while a craft is begun, what is shown is what the sentence with gaps stands for
    (``sentence``); nothing of it is in the workspace before it is finished.
    """

    changed = pyqtSignal()
    spread_changed = pyqtSignal()
    took_away = pyqtSignal(str)
    began = pyqtSignal(str)
    leaving = pyqtSignal()
    opened = pyqtSignal()

    def __init__(self, workspace: Workspace, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(QUIET_MS)
        self._quiet.timeout.connect(self._settle)
        self._ranging = Worker(self)
        self._ranging.finished.connect(self._take_spread)
        self.flown = Memory()
        self.compared = Compared(self)
        self.closed = False
        self.draft = Draft(self, self._become)
        self._begin(opened(workspace, self.answer_of))

    def go_on_in(self, workspace: Workspace) -> None:
        """Show another workspace, and close the present one.

        Raises :class:`WorkspaceError`, with nothing changed, where it holds nothing that could be shown.
        """
        opening = opened(workspace, self.answer_of)
        self.leaving.emit()
        self._quiet.stop()
        self.workspace.close()
        self._begin(opening)
        self.opened.emit()

    def _begin(self, opening: Opening) -> None:
        self.workspace, self.library = opening.workspace, opening.library
        self.remarks = opening.remarks
        """What there is to be said of the opening, a sentence each."""
        self.compared.begin()
        self._shown: list[str] = []
        self.draft.forget()
        if isinstance(opening.shown, Sentence):
            self.draft.show(opening.shown)
        else:
            self._become(*opening.shown)

    def close(self) -> None:
        """Stop what runs beside the window and close the workspace; nothing is left to save."""
        self.closed = True
        if "desk" in self.__dict__:
            self.desk.close_all()
        self._quiet.stop()
        self._ranging.close()
        self.workspace.close()

    @cached_property
    def desk(self) -> Desk:
        """Instruments that are listened to; nothing of them is imported before they are asked for."""
        from wise_cellar.ui.state.desk import Desk

        return Desk(lambda: self.workspace, self)

    def say_again(self) -> None:
        """Word everything anew: what it is shown in has changed."""
        self.flown = Memory()
        self._ranging.forget_all()
        self.compared.say_again()
        if self.sentence is not None:
            self.draft.say_again()
        else:
            self._become(self.complete, self.answer_of(self.complete))

    @property
    def settled(self) -> bool:
        """Whether the range of the present answer has come."""
        return not self._ranging.busy

    # Reading

    @property
    def undo_label(self) -> str | None:
        """What undo would take back; ``None`` when nothing is left."""
        return FILLED if self.draft.can_take_back else self.workspace.undo_label()

    def all(self, model: type[Any]) -> dict[str, Any]:
        """Every document of a kind, by identifier, in order of name."""
        return self.library.all(model)

    def value(self, path: str) -> Any:
        """Value of a field of the present design."""
        return value_at(self.complete, path)

    def document(self, path: str) -> Document:
        """The document of the present design that holds the field at ``path``."""
        document: Document = value_at(self.complete, holder_of(path))
        return document

    # Beginning

    @property
    def empty(self) -> bool:
        """Whether there is no design yet that could be shown."""
        return not self.library.all(Design)

    @property
    def sentence(self) -> Sentence | None:
        """The sentence with gaps that is shown; none while a design is."""
        return self.draft.sentence

    def set_aside(self) -> None:
        """Leave the sentence as it is, for later, and show the design seen before; where there is none it stays."""
        if self.sentence is not None and not self.empty:
            self.open_design(seen_before(self.library, self._shown, {})[0])

    # Editing

    def edit(self, path: str, value: Any, label: str = "", gone: str = "") -> None:
        """Set one field of the present design, craft, cell type or mission; ``gone`` says what that takes away."""
        self.no_draft()
        typed = self._changed(path, value)
        changed = rebuilt(self.complete, typed) if isinstance(typed, Design) else typed
        # What a design names changes with it: craft, mission, cell types of all its packs.
        design = changed if isinstance(changed, Design) else self.complete.design
        after = self.library.assembled(design, fresh_of([changed]))
        if after == self.complete:
            return
        self.library.check([changed])
        answered = self.answer_of(after)
        self._write(label or _label(path), [changed])
        self._become(after, answered)
        if changed is not typed:
            gone = "The scale's reading was of the pack as it was; the grams that it found stay among the other grams."
        if gone:
            self.took_away.emit(gone)

    def _changed(self, path: str, value: Any) -> Any:
        """The document that holds the field at ``path``, with the field set."""
        try:
            value_at(self.complete, path)
        except KeyError as error:
            raise DocumentError("What was to be changed is not there any more; nothing was changed.", path) from error
        present, inside = self.document(path), path.removeprefix(holder_of(path)).removeprefix(".")
        if inside:
            changed = replaced(present, inside, value)
            return changed.told(inside) if isinstance(changed, Craft | CellType) else changed
        return value if isinstance(value, Document) else type(present).from_data(value)

    def step(self, path: str, by: int) -> bool:
        """Step a whole-number field as far as its bounds; ``False`` where it stands at one already."""
        info, present = field_info(CompleteDesign, path), int(self.value(path))
        wanted = present + by
        if info.minimum is not None:
            wanted = max(wanted, int(info.minimum))
        if info.maximum is not None:
            wanted = min(wanted, int(info.maximum))
        if wanted == present:
            return False
        self.edit(path, wanted)
        return True

    def undo(self) -> Travelled | None:
        """Take the last edit back, or the last gap of a sentence; none where there is none."""
        if self.draft.can_take_back:
            self.draft.take_back()
            return Travelled(FILLED, "", "")
        return self._travel(self.workspace.way_back(), self.workspace.undo)

    def redo(self) -> Travelled | None:
        """Make the last undone edit again; none where there is none."""
        return self._travel(self.workspace.way_on(), self.workspace.redo)

    def _travel(self, journey: Journey | None, go: Callable[[], bool]) -> Travelled | None:
        """Refused, with nothing changed, where what came of it could not be shown."""
        if journey is None:
            return None
        self.library.check(journey.changes)
        fresh = fresh_of(journey.changes)
        shown = design_shown(
            self.library, journey, None if self.sentence is not None else self.complete.design, self._shown
        )
        if not shown:
            return self._travel_to_nothing(journey, go)
        design = fresh.get((Design, shown)) or self.library.find(Design, shown)
        assert isinstance(design, Design)
        complete = self.library.assembled(design, fresh)
        answered = self.answer_of(complete)
        path = path_shown(self.library, journey, complete)
        other = complete.design.name if shown != self.complete.design.id else ""
        go()
        self.library.apply(journey.changes)
        self._quiet.start()
        self._show_own(complete, answered)
        return Travelled(journey.label, path, other)

    def _travel_to_nothing(self, journey: Journey, go: Callable[[], bool]) -> Travelled:
        """No design is left: the sentence is shown again, as it was told last."""
        go()
        self.library.apply(journey.changes)
        self._quiet.start()
        self.draft.tell_last()
        return Travelled(journey.label, "", "")

    # Designs and documents as a whole

    def open_design(self, identifier: str) -> None:
        """Show another design."""
        self._show(self.library.assembled(self.library.find(Design, identifier)))

    def delete_design(self) -> None:
        """Remove the present design and show the one seen before it; after the last one a craft is begun anew."""
        self.no_draft()
        self.remove([self.complete.design])

    def remove(self, documents: Sequence[Any]) -> None:
        """Take documents out of the workspace, as one edit; refused, naming the design, where one is used."""
        gone = [Removal(KIND_OF[type(one)], one.id) for one in documents]
        several = len(documents) > 1
        words = f"{len(documents)} documents" if several else documents[0].name
        label = f"Delete {words}"
        left = seen_before(self.library, self._shown, fresh_of(gone))
        if self.sentence is not None or not left:
            self.library.check(gone)
            self._write(label, gone)
            if self.sentence is not None:
                self.draft.show(self.sentence)
            else:
                self.draft.tell_last()
        else:
            present = self.complete.design.id
            self.commit(label, gone, show=present if present in left else left[0])
        kind = "" if several else f"the {_WORDS.get(type(documents[0]), 'document')} "
        self.took_away.emit(f"Deleted {kind}{words}.")

    def save_copy(self, path: Path) -> None:
        """Write all that is here to another file; without its history where another program wrote over the file.

        Raises :class:`WorkspaceError` or :class:`DocumentError`.
        """
        if path.resolve() == self.workspace.path.resolve() and self.workspace.in_place:
            raise DocumentError(f"{path.name} is the workspace you are in; choose another name for the copy.")
        if not self.workspace.written_over:
            self.workspace.copy_to(path)
            return
        documents = self.library.everything
        seeded(path, documents, self.workspace.sound_series(documents), self.complete.design.id)

    # Inside

    def no_draft(self) -> None:
        """Refuse to change what is not in the workspace yet."""
        if self.sentence is not None:
            raise DocumentError("Finish the sentence first, with Ctrl+Enter: then all of it can be changed.")

    def _write(
        self, label: str, changes: Sequence[Document | Removal], series: Mapping[str, bytes] | None = None
    ) -> None:
        """Commit one edit, and keep what is held here in step without reading all of it again."""
        self.workspace.commit(label, changes, series)
        self.library.apply(changes)
        self._quiet.start()

    def _settle(self) -> None:
        """A quiet second has gone by; where the file is lost, the next edit says so."""
        with suppress(WorkspaceError):
            self.workspace.settle()

    def answer_of(self, complete: CompleteDesign) -> Answer:
        """Its answer; of one that was flown a moment ago, without flying it again."""
        window_first()
        known = self.flown.get(complete)
        if known is None:
            self.flown.keep(complete, known := answer(complete))
        assert isinstance(known, Answer)
        return known

    def _become(self, complete: CompleteDesign, answered: Answer) -> None:
        """Show another design or answer, and fly its range beside the window."""
        if self.sentence is None and self._shown[-1:] != [complete.design.id]:
            self._shown = [*self._shown[-MOST_SEEN:], complete.design.id]
        if answered is not getattr(self, "answer", None):
            self.complete, self.answer = complete, answered
            self.spread: Spread | None = None
            self._ranging.run(partial(spread, complete, answered), of=complete)
        self.changed.emit()

    def _take_spread(self, found: Spread) -> None:
        self.spread = found
        self.spread_changed.emit()

    def _show(self, complete: CompleteDesign) -> None:
        self._show_own(complete, self.answer_of(complete))

    def _show_own(self, complete: CompleteDesign, answered: Answer) -> None:
        """Show a design of the workspace, and remember that it was."""
        self.draft.leave()
        self.workspace.remember("design", complete.design.id)
        self._become(complete, answered)

    def commit(
        self,
        label: str,
        changes: Sequence[Document | Removal],
        *,
        show: str = "",
        series: Mapping[str, bytes] | None = None,
    ) -> None:
        """Make one edit of whole documents, and show a design: ``show``, or the present one.

        Refused, with nothing changed, when the design could not be shown afterwards.
        """
        fresh = fresh_of(changes)
        self.library.check(changes)
        if self.sentence is not None and not show:
            self._write(label, changes, series)
            self.draft.show(self.sentence)
            return
        shown = show or self.complete.design.id
        design = fresh.get((Design, shown))
        complete = self.library.assembled(
            design if isinstance(design, Design) else self.library.find(Design, shown), fresh
        )
        answered = self.answer_of(complete)
        self._write(label, changes, series)
        self._show_own(complete, answered)

    def free_id(self, model: type[Any], name: str) -> str:
        """An identifier made from a name that no document of the kind has."""
        return self.library.free_id(model, name)


_WORDS: dict[type[Any], str] = {Design: "design", Craft: "craft", CellType: "cell type", Mission: "mission"}


def _label(path: str) -> str:
    return f"Change {field_info(CompleteDesign, path).title}"
