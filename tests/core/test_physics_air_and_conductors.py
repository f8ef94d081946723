"""Air and conductors against tables and closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_bvp, solve_ivp

from wise_cellar.core.physics.atmosphere import air_density, pressure
from wise_cellar.core.physics.conductor import (
    METALS,
    SURFACE_FREE,
    SURFACE_WRAPPED,
    Conductor,
    Metal,
    awg_diameter_m,
    felt,
    insulation_wall_m,
    lead_mass_kg,
    lead_surface_w_m2_k,
    stranded_lead,
    strip_rise_k,
)


def flat_strip(metal: Metal, length_m: float, width_m: float, thickness_m: float, surface: float) -> Conductor:
    """A bare strip of one metal."""
    return Conductor(((metal, width_m * thickness_m),), length_m, 2 * (width_m + thickness_m), surface)


@pytest.mark.parametrize(
    ("altitude", "kelvin", "density", "pascal"),
    [
        (0, 288.15, 1.2250, 101325),
        (1000, 281.651, 1.1116, 89874.6),
        (2000, 275.154, 1.0065, 79495.2),
        (3000, 268.659, 0.9091, 70108.5),
    ],
)
def test_standard_atmosphere_table(altitude: float, kelvin: float, density: float, pascal: float) -> None:
    """ISO 2533 table values at geopotential altitude (density to four decimals, pressure in Pa)."""
    assert air_density(altitude, kelvin) == pytest.approx(density, abs=2e-4)
    assert pressure(altitude) == pytest.approx(pascal, rel=2e-4)


def test_density_of_an_array_is_that_of_each() -> None:
    altitudes = np.array([0.0, 500.0, 2500.0])
    together = air_density(altitudes, 285.0)
    assert together == pytest.approx([air_density(h, 285.0) for h in altitudes], rel=1e-14)


def test_warm_air_is_thin() -> None:
    assert air_density(0, 313.15) < air_density(0, 273.15)


@pytest.mark.parametrize(("gauge", "millimetres"), [(10, 2.588), (12, 2.053), (14, 1.628), (20, 0.812), (24, 0.511)])
def test_wire_gauge_table(gauge: int, millimetres: float) -> None:
    """ASTM B258 diameters."""
    assert awg_diameter_m(gauge) * 1e3 == pytest.approx(millimetres, abs=5e-4)


def test_a_metre_of_12_awg_copper() -> None:
    """3.309 mm² of copper: 1.724e-8/3.309e-6 = 5.21 mΩ/m, the handbook's 5.211 at 20 °C."""
    lead = stranded_lead(12, 1.0)
    assert lead.resistance_ohm() * 1e3 == pytest.approx(5.21, abs=0.01)
    assert lead.resistance_ohm(70.0) / lead.resistance_ohm() == pytest.approx(1 + 0.0039 * 50)


def test_a_nickel_strip_carries_what_the_rule_says() -> None:
    """8 × 0.15 mm pure nickel, free air, 20 K: √(12·16.3e-3·20·1.2e-6/6.99e-8) = 8.19 A, "about 8 A"."""
    strip = flat_strip(METALS["nickel"], 0.02, 8e-3, 0.15e-3, SURFACE_FREE)
    by_hand = math.sqrt(12 * 2 * (8e-3 + 0.15e-3) * 20 * (8e-3 * 0.15e-3) / 6.99e-8)
    assert strip.heating.rated_current_a(20) == pytest.approx(by_hand, rel=1e-12)
    assert strip.heating.rated_current_a(20) == pytest.approx(8, abs=0.3)
    assert strip.heating.steady_rise_k(strip.heating.rated_current_a(30)) == pytest.approx(30)


def test_strip_resistance_and_mass_by_hand() -> None:
    """20 mm of 8 × 0.2 mm nickel: 6.99e-8·0.02/1.6e-6 = 0.874 mΩ; 8900·0.02·1.6e-6 = 0.285 g."""
    strip = flat_strip(METALS["nickel"], 0.02, 8e-3, 0.2e-3, SURFACE_WRAPPED)
    assert strip.resistance_ohm() == pytest.approx(0.87375e-3)
    assert strip.mass_per_m * 0.02 == pytest.approx(0.2848e-3)


def test_lead_mass_by_hand() -> None:
    """A metre of 14 AWG: copper 2.081 mm² · 8960 · 1.15 = 21.4 g; wall 0.7333 mm: silicone 6.80 g."""
    assert insulation_wall_m(14) == pytest.approx(0.73333e-3, rel=1e-4)
    d, outside = 1.6277e-3, 1.6277e-3 + 2 * 0.73333e-3
    by_hand = 8960 * math.pi * d**2 / 4 * 1.15 + 1250 * math.pi * (outside**2 - d**2) / 4
    assert lead_mass_kg(14, 1.0) == pytest.approx(by_hand, rel=1e-3)
    assert lead_mass_kg(14, 1.0) == pytest.approx(28.2e-3, abs=0.3e-3)


conductors = st.builds(
    lambda metal, width, thickness: flat_strip(METALS[metal], 0.02, width * 1e-3, thickness * 1e-3, SURFACE_WRAPPED),
    st.sampled_from(sorted(METALS)),
    st.floats(2, 30),
    st.floats(0.05, 1),
)


@given(conductors, st.floats(0.1, 600), st.floats(0, 0.95))
def test_a_pulse_of_the_allowed_current_reaches_the_allowed_rise(
    strip: Conductor, seconds: float, before: float
) -> None:
    start = before * strip.heating.rated_current_a(30)
    allowed = strip.heating.pulse_current_a(30, seconds, start)
    assert allowed >= strip.heating.rated_current_a(30) * 0.999
    assert strip.heating.pulse_rise_k(allowed, seconds, start) == pytest.approx(30, rel=1e-6)


@given(conductors)
def test_a_long_pulse_is_a_steady_current_and_too_much_before_leaves_none(strip: Conductor) -> None:
    rated = strip.heating.rated_current_a(30)
    assert strip.heating.pulse_current_a(30, 100 * strip.heating.time_constant_s, 0) == pytest.approx(rated, rel=1e-6)
    assert strip.heating.pulse_current_a(30, 1e-3, 1.5 * rated) == 0


def test_heating_of_a_pulse_agrees_with_the_heat_balance_stepped_through() -> None:
    """C'·dΔT/dt = I²R' − h·p·ΔT in small steps."""
    strip = flat_strip(METALS["nickel"], 0.02, 8e-3, 0.2e-3, SURFACE_WRAPPED)
    rise, current = strip.heating.steady_rise_k(8.0), 40.0
    per_metre = 6.99e-8 / 1.6e-6
    heat = 8900 * 444 * 1.6e-6
    for _ in range(5000):
        rise += 1e-3 * (current**2 * per_metre - strip.surface * strip.perimeter_m * rise) / heat
    assert strip.heating.pulse_rise_k(40.0, 5.0, 8.0) == pytest.approx(rise, rel=1e-3)


@given(conductors, st.floats(0, 0.95), st.floats(1.05, 20))
def test_the_time_allowed_is_the_time_that_reaches_the_allowed_rise(
    strip: Conductor, before: float, over: float
) -> None:
    heating, rated = strip.heating, strip.heating.rated_current_a(30)
    seconds = heating.allowed_s(30, over * rated, before * rated)
    assert heating.pulse_rise_k(over * rated, seconds, before * rated) == pytest.approx(30, rel=1e-6)
    assert heating.allowed_s(30, 0.99 * rated, before * rated) == math.inf
    assert heating.allowed_s(30, over * rated, 1.1 * rated) == 0


def test_copper_along_a_strip_takes_its_share() -> None:
    """8 × 0.2 mm nickel with 8 × 0.2 mm copper: 1.6e-6/6.99e-8 + 1.6e-6/1.724e-8 = 22.89 + 92.81 S·m."""
    both = Conductor(((METALS["nickel"], 1.6e-6), (METALS["copper"], 1.6e-6)), 0.02, 17e-3, SURFACE_WRAPPED)
    assert both.resistance_ohm() == pytest.approx(0.02 / 115.70, rel=1e-4)
    assert both.mass_per_m == pytest.approx(1.6e-6 * (8900 + 8960))
    alone = flat_strip(METALS["nickel"], 0.02, 8e-3, 0.2e-3, SURFACE_WRAPPED)
    assert both.heating.rated_current_a(30) > 2 * alone.heating.rated_current_a(30)


@pytest.mark.parametrize(("gauge", "expected"), [(24, 31), (10, 19)])
def test_thin_leads_shed_more_heat_from_each_square_metre(gauge: int, expected: float) -> None:
    """Free convection and radiation at 40 K: 31 W/(m² K) round 24 AWG, 19 round 10 AWG; half of it under a wrap."""
    outside = awg_diameter_m(gauge) + 2 * insulation_wall_m(gauge)
    assert lead_surface_w_m2_k(outside) == pytest.approx(expected, abs=1)
    assert stranded_lead(gauge, 1.0, wrapped=True).surface == pytest.approx(stranded_lead(gauge, 1.0).surface / 2)


def test_a_strip_between_cells_is_a_fin_held_at_its_ends() -> None:
    """Against the equation of the fin solved numerically: k·A·T″ − h·P·T + I²R′ = 0 with T = 0 at both ends, and the
    ends above the cell by half of the heat each."""
    area, perimeter, length, current = 8e-3 * 0.2e-3, 2 * 8.2e-3, 0.0216, 20.0
    strip = Conductor(((METALS["nickel"], area),), length, perimeter, SURFACE_WRAPPED, between_cells=True)
    heat = current**2 * 6.99e-8 / area
    solved = solve_bvp(
        lambda _x, y: np.vstack([y[1], (SURFACE_WRAPPED * perimeter * y[0] - heat) / (91 * area)]),
        lambda a, b: np.array([a[0], b[0]]), np.linspace(0, length, 41), np.zeros((2, 41)),
    )  # fmt: skip
    into_each_cap = heat * length / 2
    assert strip.heating.steady_rise_k(current) == pytest.approx(solved.y[0].max() + 20.0 * into_each_cap, rel=1e-3)
    over_air = Conductor(((METALS["nickel"], area),), length, perimeter, SURFACE_WRAPPED)
    assert strip.heating.steady_rise_k(current) < over_air.heating.steady_rise_k(current) / 5


def test_a_very_long_strip_between_cells_is_as_one_in_air() -> None:
    """Its middle is; its ends bring all of its heat into the caps, which this law then overstates."""
    parts = ((METALS["nickel"], 1.6e-6),)
    long = Conductor(parts, 2.0, 16.4e-3, SURFACE_WRAPPED, between_cells=True)
    alone = Conductor(parts, 2.0, 16.4e-3, SURFACE_WRAPPED)
    caps = 20.0 * long.ohm_per_m * 1.0
    assert long.heating.rise_k_a2 - caps == pytest.approx(alone.heating.rise_k_a2, rel=1e-6)


@pytest.mark.parametrize(("cells", "allowed"), [(25, 30), (45, 30), (60, 15), (74.5, 1), (90, 1)])
def test_strips_and_cells_together_stay_under_the_sleeve(cells: float, allowed: float) -> None:
    assert strip_rise_k(cells) == pytest.approx(allowed)


@given(st.floats(0, 1e4), st.floats(0, 1e4), st.floats(0, 1e4), st.floats(1e-3, 300), st.floats(0.3, 200))
def test_what_metal_feels_is_its_own_equation(
    before: float, start: float, end: float, seconds: float, tau: float
) -> None:
    """τ·dy/dt = I² − y with I² running straight."""
    law = felt(*(np.array(value) for value in (before, start, end, seconds, tau)))
    solved = solve_ivp(
        lambda t, y: (start + (end - start) * t / seconds - y) / tau, (0, seconds), [before], rtol=1e-9, atol=1e-9
    )
    assert float(law) == pytest.approx(float(solved.y[0, -1]), rel=1e-5, abs=1e-5)
