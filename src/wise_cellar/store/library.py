"""The documents of a workspace in memory: which designs they make whole, what needs what, where others find a place."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from wise_cellar.core.documents import CellType, CompleteDesign, Craft, Design, Document, DocumentError, Mission
from wise_cellar.core.words import quoted
from wise_cellar.store.contents import KINDS, Broken, Contents, Removal

Change = Document | Removal | Broken
Fresh = Mapping[tuple[type[Document], str], Document | None]
"""Documents as they would be after a change, by kind and identifier; none where one would be gone."""

REFERENCES: dict[str, type[Document]] = {"craft_id": Craft, "mission_id": Mission}
_WORDS: dict[type[Document], str] = {Craft: "craft", CellType: "cell type", Mission: "mission"}


def key_of(change: Change) -> tuple[type[Document], str]:
    """Kind and identifier of what a change puts or takes."""
    if isinstance(change, Removal | Broken):
        return KINDS[change.kind], change.id
    return type(change), str(getattr(change, "id", ""))


def fresh_of(changes: Iterable[Change]) -> dict[tuple[type[Document], str], Document | None]:
    """Documents as they would be after some changes."""
    return {key_of(change): None if isinstance(change, Removal | Broken) else change for change in changes}


class Library:
    """What a workspace holds, kept in step with it by :meth:`apply`.

    ``broken`` are documents that cannot be read, and designs whose documents are missing or do not go together.
    """

    def __init__(self, contents: Contents) -> None:
        self._documents: dict[type[Any], dict[str, Any]] = {m: dict(held) for m, held in contents.documents.items()}
        self._unread: dict[tuple[type[Document], str], Broken] = {key_of(one): one for one in contents.broken}
        self._sort_out()

    def _sort_out(self) -> None:
        """Part the designs that are whole from those that are not."""
        self._apart: dict[str, str] = {}
        for key, design in self._documents[Design].items():
            try:
                self.assembled(design)
            except DocumentError as error:
                self._apart[key] = str(error)
        self._whole = {key: design for key, design in self._documents[Design].items() if key not in self._apart}

    @property
    def broken(self) -> list[Broken]:
        """What cannot be shown, each with its sentence."""
        designs = self._documents[Design]
        found = [
            Broken("design", key, designs[key].name, sentence, designs[key].to_json())
            for key, sentence in self._apart.items()
        ]
        return [*self._unread.values(), *found]

    def all(self, model: type[Any]) -> dict[str, Any]:
        """Every whole document of a kind, by identifier, in order of name."""
        return self._whole if model is Design else self._documents[model]

    @property
    def everything(self) -> list[Document]:
        """Every document that can be read."""
        return [document for held in self._documents.values() for document in held.values()]

    def known(self, model: type[Any], identifier: str) -> Any:
        """The document under an identifier, whole or not; none where it is free."""
        return self._documents[model].get(identifier) or self._unread.get((model, identifier))

    def find(self, model: type[Any], identifier: str) -> Any:
        """One whole document; raises :class:`DocumentError` where it is gone."""
        found = self.all(model).get(identifier)
        if found is None:
            words = _WORDS.get(model, "".join(f" {c.lower()}" if c.isupper() else c for c in model.__name__).strip())
            raise DocumentError(f"This {words} {quoted(identifier)} is not in the workspace any more.")
        return found

    def assembled(self, design: Design, fresh: Fresh | None = None) -> CompleteDesign:
        """The design with the documents it names; those in ``fresh`` come first.

        Raises :class:`DocumentError` where one is not in the workspace, or they do not go together.
        """
        fresh = fresh or {}

        def named(model: type[Any], identifier: str) -> Any:
            key = model, identifier
            found = fresh[key] if key in fresh else self._documents[model].get(identifier)
            if found is None:
                raise DocumentError(
                    f"Design {quoted(design.name)} names a {_WORDS[model]} {quoted(identifier)} that is not in the"
                    " workspace."
                )
            return found

        parts: dict[str, Any] = {"design": design}
        for name, model in REFERENCES.items():
            parts[name.removesuffix("_id")] = named(model, getattr(design, name))
        cells = dict.fromkeys(pack.cell_type_id for pack in design.packs)
        parts["cells"] = tuple(named(CellType, identifier) for identifier in cells)
        return CompleteDesign.from_data(parts)

    def needs(self, design: Design) -> set[tuple[type[Document], str]]:
        """Every document that a design names and cannot do without."""
        own: set[tuple[type[Document], str]] = {
            (model, str(getattr(design, name))) for name, model in REFERENCES.items()
        }
        return own | {(CellType, pack.cell_type_id) for pack in design.packs}

    def check(self, changes: Sequence[Change]) -> None:
        """Refuse changes after which a design that is whole would not be; raises :class:`DocumentError` naming it."""
        fresh = fresh_of(changes)
        for key, design in self._whole.items():
            touched = self.needs(design) & fresh.keys()
            if (Design, key) in fresh or not touched:
                continue
            gone = next((which for which in touched if fresh[which] is None), None)
            if gone is not None:
                name = getattr(self._documents[gone[0]].get(gone[1]), "name", gone[1])
                way = " archive it, or" if gone[0] is CellType else ""
                raise DocumentError(
                    f"{name} is used by the design {quoted(design.name)}:{way} choose another {_WORDS[gone[0]]} there"
                    " first."
                )
            try:
                self.assembled(design, fresh)
            except DocumentError as error:
                raise DocumentError(
                    f"The design {quoted(design.name)} could not be flown any more: {error}", error.path
                ) from error

    def apply(self, changes: Sequence[Change]) -> None:
        """Take over what was written to the file."""
        for change in changes:
            model, identifier = key_of(change)
            self._unread.pop((model, identifier), None)
            held = self._documents[model]
            held.pop(identifier, None)
            if isinstance(change, Broken):
                self._unread[model, identifier] = change
            elif not isinstance(change, Removal):
                held[identifier] = change
                self._documents[model] = dict(sorted(held.items(), key=lambda item: str(item[1].name)))
        if self._apart or not all(type(change) is Design for change in changes):
            self._sort_out()
            return
        self._whole = dict(self._documents[Design])

    # Places for what comes in

    def free_id(self, model: type[Any], name: str, taken: Iterable[str] = ()) -> str:
        """An identifier made from a name that no document of the kind has, broken ones among them."""
        stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "document"
        used = {*self._documents[model], *taken, *(key for kind, key in self._unread if kind is model)}
        return next(
            candidate
            for number in range(1, len(used) + 2)
            if (candidate := stem if number == 1 else f"{stem}-{number}") not in used
        )


class Placing:
    """Identifiers for documents that come in together: each is free, or taken by its equal."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._given: dict[tuple[type[Any], str], Any] = {}

    def place(self, document: Any) -> Any:
        """The document under its own identifier, or under another where that is an unlike document's."""
        model, identifier = type(document), document.id
        held = self._given.get((model, identifier)) or self._library.known(model, identifier)
        if held is not None and held != document:
            taken = [key for kind, key in self._given if kind is model]
            document = document.changed(id=self._library.free_id(model, document.name, taken))
        self._given[model, document.id] = document
        return document
