"""The one holder of what the window shows: the present design, its answer, the pin, and the way to change them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.answer import Answer, Spread, answer, spread
from wise_cellar.core.documents import (
    CompleteDesign,
    Design,
    Document,
    DocumentError,
    field_info,
    replaced,
    value_at,
)
from wise_cellar.core.pack import rebuilt
from wise_cellar.core.words import LONGEST_NAME, quoted
from wise_cellar.store import KINDS, Broken, Journey, Removal, Workspace, WorkspaceError
from wise_cellar.store.library import Placing, fresh_of
from wise_cellar.store.workspace import seeded
from wise_cellar.ui.state.memory import Memory
from wise_cellar.ui.state.opening import Opening, opened
from wise_cellar.ui.state.travel import Travelled, design_shown, path_shown, seen_before
from wise_cellar.ui.state.work import Worker

MOST_SEEN = 50
_PART_OF_ROOT: dict[str, str] = {
    "design": "design",
    "craft": "craft",
    "mission": "mission",
}
QUIET_MS = 1000
"""After so long without an edit the workspace's file is made whole by itself."""


class Session(QObject):
    """Owns the workspace, the present design and the latest answer.

    Changes are made through methods, which raise :class:`DocumentError` or :class:`WorkspaceError` with a sentence and
    then have changed nothing. ``changed`` tells the stations that the design or its answer is another;
    ``pin_changed`` that the pin is, ``spread_changed`` that the range of the answer has come; ``took_away`` says, in a
    sentence, what a user has just deleted or removed; ``leaving`` tells that another workspace is about to be
    shown, ``opened`` that it is.
    """

    changed = pyqtSignal()
    pin_changed = pyqtSignal()
    spread_changed = pyqtSignal()
    took_away = pyqtSignal(str)
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
        self._begin(opened(workspace, self._answer_of))

    def go_on_in(self, workspace: Workspace) -> None:
        """Show another workspace, and close the present one.

        Raises :class:`WorkspaceError`, with nothing changed, where it holds nothing that could be shown.
        """
        opening = opened(workspace, self._answer_of)
        self.leaving.emit()
        self._quiet.stop()
        self.workspace.close()
        self._begin(opening)
        self.opened.emit()

    def _begin(self, opening: Opening) -> None:
        self.workspace, self.library = opening.workspace, opening.library
        self.remarks = opening.remarks
        """What there is to be said of the opening, a sentence each."""
        self.pinned: tuple[CompleteDesign, Answer] | None = None
        self._shown: list[str] = []
        self._become(opening.complete, opening.answer)

    def close(self) -> None:
        """Stop what runs beside the window and close the workspace; nothing is left to save."""
        self._quiet.stop()
        self._ranging.close()
        self.workspace.close()

    @property
    def settled(self) -> bool:
        """Whether the range of the present answer has come."""
        return not self._ranging.busy

    # Reading

    def all(self, model: type[Any]) -> dict[str, Any]:
        """Every document of a kind, by identifier, in order of name."""
        return self.library.all(model)

    def value(self, path: str) -> Any:
        """Value of a field of the present design."""
        return value_at(self.complete, path)

    # Editing

    def edit(self, path: str, value: Any, label: str = "", gone: str = "") -> None:
        """Set one field of the present design, craft, cell type or mission; ``gone`` says what that takes away."""
        typed = self._changed(path, value)
        changed = rebuilt(self.complete, typed) if isinstance(typed, Design) else typed
        # What a design names changes with it: craft, mission, cell types of all its packs.
        design = changed if isinstance(changed, Design) else self.complete.design
        after = self.library.assembled(design, fresh_of([changed]))
        if after == self.complete:
            return
        self.library.check([changed])
        answered = self._answer_of(after)
        self._write(label or _label(path), [changed])
        self._become(after, answered)
        if changed is not typed:
            gone = "The scale's reading was of the pack as it was; the grams that it found stay among the other grams."
        if gone:
            self.took_away.emit(gone)

    def _changed(self, path: str, value: Any) -> Any:
        """The document that holds the field at ``path``, with the field set."""
        parts = path.split(".")
        depth = 2 if parts[0] == "cells" else 1
        try:
            value_at(self.complete, path)
        except KeyError as error:
            raise DocumentError("What was to be changed is not there any more; nothing was changed.", path) from error
        present, inside = value_at(self.complete, ".".join(parts[:depth])), ".".join(parts[depth:])
        if inside:
            return replaced(present, inside, value)
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
        """Take the last edit back; none where there is none."""
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
        shown = design_shown(self.library, journey, self.complete.design, self._shown)
        design = fresh.get((Design, shown)) or self.library.find(Design, shown)
        assert isinstance(design, Design)
        complete = self.library.assembled(design, fresh)
        answered = self._answer_of(complete)
        path = path_shown(self.library, journey, complete)
        other = complete.design.name if shown != self.complete.design.id else ""
        go()
        self.library.apply(journey.changes)
        self._quiet.start()
        self.workspace.remember("design", shown)
        self._become(complete, answered)
        return Travelled(journey.label, path, other)

    # Designs and documents as a whole

    def open_design(self, identifier: str) -> None:
        """Show another design."""
        self._show(self.library.assembled(self.library.find(Design, identifier)))

    def duplicate_design(self) -> None:
        """Go on with a copy of the present design under its own name."""
        copied = self._copy(self.complete.design)
        self.commit(f"Duplicate {self.complete.design.name}", [copied], show=copied.id)

    def duplicate_craft(self) -> None:
        """Copy the present craft; the present design flies the copy."""
        copied = self._copy(self.complete.craft)
        self._fly_copy(self.complete.craft, copied, self.complete.design.changed(craft_id=copied.id))

    def duplicate_cell_type(self) -> None:
        """Copy the present cell type; the first pack of the present design is made of the copy."""
        copied = self._copy(self.complete.pack.cell)
        self._fly_copy(self.complete.pack.cell, copied, self.complete.design.with_first(cell_type_id=copied.id))

    def duplicate_mission(self) -> None:
        """Copy the present mission; the present design flies the copy."""
        copied = self._copy(self.complete.mission)
        self._fly_copy(self.complete.mission, copied, self.complete.design.changed(mission_id=copied.id))

    def rename(self, root: str, name: str) -> None:
        """Rename the present design, craft, cell type or mission."""
        self.edit(f"{root}.name", name, f"Rename the {_PART_OF_ROOT[root]}")

    def delete_design(self) -> None:
        """Remove the present design and show the one seen before it; the last one stays."""
        gone = self.complete.design
        others = seen_before(self.library, self._shown, {(Design, gone.id): None})
        if not others:
            raise DocumentError("This is the only design; make another before you delete it.")
        self.commit(f"Delete {gone.name}", [Removal("design", gone.id)], show=others[0])
        self.took_away.emit(f"Deleted the design {gone.name}.")

    def take_in(self, document: Document) -> None:
        """Add an imported document; a design brings its craft, cell types and mission and is shown.

        A document that is here already, to the letter, is not doubled; one that differs gets a new identifier.
        """
        placing = Placing(self.library)
        if not isinstance(document, CompleteDesign):
            settled = placing.place(document)
            self.commit(f"Import {getattr(settled, 'name', '')}", [settled])
            return
        craft, cells = placing.place(document.craft), {cell.id: placing.place(cell) for cell in document.cells}
        packs = tuple(pack.changed(cell_type_id=cells[pack.cell_type_id].id) for pack in document.design.packs)
        bound = document.mission.craft_id and document.mission.craft_id == document.craft.id
        mission = placing.place(document.mission.changed(**({"craft_id": craft.id} if bound else {})))
        named = {"craft_id": craft.id, "mission_id": mission.id, "packs": packs}
        design = placing.place(document.design.changed(**named))
        every = [craft, *cells.values(), mission, design]
        self.commit(f"Import {design.name}", every, show=design.id)

    # What cannot be shown

    def mend(self, broken: Broken, text: str) -> None:
        """Keep a document that could not be read as ``text`` has it; refused where that cannot be read either."""
        document = KINDS[broken.kind].from_json(text)
        if getattr(document, "id", "") != broken.id:
            raise DocumentError(f"Its identifier must stay {quoted(broken.id)}; others may name it.")
        if isinstance(document, Design):
            self.library.assembled(document)
        self.commit(f"Mend {broken.name}", [document])

    def delete_broken(self, broken: Broken) -> None:
        """Take a document that cannot be shown out of the workspace; undo puts it back as it was."""
        self.commit(f"Delete {broken.name}", [Removal(broken.kind, broken.id)])

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

    def toggle_pin(self) -> None:
        """Keep the present answer to compare with, or let the kept one go when it is the present one."""
        present = self.pinned is not None and self.pinned[0] == self.complete
        self.pinned = None if present else (self.complete, self.answer)
        self.pin_changed.emit()

    # Inside

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

    def _answer_of(self, complete: CompleteDesign) -> Answer:
        """Its answer; of one that was flown a moment ago, without flying it again."""
        known = self.flown.get(complete)
        if known is None:
            self.flown.keep(complete, known := answer(complete))
        assert isinstance(known, Answer)
        return known

    def _become(self, complete: CompleteDesign, answered: Answer) -> None:
        """Show another design or answer, and fly its range beside the window."""
        if self._shown[-1:] != [complete.design.id]:
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
        answered = self._answer_of(complete)
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
        shown = show or self.complete.design.id
        fresh = fresh_of(changes)
        self.library.check(changes)
        design = fresh.get((Design, shown))
        complete = self.library.assembled(
            design if isinstance(design, Design) else self.library.find(Design, shown), fresh
        )
        answered = self._answer_of(complete)
        self._write(label, changes, series)
        self.workspace.remember("design", shown)
        self._become(complete, answered)

    def _fly_copy(self, document: Any, copied: Any, design: Design) -> None:
        self.commit(f"Duplicate {document.name}", [copied, design])

    def _copy(self, document: Any) -> Any:
        model = type(document)
        names = {other.name for other in self.all(model).values()}
        name = next(
            candidate
            for number in range(1, len(names) + 2)
            if (candidate := copied_name(document.name, number)) not in names
        )
        return document.changed(id=self.free_id(model, name), name=name, sample=False)

    def free_id(self, model: type[Any], name: str) -> str:
        """An identifier made from a name that no document of the kind has."""
        return self.library.free_id(model, name)


def copied_name(name: str, number: int) -> str:
    """Name of a copy, no longer than a name may be."""
    ending = ", copy" + (f" {number}" if number > 1 else "")
    return name[: LONGEST_NAME - len(ending)] + ending


def _label(path: str) -> str:
    return f"Change {field_info(CompleteDesign, path).title}"
