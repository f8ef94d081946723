"""A charger on a simulated pack: constant current, constant voltage, and a balancer that bleeds what is ahead."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.charge import ChargePlan
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_share
from wise_cellar.instruments.stand_ins.pack import SimulatedPack
from wise_cellar.instruments.stand_ins.stand_in import StandIn

EVERY_S, STEP_S = 1.0, 1.0
WIRING_OHM = 0.004
CHARGE_APART, CAPACITY_APART = 0.008, 0.005
"""Of the groups, one standard deviation: what is inside at the start, and what they hold."""
BLEEDS_OVER_V, EVEN_V = 0.1, 0.006
"""Of a group under the full voltage, from where on it is balanced; and within which groups are even."""
LONGEST_BALANCE_S = 3600.0
NOISE_V, NOISE_A, NOISE_K = 0.0005, 0.004, 0.05
CENTIGRADE_LAG_S = 40.0
"""Of the probe that lies on the pack."""


class PackCharger(StandIn):
    """Charges as a plan says, from where the plan begins, and sends a line a second; it stops when it is told STOP."""

    profile = "charger"

    def __init__(self, plan: ChargePlan, seed: int, balance_a: float) -> None:
        self._random = np.random.default_rng(seed)
        self._plan, self._balance_a = plan, balance_a
        groups = plan.cells
        capacity = 0.985 + 0.01 * self._random.standard_normal() + CAPACITY_APART * self._random.standard_normal(groups)
        resistance = (1 + 0.05 * self._random.standard_normal()) * np.ones(groups)
        charge = np.clip(plan.start_soc + CHARGE_APART * self._random.standard_normal(groups), 0.0, 0.99)
        self._capacity, self._resistance, self._start = capacity, resistance, charge
        self.pack = SimulatedPack(
            plan.pack.cell, plan.pack.recipe.parallel_count, capacity=capacity, resistance=resistance, charge=charge,
            air_c=float(plan.charged.temperature_c[0]), charges=True,
        )  # fmt: skip
        self.on, self.put_in_mah, self.amps = True, 0.0, 0.0
        self._probe_c = self.pack.celsius
        self._lived_s = self._next_s = 0.0
        self._tapered_s: float | None = None
        self._target = None if plan.goal.value.startswith("full") else float(plan.charged.soc[-1])

    def lines(self, now_s: float) -> list[str]:
        """One a second."""
        found = []
        while self._next_s <= now_s:
            self._live(self._next_s)
            found.append(self._line())
            self._next_s += EVERY_S
        return found

    def order(self, text: str, now_s: float) -> str | None:
        """STOP, and nothing else."""
        if text.strip().upper() == "STOP":
            self.on = False
            return None
        return "ERR unknown order"

    def _live(self, now_s: float) -> None:
        while now_s - self._lived_s > 1e-9:
            step = min(now_s - self._lived_s, STEP_S)
            bled = self._bled()
            self.amps = self._wanted_a(bled)
            self.pack.run(step, -self.amps, bled)
            self.put_in_mah += self.amps * step / 3.6
            self._probe_c += (self.pack.celsius - self._probe_c) * (1 - np.exp(-step / CENTIGRADE_LAG_S))
            self._lived_s += step

    def _bled(self) -> Floats:
        """Taken from each group: from those that stand over the lowest, near the end."""
        volts = self.pack.group_v(-self.amps)
        ahead = (volts > volts.min() + EVEN_V / 2) & (volts > self._plan.full_v - BLEEDS_OVER_V)
        return np.where(ahead & self.on, self._balance_a, 0.0)

    def _wanted_a(self, bled: Floats) -> float:
        plan, pack = self._plan, self.pack
        if not self.on or (self._target is not None and float(pack.charge.mean()) >= self._target):
            self.on = False
            return 0.0
        emf, ohm = pack.emf_v, pack.ohm
        held = (plan.cells * plan.full_v - float((emf - bled * ohm).sum())) / (float(ohm.sum()) + WIRING_OHM)
        highest = float(((plan.full_v + EVEN_V - emf) / ohm + bled).min())
        amps = max(min(plan.current_a, held, highest, plan.power_w / float(emf.sum())), 0.0)
        taper = 0.05 * float(pack.capacity_mah.mean()) / 1000
        if held < plan.current_a and amps <= min(taper, 0.2 * plan.current_a):
            self._tapered_s = self._lived_s if self._tapered_s is None else self._tapered_s
            volts = pack.group_v(-amps)
            even = float(volts.max() - volts.min()) < EVEN_V
            self.on = not even and self._lived_s - self._tapered_s < LONGEST_BALANCE_S
        return amps if self.on else 0.0

    def _line(self) -> str:
        noise = NOISE_V * self._random.standard_normal(self._plan.cells)
        groups = self.pack.group_v(-self.amps) + noise
        volts = float(groups.sum()) + self.amps * WIRING_OHM
        amps = max(self.amps + NOISE_A * self._random.standard_normal() if self.on else 0.0, 0.0)
        celsius = self._probe_c + NOISE_K * self._random.standard_normal()
        each = " ".join(f"G{place}={each:.3f}" for place, each in enumerate(groups, 1))
        return f"U={volts:.2f} I={amps:.2f} T={celsius:.1f} Q={self.put_in_mah:.0f} {each}"

    def truths(self) -> list[str]:
        """What each group holds and had inside, and what has flowed."""
        return [
            *(
                f"group {place}: {mah:.0f} mAh, began {format_share(start)}, is at {format_share(now)}"
                for place, (mah, start, now) in enumerate(
                    zip(self.pack.capacity_mah, self._start, self.pack.charge, strict=True), 1
                )
            ),
            f"resistance {100 * float(self._resistance.mean()):.1f} % of its type's",
            f"put in {self.put_in_mah:.0f} mAh, {self.pack.celsius:.1f} degrees",
        ]
