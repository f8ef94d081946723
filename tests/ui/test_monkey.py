"""Some of the actions that ``script/monkey`` does by the thousand."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QApplication

from tests.monkey import play


def test_random_hands_end_with_no_logged_exception(qapp: QApplication, tmp_path: Path) -> None:
    log = tmp_path / "monkey.log"
    told, waits = play(40, 20, tmp_path, log)
    assert told == []
    assert waits
    assert log.read_text() == ""
