"""Keys that a line of text would keep for itself, passed on to the window's commands."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QWidget

_UNDO, _REDO = QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo


def is_undo(event: QKeyEvent) -> bool:
    """Whether these keys take something back."""
    return event.matches(_UNDO)


def pass_to_window(widget: QWidget, event: QKeyEvent) -> bool:
    """Run the window's undo or redo for these keys, also from a popup over it; ``False`` for any other keys.

    A line of text has an undo of its own, and takes the keys before a shortcut does.
    """
    if not (is_undo(event) or event.matches(_REDO)):
        return False
    above: QWidget | None = widget
    while above is not None and not isinstance(above, QMainWindow):
        above = above.parentWidget()
    keys = QKeySequence(event.keyCombination())
    for action in _commands(above) if above is not None else ():
        if keys in action.shortcuts() and action.isEnabled():
            action.trigger()
            break
    return True


def _commands(window: QMainWindow) -> Iterator[QAction]:
    """What its menus hold; to look through all that a window holds takes longer than a key may."""
    bar = window.menuBar()
    for entry in bar.actions() if bar is not None else ():
        menu = entry.menu()
        yield from menu.actions() if menu is not None else ()
