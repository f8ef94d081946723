"""Rows of numbers that grow one by one, in memory that grows by doubling."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wise_cellar.core.physics.arrays import Floats

FIRST_ROWS = 1024


class GrowingRows:
    """Rows of ``wide`` numbers: eight bytes a number, at most twice that while they grow."""

    def __init__(self, wide: int) -> None:
        self._body, self._count = np.empty((FIRST_ROWS, wide)), 0

    def __len__(self) -> int:
        return self._count

    def append(self, row: Sequence[float]) -> None:
        """Add one; raises ``ValueError`` where it is of another width."""
        if self._count == len(self._body):
            self._body = np.concatenate([self._body, np.empty_like(self._body)])
        self._body[self._count] = row
        self._count += 1

    def extend(self, rows: Floats) -> None:
        """Add some, (rows, wide)."""
        while self._count + len(rows) > len(self._body):
            self._body = np.concatenate([self._body, np.empty_like(self._body)])
        self._body[self._count : self._count + len(rows)] = rows
        self._count += len(rows)

    @property
    def rows(self) -> Floats:
        """(rows, wide) All of them, without a copy."""
        return self._body[: self._count]
