"""Flights that nobody waits for any more end at their next step, and cells are neither matched nor fitted on."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_wanted: ContextVar[Callable[[], bool]] = ContextVar("_wanted", default=lambda: True)


class UnwantedError(Exception):
    """What was being computed is not wanted any more."""


@contextmanager
def while_wanted(wanted: Callable[[], bool]) -> Iterator[None]:
    """Within it, in this thread, every flight, matching and fit asks ``wanted`` before each step, and raises
    :class:`UnwantedError` when it says no."""
    before = _wanted.set(wanted)
    try:
        yield
    finally:
        _wanted.reset(before)


def ask() -> None:
    """Raise :class:`UnwantedError` where nobody waits any more."""
    if not _wanted.get()():
        raise UnwantedError
