"""Widgets of one kind, found without looking through all that a window holds."""

from __future__ import annotations

from typing import Generic, TypeVar
from weakref import WeakKeyDictionary

from PyQt6 import sip
from PyQt6.QtWidgets import QWidget

WidgetT = TypeVar("WidgetT", bound=QWidget)


class Register(Generic[WidgetT]):
    """Widgets in the order in which they were put in. A window with all its stations holds so many that looking through
    it for a few takes longer than the command that waits for them."""

    def __init__(self) -> None:
        self._held: WeakKeyDictionary[WidgetT, None] = WeakKeyDictionary()

    def put(self, widget: WidgetT) -> None:
        """Have it found, until it is dropped or deleted."""
        self._held[widget] = None

    def drop(self, widget: WidgetT) -> None:
        """Have it found no more."""
        self._held.pop(widget, None)

    def within(self, holder: QWidget) -> list[WidgetT]:
        """Those inside a widget, and in what stands over it."""
        return [each for each in list(self._held) if not sip.isdeleted(each) and _inside(each, holder)]


def _inside(part: QWidget | None, holder: QWidget) -> bool:
    while part is not None and part is not holder and not holder.isAncestorOf(part):
        window = part.window()  # no further than to that does the toolkit look
        part = window.parentWidget() if window is not None else None
    return part is not None
