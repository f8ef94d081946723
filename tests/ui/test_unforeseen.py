"""What nobody foresaw is logged, told with its details, and the window goes on; so do failures beside the window."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.builders import complete
from tests.ui.conftest import answers
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.flight import fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.unforeseen import Unforeseen


@pytest.fixture
def log(tmp_path: Path) -> Path:
    return tmp_path / "state" / "wise-cellar.log"


@pytest.fixture
def unforeseen(qapp: QApplication, log: Path) -> Iterator[Unforeseen]:
    taker = Unforeseen(log)
    taker.install()
    yield taker
    taker.remove()


def fail() -> None:
    raise KeyError("lost")


def wait_for(qtbot: QtBot, told: list[tuple[str, str]], count: int = 1) -> None:
    qtbot.waitUntil(lambda: len(told) >= count, timeout=5000)


def test_an_exception_in_the_loop_is_logged_and_told_and_the_window_goes_on(
    window: MainWindow, qtbot: QtBot, unforeseen: Unforeseen, log: Path
) -> None:
    told: list[tuple[str, str]] = []
    unforeseen.happened.connect(lambda sentence, details: told.append((sentence, details)))
    unforeseen.happened.connect(window.tidings.unforeseen)
    before = answers(window)
    QTimer.singleShot(0, fail)
    wait_for(qtbot, told)
    assert "KeyError: 'lost'" in told[0][0]
    assert "nobody foresaw" in window.notice.label.text()
    assert window.notice.button.text() == "Copy details"
    window.notice.button.click()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    assert "in fail" in clipboard.text()
    assert "in fail" in log.read_text()
    assert answers(window) == before
    window.session.edit("design.packs.0.recipe.parallel_count", 2)
    assert answers(window) != before, "the window goes on"


def test_the_same_fault_at_every_frame_is_told_once(qtbot: QtBot, unforeseen: Unforeseen, log: Path) -> None:
    told: list[tuple[str, str]] = []
    unforeseen.happened.connect(lambda sentence, details: told.append((sentence, details)))
    for _ in range(5):
        QTimer.singleShot(0, fail)
    wait_for(qtbot, told)
    qtbot.wait(50)
    assert len(told) == 1
    assert log.read_text().count("Traceback") == 1


def test_a_thread_is_heard_too(qtbot: QtBot, unforeseen: Unforeseen) -> None:
    told: list[tuple[str, str]] = []
    unforeseen.happened.connect(lambda sentence, details: told.append((sentence, details)))
    thread = threading.Thread(target=fail)
    thread.start()
    thread.join()
    wait_for(qtbot, told)


def test_the_log_rotates_at_a_megabyte(qtbot: QtBot, unforeseen: Unforeseen, log: Path) -> None:
    for number in range(30):
        try:
            raise ValueError("x" * 50_000 + str(number))
        except ValueError:
            unforeseen.take(*sys.exc_info())  # type: ignore[arg-type]
    assert log.stat().st_size <= 1_100_000
    assert log.with_suffix(".log.1").exists()


def test_where_no_log_can_be_written_it_still_tells(
    qtbot: QtBot, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "file").write_text("")
    taker = Unforeseen(tmp_path / "file" / "log")
    told: list[str] = []
    taker.happened.connect(lambda sentence, _details: told.append(sentence))
    taker.install()
    try:
        QTimer.singleShot(0, fail)
        qtbot.waitUntil(lambda: bool(told), timeout=5000)
    finally:
        taker.remove()


def test_a_failure_beside_the_window_is_a_refusal_and_is_logged(
    qtbot: QtBot, unforeseen: Unforeseen, log: Path
) -> None:
    worker = Worker()
    refused: list[Exception] = []
    worker.failed.connect(refused.append)
    worker.run(fail)
    qtbot.waitUntil(lambda: bool(refused), timeout=5000)
    assert isinstance(refused[0], DocumentError)
    assert "nobody foresaw (KeyError" in str(refused[0])
    assert "KeyError" in log.read_text()

    def refuse() -> None:
        raise DocumentError("This cannot be.")

    worker.run(refuse)
    qtbot.waitUntil(lambda: len(refused) == 2, timeout=5000)
    assert str(refused[1]) == "This cannot be."
    assert "This cannot be" not in log.read_text(), "a refusal is no fault"
    worker.close()


def test_a_worker_may_be_deleted_at_the_moment_its_thread_has_done(qtbot: QtBot) -> None:
    """The process died here now and then: a signal was sent from an object that was being deleted."""
    for number in range(150):
        worker = Worker()
        worker.run(lambda pause=number % 4: time.sleep(pause / 2000))
        if number % 2:
            QApplication.processEvents()
        sip.delete(worker)
    QApplication.processEvents()


def test_a_fault_while_importing_names_the_file_and_reads_the_others(
    window: MainWindow, qtbot: QtBot, unforeseen: Unforeseen, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = "\n".join(f"{10 * n},{4.15 - 0.03 * n:.3f},2.5" for n in range(40))
    paths = []
    for name in ("bad", "good"):
        path = tmp_path / f"{name}.csv"
        path.write_text("time [s],voltage [V],current [A]\n" + rows)
        paths.append(path)
    from wise_cellar.ui.stations.cells import incoming

    real = incoming.read_table

    def sometimes(table, *others):  # type: ignore[no-untyped-def]
        if table.path.stem == "bad":
            raise ZeroDivisionError("by hand")
        return real(table, *others)

    monkeypatch.setattr(incoming, "read_table", sometimes)
    window.show_station(window.stations.index(window.station(CellsStation)))
    dialog = window.station(CellsStation).files.open_import(paths)
    qtbot.waitUntil(lambda: not dialog.busy, timeout=10_000)
    assert "nobody foresaw (ZeroDivisionError" in dialog.files[0].error
    assert dialog.files[1].result is not None
    dialog.reject()


def test_the_flights_of_a_job_that_is_forgotten_end(qtbot: QtBot) -> None:
    begun, ended = threading.Event(), threading.Event()
    batch = lower([lower_one(complete(), 1.0)])

    def fly_on() -> None:
        try:
            while True:
                fly(batch)
                begun.set()
        finally:
            ended.set()

    worker = Worker()
    worker.run(fly_on)
    qtbot.waitUntil(begun.is_set)
    worker.forget()
    qtbot.waitUntil(ended.is_set)
    worker.close()
