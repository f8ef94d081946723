"""The integrator against an independent one: scipy's LSODA on equations written out again from the laws.

The right-hand side below shares no code with the product's integrator: its own interpolation of the tables, its
own root of the power balance, its own full-throttle solution by bracketing.
"""

from __future__ import annotations

import csv
import math
from importlib import resources

import numpy as np
import pytest
from scipy.integrate import solve_ivp
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from tests.builders import LANDING, PUNCH, TAKE_OFF, cell_type, complete, craft, cruise, mission
from wise_cellar.core.documents import CompleteDesign, Conditions, LandingRule, Load
from wise_cellar.core.flight import Ending, fly, lower, lower_one


class Independent:
    """One flight by solve_ivp, from the same parameters."""

    def __init__(self, design: CompleteDesign) -> None:
        self.batch = lower([lower_one(design, 1.0)])
        b, c = self.batch, self.batch.cell
        path = resources.files("wise_cellar") / "data" / "ocv" / f"{design.cell_type.ocv_family}.csv"
        rows = [(float(r["soc"]), float(r["ocv_v"])) for r in csv.DictReader(path.read_text().splitlines())]
        soc, volts = np.array(sorted(rows)).T
        table = PchipInterpolator(soc, volts)
        below = max(float(table.derivative()(0.0)), 25.0)
        self.ocv = lambda z: float(table(z)) if z >= 0 else float(volts[0]) + below * z
        self.q, self.r0, self.r1 = c.charge_c[0], c.r0_ohm[0], c.r1_ohm[0]
        self.tau1, self.kappa, self.tau_w = c.tau1_s[0], c.lag_gain_s[0], c.lag_tau_s[0]
        self.heat, self.cool, self.air = c.heat_capacity_j_k[0], c.cooling_w_k[0], c.air_k[0]
        self.s, self.p = b.series[0], b.parallel[0]
        self.outer = b.wiring_ohm[0] * self.p / self.s

    def factor(self, activation: float, kelvin: float) -> float:
        return math.exp(activation / 8.314 * (1 / kelvin - 1 / 298.15))

    def shape(self, z: float) -> float:
        return (1 + 0.776 * math.exp(-z / 0.12)) / (1 + 0.776 * math.exp(-0.5 / 0.12))

    def full_throttle(self, emf: float, ohm: float) -> float:
        """Cell current at duty 1: motor and source voltages meet at one speed."""
        d = self.batch.drive
        k, rm, i0, eta = d.kv_rev_s_v[0], d.winding_ohm[0], d.no_load_a[0], d.controller_efficiency[0]

        def draw(speed: float) -> tuple[float, float]:
            motor = d.torque_nm_s2[0] * speed**2 * 2 * math.pi * k + i0
            volts = speed / k + motor * rm
            return d.count[0] * motor / eta + self.batch.load_w[0] / volts, volts

        def gap(speed: float) -> float:
            amps, volts = draw(speed)
            return self.s * emf - amps * self.s * ohm / self.p - volts

        return draw(brentq(gap, 20.0, 2000.0, xtol=1e-12))[0] / self.p

    def electrical(self, y: np.ndarray, block: int) -> tuple[float, float, float]:
        z, w, v1, kelvin = y
        emf = self.ocv(z - w) - v1
        inner = self.r0 * self.shape(z) * self.factor(20e3, kelvin)
        ohm = inner + self.outer
        if self.batch.block_punch[0, block]:
            amps = self.full_throttle(emf, ohm)
        else:
            power = self.batch.block_w[0, block] / (self.s * self.p)
            amps = (emf - math.sqrt(max(emf**2 - 4 * ohm * power, 0.0))) / (2 * ohm)
        return amps, emf - amps * inner, emf - amps * ohm

    def derivative(self, y: np.ndarray, block: int) -> list[float]:
        z, w, v1, kelvin = y
        amps, cell_v, _ = self.electrical(y, block)
        slow = self.factor(25e3, kelvin)
        return [
            -amps / self.q,
            (self.kappa * slow * amps / self.q - w) / (self.tau_w * slow),
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
            lambda _t, state: self.derivative(state, block), (0, min(seconds, 1e5)), y, method="LSODA",
            rtol=1e-9, atol=1e-11, events=crossing, max_step=20.0,
        )  # fmt: skip
        return found.t[-1], found.y[:, -1], found.status == 1

    def start(self) -> np.ndarray:
        s = self.batch.start
        return np.array([s.soc[0], 0.0, 0.0, s.temperature_k[0]])


@pytest.mark.parametrize(
    ("family", "kinetics", "air"),
    [
        ("liion_energy_nmc_siox", "energy cylinder", 20),
        ("liion_power_nca", "power cylinder", 12),
        ("lipo_hobby", "polymer pouch", 30),
        ("liion_energy_nmc_siox", "energy cylinder", 0),
    ],
)
def test_flight_to_cut_off_ends_when_solve_ivp_ends_it(family: str, kinetics: str, air: float) -> None:
    cell = cell_type(ocv_family=family, kinetic_class=kinetics, min_voltage_v=3.3 if "lipo" in family else 2.5)
    design = complete(
        cell=cell,
        flown=mission(TAKE_OFF, cruise(400), PUNCH, cruise(300, 5), PUNCH, cruise()),
        landing=LandingRule(policy="own", own_voltage_v=2.0),
        conditions=Conditions(air_temperature_c=air),
    )
    reference = Independent(design)
    y, elapsed = reference.start(), 0.0
    for block in range(design.mission.blocks.__len__()):
        seconds, y, ended = reference.run(y, block, reference.batch.block_s[0, block], cell.min_voltage_v, at_cell=True)
        elapsed += seconds
        assert not ended or block == 5, "the reference flight must reach its last block"
    flown = fly(reference.batch)
    assert Ending(flown.ending[0]) is Ending.CELL_CUT_OFF
    assert flown.end_s[0] == pytest.approx(elapsed, rel=5e-4)
    assert flown.end_state.soc[0] == pytest.approx(y[0], abs=5e-4)
    assert flown.end_state.temperature_k[0] == pytest.approx(y[3], abs=0.1)


def test_landing_rule_calls_when_solve_ivp_crosses_the_threshold() -> None:
    design = complete(flown=mission(TAKE_OFF, cruise(), LANDING), landing=LandingRule(policy="gentle", hold_s=3))
    reference = Independent(design)
    climb, y, _ = reference.run(reference.start(), 0, 20.0, 2.0)
    leg, _, crossed = reference.run(y, 1, 1e5, 3.3)
    flown = fly(reference.batch)
    assert crossed
    assert flown.landing_call_s[0] == pytest.approx(climb + leg + 3.0, rel=5e-4)
    assert flown.end_s[0] == pytest.approx(climb + leg + 33.0, rel=5e-4)


def test_brown_out_falls_where_solve_ivp_reaches_the_voltage() -> None:
    needy = craft(loads=(Load(name="video transmitter", power_w=8, min_input_v=14.0),))
    design = complete(carrier=needy, flown=mission(cruise(), LANDING))
    reference = Independent(design)
    seconds, _, crossed = reference.run(reference.start(), 0, 1e5, 14.0 / 4)
    flown = fly(reference.batch)
    assert crossed
    assert Ending(flown.ending[0]) is Ending.BROWN_OUT
    assert flown.end_s[0] == pytest.approx(seconds, rel=5e-4)


def test_punch_voltage_agrees_with_solve_ivp() -> None:
    design = complete(flown=mission(PUNCH))
    reference = Independent(design)
    seconds, y, _ = reference.run(reference.start(), 0, 5.0, 0.5)
    flown = fly(reference.batch)
    assert flown.end_s[0] == pytest.approx(seconds) == 5.0
    assert flown.end_bus_v[0] / 4 == pytest.approx(reference.electrical(y, 0)[2], abs=1e-3)
    assert flown.charge_c[0] == pytest.approx((1 - y[0]) * reference.q, rel=1e-3)
