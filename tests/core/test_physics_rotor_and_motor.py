"""Rotors, motors and full throttle against hand-derived values, limits and independent solutions."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import brentq

from wise_cellar.core.physics import rotor
from wise_cellar.core.physics.motor import (
    Drive,
    full_throttle,
    full_throttle_thrust_n,
    motor_current_a,
    operating_point,
)

RHO = 1.225


def drive(**changes: float) -> Drive:
    """Four 254 mm propellers of 0.45 pitch ratio on 700 rpm/V motors, in standard air."""
    ct = (0.08 + 0.09 * 0.45) * 1.0
    cp = ct**1.5 * math.sqrt(2 / math.pi) / 0.66
    values = {
        "count": 4,
        "kv_rev_s_v": 700 / 60,
        "winding_ohm": 0.105,
        "no_load_a": 0.6,
        "controller_efficiency": 0.95,
        "part_throttle_loss": 0.12,
        "thrust_n_s2": ct * RHO * 0.254**4,
        "torque_nm_s2": cp * RHO * 0.254**5 / (2 * math.pi),
    } | changes
    return Drive(**{name: np.array([value], float) for name, value in values.items()})


def test_hover_power_by_hand() -> None:
    """2.0 kg on four 254 mm discs: A = 0.20268 m², v_h = √(19.613/(2·1.225·0.20268)) = 6.285 m/s,
    P = 19.613·6.285/0.66 = 186.8 W."""
    area = rotor.disc_area_m2(4, 0.254)
    assert area == pytest.approx(0.20268, rel=1e-4)
    assert rotor.hover_power_w(19.6133, RHO, area, 0.66) == pytest.approx(186.8, abs=0.1)


def test_the_propeller_law_gives_the_same_hover_power() -> None:
    """Cp = Ct^1.5·√(2/π)/FM makes Cp·ρ·n³·D⁵ at the hover speed equal W·v_h/FM."""
    d, thrust = 0.254, 5.0
    ct = rotor.default_thrust_coefficient(0.45, 2)
    speed = math.sqrt(thrust / (ct * RHO * d**4))
    from_propeller = rotor.power_coefficient(ct, 0.66) * RHO * speed**3 * d**5
    assert from_propeller == pytest.approx(rotor.hover_power_w(thrust, RHO, rotor.disc_area_m2(1, d), 0.66))


def test_defaults_by_size() -> None:
    assert [rotor.default_figure_of_merit(d) for d in (0.05, 0.1, 0.13, 0.4)] == pytest.approx([0.42, 0.50, 0.60, 0.66])
    assert rotor.default_drag_area_m2(0.13) == pytest.approx(0.006)
    assert rotor.default_drag_area_m2(0.254) == pytest.approx(0.03)
    assert rotor.default_thrust_coefficient(0.5, 3) == pytest.approx(0.125 * 1.5**0.7)


def flight(airspeed: float, climb: float = 0.0, weight: float = 20.0, drag: float = 0.03) -> tuple[float, float]:
    area = rotor.disc_area_m2(4, 0.254)
    power, thrust = rotor.flight_power_w(weight, RHO, area, 0.66, drag, airspeed, climb, 90.0)
    return float(power), float(thrust)


def test_no_speed_is_the_hover() -> None:
    power, thrust = flight(0.0)
    assert power == pytest.approx(float(rotor.hover_power_w(20.0, RHO, rotor.disc_area_m2(4, 0.254), 0.66)), rel=1e-9)
    assert thrust == pytest.approx(20.0)


def test_level_flight_by_hand() -> None:
    """20 N at 10 m/s, CdA 0.03 m²: D = 1.8375 N, T = 20.084 N, tan α = 0.0919. Glauert's equation, iterated by hand
    from v_h² = 20.084/(2·1.225·0.20268) = 40.446: v_i = 3.69 m/s (40.446/√(9.958² + 4.602²) = 3.687). μ = 10/90.
    P = 1.15·20.084·v_i + P₀(1 + 4.65 μ²) + 18.375, P₀ = 192.32 − 1.15·126.93 = 46.35 W."""
    induced = 3.0
    for _ in range(200):
        induced = 40.446 / math.hypot(10 * math.cos(0.09162), 10 * math.sin(0.09162) + induced)
    assert induced == pytest.approx(3.69, abs=0.01)
    by_hand = 1.15 * 20.084 * induced + 46.35 * (1 + 4.65 / 81) + 18.375
    assert flight(10.0)[0] == pytest.approx(by_hand, rel=2e-3)


def test_power_has_a_bottom_between_hover_and_fast_flight() -> None:
    powers = [flight(v)[0] for v in np.linspace(0, 25, 51)]
    best = int(np.argmin(powers))
    assert 0 < best < 50
    assert powers[-1] > powers[0]


def test_a_slow_climb_costs_about_half_the_rise_in_weight_times_speed() -> None:
    """Axial momentum theory: T·(w + v_i) − T·v_h → T·w/2 for small w, with κ on the induced part."""
    rise = (flight(0.0, climb=0.1)[0] - flight(0.0)[0]) / (20.0 * 0.1)
    assert rise == pytest.approx(1 - 1.15 / 2, abs=0.01)


def test_a_good_rotor_keeps_its_hover_power() -> None:
    """Where 1/FM is under κ there is no profile power left to add, and the induced factor follows FM."""
    area = rotor.disc_area_m2(4, 0.254)
    power, _ = rotor.flight_power_w(20.0, RHO, area, 0.95, 0.03, 0.0, 0.0, 90.0)
    assert float(power) == pytest.approx(float(rotor.hover_power_w(20.0, RHO, area, 0.95)), rel=1e-9)


@given(st.floats(0.5, 400), st.floats(0, 30), st.floats(0, 8))
def test_glauerts_equation_is_met(thrust: float, along: float, through: float) -> None:
    area = 0.2
    induced = float(rotor.induced_velocity(thrust, RHO, area, along, through))
    hover = thrust / (2 * RHO * area)
    assert induced * math.hypot(along, through + induced) == pytest.approx(hover, rel=1e-6)


def test_array_equals_scalar() -> None:
    speeds = np.array([0.0, 4.0, 12.0])
    area = rotor.disc_area_m2(4, 0.254)
    together, _ = rotor.flight_power_w(np.full(3, 20.0), RHO, area, 0.66, 0.03, speeds, np.zeros(3), np.full(3, 90.0))
    assert together == pytest.approx([flight(v)[0] for v in speeds], rel=1e-12)


def test_operating_point_by_hand() -> None:
    """5 N a rotor: n = √(5/(0.1205·1.225·0.254⁴)) = 90.2 rev/s. Torque 47.6 W/(2π·90.2) = 0.0840 N·m,
    I = 0.0840·2π·11.667 + 0.6 = 6.76 A, V = 90.2/11.667 + 6.76·0.105 = 8.44 V, P = 4·8.44·6.76/0.95 = 240 W."""
    power, volts = operating_point(drive(), np.array([20.0]), np.array([4 * 47.6]))
    assert volts[0] == pytest.approx(8.44, abs=0.03)
    assert power[0] == pytest.approx(240, abs=2)


def test_a_controller_keeps_less_at_part_throttle() -> None:
    """8.44 of 14.6 V is a duty of 0.578: it keeps 0.95 − 0.12·0.422 = 0.899, and 240 W become 253.4; diodes lose as
    much again, 0.849 and 268.5 W."""
    for loss, watts in ((0.12, 253.4), (0.24, 268.5)):
        power, _ = operating_point(drive(part_throttle_loss=loss), np.array([20.0]), np.array([4 * 47.6]), 14.6)
        assert power[0] == pytest.approx(watts, abs=2)
    full, _ = operating_point(drive(), np.array([20.0]), np.array([4 * 47.6]), 8.0)
    assert full[0] == pytest.approx(240, abs=2), "beyond full duty nothing more is lost"


def test_the_motor_at_no_torque_draws_its_no_load_current() -> None:
    assert motor_current_a(drive(), np.array([0.0]))[0] == 0.6


@given(
    emf=st.floats(6, 30), source=st.floats(0.001, 0.2), load=st.floats(0, 15), winding=st.floats(0.02, 0.3),
    kv=st.floats(300, 1500),
)  # fmt: skip
def test_full_throttle_is_where_motors_and_source_agree(
    emf: float, source: float, load: float, winding: float, kv: float
) -> None:
    """Against bracketing on the same balance written out again."""
    d = drive(winding_ohm=winding, kv_rev_s_v=kv / 60)
    k, q = kv / 60, float(d.torque_nm_s2[0])

    def gap(speed: float) -> float:
        motor = q * speed**2 * 2 * math.pi * k + 0.6
        bus = speed / k + motor * winding
        return emf - source * (4 * motor / 0.95 + load / bus) - bus

    # From no-load speed downwards: the first speed at which the source has volts to spare.
    spare = next((s for s in np.linspace(emf * k, 0.05 * emf * k, 2000) if gap(s) > 0), None)
    assume(spare is not None)
    speed = brentq(gap, spare, emf * k)
    motor = q * speed**2 * 2 * math.pi * k + 0.6
    expected_bus = speed / k + motor * winding
    current, bus = full_throttle(d, np.array([emf]), np.array([source]), np.array([load]))
    assert bus[0] == pytest.approx(expected_bus, rel=1e-6)
    assert current[0] == pytest.approx(4 * motor / 0.95 + load / expected_bus, rel=1e-6)
    assert emf - source * current[0] == pytest.approx(bus[0], rel=1e-6)
    thrust = full_throttle_thrust_n(d, bus)
    assert thrust[0] == pytest.approx(4 * float(d.thrust_n_s2[0]) * speed**2, rel=1e-6)


def test_more_source_resistance_gives_less_thrust() -> None:
    thrusts = []
    for ohm in (0.0, 0.02, 0.05, 0.2):
        _, bus = full_throttle(drive(), np.array([15.0]), np.array([ohm]), np.array([10.0]))
        thrusts.append(float(full_throttle_thrust_n(drive(), bus)[0]))
    assert thrusts == sorted(thrusts, reverse=True)
    assert thrusts[0] > thrusts[-1]
