"""What the window knows of a station before anyone goes in: its name, what it governs, its commands."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules
from typing import Any

from wise_cellar.core.answer import Finding, Severity
from wise_cellar.ui.stations.walk import WalkStep
from wise_cellar.ui.widgets.marks import State


@dataclass(frozen=True)
class StationCommand:
    """A command that is run at a station, which is shown first; ``run`` is given the station."""

    menu: str
    text: str
    run: Callable[[Any], object]
    separated: bool = False
    """Whether a line stands above it in its menu."""
    changes: bool = True
    """Whether it changes something."""


@dataclass(frozen=True)
class Page:
    """A page of a station by its name there, and the everyday words by which Find knows it."""

    name: str
    words: str = ""


@dataclass(frozen=True)
class Doorway:
    """A station as it declares itself. Its modules are imported when it is first asked for.

    ``module`` and ``name`` say where its class is; ``prefixes`` are the field paths it governs, by which findings and
    answers find it; ``search_words`` are what people may type in Find besides its title, ``pages`` its pages with words
    of their own; ``walk`` is what a walk through the sample world tries there; ``takes_in`` gives it files that are no
    exports, and says whether it knew them.
    """

    title: str
    prefixes: tuple[str, ...]
    module: str
    name: str
    search_words: str = ""
    commands: tuple[StationCommand, ...] = ()
    pages: tuple[Page, ...] = ()
    walk: tuple[WalkStep, ...] = ()
    takes_in: Callable[[Any, list[Path]], bool] | None = None

    def modules(self) -> list[str]:
        """Names of all the modules that it is made of."""
        package = self.module.rpartition(".")[0]
        return [found.name for found in iter_modules(import_module(package).__path__, f"{package}.")]

    def station_class(self) -> Any:
        """The class of the station."""
        return getattr(import_module(self.module), self.name)


def is_within(path: str, prefix: str) -> bool:
    """Whether a field path is ``prefix`` or below it."""
    return path == prefix or path.startswith(prefix + ".")


def governing(doorways: Sequence[Doorway], path: str) -> int | None:
    """Which of the stations governs a field path: the one that names it most closely, and the first of those."""
    found = [
        (len(prefix), -place)
        for place, doorway in enumerate(doorways)
        for prefix in doorway.prefixes
        if is_within(path, prefix)
    ]
    return -max(found)[1] if found else None


def states(doorways: Sequence[Doorway], findings: Iterable[Finding]) -> list[tuple[State, str]]:
    """Of every station the worst finding that hangs on a field which it governs, and its sentence."""
    worst = [(State.FINE, "")] * len(doorways)
    for finding in findings:
        place = governing(doorways, finding.field)
        state = State.OVER if finding.severity is Severity.OVER else State.CAUTION
        if place is not None and (
            worst[place][0] is State.FINE or (state is State.OVER and worst[place][0] is not State.OVER)
        ):
            worst[place] = state, finding.sentence
    return worst
