"""The integrator against an independent one: scipy's LSODA on equations written out again from the laws."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.builders import LANDING, PUNCH, TAKE_OFF, cell_type, complete, craft, cruise, mission
from tests.reference_flight import ReferenceFlight
from wise_cellar.core.documents import Conditions, LandingRule, Load
from wise_cellar.core.flight import Ending, fly


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
    reference = ReferenceFlight(design)
    elapsed, y = reference.end_at_cut_off(cell.min_voltage_v)
    assert elapsed > 720, "the reference flight must reach its last block"
    flown = fly(reference.batch)
    assert Ending(flown.ending[0]) is Ending.CELL_CUT_OFF
    assert flown.end_s[0] == pytest.approx(elapsed, rel=5e-4)
    assert flown.end_state.soc[0, 0, 0] == pytest.approx(y[0], abs=5e-4)
    assert flown.end_state.temperature_k[0, 0, 0] == pytest.approx(y[3], abs=0.1)


def test_a_throttle_that_is_held_below_full_is_flown_as_solve_ivp_flies_it() -> None:
    """Bursts at a duty of 0.8: the motor sees 0.8 of the volts, the pack 0.8 of the amps."""
    full, held = (
        complete(
            flown=mission(TAKE_OFF, cruise(400), PUNCH, cruise(300, 5), PUNCH, cruise()),
            landing=LandingRule(policy="own", own_voltage_v=2.0),
            conditions=Conditions(throttle_percent=percent),
        )
        for percent in (100, 80)
    )
    reference = ReferenceFlight(held)
    elapsed, y = reference.end_at_cut_off(2.5)
    flown = fly(reference.batch)
    assert flown.end_s[0] == pytest.approx(elapsed, rel=5e-4)
    assert flown.end_state.soc[0, 0, 0] == pytest.approx(y[0], abs=5e-4)
    assert ReferenceFlight(full).end_at_cut_off(2.5)[0] < elapsed - 5


def test_a_lag_that_grows_faster_than_the_current_is_integrated_as_solve_ivp_does() -> None:
    """κ·(I/Q)·(I/25 A)^1.25 up to 25 A, in proportion beyond, which the punch reaches."""
    design = complete(flown=mission(TAKE_OFF, cruise(400), PUNCH, cruise()), landing=LandingRule(policy="deep"))
    reference = ReferenceFlight(design)
    one = np.ones(1)
    cell = replace(
        reference.batch.cell, lag_gain_s=900 * one, lag_exponent=1.25 * one, lag_reference_a=25 * one
    )  # fmt: skip
    reference.batch = replace(reference.batch, cell=cell, landing_v=2.0 * one, landing_soc=-np.inf * one)
    reference.kappa, reference.lag_power, reference.lag_a = 900.0, 1.25, 25.0
    elapsed, y = reference.end_at_cut_off(2.5)
    flown = fly(reference.batch)
    assert flown.end_s[0] == pytest.approx(elapsed, rel=5e-4)
    assert flown.end_state.soc[0, 0, 0] == pytest.approx(y[0], abs=5e-4)
    straight = fly(replace(reference.batch, cell=replace(cell, lag_exponent=0 * one)))
    assert straight.end_s[0] < 0.98 * elapsed, "the lag of the slow legs would be larger"


def test_charge_transfer_that_saturates_is_integrated_as_solve_ivp_does() -> None:
    """60 % of R₀ at the one-hour current falls as asinh of the current; the reference brackets each current."""
    design = complete(flown=mission(TAKE_OFF, cruise(400), PUNCH, cruise()), landing=LandingRule(policy="deep"))
    reference = ReferenceFlight(design)
    one = np.ones((1, 1, 1))
    cell = replace(reference.batch.cell, transfer_share=0.6 * one, exchange_a=2.0 * one)
    reference.batch = replace(reference.batch, cell=cell, landing_v=2.0 * one[0, 0], landing_soc=-np.inf * one[0, 0])
    reference.theta, reference.exchange_a = 0.6, 2.0
    elapsed, y = reference.end_at_cut_off(2.5)
    flown = fly(reference.batch)
    assert flown.end_s[0] == pytest.approx(elapsed, rel=5e-4)
    assert flown.end_state.soc[0, 0, 0] == pytest.approx(y[0], abs=5e-4)
    straight = fly(replace(reference.batch, cell=replace(cell, transfer_share=0 * one)))
    assert straight.end_s[0] > elapsed + 1, "under the one-hour current it resists more"


def test_landing_rule_calls_when_solve_ivp_crosses_the_threshold() -> None:
    design = complete(
        flown=mission(TAKE_OFF, cruise(), LANDING), landing=LandingRule(policy="own", own_voltage_v=3.3, hold_s=3)
    )
    reference = ReferenceFlight(design)
    climb, y, _ = reference.run(reference.start(), 0, 20.0, 2.0)
    leg, _, crossed = reference.run(y, 1, 1e5, 3.3)
    flown = fly(reference.batch)
    assert crossed
    assert flown.landing_call_s[0] == pytest.approx(climb + leg + 3.0, rel=5e-4)
    assert flown.end_s[0] == pytest.approx(climb + leg + 33.0, rel=5e-4)


def test_brown_out_falls_where_solve_ivp_reaches_the_voltage() -> None:
    needy = craft(loads=(Load(name="video transmitter", power_w=8, min_input_v=14.0),))
    design = complete(carrier=needy, flown=mission(cruise(), LANDING))
    reference = ReferenceFlight(design)
    seconds, _, crossed = reference.run(reference.start(), 0, 1e5, 14.0 / 4)
    flown = fly(reference.batch)
    assert crossed
    assert Ending(flown.ending[0]) is Ending.BROWN_OUT
    assert flown.end_s[0] == pytest.approx(seconds, rel=5e-4)


def test_punch_voltage_agrees_with_solve_ivp() -> None:
    design = complete(flown=mission(PUNCH))
    reference = ReferenceFlight(design)
    seconds, y, _ = reference.run(reference.start(), 0, 5.0, 0.5)
    flown = fly(reference.batch)
    assert flown.end_s[0] == pytest.approx(seconds) == 5.0
    assert flown.end_bus_v[0] / 4 == pytest.approx(reference.electrical(y, 0)[2], abs=1e-3)
    assert flown.charge_c[0, 0, 0] == pytest.approx((1 - y[0]) * reference.q, rel=1e-3)
