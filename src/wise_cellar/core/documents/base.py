"""The base of every document, and the ways to read, change and refuse a field by its path.

A *path* names a field from a document's root: ``recipe.parallel_count``, ``parts.2.mass_g``.
"""

from __future__ import annotations

import types
import typing
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Self, TypeVar

from annotated_types import Ge, Gt, Le, Lt
from pydantic import BaseModel, ConfigDict, ValidationError

from wise_cellar.core.documents.outside import plain_data
from wise_cellar.core.documents.refusals import refusal
from wise_cellar.core.units import Unit, unit_of_field

DocumentT = TypeVar("DocumentT", bound="Document")


class Document(BaseModel):
    """A frozen, validated value. Equality is by content; an edit makes another one."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, str_strip_whitespace=True)

    @classmethod
    def from_json(cls, text: str, mended: list[str] | None = None) -> Self:
        """Document from JSON text; raises :class:`DocumentError` naming the line or the field.

        ``mended``: see :meth:`from_data`.
        """
        return cls.from_data(plain_data(text), mended)

    @classmethod
    def from_data(cls, data: Any, mended: list[str] | None = None) -> Self:
        """Document from plain dicts and lists; raises :class:`DocumentError` naming the field.

        Where ``mended`` is a list, names and notes that are too long are cut, and a sentence for each goes there.
        """
        try:
            return cls.model_validate(data, context=mended)
        except ValidationError as error:
            raise refusal(cls, error, field_info) from error

    def changed(self, **values: Any) -> Self:
        """Copy with other values of some fields, validated like any other document.

        Raises :class:`DocumentError` naming the field.
        """
        return type(self).from_data({name: getattr(self, name) for name in type(self).model_fields} | values)

    @property
    def series_keys(self) -> tuple[str, ...]:
        """Keys of the long series that it names; a kind of document that has any says so here."""
        return ()

    def to_json(self) -> str:
        """JSON text with indented fields in their own order, so that two exports of one value are equal."""
        return self.model_dump_json(indent=2) + "\n"


@dataclass(frozen=True)
class FieldInfo:
    """What a form needs to know of a field: its words, unit, bounds, choices, and whether it may stay empty."""

    path: str
    title: str
    unit: Unit
    annotation: Any
    optional: bool
    minimum: float | None
    maximum: float | None
    whole: bool
    description: str


@lru_cache(maxsize=2000)
def field_info(model: type[BaseModel], path: str) -> FieldInfo:
    """Information on the field at ``path`` below ``model``; raises ``KeyError`` for a path that names none."""
    annotation: Any = model
    title = description = name = ""
    metadata: list[Any] = []
    for part in path.split("."):
        annotation, _ = _without_none(annotation)
        if part.isdigit():
            annotation = typing.get_args(annotation)[0]
            continue
        field = annotation.model_fields[part]
        annotation, metadata = field.annotation, field.metadata
        title, description, name = field.title or part.replace("_", " "), field.description or "", part
    bare, optional = _without_none(annotation)
    while typing.get_origin(bare) is typing.Annotated:
        bare, *extra = typing.get_args(bare)
        metadata = [*metadata, *extra]
    low = next((m.ge if isinstance(m, Ge) else m.gt for m in metadata if isinstance(m, Ge | Gt)), None)
    high = next((m.le if isinstance(m, Le) else m.lt for m in metadata if isinstance(m, Le | Lt)), None)
    return FieldInfo(
        path,
        title,
        unit_of_field(name),
        bare,
        optional,
        typing.cast("float | None", low),
        typing.cast("float | None", high),
        bare is int,
        description,
    )


def value_at(document: Document, path: str) -> Any:
    """Value of the field at ``path``; raises ``KeyError`` when there is none."""
    value: Any = document
    for part in path.split("."):
        if isinstance(value, Sequence) and part.isdigit() and int(part) < len(value):
            value = value[int(part)]
        elif isinstance(value, BaseModel) and part in type(value).model_fields:
            value = getattr(value, part)
        else:
            raise KeyError(path)
    return value


def replaced(document: DocumentT, path: str, value: Any) -> DocumentT:
    """Copy of ``document`` with the field at ``path`` set, validated whole.

    Lists grow and shrink by setting the whole list. Raises :class:`DocumentError` when the result would not
    be valid; the given document is untouched.
    """
    data = document.model_dump()
    *parents, last = path.split(".")
    target: Any = data
    for part in parents:
        target = target[int(part)] if isinstance(target, list | tuple) else target[part]
    if isinstance(value, BaseModel):
        value = value.model_dump()
    target[last] = value
    return type(document).from_data(data)


def as_version(data: Any, newest: int) -> Any:
    """Data of an older schema version whose fields all kept their meaning, marked as the newest."""
    older = isinstance(data, dict) and data.get("schema_version") in range(1, newest)
    return {**data, "schema_version": newest} if older else data


def _without_none(annotation: Any) -> tuple[Any, bool]:
    if typing.get_origin(annotation) in (typing.Union, types.UnionType):
        arguments = [a for a in typing.get_args(annotation) if a is not type(None)]
        if len(arguments) < len(typing.get_args(annotation)) and len(arguments) == 1:
            return arguments[0], True
    return annotation, False
