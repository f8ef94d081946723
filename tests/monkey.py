"""Hands that know nothing: thousands of random actions on the real window, which must end with no logged exception.

By hand: ``script/monkey 5000`` does so many; an exception is told with the actions before it.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections import Counter, deque
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from random import Random
from unittest import mock

from PyQt6 import sip
from PyQt6.QtCore import QPoint, QPointF, QSettings, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QWidget,
)

from tests.damage import damaged, seeds
from wise_cellar.demo import sample_workspace
from wise_cellar.store import Workspace
from wise_cellar.ui.application import make_application
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.giving_way import window_first
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Appearance
from wise_cellar.ui.unforeseen import Unforeseen
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.segments import Segments

TYPED = (
    "0", "1", "4", "12.5", "-3", "1,200", "1e999", "1e300", "abc", "", "250 g", "85F", "14 awg", "2:30", "1:6", "3:8,2",
    "<b>x</b>", "name & more", "\u202ename", "x" * 200, "99999999", "0.0001", "5 km", "2026-03-14", "=1+1",
)  # fmt: skip
KEYS = (
    Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left,
    Qt.Key.Key_Right, Qt.Key.Key_Delete, Qt.Key.Key_Space, Qt.Key.Key_BracketRight, Qt.Key.Key_BracketLeft,
    Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_PageDown,
)  # fmt: skip
LEFT_ALONE = {"Quit", "Open workspace…", "New workspace…", "Text size…"}
"""They put another window in place of this one."""


class Monkey:
    """One window, and what is done to it."""

    def __init__(self, window: MainWindow, random: Random, folder: Path) -> None:
        self.window, self.random, self.folder = window, random, folder
        self.done: deque[str] = deque(maxlen=12)
        self.counts: Counter[str] = Counter()
        self.waits: list[tuple[float, str]] = []
        """How long the window took over each thing, s, and what it was."""
        self._looked_s = 0.0
        self.actions: tuple[tuple[Callable[[], str], int], ...] = (
            (self.type_something, 6), (self.press_key, 5), (self.click_button, 6), (self.choose, 3), (self.command, 4),
            (self.undo_or_redo, 4), (self.station, 2), (self.wheel, 2), (self.click_somewhere, 4), (self.segment, 2),
            (self.token, 3), (self.drop, 1), (self.resize, 1), (self.wait, 2),
        )  # fmt: skip

    def act(self) -> None:
        """Do one thing, whatever is open; what is open too long is closed."""
        kinds, weights = zip(*self.actions, strict=True)
        do = self.random.choices(kinds, weights)[0]
        self.counts[do.__name__] += 1
        shown = self.window.stations[self.window.stack.currentIndex()].title
        self._looked_s, began = 0.0, time.perf_counter()
        window_first()  # as the desktop's window says, which keys and clicks of tests pass by
        self.done.append(f"{do.__name__} {do()}")
        QApplication.processEvents()
        if do != self.wait:
            # What hands spend on looking for something is not the window's.
            took = time.perf_counter() - began - self._looked_s
            self.waits.append((took, f"at {shown}: {self.done[-1]}"))
        over = [w for w in QApplication.topLevelWidgets() if w is not self.window and w.isVisible()]
        if over and self.random.random() < 0.25:
            over[-1].close()
            QApplication.processEvents()
        if len(over) > 3:
            for widget in over:
                for leave in (widget.hide, widget.close):
                    if not sip.isdeleted(widget):
                        leave()

    def _where(self) -> QWidget:
        """The popup, the panel or the window that has the user."""
        over = [w for w in QApplication.topLevelWidgets() if w is not self.window and w.isVisible()]
        inside = [w for w in over if isinstance(w, QDialog)] or over
        return inside[-1] if inside else self.window

    def _one(self, kind: type[QWidget]) -> QWidget | None:
        began = time.perf_counter()
        found = [w for w in self._where().findChildren(kind) if w.isVisible() and w.isEnabled()]
        self._looked_s += time.perf_counter() - began
        return self.random.choice(found) if found else None

    def type_something(self) -> str:
        """Type into a field, and leave it in one of the ways there are."""
        line = self._one(self.random.choice((EntryLine, QLineEdit, QPlainTextEdit)))
        if line is None:
            return "nowhere"
        text = self.random.choice(TYPED)
        line.setFocus()
        if isinstance(line, QLineEdit):
            line.selectAll()
            line.insert(text[: self.random.choice((3, 300))])
            line.setModified(True)
        else:
            QTest.keyClicks(line, text[:20])
        way = self.random.randrange(4)
        if way == 0:
            QTest.keyClick(line, Qt.Key.Key_Return)
        elif way == 1:
            self.window.setFocus()
        elif way == 2:
            QTest.keyClick(line, Qt.Key.Key_Escape)
        return f"{line.accessibleName()} {text[:20]!r} way {way}"

    def press_key(self) -> str:
        """A key to whatever has the focus."""
        key = self.random.choice(KEYS)
        QTest.keyClick(QApplication.focusWidget() or self._where(), key)
        return key.name

    def click_button(self) -> str:
        """Any button but those that ask the system for a file or a printer without end."""
        button = self._one(QAbstractButton)
        if isinstance(button, QAbstractButton):
            button.click()
            return button.text() or button.accessibleName()
        return "none"

    def choose(self) -> str:
        """An entry of a box, or a row of a list or table."""
        box = self._one(self.random.choice((QComboBox, QAbstractItemView)))
        if isinstance(box, QComboBox) and box.count():
            place = self.random.randrange(box.count())
            box.setCurrentIndex(place)
            box.activated.emit(place)
        elif isinstance(box, QAbstractItemView) and box.model() is not None and box.model().rowCount():
            row = self.random.randrange(box.model().rowCount())
            box.setCurrentIndex(box.model().index(row, 0))
            if self.random.random() < 0.3:
                QTest.keyClick(box, self.random.choice((Qt.Key.Key_Return, Qt.Key.Key_Delete)))
        return box.accessibleName() if box is not None else "none"

    def command(self) -> str:
        """A command of the menus, if it may be chosen."""
        words = self.random.choice([text for text in self.window.commands.actions if text not in LEFT_ALONE])
        action = self.window.commands.actions[words]
        if action.isEnabled():
            action.trigger()
        return words

    def undo_or_redo(self) -> str:
        """By its keys, from wherever the focus is."""
        modifiers = Qt.KeyboardModifier.ControlModifier
        if self.random.random() < 0.4:
            modifiers |= Qt.KeyboardModifier.ShiftModifier
        QTest.keyClick(QApplication.focusWidget() or self.window, Qt.Key.Key_Z, modifiers)
        return modifiers.name or ""

    def station(self) -> str:
        """Another station."""
        place = self.random.randrange(len(self.window.stations))
        self.window.show_station(place)
        return self.window.stations[place].title

    def wheel(self) -> str:
        """A notch anywhere."""
        target = self._one(QWidget)
        if target is None:
            return "none"
        at = QPointF(target.rect().center())
        delta = QPoint(0, self.random.choice((120, -120)))
        QApplication.sendEvent(
            target,
            QWheelEvent(at, target.mapToGlobal(at), QPoint(), delta, Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False),
        )  # fmt: skip
        return type(target).__name__

    def click_somewhere(self) -> str:
        """A click, or a drag, on any part of what is drawn."""
        target = self._one(QWidget)
        if target is None or isinstance(target, QMenu):
            return "none"
        spot = QPoint(self.random.randrange(max(target.width(), 1)), self.random.randrange(max(target.height(), 1)))
        QTest.mousePress(target, Qt.MouseButton.LeftButton, pos=spot)
        if self.random.random() < 0.4:
            QTest.mouseMove(target, spot + QPoint(self.random.randint(-80, 80), self.random.randint(-40, 40)))
        QTest.mouseRelease(target, Qt.MouseButton.LeftButton, pos=spot)
        return type(target).__name__

    def segment(self) -> str:
        """Another page of a panel."""
        segments = self._one(Segments)
        if not isinstance(segments, Segments):
            return "none"
        QTest.keyClick(segments, self.random.choice((Qt.Key.Key_Left, Qt.Key.Key_Right)))
        return segments.word

    def token(self) -> str:
        """Open a token of the recipe line, or step it."""
        shown = [p for p, token in self.window.recipe.tokens.items() if not token.isHidden()]
        if not shown:
            return "none"  # a craft is being begun
        path = self.random.choice(shown)
        if self.random.random() < 0.5:
            self.window.recipe.open_token(path)
        else:
            self.window.recipe.tokens[path].stepped.emit(self.random.choice((1, -1)))
        return path

    def a_file(self) -> str:
        """A file as a user may have it, whole or damaged; or none."""
        kind = self.random.choice([*seeds(), ""])
        if not kind:
            return ""
        body = seeds()[kind]
        suffix = {"workspace": ".cellar"}.get(kind, ".json" if body.startswith(b"{") else ".csv")
        path = self.folder / f"{kind}-{self.random.randrange(9)}{suffix}"
        path.write_bytes(body if self.random.random() < 0.5 else damaged(body, self.random))
        return str(path)

    def drop(self) -> str:
        """Files onto the window."""
        began = time.perf_counter()
        paths = [Path(name) for name in (self.a_file(), self.a_file()) if name]
        self._looked_s += time.perf_counter() - began
        self.window.files.take_in_all(paths)
        return ", ".join(path.name for path in paths)

    def resize(self) -> str:
        """Another size, or other colours."""
        if self.random.random() < 0.3:
            self.window.looks.show_appearance(self.random.choice(list(Appearance)))
        self.window.resize(self.random.choice((1100, 1280, 1900)), self.random.choice((700, 800, 1100)))
        return str(self.window.size().width())

    def wait(self) -> str:
        """Let what runs beside the window come back."""
        QTest.qWait(self.random.choice((1, 30, 250)))
        return ""


def folders_beside(path: Path) -> list[str]:
    """The folders there, in order: what was moved out, and others."""
    return sorted(str(each) for each in path.parent.iterdir() if each.is_dir())


def _answers(monkey: Monkey, random: Random, written: str) -> list[tuple[object, str, Callable[..., object]]]:
    """What the system's own dialogs answer here."""
    endings = (".json", ".csv", ".png", ".svg")
    return [
        (QFileDialog, "getOpenFileName", lambda *_, **__: (monkey.a_file(), "")),
        (QFileDialog, "getOpenFileNames", lambda *_, **__: ([name for name in [monkey.a_file()] if name], "")),
        (QFileDialog, "getSaveFileName", lambda *_, **__: (random.choice(["", written + random.choice(endings)]), "")),
        (QFileDialog, "getExistingDirectory", lambda *_, **__: random.choice(["", *folders_beside(Path(written))])),
        (QInputDialog, "getText", lambda *_, **__: (random.choice(TYPED), random.random() < 0.7)),
        (QPrintDialog, "exec", lambda *_: 0),
    ]


Waits = list[tuple[float, str]]
LONG_S = 0.1


def play(count: int, seed: int, folder: Path, log: Path) -> tuple[list[str], Waits]:
    """Do so many random actions; what was logged, each with the actions before it, and how long the window took."""
    application = make_application(Appearance.LIMESTONE)
    unforeseen, told = Unforeseen(log), list[str]()
    session = Session(sample_workspace(folder / "monkey.cellar"))
    window = MainWindow(session, QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat))
    random = Random(seed)
    monkey = Monkey(window, random, folder)
    unforeseen.happened.connect(lambda _sentence, details: told.append(f"{list(monkey.done)[-4:]}\n{details}"))
    unforeseen.install()
    window.show()
    window.stack.make_when_idle()
    try:
        with ExitStack() as answered:
            for owner, name, answer in _answers(monkey, random, str(folder / "written")):
                answered.enter_context(mock.patch.object(owner, name, side_effect=answer))
            for _ in range(count):
                monkey.act()
        QTest.qWait(300)
        assert sum(monkey.counts.values()) == count
        # What was made is still there, and whole.
        name = session.complete.design.name if session.sentence is None else ""
        for widget in QApplication.topLevelWidgets():
            if widget is not window:
                widget.hide()
        window.close()
        window.close()
        with Workspace.open(folder / "monkey.cellar") as again:
            assert not again.read().broken
            assert not name or name in {str(d.name) for held in again.read().documents.values() for d in held.values()}  # type: ignore[attr-defined]
    finally:
        unforeseen.remove()
    window.deleteLater()
    application.processEvents()
    return told, monkey.waits


if __name__ == "__main__":
    arguments = [int(argument) for argument in sys.argv[1:]]
    count, seed = (*arguments, 300, 1)[:2] if len(arguments) < 2 else arguments[:2]
    with tempfile.TemporaryDirectory() as scratch:
        found, waits = play(count, seed, Path(scratch), Path(scratch) / "monkey.log")
    for each in found:
        print(each)
    over = sorted((each for each in waits if each[0] > LONG_S), reverse=True)
    print(f"{len(over)} of {len(waits)} took over {1e3 * LONG_S:.0f} ms, the longest:")
    for took, what in over[:20]:
        print(f"  {1e3 * took:.0f} ms {what}")
    print(f"{count} actions, {len(found)} exceptions logged")
    sys.exit(bool(found))
