"""Power against mass and airspeed, best speeds, coaxial pairs."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.builders import complete, craft
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import Conditions, Craft, DocumentError, Rotors
from wise_cellar.core.lowering.designs import propulsion
from wise_cellar.core.physics.rotor import flight_power_w
from wise_cellar.core.propulsion import power_against_airspeed, power_against_mass


def test_the_furthest_speed_is_where_a_line_from_the_origin_touches() -> None:
    """dP/dV = P/V there, and the longest flight is at the curve's lowest point."""
    curve = power_against_airspeed(craft(), Conditions(), 2000, 1.0)
    slope = np.gradient(curve.power_w, curve.airspeed_m_s)
    there = int(np.argmin(np.abs(curve.airspeed_m_s - curve.furthest_m_s)))
    assert slope[there] == pytest.approx(curve.power_w[there] / curve.furthest_m_s, rel=0.03)
    assert curve.power_at(curve.longest_m_s) == curve.power_w.min()
    assert 0 < curve.longest_m_s < curve.furthest_m_s < curve.airspeed_m_s[-1]
    assert curve.km_for(100, 10) == pytest.approx(100 / curve.power_at(10) * 36)


def test_the_speed_curve_is_the_mission_s_own_power() -> None:
    curve = power_against_airspeed(craft(), Conditions(), 2000, 1.1)
    mass = power_against_mass(craft(), Conditions(), 9.0, np.array([2000.0]), 1.1)
    assert curve.power_at(9.0) == pytest.approx(mass.cruise_w[0], rel=1e-4)
    assert curve.power_w[0] == pytest.approx(mass.hover_w[0])


def test_a_coaxial_pair_is_worth_1_28_discs() -> None:
    """Hover power goes with 1/√A: eight rotors in four pairs take √(2/1.28) = 1.25 times what eight apart take, and
    √(1/1.28) = 0.884 times what four alone take."""
    apart, pairs = (craft(rotors=Rotors(count=8, coaxial=c, diameter_mm=254, pitch_mm=114)) for c in (False, True))
    weight, still = np.array([30.0]), np.zeros(1)

    def shaft(of: Craft) -> float:
        drive = propulsion(of, 0, 15, 1.0)
        return float(flight_power_w(weight, drive.density, drive.area_m2, drive.figure_of_merit, drive.drag_area_m2,
                                    still, still, np.array([50.0]))[0][0])  # fmt: skip

    four = craft(rotors=Rotors(count=4, diameter_mm=254, pitch_mm=114))
    assert shaft(pairs) / shaft(apart) == pytest.approx(math.sqrt(2 / 1.28))
    assert shaft(pairs) / shaft(four) == pytest.approx(math.sqrt(1 / 1.28))
    with pytest.raises(DocumentError, match="3 rotors do not make coaxial pairs"):
        Rotors.from_data({"count": 3, "coaxial": True, "diameter_mm": 254, "pitch_mm": 114})


def test_full_throttle_of_a_pair_agrees_with_its_hover() -> None:
    """At the speed of a hover the drive's torque law gives the hover's own shaft power."""
    drive = propulsion(craft(rotors=Rotors(count=8, coaxial=True, diameter_mm=254, pitch_mm=114)), 0, 15, 1.0)
    weight = 30.0
    speed = math.sqrt(weight / 8 / float(drive.drive.thrust_n_s2[0]))
    torque = float(drive.drive.torque_nm_s2[0]) * speed**2
    hover = weight * math.sqrt(weight / (2 * drive.density * drive.area_m2)) / drive.figure_of_merit
    assert 8 * 2 * math.pi * speed * torque == pytest.approx(hover, rel=1e-6)


def test_propellers_that_overlap_are_told_and_still_fly() -> None:
    near, apart = (
        answer(complete(carrier=craft(rotors=Rotors(diameter_mm=254, pitch_mm=114, spacing_mm=spacing))))
        for spacing in (240, 280)
    )
    said = [f.sentence for f in near.findings if f.field == "craft.rotors.spacing_mm"]
    assert said == [
        "Propellers of 254 mm on motors 240 mm apart overlap; the power here is that of rotors that do not."
    ]
    assert near.duration_s == apart.duration_s > 0
    assert not [f for f in apart.findings if f.field == "craft.rotors.spacing_mm"]
