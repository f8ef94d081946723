"""An edit taken back or made again: in which design it shows, and at which field."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from wise_cellar.core.documents import CellType, CompleteDesign, Craft, Design, Document, Mission
from wise_cellar.store import Journey
from wise_cellar.store.library import Fresh, Library, fresh_of

PATH_ROOTS: dict[type[Any], str] = {Design: "design", Craft: "craft", Mission: "mission"}


@dataclass(frozen=True)
class Travelled:
    """An edit that was taken back or made again: its label, where it shows, and whether another design came into
    view."""

    label: str
    path: str
    """Empty where no one field was changed."""
    design: str
    """Name of the design that is shown for it; empty where it is the one shown before."""


def design_shown(library: Library, journey: Journey, present: Design | None, seen: Sequence[str]) -> str:
    """Identifier of the design in which an edit shows: the present one, unless only another is changed by it; empty
    where none would be left.

    ``seen`` are the designs seen before, the last one last; no ``present`` one is there while a craft is begun.
    """
    fresh = fresh_of(journey.changes)
    stays = present is not None and fresh.get((Design, present.id), present) is not None
    if stays and present is not None and ({(Design, present.id)} | library.needs(present)) & fresh.keys():
        return present.id
    changed = [key for (model, key), document in fresh.items() if model is Design and document is not None]
    users = [
        key
        for key, design in library.all(Design).items()
        if library.needs(design) & fresh.keys() and fresh.get((Design, key), design) is not None
    ]
    here = [present.id] if stays and present is not None else []
    candidates = [*changed, *users, *here, *seen_before(library, seen, fresh)]
    return candidates[0] if candidates else ""


def seen_before(library: Library, seen: Sequence[str], fresh: Fresh) -> list[str]:
    """Designs that could be shown, the one seen last first, without those that would be gone."""
    here = library.all(Design)
    known = [key for key in reversed(seen) if key in here]
    return [key for key in dict.fromkeys([*known, *here]) if fresh.get((Design, key), here[key]) is not None]


def path_shown(library: Library, journey: Journey, after: CompleteDesign) -> str:
    """Path of the one field that an edit changes in the design shown; of what holds all, where it changes more."""
    paths = []
    for key, now in fresh_of(journey.changes).items():
        before, root = library.known(*key), _root_of(key, after)
        if root and isinstance(now, Document) and isinstance(before, Document):
            paths.append(changed_path(before, now, root))
    return paths[0] if len(paths) == 1 else ""


def _root_of(key: tuple[type[Document], str], complete: CompleteDesign) -> str:
    model, identifier = key
    if model in PATH_ROOTS and getattr(complete, PATH_ROOTS[model]).id == identifier:
        return PATH_ROOTS[model]
    places = {cell.id: place for place, cell in enumerate(complete.cells)}
    return f"cells.{places[identifier]}" if model is CellType and identifier in places else ""


def changed_path(before: Document, after: Document, root: str) -> str:
    """Path of the one field in which two documents of a kind differ; where there are more, of what holds them all."""
    path: str = root
    old: Any = before.model_dump()
    new: Any = after.model_dump()
    while type(old) is type(new) and isinstance(old, dict | list | tuple) and len(old) == len(new):
        places: list[Any] = list(old) if isinstance(old, dict) else list(range(len(old)))
        differing = [place for place in places if old[place] != new[place]]
        if len(differing) != 1:
            return path
        path, old, new = f"{path}.{differing[0]}", old[differing[0]], new[differing[0]]
    return path
