"""Motor and propeller from a thrust stand's table, or from a hover alone."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq

from tests.builders import complete, craft, cruise, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import (
    Craft,
    DocumentError,
    HoverTest,
    KnownFlight,
    Rotors,
    StandPoint,
    ThrustStand,
)
from wise_cellar.core.fit import fit_stand
from wise_cellar.core.propulsion import drive_numbers, fitted_craft, power_against_mass, residual, stand_curves
from wise_cellar.core.propulsion.carrier import propulsion
from wise_cellar.core.units import format_number

CT, CP, OHM, IDLE, KV, D = 0.118, 0.051, 0.078, 0.72, 920 / 60, 0.254
DENSITY = 101325 / (287.05 * 293.15)


def row(duty: float, volts: float) -> tuple[float, float, float]:
    """Thrust in g, bus amps and rpm of a motor, found by bisection on its speed; the controller keeps 95 % at full
    throttle, 12 points less towards none."""

    def amps(n: float) -> float:
        return CP * DENSITY * n**2 * D**5 / (2 * math.pi) * 2 * math.pi * KV + IDLE

    speed = brentq(lambda n: n / KV + amps(n) * OHM - duty * volts, 0.1, 500)
    return CT * DENSITY * speed**2 * D**4 / 9.80665 * 1e3, duty * amps(speed) / (0.95 - 0.12 * (1 - duty)), 60 * speed


def stand(noise: float = 0.0, rpm: bool = True) -> ThrustStand:
    random = np.random.default_rng(5)
    points = []
    for duty in np.linspace(0.2, 1.0, 9):
        thrust, amps, speed = (v * (1 + noise * random.standard_normal()) for v in row(duty, 16.0 - 1.2 * duty))
        points.append(StandPoint(throttle_percent=100 * duty, thrust_g=thrust, current_a=amps,
                                 voltage_v=16.0 - 1.2 * duty, speed_rpm=speed if rpm else None))  # fmt: skip
    return ThrustStand(name="bench", points=tuple(points), air_temperature_c=20)


def stood(**changes: Any) -> Craft:
    return craft(rotors=Rotors(diameter_mm=254, pitch_mm=100), **changes)


@pytest.mark.parametrize("rpm", [True, False])
def test_the_motor_that_made_a_table_is_found_again(rpm: bool) -> None:
    found = fit_stand(stood(), stand(rpm=rpm))
    assert found.thrust_coefficient == pytest.approx(CT, rel=1e-3)
    assert found.power_coefficient == pytest.approx(CP, rel=2e-3)
    assert found.resistance_mohm == pytest.approx(1e3 * OHM, rel=0.01)
    assert found.no_load_current_a == pytest.approx(IDLE, rel=0.01)
    assert found.residual.thrust < 1e-4
    assert (found.residual.speed is not None) is rpm


def test_noise_stays_in_the_residual() -> None:
    table = stand(noise=0.02)
    found = fit_stand(stood(), table)
    assert found.thrust_coefficient == pytest.approx(CT, rel=0.03)
    assert 0.008 < found.residual.thrust < 0.04
    assert 0.005 < found.residual.current < 0.04
    taken = fitted_craft(stood(), table, found)
    again = residual(stand_curves(taken, table), table)
    assert again.thrust == pytest.approx(found.residual.thrust, rel=0.02)
    assert residual(stand_curves(stood(), table), table).current > 2 * again.current


def test_the_fitted_numbers_fly() -> None:
    """Figure of merit from Ct and Cp: 0.118^1.5·√(2/π)/0.051 = 0.634."""
    taken = fitted_craft(stood(), stand(), fit_stand(stood(), stand()))
    assert drive_numbers(taken).figure_of_merit == pytest.approx(0.634, abs=0.002)
    before, after = (answer(complete(carrier=c)) for c in (stood(), taken))
    assert after.late_punch.thrust_margin != pytest.approx(before.late_punch.thrust_margin, rel=0.01)
    given = taken.model_copy(update={"rotors": taken.rotors.model_copy(update={"figure_of_merit": 0.7})})
    assert drive_numbers(given).figure_of_merit == 0.7


@pytest.mark.parametrize("kv", [600.0, 3000.0])
def test_a_table_that_no_motor_explains_is_refused(kv: float) -> None:
    """At 600 rpm/V it would have to outrun its volts, at 3000 its controller to burn them."""
    wrong = stood(motor=craft().motor.model_copy(update={"kv_rpm_per_v": kv}))
    with pytest.raises(DocumentError, match=rf"No motor of {format_number(kv, 0)} rpm/V .* explains bench"):
        fit_stand(wrong, stand())


HOVER = HoverTest(takeoff_mass_g=1800, voltage_v=15.2, current_a=15.0, throttle_percent=48)


def test_a_hover_is_met_exactly() -> None:
    """At the test's own mass the craft draws its watts, and asks for 48 % of its 15.2 V."""
    tested = craft(hover_test=HOVER)
    curve = power_against_mass(tested, complete().design.conditions, 0.0, np.array([1800.0]), 1.0, 15.2)
    assert curve.hover_w[0] == pytest.approx(15.2 * 15.0, rel=1e-9)
    _, volts = propulsion(tested, 0, 20, 1.0, 15.2).power(np.array([1.8 * 9.80665]), np.zeros(1), np.zeros(1))
    assert volts[0] / 15.2 == pytest.approx(0.48, rel=1e-9)


def test_a_hover_says_how_well_full_throttle_pulls() -> None:
    """Thrust goes with the square of the speed: less throttle in the hover, more margin at full throttle."""
    margins = []
    for throttle in (40, 50, 60):
        tested = craft(hover_test=HOVER.model_copy(update={"throttle_percent": float(throttle)}))
        margins.append(answer(complete(carrier=tested, flown=mission(cruise(200)))).early_punch.thrust_margin)
    assert margins[0] > margins[1] > margins[2] > 1
    motor = {"kv_rpm_per_v": 300.0, "resistance_mohm": 400.0, "no_load_current_a": 3.0}
    other = craft(hover_test=HOVER, motor=craft().motor.model_copy(update=motor))
    same = craft(hover_test=HOVER)
    assert drive_numbers(other) == drive_numbers(same), "the motor's own numbers are not used"


def test_a_hover_on_less_than_momentum_allows_is_refused() -> None:
    with pytest.raises(DocumentError, match=r"drew 46 W; 1\u202f800 g on propellers of 254 mm cannot"):
        answer(complete(carrier=craft(hover_test=HOVER.model_copy(update={"current_a": 3.0}))))


def test_a_hover_and_a_flight_together() -> None:
    """The flight makes a factor on what the hover says."""
    flight = KnownFlight(takeoff_mass_g=1800, mean_voltage_v=15.2, mean_current_a=15.0)
    found = answer(complete(carrier=craft(hover_test=HOVER, known_flights=(flight,))))
    assert found.factor == pytest.approx(1.0, rel=1e-6)


def test_a_hover_test_of_coaxial_pairs_lifts_on_1_28_discs_for_each_two() -> None:
    """The same amps on 0.64 of the area: an ideal hover takes 1/√0.64 times the power, and so much better they are."""
    apart, pairs = (
        drive_numbers(
            craft(rotors=Rotors(count=8, coaxial=coaxial, diameter_mm=254, pitch_mm=114), hover_test=HOVER)
        ).figure_of_merit
        for coaxial in (False, True)
    )
    assert pairs / apart == pytest.approx(1.25)


# Motors that are as bad as their size


@pytest.mark.parametrize(
    ("grams", "diameter_mm", "dry_g", "kv", "low", "high"),
    [(3, 40, 30, 19000, 0.50, 0.62), (6, 65, 65, 8000, 0.50, 0.62), (20, 127, 330, 2300, 0.65, 0.75),
     (60, 254, 1150, 700, 0.75, 0.85), (150, 380, 4000, 380, 0.75, 0.85)],
)  # fmt: skip
def test_a_motor_of_which_nothing_is_told_is_as_efficient_as_its_size(
    grams: float, diameter_mm: float, dry_g: float, kv: float, low: float, high: float
) -> None:
    """Shaft power over electrical power in the craft's hover with a usual battery, by the motor's equations."""
    of = craft(
        parts=({"name": "all", "mass_g": dry_g},), rotors=Rotors(diameter_mm=diameter_mm, pitch_mm=0.5 * diameter_mm),
        motor={"kv_rpm_per_v": kv, "mass_g": grams, "max_current_a": 40},
    )  # fmt: skip
    numbers = drive_numbers(of)
    weight = 1.4 * dry_g * 1e-3 * 9.80665 / 4
    diameter = diameter_mm * 1e-3
    speed = math.sqrt(weight / (numbers.thrust_coefficient * 1.2 * diameter**4))
    torque = numbers.power_coefficient * 1.2 * speed**2 * diameter**5 / (2 * math.pi)
    amps = torque * 2 * math.pi * numbers.kv_rev_s_v + numbers.no_load_a
    volts = speed / numbers.kv_rev_s_v + amps * numbers.winding_ohm
    assert low <= torque * 2 * math.pi * speed / (volts * amps) <= high
    given = of.changed(motor=of.motor.changed(resistance_mohm=50, no_load_current_a=0.3))
    assert drive_numbers(given).winding_ohm == 0.05


def test_a_controller_on_one_cell_is_worse() -> None:
    plain = craft(esc={"max_current_a": 5, "max_voltage_v": 26})
    one, four = (float(propulsion(plain, 0, 20, 1.0, volts).drive.controller_efficiency[0]) for volts in (3.6, 14.4))
    assert (one, four) == (0.90, 0.95)
    given = craft(esc={"max_current_a": 5, "max_voltage_v": 26, "efficiency": 0.93})
    assert propulsion(given, 0, 20, 1.0, 3.6).drive.controller_efficiency[0] == 0.93
