"""A walk through the sample world: what each station asks to be tried, and how it is known to be done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.documents import CompleteDesign


@dataclass(frozen=True)
class Moment:
    """What a step of the walk is judged by: where the user is, and what is there."""

    station: str
    pages: frozenset[str]
    complete: CompleteDesign
    pinned: bool


@dataclass(frozen=True)
class WalkStep:
    """One thing to do. ``done`` is given the moment at which the step began, and the present one."""

    text: str
    done: Callable[[Moment, Moment], bool]
    page: str = ""
    """Of the station at which it is done; empty for the one in view."""
