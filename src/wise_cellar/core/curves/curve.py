"""One logged discharge of one cell."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import counted

LEAST_POINTS = 12
HELD_S, BURST_S, STEADY_S, FEW, REST_SHARE = 60.0, 5.0, 120.0, 0.02, 0.05
"""A current that is sustained is held so long, a burst so long, and one that is constant is looked at over so long;
shares of the charge at both ends that tell nothing; of the sustained current what is rest."""
STEADY_POINTS = 40
"""Of a constant current, over how many samples its mean runs at least."""
MOST_TOGETHER, MOST_NOISE = 0.3, 0.35
"""Of noise: how alike neighbours are at the most (autocorrelation), and how far a sample lies from the mean."""
GLITCH_TIMES = 10.0
"""How many times a switch a single sample must jump to be a fault: as high as the current itself."""
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
            raise DocumentError(
                f"{self.name} has {counted(count, 'point')}; a discharge needs at least {LEAST_POINTS}."
            )
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

    def _held(self, window_s: float) -> tuple[float, float]:
        """Currents below which 2 and 98 % of the charge were drawn, A, of means over ``window_s``."""
        start, end = float(self.time_s[0]), float(self.time_s[-1])
        edges = np.linspace(start, end, max(int((end - start) / window_s), 1) + 1)
        # Where points lie further apart than that, each stretch between two of them is a mean of its own.
        if len(self.time_s) < len(edges):
            edges = np.unique(self.time_s)
        amps = np.diff(np.interp(edges, self.time_s, self.charge_c)) / np.diff(edges)
        order = np.argsort(amps)
        drawn = np.cumsum(np.maximum(amps[order], 0.0) * np.diff(edges)[order])
        low, high = np.searchsorted(drawn, np.array([FEW, 1 - FEW]) * drawn[-1])
        return float(amps[order][low]), float(amps[order][min(high, len(amps) - 1)])

    @cached_property
    def constant(self) -> bool:
        """Whether the current never switches: its means over two minutes are alike, or what they differ by is noise, in
        which one sample knows nothing of the next."""
        low, high = self._held(STEADY_S)
        if high - low <= JUMP_SHARE * high:
            return True
        apart = self.current_a - self.current_a.mean()
        together = float(apart[1:] @ apart[:-1]) / float(apart @ apart)
        return together < MOST_TOGETHER and float(np.abs(apart).max()) <= MOST_NOISE * float(self.current_a.mean())

    @cached_property
    def sustained_a(self) -> float:
        """The current that it rests on, A: the mean of a constant one, else that up to which 98 % of the charge were
        drawn in stretches of a minute, each by its median: a burst in it is none."""
        start, end = float(self.time_s[0]), float(self.time_s[-1])
        if self.constant or end - start < HELD_S:
            return float(self.charge_c[-1] / (end - start))
        a_minute = round(HELD_S / BURST_S)
        count = int((end - start) / HELD_S) * a_minute
        drawn = np.diff(np.interp(np.linspace(start, end, count + 1), self.time_s, self.charge_c))
        amps = np.median(drawn.reshape(-1, a_minute), axis=1) * count / (end - start)
        order = np.argsort(amps)
        charge = np.cumsum(np.maximum(drawn.reshape(-1, a_minute).sum(axis=1)[order], 0.0))
        return float(amps[order][np.searchsorted(charge, (1 - FEW) * charge[-1])])

    @cached_property
    def burst_a(self) -> float:
        """The greatest mean over five seconds, A, and no less than what was sustained."""
        begins = self.time_s[self.time_s <= self.time_s[-1] - BURST_S]
        if self.constant or not len(begins):
            return self.sustained_a
        drawn = (np.interp(at, self.time_s, self.charge_c) for at in (begins + BURST_S, begins))
        return max(float(np.subtract(*drawn).max()) / BURST_S, self.sustained_a)

    @property
    def clean(self) -> DischargeCurve:
        """The same without single samples of current that neither neighbour shares: faults of a sensor or a radio."""
        before, here, after = self.current_a[:-2], self.current_a[1:-1], self.current_a[2:]
        usual = JUMP_SHARE * float(np.median(np.abs(self.current_a)))
        alone = (np.abs(before - after) <= usual) & (np.abs(here - before) > GLITCH_TIMES * usual)
        if not alone.any():
            return self
        amps = self.current_a.copy()
        amps[1:-1][alone] = 0.5 * (before + after)[alone]
        return DischargeCurve(self.name, self.time_s, self.voltage_v, amps, self.temperature_k)

    @property
    def steadied(self) -> DischargeCurve:
        """Of a constant current its running mean, so that its noise is not taken for a load that volts do not answer;
        any other as it is."""
        if not self.constant:
            return self
        half_s = max(STEADY_S, STEADY_POINTS * float(np.median(np.diff(self.time_s)))) / 2
        start, end = self.time_s[0], self.time_s[-1]
        before, after = np.clip(self.time_s - half_s, start, end), np.clip(self.time_s + half_s, start, end)
        low, high = (np.interp(edge, self.time_s, self.charge_c) for edge in (before, after))
        return DischargeCurve(
            self.name, self.time_s, self.voltage_v, (high - low) / (after - before), self.temperature_k
        )

    @property
    def running(self) -> DischargeCurve:
        """The same without rest before and after it."""
        flows = np.flatnonzero(np.abs(self.current_a) > REST_SHARE * self.sustained_a)
        first, last = int(flows[0]), int(flows[-1]) + 1
        if last - first < LEAST_POINTS or last - first == len(self.time_s):
            return self
        part = slice(first, last)
        return DischargeCurve(
            self.name, self.time_s[part], self.voltage_v[part], self.current_a[part], self.temperature_k[part]
        )

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
