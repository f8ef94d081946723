"""One flight by scipy's LSODA, on equations written out again from the laws.

It shares no code with the product's integrator: its own interpolation of the tables, its own root of the power
balance, its own full-throttle solution by bracketing. Only the lowered parameters are the same.
"""

from __future__ import annotations

import csv
import math
from importlib import resources

import numpy as np
from scipy.integrate import solve_ivp
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.lowering import lower, lower_one


class ReferenceFlight:
    """A complete design, flown block by block with tight tolerances."""

    def __init__(self, design: CompleteDesign, method: str = "LSODA") -> None:
        self.method = method
        self.batch = lower([lower_one(design, 1.0)])
        b, c = self.batch, self.batch.cell
        path = resources.files("wise_cellar") / "data" / "ocv" / f"{design.pack.cell.ocv_family}.csv"
        rows = [(float(r["soc"]), float(r["ocv_v"])) for r in csv.DictReader(path.read_text().splitlines())]
        soc, volts = np.array(sorted(rows)).T
        table = PchipInterpolator(soc, volts)
        below = max(float(table.derivative()(0.0)), 25.0)
        self.ocv = lambda z: float(table(z)) if z >= 0 else float(volts[0]) + below * z
        self.q, self.r0, self.r1 = c.charge_c[0, 0, 0], c.r0_ohm[0, 0, 0], c.r1_ohm[0, 0, 0]
        self.tau1, self.kappa, self.tau_w = c.tau1_s[0, 0, 0], c.lag_gain_s[0, 0, 0], c.lag_tau_s[0, 0, 0]
        self.theta, self.exchange_a = c.transfer_share[0, 0, 0], c.exchange_a[0, 0, 0]
        self.lag_power, self.lag_a = c.lag_exponent[0, 0, 0], c.lag_reference_a[0, 0, 0]
        self.heat, self.cool, self.air = c.heat_capacity_j_k[0, 0, 0], c.cooling_w_k[0, 0, 0], c.air_k[0, 0, 0]
        self.s, self.p = b.series[0], b.parallel[0, 0, 0]
        self.outer = b.wiring_ohm[0, 0, 0] * self.p / self.s

    def factor(self, activation: float, kelvin: float) -> float:
        return math.exp(activation / 8.314 * (1 / kelvin - 1 / 298.15))

    def shape(self, z: float) -> float:
        return (1 + 0.776 * math.exp(-z / 0.12)) / (1 + 0.776 * math.exp(-0.5 / 0.12))

    def full_throttle(self, emf: float, ohm: float) -> float:
        """Cell current at the greatest duty: what the motor asks for and what the pack then gives meet at one speed."""
        d, duty = self.batch.drive, self.batch.most_duty[0]
        k, rm, i0, eta = d.kv_rev_s_v[0], d.winding_ohm[0], d.no_load_a[0], d.controller_efficiency[0]

        def draw(speed: float) -> tuple[float, float]:
            motor = d.torque_nm_s2[0] * speed**2 * 2 * math.pi * k + i0
            volts = (speed / k + motor * rm) / duty
            return d.count[0] * motor * duty / eta + self.batch.load_w[0] / volts, volts

        def gap(speed: float) -> float:
            amps, volts = draw(speed)
            return self.s * emf - amps * self.s * ohm / self.p - volts

        return draw(brentq(gap, 20.0, 2000.0, xtol=1e-12))[0] / self.p

    def electrical(self, y: np.ndarray, block: int) -> tuple[float, float, float]:
        z, w, v1, kelvin = y
        emf = self.ocv(z - w) - v1
        linear = self.r0 * self.shape(z) * self.factor(20e3, kelvin)

        def drawn(inner: float) -> float:
            ohm = inner + self.outer
            if self.batch.block_punch[0, block]:
                return self.full_throttle(emf, ohm)
            power = self.batch.block_w[0, block] / (self.s * self.p)
            return (emf - math.sqrt(max(emf**2 - 4 * ohm * power, 0.0))) / (2 * ohm)

        amps = drawn(linear)
        inner = linear
        if self.theta:
            # What a current asks of the cell and what the cell then gives meet at one current.
            amps = brentq(lambda a: drawn(linear * self.falling(a)) - a, 1e-3, 500.0, xtol=1e-12)
            inner = linear * self.falling(amps)
        return amps, emf - amps * inner, emf - amps * (inner + self.outer)

    def falling(self, amps: float) -> float:
        """R₀ at a current over R₀ at the one-hour current: the ohmic part stays, charge transfer goes as asinh."""
        hour = self.q / 3600
        at, there = (math.asinh(a / self.exchange_a) / a for a in (amps, hour))
        return 1 - self.theta + self.theta * at / there

    def derivative(self, y: np.ndarray, block: int) -> list[float]:
        z, w, v1, kelvin = y
        amps, cell_v, _ = self.electrical(y, block)
        slow = self.factor(25e3, kelvin)
        lagging = amps * min(amps / self.lag_a, 1.0) ** self.lag_power
        return [
            -amps / self.q,
            (self.kappa * slow * lagging / self.q - w) / (self.tau_w * slow),
            (self.r1 * self.factor(20e3, kelvin) * amps - v1) / self.tau1,
            (amps * (self.ocv(z) - cell_v) - self.cool * (kelvin - self.air)) / self.heat,
        ]

    def run(self, y: np.ndarray, block: int, seconds: float, level: float, *, at_cell: bool = False):  # type: ignore[no-untyped-def]
        """Fly one block until it is over or the volts a cell fall to ``level``; time and state then."""
        which = 1 if at_cell else 2

        def crossing(_t: float, state: np.ndarray) -> float:
            return self.electrical(state, block)[which] - level

        crossing.terminal, crossing.direction = True, -1  # type: ignore[attr-defined]
        found = solve_ivp(
            lambda _t, state: self.derivative(state, block), (0, min(seconds, 1e5)), y, method=self.method,
            rtol=1e-9, atol=1e-11, events=crossing, max_step=20.0,
        )  # fmt: skip
        return found.t[-1], found.y[:, -1], found.status == 1

    def start(self) -> np.ndarray:
        s = self.batch.start
        return np.array([s.soc[0, 0, 0], 0.0, 0.0, s.temperature_k[0, 0, 0]])

    def end_at_cut_off(self, cut_off_v: float) -> tuple[float, np.ndarray]:
        """Seconds and state when the cell first reaches ``cut_off_v`` or the mission is over."""
        y, elapsed = self.start(), 0.0
        for block in range(self.batch.block_s.shape[1]):
            seconds, y, ended = self.run(y, block, self.batch.block_s[0, block], cut_off_v, at_cell=True)
            elapsed += seconds
            if ended:
                break
        return elapsed, y
