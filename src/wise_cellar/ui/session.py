"""The one holder of what the window shows: the present design, its answer, the pin, and the way to change them."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import partial
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.documents import (
    CellType,
    CompleteDesign,
    Craft,
    Design,
    DischargeRecord,
    Document,
    DocumentError,
    Mission,
    TracedChart,
    field_info,
    replaced,
    value_at,
)
from wise_cellar.core.flight import Answer, Spread, answer, spread
from wise_cellar.demo import FIRST_DESIGN_ID, sample_documents, sample_series
from wise_cellar.store import KIND_OF, Removal, Workspace, WorkspaceError
from wise_cellar.ui.work import Worker

_PART_OF_ROOT: dict[str, str] = {
    "design": "design",
    "craft": "craft",
    "cell_type": "cell type",
    "mission": "mission",
}
KEPT = (Craft, CellType, Mission, Design, DischargeRecord, TracedChart)
REFERENCES = {"design.craft_id": Craft, "design.cell_type_id": CellType, "design.mission_id": Mission}


class Session(QObject):
    """Owns the workspace, the present design and the latest answer.

    Changes are made through methods, which raise :class:`DocumentError` or :class:`WorkspaceError` with a sentence and
    then have changed nothing. ``changed`` tells the stations that the design or its answer is another;
    ``pin_changed`` that the pin is, ``spread_changed`` that the range of the answer has come.
    """

    changed = pyqtSignal()
    pin_changed = pyqtSignal()
    spread_changed = pyqtSignal()

    def __init__(self, workspace: Workspace, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.workspace = workspace
        if not workspace.all(Design):
            workspace.seed(sample_documents(), sample_series())
        self.complete: CompleteDesign
        self.answer: Answer
        self.spread: Spread | None = None
        self.pinned: tuple[CompleteDesign, Answer] | None = None
        self._ranging = Worker(self)
        self._ranging.finished.connect(self._take_spread)
        self._load()

    def close(self) -> None:
        """Stop what runs beside the window and close the workspace; nothing is left to save."""
        self._ranging.close()
        self.workspace.close()

    @property
    def settled(self) -> bool:
        """Whether the range of the present answer has come."""
        return not self._ranging.busy

    # Reading

    def all(self, model: type[Any]) -> dict[str, Any]:
        """Every document of a kind, by identifier, in order of name."""
        return self._documents[model]

    def value(self, path: str) -> Any:
        """Value of a field of the present design."""
        return value_at(self.complete, path)

    # Editing

    def edit(self, path: str, value: Any, label: str = "") -> None:
        """Set one field of the present design, craft, cell type or mission."""
        changed = self._changed(path, value)
        # What a design names changes with it: craft, mission, cell types of all its packs.
        design = changed if isinstance(changed, Design) else self.complete.design
        after = self.assembled(design, {(type(changed), getattr(changed, "id", "")): changed})
        if after == self.complete:
            return
        answered = answer(after)
        self._write(label or _label(path), [changed])
        self._become(after, answered)

    def _changed(self, path: str, value: Any) -> Any:
        """The document that holds the field at ``path``, with the field set."""
        parts = path.split(".")
        depth = 2 if parts[0] == "beside_cells" else 1
        present, inside = value_at(self.complete, ".".join(parts[:depth])), ".".join(parts[depth:])
        if inside:
            return replaced(present, inside, value)
        return value if isinstance(value, Document) else type(present).from_data(value)

    def step(self, path: str, by: int) -> bool:
        """Step a whole-number field, kept inside its bounds; ``False`` at an end."""
        info = field_info(CompleteDesign, path)
        wanted = int(self.value(path)) + by
        if (info.minimum is not None and wanted < info.minimum) or (info.maximum is not None and wanted > info.maximum):
            return False
        self.edit(path, wanted)
        return True

    def undo(self) -> None:
        """Take the last edit back."""
        if self.workspace.undo():
            self._load()

    def redo(self) -> None:
        """Make the last undone edit again."""
        if self.workspace.redo():
            self._load()

    # Designs and documents as a whole

    def open_design(self, identifier: str) -> None:
        """Show another design."""
        self._show(self.assembled(self.all(Design)[identifier]))

    def duplicate_design(self) -> None:
        """Go on with a copy of the present design under its own name."""
        copied = self._copy(self.complete.design)
        self.commit(f"Duplicate {self.complete.design.name}", [copied], show=copied.id)

    def duplicate_craft(self) -> None:
        """Copy the present craft; the present design flies the copy."""
        self._fly_copy(self.complete.craft, "craft_id")

    def duplicate_cell_type(self) -> None:
        """Copy the present cell type; the present design uses the copy."""
        self._fly_copy(self.complete.cell_type, "cell_type_id")

    def duplicate_mission(self) -> None:
        """Copy the present mission; the present design flies the copy."""
        self._fly_copy(self.complete.mission, "mission_id")

    def rename(self, root: str, name: str) -> None:
        """Rename the present design, craft, cell type or mission."""
        self.edit(f"{root}.name", name, f"Rename the {_PART_OF_ROOT[root]}")

    def delete_design(self) -> None:
        """Remove the present design; the last one stays."""
        others = [key for key in self.all(Design) if key != self.complete.design.id]
        if not others:
            raise DocumentError("This is the only design; make another before you delete it.")
        self.commit(f"Delete {self.complete.design.name}", [Removal("design", self.complete.design.id)], show=others[0])

    def take_in(self, document: Document) -> None:
        """Add an imported document; a design brings its craft, cell type and mission and is shown.

        A document that is here already, to the letter, is not doubled; one that differs gets a new identifier.
        """
        if isinstance(document, CompleteDesign):
            craft, cell = self.placed(document.craft), self.placed(document.cell_type)
            others = {other.id: self.placed(other) for other in document.beside_cells}
            beside = tuple(
                branch.model_copy(update={"cell_type_id": others[branch.cell_type_id].id})
                for branch in document.design.beside
            )
            bound = document.mission.craft_id and document.mission.craft_id == document.craft.id
            mission = self.placed(document.mission.model_copy(update={"craft_id": craft.id} if bound else {}))
            design = self.placed(
                document.design.model_copy(
                    update={
                        "craft_id": craft.id, "cell_type_id": cell.id, "mission_id": mission.id, "beside": beside,
                    }
                )
            )  # fmt: skip
            every = [craft, cell, *others.values(), mission, design]
            self.commit(f"Import {design.name}", every, show=design.id)
            return
        settled = self.placed(document)
        self.commit(f"Import {getattr(settled, 'name', '')}", [settled])

    def toggle_pin(self) -> None:
        """Keep the present answer to compare with, or let the kept one go when it is the present one."""
        present = self.pinned is not None and self.pinned[0] == self.complete
        self.pinned = None if present else (self.complete, self.answer)
        self.pin_changed.emit()

    # Inside

    def _load(self) -> None:
        self._documents = self._read()
        designs = self.all(Design)
        wanted = self.workspace.setting("design") or FIRST_DESIGN_ID
        for identifier in [wanted, *designs]:
            if identifier in designs:
                complete = self.assembled(designs[identifier])
                self._become(complete, answer(complete))
                return
        raise WorkspaceError(f"{self.workspace.path} holds no design.")

    def _read(self) -> dict[type[Any], dict[str, Any]]:
        return {model: dict(self.workspace.all(model)) for model in KEPT}

    def _write(
        self, label: str, changes: Sequence[Document | Removal], series: Mapping[str, bytes] | None = None
    ) -> None:
        """Commit one edit, and keep what is held here in step without reading all of it again."""
        self.workspace.commit(label, changes, series)
        for change in changes:
            if isinstance(change, Removal):
                self._documents[next(m for m in KEPT if KIND_OF[m] == change.kind)].pop(change.id, None)
            else:
                held = self._documents[type(change)]
                held[getattr(change, "id", "")] = change
                self._documents[type(change)] = dict(sorted(held.items(), key=lambda item: item[1].name))

    def _become(self, complete: CompleteDesign, answered: Answer) -> None:
        """Show another design or answer, and fly its range beside the window."""
        self.complete, self.answer, self.spread = complete, answered, None
        self._ranging.run(partial(spread, complete, answered))
        self.changed.emit()

    def _take_spread(self, found: Spread) -> None:
        self.spread = found
        self.spread_changed.emit()

    def assembled(self, design: Design, fresh: Mapping[Any, Any] | None = None) -> CompleteDesign:
        """The design with the documents it names; those in ``fresh``, by kind and identifier, come first.

        Raises :class:`DocumentError` where one is not in the workspace, or they do not go together.
        """

        def named(model: type[Any], identifier: str, kind: str) -> Any:
            found = (fresh or {}).get((model, identifier)) or self.all(model).get(identifier)
            if found is None:
                raise DocumentError(f"Design {design.name} names a {kind} “{identifier}” that is not in the workspace.")
            return found

        parts: dict[str, Any] = {"design": design}
        for path, model in REFERENCES.items():
            name = path.split(".")[1]
            root = name.removesuffix("_id")
            parts[root] = named(model, getattr(design, name), _PART_OF_ROOT[root])
        beside = dict.fromkeys(branch.cell_type_id for branch in design.beside)
        parts["beside_cells"] = tuple(named(CellType, identifier, "cell type") for identifier in beside)
        return CompleteDesign.from_data(parts)

    def _show(self, complete: CompleteDesign) -> None:
        answered = answer(complete)
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
        fresh = {(type(change), getattr(change, "id", "")): change for change in changes}
        design = fresh.get((Design, shown))
        complete = self.assembled(design if isinstance(design, Design) else self.all(Design)[shown], fresh)
        answered = answer(complete)
        self._write(label, changes, series)
        self.workspace.remember("design", shown)
        self._become(complete, answered)

    def _fly_copy(self, document: Any, reference: str) -> None:
        copied = self._copy(document)
        design = self.complete.design.model_copy(update={reference: copied.id})
        self.commit(f"Duplicate {document.name}", [copied, design])

    def _copy(self, document: Any) -> Any:
        model = type(document)
        names = {other.name for other in self.all(model).values()}
        name = next(
            candidate
            for number in range(1, len(names) + 2)
            if (candidate := f"{document.name}, copy" + (f" {number}" if number > 1 else "")) not in names
        )
        return document.model_copy(update={"id": self.free_id(model, name), "name": name, "sample": False})

    def placed(self, document: Any) -> Any:
        """The document under an identifier that is free, or taken by its equal."""
        model = type(document)
        present = self.all(model).get(document.id)
        if present is None or present == document:
            return document
        return document.model_copy(update={"id": self.free_id(model, document.name)})

    def free_id(self, model: type[Any], name: str) -> str:
        """An identifier made from a name that no document of the kind has."""
        stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "document"
        taken = self.all(model)
        return next(
            candidate
            for number in range(1, len(taken) + 2)
            if (candidate := stem if number == 1 else f"{stem}-{number}") not in taken
        )


def _label(path: str) -> str:
    return f"Change {field_info(CompleteDesign, path).title}"
