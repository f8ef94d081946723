"""A held key: as many answers as there are painted windows, the newest value wins, nothing is left over."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.ui.conftest import press
from wise_cellar.ui.shell.window import MainWindow

PARALLEL = "design.packs.0.recipe.parallel_count"


class Painted(QObject):
    """What a widget says each time that it is painted."""

    def __init__(self, widget: QObject) -> None:
        super().__init__()
        self.seen: list[str] = []
        self._widget = widget
        widget.installEventFilter(self)

    def eventFilter(self, _widget: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() is QEvent.Type.Paint:
            self.seen.append(self._widget.accessibleDescription())  # type: ignore[attr-defined]
        return False


def test_keys_that_come_faster_than_answers_are_added_up(qtbot: QtBot, window: MainWindow) -> None:
    before, answered = int(window.session.value(PARALLEL)), list[int]()
    window.session.changed.connect(lambda: answered.append(int(window.session.value(PARALLEL))))
    for _ in range(6):
        qtbot.keyClick(window, "]")
    assert answered == [before + 1], "the first is answered at once"
    QApplication.processEvents()
    assert answered == [before + 1, before + 6], "and all others together, once that is painted"


def test_each_painted_window_is_a_true_answer(qtbot: QtBot, window: MainWindow) -> None:
    minutes = Painted(window.band.buttons[0])
    true = list[str]()
    window.session.changed.connect(lambda: true.append(window.band.buttons[0].accessibleDescription()))
    for _ in range(4):
        qtbot.keyClick(window, "]")
    QApplication.processEvents()
    QApplication.processEvents()
    assert [words for place, words in enumerate(minutes.seen) if words not in minutes.seen[:place]] == true


def test_there_and_back_while_one_waits_is_no_edit(qtbot: QtBot, window: MainWindow) -> None:
    before = int(window.session.value(PARALLEL))
    for key in ("]", "]", "["):
        qtbot.keyClick(window, key)
    QApplication.processEvents()
    assert window.session.value(PARALLEL) == before + 1
    window.commands.run("Undo")()
    assert window.session.value(PARALLEL) == before, "one edit was made"


def test_what_waits_is_taken_before_anything_else_is_done(qtbot: QtBot, window: MainWindow) -> None:
    before = int(window.session.value(PARALLEL))
    for _ in range(4):
        qtbot.keyClick(window, "]")
    qtbot.keyClick(window, "}")
    qtbot.keyClick(window, "Z", Qt.KeyboardModifier.ControlModifier)
    QApplication.processEvents()
    assert window.session.value(PARALLEL) == before + 4, "and Undo took back the series cell only"
    assert window.session.value("design.packs.0.recipe.series_count") == 4


def test_a_burst_goes_as_far_as_it_can(qtbot: QtBot, window: MainWindow) -> None:
    for _ in range(9):
        qtbot.keyClick(window, "[")
    QApplication.processEvents()
    assert window.session.value(PARALLEL) == 1
    QApplication.processEvents()
    press(qtbot, window, "[")
    assert "1 is the fewest" in window.notice.label.text()


def test_an_arrow_held_on_a_token_steps_as_far_as_single_keys(qtbot: QtBot, window: MainWindow) -> None:
    token = window.recipe.tokens["design.packs.0.recipe.strip"]
    for _ in range(3):
        press(qtbot, token, Qt.Key.Key_Down)
    one_by_one = window.session.value("design.packs.0.recipe.strip")
    for _ in range(3):
        window.session.undo()
    for _ in range(3):
        qtbot.keyClick(token, Qt.Key.Key_Down)
    QApplication.processEvents()
    assert window.session.value("design.packs.0.recipe.strip") == one_by_one
