"""One logged discharge of one cell."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.physics.arrays import Floats

LEAST_POINTS = 12
JUMP_SHARE = 0.1
"""A change of current by more than this share of the greatest is a switch, not a drift."""


@dataclass(frozen=True)
class DischargeCurve:
    """A log from a full, rested cell: every array of shape ``(points,)``; positive current discharges."""

    name: str
    time_s: Floats
    voltage_v: Floats
    current_a: Floats
    temperature_k: Floats
    """Of the cell's surface; the air's where no cell temperature was logged."""

    def __post_init__(self) -> None:
        """Refuse what no fit can use, with a sentence."""
        count = len(self.time_s)
        if count < LEAST_POINTS:
            raise DocumentError(f"{self.name} has {count} points; a discharge needs at least {LEAST_POINTS}.")
        backwards = np.flatnonzero(np.diff(self.time_s) < 0)
        if backwards.size:
            raise DocumentError(f"{self.name}: time runs backwards at point {int(backwards[0]) + 2}; it must rise.")
        if not 0 < float(self.time_s[-1] - self.time_s[0]) < np.inf:
            raise DocumentError(f"{self.name}: time stands still; it must rise from the first point to the last.")
        if not 0 < float(self.current_a.max()) < np.inf:
            raise DocumentError(f"{self.name} draws no current; discharge must be positive.")

    @property
    def interval_current_a(self) -> Floats:
        """Current between each two points, shape ``(points − 1,)``: held across a switch, averaged elsewhere."""
        before, after = self.current_a[:-1], self.current_a[1:]
        switched = np.abs(after - before) > JUMP_SHARE * float(np.abs(self.current_a).max())
        return np.where(switched, before, 0.5 * (before + after))

    @property
    def charge_c(self) -> Floats:
        """Charge drawn up to each point, coulombs."""
        return np.concatenate([[0.0], np.cumsum(self.interval_current_a * np.diff(self.time_s))])

    @property
    def constant(self) -> bool:
        """Whether the current never switches."""
        return float(np.ptp(self.current_a)) <= JUMP_SHARE * float(np.abs(self.current_a).max())

    def averaged(self, count: int) -> DischargeCurve:
        """``count`` evenly timed points with the mean current around each; the charge drawn stays the same."""
        time = np.linspace(self.time_s[0], self.time_s[-1], count)
        edges = np.concatenate([time[:1], 0.5 * (time[1:] + time[:-1]), time[-1:]])
        drawn = np.interp(edges, self.time_s, self.charge_c)
        return DischargeCurve(
            self.name, time, np.interp(time, self.time_s, self.voltage_v), np.diff(drawn) / np.diff(edges),
            np.interp(time, self.time_s, self.temperature_k),
        )  # fmt: skip

    def thinned(self, most: int) -> DischargeCurve:
        """At most about ``most`` points, every switch of the current kept."""
        if len(self.time_s) <= most:
            return self
        kept = np.zeros(len(self.time_s), bool)
        kept[np.linspace(0, len(kept) - 1, most).round().astype(int)] = True
        switched = np.flatnonzero(np.abs(np.diff(self.current_a)) > JUMP_SHARE * float(np.abs(self.current_a).max()))
        for offset in (-1, 0, 1, 2, 4):
            kept[np.clip(switched + offset, 0, len(kept) - 1)] = True
        return DischargeCurve(
            self.name, self.time_s[kept], self.voltage_v[kept], self.current_a[kept], self.temperature_k[kept]
        )
