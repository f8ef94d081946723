"""A disk that can be full: a page limit makes SQLite report exactly what a full disk does."""

from __future__ import annotations

import sqlite3
from contextlib import suppress
from typing import Any

import pytest


class SmallDisk:
    """Has every workspace that is opened from now on; ``fill`` leaves room for so many pages more."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.connections: list[sqlite3.Connection] = []
        self._connect = sqlite3.connect
        monkeypatch.setattr(sqlite3, "connect", self._connected)

    def _connected(self, *given: Any, **named: Any) -> sqlite3.Connection:
        self.connections.append(self._connect(*given, **named))
        return self.connections[-1]

    def fill(self, pages_left: int = 0) -> None:
        for connection in reversed(self.connections):
            # The latest that is open: a backup's was closed once it was kept.
            with suppress(sqlite3.ProgrammingError):
                pages = connection.execute("PRAGMA page_count").fetchone()[0]
                connection.execute(f"PRAGMA max_page_count = {pages + pages_left}")
                return
