"""An electronic load on one simulated cell, or on a pack of them."""

from __future__ import annotations

import re

import numpy as np

from wise_cellar.core.documents import CellType
from wise_cellar.instruments.stand_ins.pack import LONGEST_STEP_S, SimulatedPack
from wise_cellar.instruments.stand_ins.stand_in import StandIn

CABLE_OHM = 0.006
"""Of a load's two wires: it reads volts at its own terminals."""
LOAD_NOISE_V, LOAD_NOISE_A = 0.0006, 0.002
LOAD_LEAST_V = 2.0
"""Of a cell, under which the load switches itself off."""
WORST_A, WORST_W = 200.0, 4000.0
GROUPS_APART = 0.004
"""Of the groups of a pack, in capacity, one standard deviation."""
ILLEGAL = '-224,"Illegal parameter value"'


class Load(StandIn):
    """An electronic load on one simulated pack, of one cell too; it is asked and told by the standard commands
    (SCPI-99)."""

    profile = "scpi-load"

    def __init__(self, cell_type: CellType, seed: int, series: int = 1, parallel: int = 1) -> None:
        self._random = np.random.default_rng(seed)
        capacity = 0.985 + 0.01 * self._random.standard_normal()
        resistance = 1.0 + 0.05 * self._random.standard_normal()
        spread = GROUPS_APART * self._random.standard_normal(series) if series > 1 else np.zeros(1)
        self._capacity, self._resistance = capacity * (1 + spread), resistance * np.ones(series)
        self.pack = SimulatedPack(
            cell_type,
            parallel,
            capacity=self._capacity,
            resistance=self._resistance,
            charge=np.ones(series),
        )
        self.on, self.amps, self.watts = False, 0.0, 0.0
        self._lived_s = 0.0

    def lines(self, now_s: float) -> list[str]:
        """It says nothing of itself."""
        self._live(now_s)
        return []

    def _live(self, now_s: float) -> None:
        while now_s > self._lived_s:
            step = min(now_s - self._lived_s, LONGEST_STEP_S)
            self.pack.run(step, self._drawn())
            self._lived_s += step
        if self.on and self._terminal_v() < LOAD_LEAST_V * self.pack.series:
            self.on = False

    def _drawn(self) -> float:
        """What flows: the current that is set, or that which the power that is set takes."""
        if not self.on or not self.watts:
            return self.amps if self.on else 0.0
        emf, ohm = float(self.pack.emf_v.sum()), float(self.pack.ohm.sum()) + CABLE_OHM
        return float((emf - np.sqrt(max(emf**2 - 4 * ohm * self.watts, 0.0))) / (2 * ohm))

    def _terminal_v(self) -> float:
        amps = self._drawn()
        return self.pack.volts(amps) - amps * CABLE_OHM

    def order(self, text: str, now_s: float) -> str | None:
        """Measure, switch, set; anything else is an undefined header."""
        self._live(now_s)
        answers = [self._one(part.strip().removeprefix(":")) for part in text.split(";")]
        return ";".join(answer for answer in answers if answer is not None) or None

    def _one(self, order: str) -> str | None:
        word, _, argument = order.partition(" ")
        short = re.sub(r"(?<=[A-Z]{4})[A-Z]+|:DC(?=\?)", "", word.upper())
        argument = argument.strip().upper()
        if short == "*IDN?":
            return "STAND-IN,LOAD,0,1"
        if short == "MEAS:VOLT?":
            return f"{self._terminal_v() + LOAD_NOISE_V * self._random.standard_normal():.4f}"
        if short == "MEAS:CURR?":
            return f"{self._drawn() + LOAD_NOISE_A * self._random.standard_normal():.4f}"
        if short in ("INP", "INPU"):
            if argument not in ("ON", "OFF", "1", "0"):
                return ILLEGAL
            self.on = argument in ("ON", "1")
            return None
        if short == "FUNC":
            return None if argument in ("CURR", "CURRENT", "POW", "POWER") else ILLEGAL
        if short in ("CURR", "POW", "POWE"):
            return self._set(short, argument)
        return '-113,"Undefined header"'

    def _set(self, what: str, argument: str) -> str | None:
        try:
            wanted = float(argument)
        except ValueError:
            return ILLEGAL
        if not 0 <= wanted <= (WORST_A if what == "CURR" else WORST_W):
            return '-222,"Data out of range"'
        self.amps, self.watts = (wanted, 0.0) if what == "CURR" else (0.0, wanted)
        return None

    def truths(self) -> list[str]:
        """What the cells really hold and resist."""
        return [
            f"capacity {', '.join(f'{mah:.0f}' for mah in self.pack.capacity_mah)} mAh,"
            f" {100 * float(self._capacity.mean()):.2f} % of its type's",
            f"resistance {100 * float(self._resistance.mean()):.1f} % of its type's,"
            f" R0 {float(self.pack.r0_mohm.mean()):.2f} mOhm a cell",
            f"cable {1e3 * CABLE_OHM:.1f} mOhm",
            f"given {self.pack.given_mah:.0f} mAh, {100 * float(self.pack.charge.min()):.1f} % left",
            f"{self.pack.celsius:.1f} degrees",
        ]
