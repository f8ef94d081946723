"""The exchange file: one document as plain JSON, and the schema it follows.

    {"format": "wise-cellar", "kind": "cell type", "document": {…}}

``kind`` is one of the keys of :data:`KINDS`. A design travels complete, with its craft, cell type and mission.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.cell_type import CellType
from wise_cellar.core.documents.craft import Craft
from wise_cellar.core.documents.design import CompleteDesign, Design
from wise_cellar.core.documents.earlier import with_cells
from wise_cellar.core.documents.mission import Mission
from wise_cellar.core.documents.outside import DocumentError, plain_data
from wise_cellar.core.words import quoted

FORMAT = "wise-cellar"
KINDS: dict[str, type[Document]] = {
    "design": CompleteDesign,
    "craft": Craft,
    "cell type": CellType,
    "mission": Mission,
}

_PARTS: dict[str, tuple[type[Document], str]] = {
    "craft": (Craft, "craft"),
    "mission": (Mission, "mission"),
    "design": (Design, "design"),
    "cell type": (CellType, "cells"),
}
"""What a complete design carries, each with the name of its field."""


@dataclass(frozen=True)
class ExchangeFile:
    """What an exchange file holds."""

    kind: str
    document: Document
    mended: tuple[str, ...] = ()
    """What was cut or cleaned of it, a sentence each."""


def export_text(document: Document) -> str:
    """JSON text of an exchange file for ``document``; raises ``KeyError`` for a kind that does not travel alone."""
    kind = {model: kind for kind, model in KINDS.items()}[type(document)]
    body = {"format": FORMAT, "kind": kind, "document": document.model_dump(mode="json")}
    return json.dumps(body, indent=2, ensure_ascii=False) + "\n"


def import_text(text: str) -> ExchangeFile:
    """Exchange file from JSON text; raises :class:`DocumentError` with one sentence."""
    try:
        data = plain_data(text)
    except DocumentError as error:
        raise DocumentError(f"{error} Export a design from Wise Cellar to see the form.") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise DocumentError('This JSON is not a Wise Cellar file: it must have "format": "wise-cellar" at its top.')
    kind = data.get("kind")
    if not isinstance(kind, str) or kind not in KINDS:
        raise DocumentError(f"“kind” must be one of {', '.join(KINDS)}; {quoted(kind)} is not.")
    body = data.get("document")
    for part, model, inside in _inside(kind, body):
        version, newest = _schema_version(inside), newest_version(model)
        if version is not None and version > newest:
            raise DocumentError(
                f"This {part} has schema version {version}, but this Wise Cellar reads up to {newest}; a newer one is"
                " needed."
            )
    mended: list[str] = []
    document = KINDS[kind].from_data(body, mended)
    return ExchangeFile(kind, document, tuple(mended))


def newest_version(model: type[Document]) -> int:
    """Newest schema version of a kind of document; 1 where it has none of its own."""
    field = model.model_fields.get("schema_version")
    return int(field.default) if field is not None else 1


def json_schema() -> dict[str, Any]:
    """The published JSON Schema (draft 2020-12) of exchange files."""
    definitions: dict[str, Any] = {}
    variants = []
    for kind, model in KINDS.items():
        schema = model.model_json_schema(ref_template="#/$defs/{model}")
        definitions.update(schema.pop("$defs", {}))
        definitions[model.__name__] = schema
        variants.append(
            {
                "properties": {"kind": {"const": kind}, "document": {"$ref": f"#/$defs/{model.__name__}"}},
            }
        )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Wise Cellar exchange file",
        "type": "object",
        "properties": {
            "format": {"const": FORMAT},
            "kind": {"enum": list(KINDS)},
            "document": {"type": "object"},
        },
        "required": ["format", "kind", "document"],
        "oneOf": variants,
        "$defs": definitions,
    }


def _inside(kind: str, body: Any) -> Iterator[tuple[str, type[Document], Any]]:
    """Every document that a file holds, with its kind."""
    if KINDS[kind] is not CompleteDesign:
        yield kind, KINDS[kind], body
        return
    body = with_cells(body)
    for part, (model, name) in _PARTS.items():
        inside = body.get(name) if isinstance(body, dict) else None
        for one in inside if isinstance(inside, list | tuple) else [inside]:
            yield part, model, one


def _schema_version(body: Any) -> int | None:
    version = body.get("schema_version") if isinstance(body, dict) else None
    return version if isinstance(version, int) else None
