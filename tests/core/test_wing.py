"""Flight on a wing: polar, stall, turns, propeller in the airstream, known cruises, and what cannot be flown."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq, minimize_scalar

from tests.builders import complete, craft
from wise_cellar.core.answer import Asked, answer, explain, wing_figures
from wise_cellar.core.documents import (
    Block,
    BlockKind,
    Conditions,
    Craft,
    DocumentError,
    KnownFlight,
    Mission,
    Rotors,
    Wing,
    WingLooks,
)
from wise_cellar.core.physics import wing as law
from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.physics.motor import Drive, full_throttle, full_throttle_thrust_n, throttle_current_a
from wise_cellar.core.propulsion import power_against_airspeed, power_against_mass
from wise_cellar.core.propulsion.carrier import WingPropulsion, propulsion
from wise_cellar.core.propulsion.steps import StepArrays

POLAR = law.Polar(area_m2=0.4, aspect_ratio=10, zero_lift_drag=0.04, span_efficiency=0.8, greatest_lift=1.25)
DENSE_C = 101325 / (287.05 * 1.25) - 273.15
"""Air at sea level has 1.25 kg/m³ at this temperature."""


def winged(**changes: Any) -> Craft:
    """A craft on a wing of 0.4 m² with an aspect ratio of 10."""
    wing = {"span_mm": 2000, "area_dm2": 40, "zero_lift_drag": 0.04, "greatest_lift": 1.25, "drive_efficiency": 0.5}
    rotors = Rotors(count=1, diameter_mm=254, pitch_mm=152)
    given: dict[str, Any] = {"rotors": rotors, "wing": Wing(**wing), "loads": (), "known_flights": ()}
    return craft(**(given | changes))


def lifted(of: Craft, temperature_c: float = DENSE_C) -> WingPropulsion:
    found = propulsion(of, 0, temperature_c, 1.0)
    assert isinstance(found, WingPropulsion)
    return found


def flying(*blocks: Block) -> Mission:
    return Mission(id="m", name="m", blocks=blocks)


def cruising(airspeed_m_s: float, **more: Any) -> Mission:
    return flying(Block(kind=BlockKind.CRUISE, airspeed_m_s=airspeed_m_s, duration_s=300, **more))


def test_stall_speed_by_hand() -> None:
    """√(2·20 N/(1.25·0.4 m²·1.25)) = √64 = 8 m/s."""
    assert law.stall_speed_m_s(POLAR, 1.25, 20.0) == pytest.approx(8.0)
    assert lifted(winged()).stall_m_s(np.array([20.0]))[0] == pytest.approx(8.0, rel=1e-6)


def test_drag_and_power_by_hand() -> None:
    """At 12 m/s q·S = ½·1.25·144·0.4 = 36 N. 0.04·36 = 1.44 N; k = 1/(π·0.8·10) = 0.0397887, k·400/36 = 0.442097 N;
    1.882097 N · 12 m/s ÷ 0.5 = 45.170 W. A climb of 2 m/s adds 20·2/0.5 = 80 W."""
    assert law.drag_n(POLAR, 1.25, 20.0, 12.0) == pytest.approx(1.882097, rel=1e-6)
    level, climbing = (lifted(winged()).power(np.array([20.0]), np.array([12.0]), np.array([w]))[0] for w in (0, 2))
    assert level[0] == pytest.approx(45.170, rel=1e-4)
    assert climbing[0] - level[0] == pytest.approx(80.0, rel=1e-6)


def test_best_speeds_are_the_minima_of_the_polar() -> None:
    """Least D·V lies at √(2W/(ρS))·(k/(3·CD₀))^¼ = √80·(0.0397887/0.12)^¼ = 6.787 m/s, under the stall here; least
    drag 3^¼ times as fast. Both are found again by a blind search of the drag itself."""
    found = float(law.least_power_speed_m_s(POLAR, 1.25, 20.0))
    assert found == pytest.approx(6.787, rel=1e-3)

    def drag(v: float) -> float:
        return float(law.drag_n(POLAR, 1.25, 20.0, v))

    assert minimize_scalar(lambda v: drag(v) * v, bounds=(2, 30), method="bounded").x == pytest.approx(found, rel=1e-4)
    least_drag = minimize_scalar(drag, bounds=(2, 30), method="bounded").x
    assert least_drag == pytest.approx(3**0.25 * found, rel=1e-4)
    assert lifted(winged()).holding_m_s(np.array([20.0]))[0] == pytest.approx(1.2 * 8.0)
    curve = power_against_airspeed(winged(), Conditions(air_temperature_c=DENSE_C), 20 / GRAVITY_M_S2 * 1e3, 1.0)
    assert curve.stall_m_s == pytest.approx(8.0, rel=1e-6)
    assert curve.airspeed_m_s[0] == curve.stall_m_s
    # Least drag, 8.93 m/s, lies under 1.2 times the stall too.
    assert (curve.longest_m_s, curve.furthest_m_s) == pytest.approx((9.6, 9.6), abs=0.15)


def test_the_furthest_speed_is_free_of_the_stall_where_drag_is_low() -> None:
    """With CD₀ = 0.01 least drag is at √80·(0.0397887/0.01)^¼ = 12.63 m/s, well over 1.2·8."""
    slick = winged(wing=Wing(span_mm=2000, area_dm2=40, zero_lift_drag=0.01, greatest_lift=1.25))
    curve = power_against_airspeed(slick, Conditions(air_temperature_c=DENSE_C), 20 / GRAVITY_M_S2 * 1e3, 1.0)
    assert curve.furthest_m_s == pytest.approx(12.63, abs=0.2)


def test_turns_ask_for_lift_and_raise_the_stall() -> None:
    """At 12 m/s on 20 m: 144/(9.80665·20) = 0.7342, n = √(1 + 0.539) = 1.2406. The turning stall of 8 m/s on 20 m
    solves V² = 64·n(V)."""
    assert law.load_factor(12.0, 20.0) == pytest.approx(1.2406, rel=1e-4)
    assert law.load_factor(12.0, math.inf) == 1.0
    found = float(law.turning_stall_m_s(8.0, 20.0))
    assert found**2 == pytest.approx(64 * float(law.load_factor(found, 20.0)))
    circle = flying(Block(kind=BlockKind.LOITER, duration_s=60, airspeed_m_s=12, radius_m=20))
    wide = flying(Block(kind=BlockKind.LOITER, duration_s=60, airspeed_m_s=12))
    weight = np.array([20.0])
    tight_w, wide_w = (
        lifted(winged()).step_power(weight, StepArrays.of(m, Conditions()))[0][0] for m in (circle, wide)
    )
    by_hand = law.drag_n(POLAR, 1.25, 20.0 * 1.24055, 12.0) * 12 / 0.5
    assert tight_w == pytest.approx(by_hand, rel=1e-4)
    assert wide_w == pytest.approx(45.170, rel=1e-4)


def test_throttle_is_that_of_a_motor_which_turns_as_the_airstream_asks() -> None:
    """The volts found carry the cruise's power through the winding: V·(V − n/k)/R, n from T = k_T·(n² − u·n)."""
    flown = lifted(winged())
    power, volts = flown.power(np.array([20.0]), np.array([12.0]), np.zeros(1))
    slip = 12.0 / (1.15 * 0.152)
    kt = float(flown.drive.thrust_n_s2[0])
    speed = brentq(lambda n: kt * (n * n - slip * n) - 1.882097, slip, 500)
    amps = (volts[0] - speed / float(flown.drive.kv_rev_s_v[0])) / float(flown.drive.winding_ohm[0])
    assert volts[0] * amps == pytest.approx(power[0] * float(flown.drive.controller_efficiency[0]), rel=1e-5)


@pytest.mark.parametrize("airspeed", [0.0, 10.0, 25.0])
def test_full_throttle_in_an_airstream_solves_motor_and_source(airspeed: float) -> None:
    """The three equations written out and solved by bisection on the motor's speed."""
    drive = lifted(winged()).drive
    slip, emf, source, load = airspeed / (1.15 * 0.152), 15.0, 0.04, 12.0
    current, bus = full_throttle(drive, *(np.array([v]) for v in (emf, source, load)), slip=slip)
    d = {name: float(getattr(drive, name)[0]) for name in Drive.__dataclass_fields__}

    def state(n: float) -> tuple[float, float]:
        torque = d["torque_nm_s2"] * (n * n - 0.7 * slip * n)
        amps = 2 * math.pi * d["kv_rev_s_v"] * torque + d["no_load_a"]
        volts = n / d["kv_rev_s_v"] + amps * d["winding_ohm"]
        return amps / d["controller_efficiency"] + load / volts, volts

    speed = brentq(lambda n: emf - source * state(n)[0] - state(n)[1], 5.0, 400.0)
    assert (current[0], bus[0]) == pytest.approx(state(speed), rel=1e-6)
    thrust = full_throttle_thrust_n(drive, bus, slip)
    assert thrust[0] == pytest.approx(max(d["thrust_n_s2"] * (speed**2 - slip * speed), 0), rel=1e-6)
    assert throttle_current_a(drive, np.ones(1), *(np.array([v]) for v in (emf, source, load)), slip=slip) == (
        pytest.approx(current)
    )


def test_a_faster_stream_unloads_the_propeller() -> None:
    drive = lifted(winged()).drive
    emf, source, load = np.array([15.0]), np.array([0.04]), np.zeros(1)
    found = [full_throttle(drive, emf, source, load, slip)[0][0] for slip in (0.0, 40.0, 80.0)]
    assert found[0] > found[1] > found[2] > 0


def test_a_known_cruise_gives_the_drag() -> None:
    """A cruise made with CD₀ = 0.05 by hand: 0.05·36 + 0.442097 = 2.242097 N, ·12/0.5 = 53.81 W; 14 V, 3.8436 A."""
    cruise = KnownFlight(takeoff_mass_g=20 / GRAVITY_M_S2 * 1e3, airspeed_m_s=12, mean_voltage_v=14,
                         mean_current_a=2.242097 * 12 / 0.5 / 14, air_temperature_c=DENSE_C)  # fmt: skip
    unknown = Wing(span_mm=2000, area_dm2=40, greatest_lift=1.25, drive_efficiency=0.5)
    flown = lifted(winged(wing=unknown, known_flights=(cruise,)))
    assert flown.polar.zero_lift_drag == pytest.approx(0.05, rel=1e-5)
    assert lifted(winged(wing=unknown)).polar.zero_lift_drag == 0.035, "tidy"
    drags = [lifted(winged(wing=unknown.changed(looks=looks))).polar.zero_lift_drag for looks in WingLooks]
    assert drags == [0.025, 0.035, 0.050]
    found = answer(complete(carrier=winged(wing=unknown, known_flights=(cruise,)), flown=cruising(12)))
    assert found.calibration is not None
    assert found.calibration.factor == pytest.approx(1.0)
    # Where the drag is given, the cruise makes a factor instead.
    scaled = answer(complete(carrier=winged(known_flights=(cruise,)), flown=cruising(12)))
    assert scaled.factor == pytest.approx(2.242097 / 1.882097, rel=1e-5)
    starved = cruise.model_copy(update={"mean_current_a": 0.2})
    with pytest.raises(DocumentError, match=r"drag coefficient of −?0\.0\d\d without lift"):
        answer(complete(carrier=winged(wing=unknown, known_flights=(starved,)), flown=cruising(12)))


def test_a_flight_draws_the_power_of_its_cruise() -> None:
    found = answer(complete(carrier=winged(), flown=cruising(14), conditions=Conditions(air_temperature_c=DENSE_C)))
    weight = found.takeoff_mass_g * 1e-3 * GRAVITY_M_S2
    by_hand = float(law.drag_n(POLAR, 1.25, weight, 14.0)) * 14 / 0.5
    assert found.mean_power_w == pytest.approx(by_hand, rel=1e-3)
    assert found.late_punch.thrust_margin == pytest.approx(found.late_punch.thrust_n * 14 / 0.5 / by_hand, rel=1e-6)
    figures = wing_figures(complete(carrier=winged(), flown=cruising(14)), found)
    assert figures is not None
    assert figures.loading_g_dm2 == pytest.approx(found.takeoff_mass_g / 40)
    assert figures.launch_a == pytest.approx(found.early_punch.amps_a_cell * complete().pack.recipe.parallel_count)
    assert "Wing" in {
        step.name for step in explain(complete(carrier=winged(), flown=cruising(14)), found, Asked.MINUTES)
    }
    assert wing_figures(complete(), answer(complete())) is None


def test_the_launch_is_made_at_rest_and_the_burst_at_speed() -> None:
    """In the airstream a propeller takes less, so that a first burst in flight would draw less than the launch."""
    fast, slow = (answer(complete(carrier=winged(), flown=cruising(v))) for v in (20, 12))
    assert fast.early_punch.amps_a_cell == pytest.approx(slow.early_punch.amps_a_cell)
    assert fast.late_punch.amps_a_cell < fast.early_punch.amps_a_cell
    assert fast.late_punch.thrust_n < slow.late_punch.thrust_n < slow.early_punch.thrust_n


def test_a_steep_descent_glides() -> None:
    """D·V − W·w < 0: no power, and no throttle."""
    glide = flying(Block(kind=BlockKind.DESCENT, duration_s=60, sink_m_s=4, airspeed_m_s=12))
    power, volts = lifted(winged()).step_power(np.array([20.0]), StepArrays.of(glide, Conditions()))
    assert (power[0], volts[0]) == (0.0, 0.0)


def test_what_a_wing_cannot_fly_is_marked_and_computed() -> None:
    mission = flying(
        Block(kind=BlockKind.HOVER, duration_s=60),
        Block(kind=BlockKind.CRUISE, duration_s=60, airspeed_m_s=5),
        Block(kind=BlockKind.CRUISE, duration_s=60, airspeed_m_s=9.5),
        Block(kind=BlockKind.LOITER, duration_s=60, radius_m=5),
    )
    case = complete(carrier=winged(), flown=mission)
    found = answer(case)
    figures = wing_figures(case, found)
    assert figures is not None
    said = {finding.field: finding.sentence for finding in found.findings}
    assert "cannot hover" in said["mission.blocks.0.kind"]
    assert f"stalls at {figures.stall_m_s:.1f} m/s" in said["mission.blocks.1.airspeed_m_s"]
    assert "over the stall" in said["mission.blocks.2.airspeed_m_s"]
    assert "stalls in any circle tighter" in said["mission.blocks.3.radius_m"]
    fine = answer(complete(carrier=winged(), flown=cruising(14)))
    assert not any(finding.field.startswith("mission.blocks.0") for finding in fine.findings)
    assert math.isfinite(found.duration_s)
    assert (found.series.pack_a > 0).all()


def test_the_mass_picture_ends_a_cruise_where_it_would_stall() -> None:
    masses = np.linspace(1000, 6000, 60)
    curve = power_against_mass(winged(), Conditions(), 10.0, masses, 1.0)
    stalls = lifted(winged(), 20).stall_m_s(masses * 1e-3 * GRAVITY_M_S2) > 10.0
    assert np.array_equal(np.isnan(curve.cruise_w), stalls)
    assert stalls.any()
    assert np.isfinite(curve.hover_w).all()


def test_a_wing_that_cannot_be_is_refused() -> None:
    with pytest.raises(DocumentError, match="aspect ratio of 100"):
        Wing.from_data({"span_mm": 2000, "area_dm2": 4})
    with pytest.raises(DocumentError, match="coaxial"):
        Craft.from_data(winged().model_dump() | {"rotors": {"count": 2, "coaxial": True, "diameter_mm": 254,
                                                            "pitch_mm": 152}})  # fmt: skip
