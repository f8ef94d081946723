"""Whoever does not see the window, or not its colours, or has no pointer, has all of it too."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

from tests.accessible import CHECKABLE, INVISIBLE, Accessible, Role, tree
from tests.ui.conftest import every_page
from wise_cellar.ui.shell.tab_order import reading_order
from wise_cellar.ui.shell.window import STATIONS, MainWindow
from wise_cellar.ui.widgets.plots import ThemedPlots

UNTOLD = {Role.CLIENT, Role.NONE, Role.OTHER, Role.BORDER}
"""Roles that tell nobody what a part is for."""


def in_view(window: QWidget) -> Iterator[Accessible]:
    return (one for one in tree(window) if not one.has(INVISIBLE))


def faults(one: Accessible) -> Iterator[str]:
    """What a screen reader cannot tell of a part."""
    part = one.object
    tabbed = isinstance(part, QWidget) and bool(part.focusPolicy().value & Qt.FocusPolicy.TabFocus.value)
    drawn_on = isinstance(part, QWidget) and isinstance(part.parent(), ThemedPlots)
    if tabbed and not drawn_on:
        if not one.name:
            yield "has no name"
        if one.role in UNTOLD and not isinstance(part, ThemedPlots):
            yield f"has no role, but {one.role.name}"
    if one.role is Role.GRAPHIC and not (one.name and one.description):
        yield "is a picture that says nothing"
    if one.role is Role.COMBO_BOX and one.description in ("", one.value):
        yield "does not say what is chosen by it"
    if isinstance(part, QLineEdit) and one.value != part.text():
        yield "does not tell what stands in it"
    if one.role in (Role.CHECK_BOX, Role.RADIO_BUTTON) and not one.has(CHECKABLE):
        yield "does not tell whether it is ticked"


@pytest.mark.parametrize("station", [one.title for one in STATIONS])
def test_a_screen_reader_is_told_what_every_part_is(window: MainWindow, station: str) -> None:
    parts = 0
    for page in every_page(window, station):
        for picture in page.findChildren(ThemedPlots):
            if picture.isVisible():
                picture.tell_now()
        for one in in_view(window):
            parts += 1
            assert not list(faults(one)), (station, one)
    assert parts > 60, "the tree was walked"


@pytest.mark.parametrize("station", [one.title for one in STATIONS])
def test_the_focus_is_seen_wherever_it_is(window: MainWindow, station: str) -> None:
    seen: set[QWidget] = set()
    for _ in every_page(window, station):
        window.focus_recipe()
        for _ in reading_order(window):
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
            widget = QApplication.focusWidget()
            assert widget is not None
            if widget in seen:
                continue
            seen.add(widget)
            QTest.qWait(5)
            corner = widget.mapTo(window, QPoint(0, 0))
            around = QRect(corner, widget.size()).adjusted(-2, -2, 2, 2)
            focused = window.grab(around).toImage()
            window.setFocus()
            assert focused != window.grab(around).toImage(), (type(widget).__name__, widget.accessibleName())
            widget.setFocus()
    assert len(seen) > 15
