"""A cell meter and a scale, over a tray of cells."""

from __future__ import annotations

from abc import abstractmethod

import numpy as np

from wise_cellar.core.documents import CellType
from wise_cellar.instruments.stand_ins.stand_in import StandIn

OFF_S, ON_S = 1.5, 4.0
"""For so long a probe is off, and then on the next cell."""
METER_NOISE_V, METER_STEP_V = 0.0004, 0.001
SCALE_NOISE_G, SCALE_STEP_G, SCALE_TAU_S, SCALE_SWING_G = 0.006, 0.01, 0.35, 3.0


class Turns:
    """Which of some cells is on: one after the other by time, or ``by_hand``, the next when a reading was taken."""

    def __init__(self, count: int, *, by_hand: bool) -> None:
        self._count, self._by_hand = count, by_hand
        self._turn, self._begun_s, self._asked = 0, 0.0, False

    def taken(self) -> None:
        """The reading of the present one was written down."""
        self._asked = True

    def at(self, now_s: float) -> tuple[int | None, float]:
        """The cell that is on, none while a hand moves; and for how long so, s."""
        into = now_s - self._begun_s
        if into >= OFF_S and (self._asked if self._by_hand else into >= OFF_S + ON_S):
            self._turn, self._begun_s, self._asked = self._turn + 1, now_s, False
            into = 0.0
        there = into >= OFF_S and self._turn < self._count
        return (self._turn, into - OFF_S) if there else (None, into)


class OneByOne(StandIn):
    """Measures one cell of a tray after the other, five times a second."""

    profile = "pairs"
    every_s = 0.2

    def __init__(self, seed: int, count: int, *, by_hand: bool) -> None:
        self._random = np.random.default_rng(seed)
        self._turns = Turns(count, by_hand=by_hand)
        self._next_s = 0.0

    def taken(self) -> None:
        """The next cell."""
        self._turns.taken()

    def lines(self, now_s: float) -> list[str]:
        """One every fifth of a second."""
        found = []
        while self._next_s <= now_s:
            found.append(self.line(*self._turns.at(self._next_s)))
            self._next_s += self.every_s
        return found

    @abstractmethod
    def line(self, at: int | None, since_s: float) -> str:
        """What it sends with a cell on it, or none, for so long."""


class CellMeter(OneByOne):
    """A meter that is put on one cell of a tray after the other: volts and resistance, several a second."""

    def __init__(self, cell_type: CellType, seed: int, count: int = 10, *, by_hand: bool = False) -> None:
        super().__init__(seed, count, by_hand=by_hand)
        self.volts = 3.51 + 0.004 * self._random.standard_normal(count)
        self.mohm = cell_type.resistance_mohm * (1 + 0.03 * self._random.standard_normal(count))

    def line(self, at: int | None, since_s: float) -> str:
        """Volts, and the resistance of what is on."""
        noise = METER_NOISE_V * self._random.standard_normal()
        volts = noise if at is None else self.volts[at] + noise
        shown = round(float(volts) / METER_STEP_V) * METER_STEP_V
        mohm = "" if at is None else f" R={self.mohm[at] * (1 + 0.002 * self._random.standard_normal()):.2f}"
        return f"V={shown:.3f}{mohm}"

    def truths(self) -> list[str]:
        """Volts and resistance of every cell."""
        return [
            f"cell {number}: {volts:.4f} V, {mohm:.2f} mOhm"
            for number, (volts, mohm) in enumerate(zip(self.volts, self.mohm, strict=True), 1)
        ]


class Scale(OneByOne):
    """A scale on which one cell after the other is laid: it swings, and settles."""

    def __init__(self, cell_type: CellType, seed: int, count: int = 10, *, by_hand: bool = False) -> None:
        super().__init__(seed, count, by_hand=by_hand)
        self.grams = cell_type.mass_g * (1 + 0.002 * self._random.standard_normal(count))

    def line(self, at: int | None, since_s: float) -> str:
        """Grams, that swing for a while."""
        grams = 0.0 if at is None else self.grams[at]
        swing = SCALE_SWING_G * np.exp(-since_s / SCALE_TAU_S) * np.cos(9.0 * since_s)
        shown = grams + swing + SCALE_NOISE_G * self._random.standard_normal()
        return f"M={round(float(shown) / SCALE_STEP_G) * SCALE_STEP_G:.2f}"

    def truths(self) -> list[str]:
        """Mass of every cell."""
        return [f"cell {number}: {grams:.3f} g" for number, grams in enumerate(self.grams, 1)]
