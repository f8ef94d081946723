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

    @abstractmethod
    def truths(self) -> list[str]:
        """What is really so, a line each."""


class CellMeter(StandIn):
    """A meter that is put on one cell of a tray after the other: volts and resistance, several a second."""

    profile = "pairs"
    every_s = 0.2

    def __init__(self, cell_type: CellType, seed: int, count: int = 10) -> None:
        self._random = np.random.default_rng(seed)
        self.volts = 3.51 + 0.004 * self._random.standard_normal(count)
        self.mohm = cell_type.resistance_mohm * (1 + 0.03 * self._random.standard_normal(count))
        self._next_s = 0.0

    def _on(self, now_s: float) -> int | None:
        """Which cell the probe is on."""
        turn, into = divmod(now_s, OFF_S + ON_S)
        return int(turn) if into >= OFF_S and turn < len(self.volts) else None

    def lines(self, now_s: float) -> list[str]:
        """One every fifth of a second."""
        found = []
        while self._next_s <= now_s:
            at = self._on(self._next_s)
            noise = METER_NOISE_V * self._random.standard_normal()
            volts = noise if at is None else self.volts[at] + noise
            shown = round(float(volts) / METER_STEP_V) * METER_STEP_V
            mohm = "" if at is None else f" R={self.mohm[at] * (1 + 0.002 * self._random.standard_normal()):.2f}"
            found.append(f"V={shown:.3f}{mohm}")
            self._next_s += self.every_s
        return found

    def truths(self) -> list[str]:
        """Volts and resistance of every cell."""
        return [
            f"cell {number}: {volts:.4f} V, {mohm:.2f} mOhm"
            for number, (volts, mohm) in enumerate(zip(self.volts, self.mohm, strict=True), 1)
        ]


class Scale(StandIn):
    """A scale on which one cell after the other is laid: it swings, and settles."""

    profile = "pairs"
    every_s = 0.2

    def __init__(self, cell_type: CellType, seed: int, count: int = 10) -> None:
        self._random = np.random.default_rng(seed)
        self.grams = cell_type.mass_g * (1 + 0.002 * self._random.standard_normal(count))
        self._next_s = 0.0

    def lines(self, now_s: float) -> list[str]:
        """One every fifth of a second."""
        found = []
        while self._next_s <= now_s:
            turn, into = divmod(self._next_s, OFF_S + ON_S)
            there = into >= OFF_S and turn < len(self.grams)
            grams = self.grams[int(turn)] if there else 0.0
            since = into - OFF_S if there else into
            swing = SCALE_SWING_G * np.exp(-since / SCALE_TAU_S) * np.cos(9.0 * since)
            shown = grams + swing + SCALE_NOISE_G * self._random.standard_normal()
            found.append(f"M={round(float(shown) / SCALE_STEP_G) * SCALE_STEP_G:.2f}")
            self._next_s += self.every_s
        return found

    def truths(self) -> list[str]:
        """Mass of every cell."""
        return [f"cell {number}: {grams:.3f} g" for number, grams in enumerate(self.grams, 1)]


class Load(StandIn):
    """An electronic load on a simulated cell; it is asked and told by the standard commands (SCPI-99)."""

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


KINDS: dict[str, type[CellMeter] | type[Scale] | type[Load]] = {"meter": CellMeter, "scale": Scale, "load": Load}


def made(kind: str, cell_type: CellType, seed: int) -> StandIn:
    """A stand-in of a kind on cells of a type; raises :class:`DocumentError` where there is no such kind."""
    if kind not in KINDS:
        raise DocumentError(f"{quoted(kind)} is no kind of stand-in: one of {', '.join(KINDS)}.")
    return KINDS[kind](cell_type, seed)
