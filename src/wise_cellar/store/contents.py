"""What a workspace holds, as values: its documents, those that cannot be read, and an edit on its way."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    Craft,
    Design,
    DischargeRecord,
    Document,
    DocumentError,
    FlightEntry,
    Mission,
    NumberedCell,
    Recording,
    TracedChart,
)
from wise_cellar.core.documents.outside import plain_data
from wise_cellar.core.words import LONGEST_NAME, one_line, quoted

KINDS: dict[str, type[Document]] = {
    "craft": Craft,
    "cell_type": CellType,
    "mission": Mission,
    "design": Design,
    "discharge": DischargeRecord,
    "chart": TracedChart,
    "numbered_cell": NumberedCell,
    "built_pack": BuiltPack,
    "recording": Recording,
    "flight": FlightEntry,
}
KIND_OF = {model: kind for kind, model in KINDS.items()}


@dataclass(frozen=True)
class Removal:
    """Takes a document out of the workspace, as part of an edit."""

    kind: str
    id: str


@dataclass(frozen=True)
class Broken:
    """A document that cannot be read, as it stands in the file, and why."""

    kind: str
    id: str
    name: str
    sentence: str
    body: str


@dataclass(frozen=True)
class Contents:
    """All that a workspace holds, by kind and identifier in order of name."""

    documents: dict[type[Document], dict[str, Document]]
    broken: tuple[Broken, ...]
    mended: tuple[str, ...]
    """What was cut or cleaned of older documents, a sentence each."""


@dataclass(frozen=True)
class Journey:
    """An edit that can be taken back or made again: its label, and every document as it would then be."""

    label: str
    changes: tuple[Document | Removal | Broken, ...]


def document_of(kind: str, identifier: str, body: object, mended: list[str]) -> Document | Broken:
    """A document from its body, or what is wrong with it."""
    text = body if isinstance(body, str) else ""
    words: list[str] = []
    try:
        document = KINDS[kind].from_json(text, words)
        if getattr(document, "id", identifier) != identifier:
            raise DocumentError(f"It calls itself {quoted(document.id)}, but it is kept as {quoted(identifier)}.")  # type: ignore[attr-defined]
    except DocumentError as error:
        return Broken(kind, identifier, _name_in(text) or identifier, str(error), text)
    mended += words
    return document


def name_of(document: Document) -> str:
    """Name of a document, by which they are put in order."""
    return str(getattr(document, "name", ""))


def _name_in(body: str) -> str:
    """The name that a broken document still tells, or nothing."""
    with suppress(DocumentError):
        data = plain_data(body)
        if isinstance(data, dict) and isinstance(data.get("name"), str):
            return one_line(data["name"], LONGEST_NAME)
    return ""
