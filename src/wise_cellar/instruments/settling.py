"""When a reading has settled: a probe was put on, the scale stopped swinging."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

import numpy as np

NEEDED = 4
"""Readings that have to agree."""
LONGEST_S = 6.0
"""Readings older than that say nothing of the present one."""


@dataclass
class Settling:
    """Readings of one quantity. ``within`` is how far they may lie apart, ``least`` under which nothing is there."""

    within: float
    least: float
    _kept: deque[tuple[float, float]] = field(default_factory=lambda: deque(maxlen=NEEDED))
    _given: float | None = None

    @property
    def holds(self) -> bool:
        """Whether what settled last is still there."""
        return self._given is not None

    def add(self, at_s: float, value: float) -> float | None:
        """The settled value, once for every time that it settles; none in between.

        It has to leave by more than ``within``, or come off, before it can settle again.
        """
        if self._kept and (at_s < self._kept[-1][0] or at_s - self._kept[-1][0] > LONGEST_S):
            self._kept.clear()
        if abs(value) < self.least:
            self._kept.clear()
            self._given = None
            return None
        self._kept.append((at_s, value))
        values = np.array([each for _, each in self._kept])
        if self._given is not None and abs(value - self._given) > 3 * self.within:
            self._given = None
        if len(values) < NEEDED or float(np.ptp(values)) > self.within or self._given is not None:
            return None
        self._given = float(np.median(values))
        return self._given
