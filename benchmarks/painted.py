"""What a user feels: from a key to the painted window at every station, first showings, colours, a held key.

Run by ``script/benchmark``; alone with ``python -m benchmarks.painted``. Everything is measured in one process on an
offscreen screen, next to the answer alone, so that ratios hold whatever the pace of the machine.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6 import sip
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from wise_cellar.core.answer import answer
from wise_cellar.core.documents import Document
from wise_cellar.demo import EXTENDED_DESIGN_ID, sample_workspace
from wise_cellar.ui.application import make_application
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.memory import Memory
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Appearance
from wise_cellar.ui.widgets.popover import Popover
from wise_cellar.ui.widgets.search_line import SearchLine

STEPS = 24
"""Steps of the recipe line at every station, up and down in turn."""
PARALLEL = "design.packs.0.recipe.parallel_count"
REPEAT_S = 1 / 30
HELD = 90
"""Repeats of the held key."""
OF_EXTENDED = ("Extend",)
"""Stations that are stepped with a design of two packs."""

Say = Callable[[str, str, str], None]
"""Prints a row: what, what was seen, what is wanted."""


@contextmanager
def window_on_samples() -> Iterator[MainWindow]:
    """A window on a fresh sample workspace, shown and painted."""
    application = make_application(Appearance.LIMESTONE)
    with tempfile.TemporaryDirectory() as folder:
        settings = QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Session(sample_workspace(Path(folder) / "painted.cellar")), settings)
        window.resize(1280, 800)
        window.show()
        window.activateWindow()
        window.session.flown = Memory(most=0)  # every step is flown, as if it had never been
        settled(window)
        yield window
        window.close()
        sip.delete(window)
    application.quit()


def made_ahead(window: MainWindow) -> float:
    """Wait until every station is made ahead, as in a window that is looked at for some seconds; the longest that the
    window did not answer meanwhile, s."""
    window.stack.make_when_idle()
    longest = 0.0
    while not window.stack.all_made:
        began = time.perf_counter()
        QApplication.processEvents()
        longest = max(longest, time.perf_counter() - began)
        time.sleep(0.002)
    settled(window)
    return longest


def settled(window: MainWindow) -> None:
    """Wait until nothing is computed beside the window and everything is painted."""
    waiting = True
    while waiting:
        QApplication.processEvents()
        time.sleep(0.002)
        waiting = not window.session.settled or not all(station.settled for station in window.stack.made)
    QApplication.processEvents()


def seconds_of(act: Callable[..., object], *arguments: object) -> float:
    """Seconds of a call and of all that it leaves to lay out and to paint; what begins after that does not count."""
    began = time.perf_counter()
    act(*arguments)
    QApplication.sendPostedEvents()
    return time.perf_counter() - began


def median_ms(seconds: list[float]) -> float:
    """Median, in milliseconds."""
    return 1e3 * statistics.median(seconds)


def steps_at(window: MainWindow, place: int) -> tuple[float, float]:
    """Milliseconds of the answer alone and from a step to the painted window, taken in turn at a station."""
    window.session.open_design(
        EXTENDED_DESIGN_ID if window.stations[place].title in OF_EXTENDED else "whimbrel-transect"
    )
    window.show_station(place)
    settled(window)
    alone, painted = [], []
    for turn in range(STEPS):
        painted.append(seconds_of(window.recipe.step, PARALLEL, 1 if turn % 2 == 0 else -1))
        settled(window)
        complete = window.session.complete
        began = time.perf_counter()
        answer(complete)
        alone.append(time.perf_counter() - began)
    return median_ms(alone), median_ms(painted)


def painted_windows(say: Say) -> None:
    """Say every figure."""
    with window_on_samples() as window:
        say(
            "stations made ahead while nothing is done: the longest piece",
            f"{1e3 * made_ahead(window):.0f} ms",
            "< 100 ms",
        )
        for place, station in enumerate(window.stack.doorways):
            if window.stack.currentIndex() != place:
                first = seconds_of(window.show_station, place)
                say(f"first showing of {station.title}", f"{1e3 * first:.0f} ms", "< 150 ms")
            settled(window)
        for place, station in enumerate(window.stack.doorways):
            alone, painted = steps_at(window, place)
            say(
                f"key to painted window at {station.title}",
                f"{painted:.0f} ms, {painted / alone:.1f} times the answer alone ({alone:.0f} ms)", "≤ 2 times",
            )  # fmt: skip
        window.session.open_design("whimbrel-transect")
        window.go_to_page("Flight", "Mission")
        settled(window)
        switches = []
        for appearance in (Appearance.LAMPLIGHT, Appearance.LIMESTONE) * 3:
            switches.append(seconds_of(window.looks.show_appearance, appearance))
            settled(window)
        say("colours switched, every station made", f"{median_ms(switches):.0f} ms", "< 300 ms")
        finding = []
        for turn in range(6):
            window.recipe.step(PARALLEL, 1 if turn % 2 == 0 else -1)
            settled(window)
            finding.append(seconds_of(window.open_finder))
            window.finder.close()
        say("Find opened, after an edit", f"{median_ms(finding):.0f} ms", "< 100 ms")
        held_key(window, say)
        long_lists(window, say)


def held_key(window: MainWindow, say: Say) -> None:
    """``]`` and then ``[`` repeating 30 times a second; what has come meanwhile is delivered together, as a screen
    server does."""
    keys = [Qt.Key.Key_BracketRight] * 15 + [Qt.Key.Key_BracketLeft] * 15
    window.activateWindow()
    window.stack.setFocus()
    settled(window)
    answered = [time.perf_counter()]
    window.session.changed.connect(lambda: answered.append(time.perf_counter()))
    began, sent = answered[0], 0
    while sent < HELD:
        due = min(int((time.perf_counter() - began) / REPEAT_S) + 1, HELD)
        while sent < due:
            QTest.keyClick(window, keys[sent % len(keys)], Qt.KeyboardModifier.NoModifier)  # type: ignore[call-overload]
            sent += 1
        QApplication.processEvents()
    QApplication.processEvents()
    behind = time.perf_counter() - began - (HELD - 1) * REPEAT_S
    waits = [after - before for before, after in pairwise(answered)]
    say(
        "held key, 30 a second",
        f"{len(waits) / (answered[-1] - began):.0f} answers a second, the longest after {1e3 * max(waits):.0f} ms;"
        f" at rest {1e3 * behind:.0f} ms after the last repeat", "no delay",
    )  # fmt: skip


def long_lists(window: MainWindow, say: Say) -> None:
    """What hangs on how much there is, with 300 cells, 60 designs and 40 missions more."""
    session = window.session
    cell, design, mission = session.complete.pack.cell, session.complete.design, session.complete.mission
    fresh: list[Document] = [cell.changed(id=f"cell-{n}", name=f"Plover 21-{n:03}") for n in range(300)]
    fresh += [mission.changed(id=f"mission-{n}", name=f"Leg {n}") for n in range(40)]
    fresh += [design.changed(id=f"design-{n}", name=f"Plover {n}", mission_id=f"mission-{n % 40}") for n in range(60)]
    session.commit("Many", fresh)
    settled(window)
    opened, typed = seconds_of(window.open_finder), []
    for letter in "plover 217":
        typed.append(seconds_of(QTest.keyClicks, window.finder.line, letter))
    window.finder.close()
    say("300 cells, 60 designs, 40 missions: Find opened", f"{1e3 * opened:.0f} ms", "< 100 ms")
    say("the same: a key in Find", f"{median_ms(typed):.0f} ms, at most {1e3 * max(typed):.0f}", "< 50 ms")
    opened = seconds_of(window.recipe.open_token, "design.packs.0.cell_type_id")
    chooser = next(one for one in QApplication.topLevelWidgets() if isinstance(one, Popover) and one.isVisible())
    line = chooser.findChild(SearchLine)
    typed = [seconds_of(QTest.keyClicks, line, letter) for letter in "plover 217"]
    chooser.close()
    say("the same: cells of the recipe opened", f"{1e3 * opened:.0f} ms", "< 100 ms")
    say("the same: a key in them", f"{median_ms(typed):.0f} ms, at most {1e3 * max(typed):.0f}", "< 50 ms")
    cellar = seconds_of(window.show_station, 0)
    shelves = window.stations[0].shelves  # type: ignore[attr-defined]
    settled(window)
    typed = [seconds_of(QTest.keyClicks, shelves.search, letter) for letter in "plover 7"]
    shelves.search.clear()
    say("the same: the Cellar shown", f"{1e3 * cellar:.0f} ms", "< 150 ms")
    say("the same: a key in its search", f"{median_ms(typed):.0f} ms, at most {1e3 * max(typed):.0f}", "< 50 ms")


if __name__ == "__main__":
    painted_windows(lambda what, seen, wanted: print(f"| {what} | {seen} | {wanted} |"))
