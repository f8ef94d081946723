"""The kinds of stand-ins: a cell meter, a scale, an electronic load."""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Sequence

import numpy as np

from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.words import quoted
from wise_cellar.instruments.stand_ins.cell import SimulatedCell

OFF_S, ON_S = 1.5, 4.0
"""For so long a probe is off, and then on the next cell."""
METER_NOISE_V, METER_STEP_V = 0.0004, 0.001
SCALE_NOISE_G, SCALE_STEP_G, SCALE_TAU_S, SCALE_SWING_G = 0.006, 0.01, 0.35, 3.0
CABLE_OHM = 0.006
"""Of a load's two wires: it reads volts at its own terminals."""
LOAD_NOISE_V, LOAD_NOISE_A = 0.0006, 0.002
LOAD_LEAST_V = 2.0
"""Under which the load switches itself off."""
WORST_A = 40.0


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


class StandIn(ABC):
    """A simulated device. Its clock is its own: seconds that it has lived."""

    profile: str
    """Name of the shipped profile that it talks by."""

    @abstractmethod
    def lines(self, now_s: float) -> Sequence[str]:
        """What it sends of itself until then."""

    def order(self, text: str, now_s: float) -> str | None:
        """Its answer to a line that it is sent; none where it does not answer."""
        return None

    def taken(self) -> None:
        """A reading of its was written down: whoever holds the probe moves on."""
        return

    @abstractmethod
    def truths(self) -> list[str]:
        """What is really so, a line each."""


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


class Load(StandIn):
    """An electronic load on one simulated cell; it is asked and told by the standard commands (SCPI-99)."""

    profile = "scpi-load"

    def __init__(self, cell_type: CellType, seed: int) -> None:
        self._random = np.random.default_rng(seed)
        self._capacity = 0.985 + 0.01 * float(self._random.standard_normal())
        self._resistance = 1.0 + 0.05 * float(self._random.standard_normal())
        self.cell = SimulatedCell(cell_type, capacity=self._capacity, resistance=self._resistance)
        self.on, self.amps = False, 0.0
        self._lived_s = 0.0

    def lines(self, now_s: float) -> list[str]:
        """It says nothing of itself."""
        self._live(now_s)
        return []

    def _live(self, now_s: float) -> None:
        amps = self.amps if self.on else 0.0
        if now_s > self._lived_s:
            self.cell.run(now_s - self._lived_s, amps)
            self._lived_s = now_s
        if self.on and self._terminal_v() < LOAD_LEAST_V:
            self.on = False

    def _terminal_v(self) -> float:
        amps = self.amps if self.on else 0.0
        return self.cell.volts(amps) - amps * CABLE_OHM

    def order(self, text: str, now_s: float) -> str | None:
        """Measure, switch, set; anything else is an undefined header."""
        self._live(now_s)
        word, _, argument = text.strip().partition(" ")
        short = re.sub(r"(?<=[A-Z]{4})[A-Z]+|:DC(?=\?)", "", word.upper())
        if short == "*IDN?":
            return "STAND-IN,LOAD,0,1"
        if short == "MEAS:VOLT?":
            return f"{self._terminal_v() + LOAD_NOISE_V * self._random.standard_normal():.4f}"
        if short == "MEAS:CURR?":
            amps = self.amps if self.on else 0.0
            return f"{amps + LOAD_NOISE_A * self._random.standard_normal():.4f}"
        if short in ("INP", "INPU"):
            if argument.strip().upper() not in ("ON", "OFF", "1", "0"):
                return '-224,"Illegal parameter value"'
            self.on = argument.strip().upper() in ("ON", "1")
            return None
        if short == "CURR":
            try:
                wanted = float(argument)
            except ValueError:
                return '-224,"Illegal parameter value"'
            if not 0 <= wanted <= WORST_A:
                return '-222,"Data out of range"'
            self.amps = wanted
            return None
        return '-113,"Undefined header"'

    def truths(self) -> list[str]:
        """What the cell really holds and resists."""
        return [
            f"capacity {self.cell.capacity_mah:.0f} mAh, {100 * self._capacity:.2f} % of its type's",
            f"resistance {100 * self._resistance:.1f} % of its type's, R0 {self.cell.r0_mohm:.2f} mOhm",
            f"cable {1e3 * CABLE_OHM:.1f} mOhm",
            f"given {self.cell.given_mah:.0f} mAh, {100 * self.cell.charge:.1f} % left",
            f"{self.cell.celsius:.1f} degrees",
        ]


KINDS = ("meter", "scale", "load")


def made(kind: str, cell_type: CellType, seed: int, *, by_hand: bool = False) -> StandIn:
    """A stand-in of a kind on cells of a type; ``by_hand``: the next cell comes when a reading was taken.

    Raises :class:`DocumentError` where there is no such kind.
    """
    if kind == "meter":
        return CellMeter(cell_type, seed, by_hand=by_hand)
    if kind == "scale":
        return Scale(cell_type, seed, by_hand=by_hand)
    if kind == "load":
        return Load(cell_type, seed)
    raise DocumentError(f"{quoted(kind)} is no kind of stand-in: one of {', '.join(KINDS)}.")
