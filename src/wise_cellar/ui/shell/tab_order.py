"""The order in which Tab goes: as one reads, whatever was made later than what stands under it."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLayout, QScrollArea, QSplitter, QStackedWidget, QWidget


def reading_order(root: QWidget) -> list[QWidget]:
    """Every widget in view that takes the focus by Tab, in the order of the layouts that they stand in."""
    return [widget for widget in _within(root) if _takes_tab(widget)]


def next_of(root: QWidget, present: QWidget | None, *, forwards: bool) -> QWidget | None:
    """The widget after, or before, the one that has the focus; round again at the end. None where there is none."""
    order = reading_order(root)
    if not order:
        return None
    if present not in order:
        holder = present
        while holder is not None and holder not in order:
            holder = holder.parentWidget()
        if holder is None:
            return order[0 if forwards else -1]
        present = holder
    return order[(order.index(present) + (1 if forwards else -1)) % len(order)]


def _takes_tab(widget: QWidget) -> bool:
    tabbed = widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value
    return bool(tabbed) and widget.isEnabled() and widget.focusProxy() is None


def _within(widget: QWidget) -> Iterator[QWidget]:
    """A widget and all inside it that is in view; what takes the focus itself keeps what is in it to itself."""
    if not widget.isVisible():
        return
    if _takes_tab(widget):
        yield widget
        return
    yield from _children(widget)


def _children(widget: QWidget) -> Iterator[QWidget]:
    if isinstance(widget, QScrollArea):
        held = widget.widget()
        parts = [held] if held is not None else []
    elif isinstance(widget, QStackedWidget):
        current = widget.currentWidget()
        parts = [current] if current is not None else []
    elif isinstance(widget, QSplitter):
        # Each part but the first has the line before it.
        pairs = ((widget.handle(place) if place else None, widget.widget(place)) for place in range(widget.count()))
        parts = [part for pair in pairs for part in pair if part is not None]
    else:
        layout = widget.layout()
        laid = list(_of_layout(layout)) if layout is not None else []
        loose = [
            one for one in widget.children() if isinstance(one, QWidget) and not one.isWindow() and one not in laid
        ]
        parts = [*laid, *sorted(loose, key=lambda one: (one.y(), one.x()))]
    for part in parts:
        yield from _within(part)


def _of_layout(layout: QLayout) -> Iterator[QWidget]:
    """The widgets of a layout and of the layouts in it; of a grid row by row."""
    places = list(range(layout.count()))
    if isinstance(layout, QGridLayout):
        places.sort(key=lambda place: tuple(layout.getItemPosition(place))[:2])
    for place in places:
        item = layout.itemAt(place)
        widget, inner = (item.widget(), item.layout()) if item is not None else (None, None)
        if widget is not None:
            yield widget
        elif inner is not None:
            yield from _of_layout(inner)
