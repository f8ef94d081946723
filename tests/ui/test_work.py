"""Beside the window: of jobs the newest is brought, and what is known is not computed again; of streams every piece."""

from __future__ import annotations

import time
from collections.abc import Callable, Generator, Iterator
from threading import Event

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.flight import ask
from wise_cellar.ui.state.giving_way import window_first
from wise_cellar.ui.state.memory import MOST_KEPT
from wise_cellar.ui.state.stream import Stream
from wise_cellar.ui.state.work import Worker


class Asker:
    """Asks a worker, waits, and counts what was computed."""

    def __init__(self, qtbot: QtBot) -> None:
        self.worker, self.came, self.refused, self.computed = Worker(), list[object](), list[object](), list[object]()
        self.worker.finished.connect(self.came.append)
        self.worker.failed.connect(self.refused.append)
        self._qtbot = qtbot

    def ask(self, of: object, job: Callable[[], object] | None = None) -> None:
        def usual() -> object:
            self.computed.append(of)
            return f"of {of}"

        self.worker.run(job or usual, of=of)
        self._qtbot.waitUntil(lambda: not self.worker.busy, timeout=5000)


@pytest.fixture
def asker(qapp: QApplication, qtbot: QtBot) -> Iterator[Asker]:
    one = Asker(qtbot)
    yield one
    one.worker.close()


def test_an_equal_question_is_not_computed_again(asker: Asker) -> None:
    for of in ((1, "a"), (2, "a"), (1, "a")):
        asker.ask(of)
    assert asker.computed == [(1, "a"), (2, "a")]
    assert asker.came == ["of (1, 'a')", "of (2, 'a')", "of (1, 'a')"]
    asker.worker.close()
    asker.ask((2, "a"))
    assert len(asker.computed) == 2, "also after its thread was closed"


def test_a_job_waits_while_the_window_does_what_it_was_asked_for(
    asker: Asker, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wise_cellar.ui.state.giving_way.LONGEST_S", 60.0)
    steps: list[float] = []

    def job() -> None:
        while True:
            ask()
            time.sleep(0.001)
            steps.append(time.monotonic())

    asker.worker.run(job)
    qtbot.waitUntil(lambda: bool(steps), timeout=5000)
    window_first()
    time.sleep(0.05)  # it ends the step that it is in
    made = len(steps)
    time.sleep(0.1)
    assert len(steps) == made
    qtbot.waitUntil(lambda: len(steps) > made, timeout=5000)
    window_first()
    asker.worker.close()
    assert not asker.worker.busy, "who closes it does not wait for what waits"


def test_what_says_nothing_of_its_question_is_computed_every_time(asker: Asker) -> None:
    for _ in range(2):
        asker.ask(None)
    assert asker.computed == [None, None]


def test_a_refusal_is_not_remembered(asker: Asker) -> None:
    def refuse() -> object:
        raise DocumentError("not now")

    asker.ask("a", refuse)
    assert str(asker.refused[0]) == "not now"
    asker.ask("a")
    assert asker.came == ["of a"]


def test_the_question_asked_longest_ago_is_forgotten_first(asker: Asker) -> None:
    for of in (*range(MOST_KEPT), 0, MOST_KEPT):
        asker.ask(of)
    asker.computed.clear()
    asker.ask(0)
    assert asker.computed == [], "it was asked again meanwhile"
    asker.ask(1)
    assert asker.computed == [1]


@pytest.fixture
def stream(qapp: QApplication) -> Iterator[Stream]:
    one = Stream()
    yield one
    one.close()


def test_a_stream_brings_every_piece_in_order_and_says_when_all_came(stream: Stream, qtbot: QtBot) -> None:
    came = list[object]()
    stream.came.connect(came.append)
    with qtbot.waitSignal(stream.ended, timeout=5000):
        stream.run(lambda: (place or None for place in range(1000)))
        assert stream.busy
    assert came == [None, *range(1, 1000)], "a piece may be nothing, too"
    assert not stream.busy


def test_a_stream_that_fails_keeps_what_came_and_says_why(stream: Stream, qtbot: QtBot) -> None:
    came = list[object]()
    stream.came.connect(came.append)

    def pieces() -> Generator[int]:
        yield 1
        raise DocumentError("the meter was unplugged")

    with qtbot.waitSignal(stream.failed, timeout=5000) as told:
        stream.run(pieces)
    assert (came, str(told.args[0]), stream.busy) == ([1], "the meter was unplugged", False)


def test_the_next_stream_ends_the_one_before_and_closes_its_source(stream: Stream, qtbot: QtBot) -> None:
    came, closed, going = list[object](), Event(), Event()
    stream.came.connect(came.append)

    def endless() -> Generator[str]:
        try:
            while True:
                going.set()
                yield "old"
        finally:
            closed.set()

    stream.run(endless)
    assert going.wait(5)
    with qtbot.waitSignal(stream.ended, timeout=5000):
        stream.run(lambda: (piece for piece in ("new", "newer")))
    assert closed.is_set(), "a source is told to let go of what it holds"
    assert came[-2:] == ["new", "newer"]
    assert "old" not in came, "the window had not yet heard of the old one when the next was asked for"


def test_a_stopped_stream_brings_nothing_more(stream: Stream, qtbot: QtBot) -> None:
    came, ended = list[object](), list[bool]()
    stream.came.connect(came.append)
    stream.ended.connect(lambda: ended.append(True))
    stream.run(lambda: (place for place in range(3)))
    stream.stop()
    assert not stream.busy
    stream.run(lambda: (piece for piece in ("after",)))
    qtbot.waitUntil(lambda: not stream.busy, timeout=5000)
    assert (came, ended) == (["after"], [True])
