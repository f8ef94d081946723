"""Jobs beside the window: what is known of an equal question is brought again, and only that."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from wise_cellar.core.documents import DocumentError
from wise_cellar.ui.state.work import MOST_KNOWN, Worker


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
    for of in (*range(MOST_KNOWN), 0, MOST_KNOWN):
        asker.ask(of)
    asker.computed.clear()
    asker.ask(0)
    assert asker.computed == [], "it was asked again meanwhile"
    asker.ask(1)
    assert asker.computed == [1]
