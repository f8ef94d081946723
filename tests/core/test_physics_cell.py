"""One cell: curves, power balance, exact steps, resistance readings."""

from __future__ import annotations

import csv
from importlib import resources

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.interpolate import PchipInterpolator

from tests.builders import cell_type, complete
from wise_cellar.core.answer import answer
from wise_cellar.core.cells import half_charge_slope
from wise_cellar.core.documents import OcvFamily
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.cell import (
    CellState,
    advance,
    arrhenius,
    constant_power_current,
    default_resistance_shape,
    electromotive_v,
    resistance_from_dcir,
    rested_v,
    step_filters,
    yielding_ohm,
)
from wise_cellar.core.physics.curve_bank import CurveBank, SocCurve, monotone_cubic
from wise_cellar.core.physics.ocv import LEAST_SLOPE_BELOW_EMPTY, ocv_curve


def table(family: str) -> tuple[np.ndarray, np.ndarray]:
    text = (resources.files("wise_cellar") / "data" / "ocv" / f"{family}.csv").read_text()
    rows = sorted((float(r["soc"]), float(r["ocv_v"])) for r in csv.DictReader(text.splitlines()))
    soc, volts = np.array(rows).T
    return soc, volts


def bank(*families: str, index: list[int] | None = None) -> CurveBank:
    curves = [ocv_curve(f) for f in families]
    return CurveBank(curves, np.array(index if index is not None else range(len(curves)), np.intp))


@pytest.mark.parametrize("family", list(OcvFamily))
def test_curves_go_through_their_tables(family: str) -> None:
    soc, volts = table(family)
    looked_up = bank(family, index=[0] * len(soc))(soc)
    assert looked_up == pytest.approx(volts, abs=1e-4)


@pytest.mark.parametrize("family", list(OcvFamily))
def test_curves_rise_and_fall_steeply_below_empty(family: str) -> None:
    values = ocv_curve(family).values
    assert np.all(np.diff(values) >= -1e-9)
    below = bank(family)(np.array([-0.05]))[0]
    assert below <= values[0] - 0.05 * LEAST_SLOPE_BELOW_EMPTY + 1e-9


@pytest.mark.parametrize("family", list(OcvFamily))
def test_the_monotone_cubic_is_scipys(family: str) -> None:
    soc, volts = table(family)
    grid = np.linspace(0, 1, 4001)
    assert monotone_cubic(soc, volts, grid) == pytest.approx(PchipInterpolator(soc, volts)(grid), abs=1e-12)


# Volts to a nanovolt: steps near the smallest number overflow in scipy as well.
@given(st.lists(st.floats(-5, 5).map(lambda volts: round(volts, 9)), min_size=2, max_size=12))
def test_the_monotone_cubic_is_scipys_on_any_data(values: list[float]) -> None:
    x, y = np.linspace(0, 1, len(values)), np.array(values)
    grid = np.linspace(0, 1, 101)
    assert monotone_cubic(x, y, grid) == pytest.approx(PchipInterpolator(x, y)(grid), abs=1e-9)


def test_a_bank_gives_each_flight_its_own_curve() -> None:
    families = ["lfp", "lipo_hobby", "lihv_hobby"]
    together = bank(*families, index=[2, 0, 1, 0])
    soc = np.array([0.3, 0.5, 0.95, 1.2])
    alone = [bank(families[i])(np.array([z]))[0] for i, z in zip([2, 0, 1, 0], soc, strict=True)]
    assert np.array_equal(together(soc), alone)
    assert np.array_equal(together[np.array([3, 1])](soc[[3, 1]]), [alone[3], alone[1]])


def test_a_curve_needs_points_from_empty_to_full() -> None:
    with pytest.raises(ValueError, match="from state of charge 0 to 1"):
        SocCurve.from_points(np.array([0.1, 1.0]), np.array([3.0, 4.0]))


def test_default_resistance_shape() -> None:
    shape = default_resistance_shape().values
    assert shape[1000] == pytest.approx(1.0)
    assert shape[100] == pytest.approx(1.5, abs=0.01), "half as much again at 5 %"
    assert np.all(np.diff(shape) < 0), "rising towards empty"


@given(st.floats(2.5, 4.3), st.floats(1e-4, 0.2), st.floats(0, 100))
def test_constant_power_is_delivered_or_refused(emf: float, ohm: float, power: float) -> None:
    current, supply = constant_power_current(np.array([emf]), np.array([ohm]), np.array([power]))
    if power <= emf**2 / (4 * ohm):
        assert (emf - current[0] * ohm) * current[0] == pytest.approx(power, rel=1e-9, abs=1e-9)
        assert current[0] <= emf / (2 * ohm) * (1 + 1e-9), "the root that goes to P/E as R goes to 0"
        assert supply[0] >= -1e-12
    else:
        assert supply[0] < 0
        assert current[0] == pytest.approx(emf / (2 * ohm))


def test_no_power_draws_no_current_and_no_resistance_draws_p_over_e() -> None:
    zero, _ = constant_power_current(np.array([3.7]), np.array([0.02]), np.array([0.0]))
    assert zero[0] == 0
    ideal, _ = constant_power_current(np.array([3.7]), np.array([1e-12]), np.array([37.0]))
    assert ideal[0] == pytest.approx(10)


def test_arrhenius_by_hand() -> None:
    """20 kJ/mol from 25 to 0 °C: exp(2405.6·(1/273.15 − 1/298.15)) = exp(0.7384) = 2.093."""
    assert arrhenius(np.array([20e3]), np.array([273.15]))[0] == pytest.approx(2.0926, rel=1e-3)
    assert arrhenius(np.array([20e3]), np.array([298.15]))[0] == 1


def test_a_step_with_a_ramp_is_exact() -> None:
    """The state after one long step equals a tight numerical integration of the same linear equations."""
    batch = lower([lower_one(complete(), 1.0)])
    cell = batch.cell
    start = CellState(*(np.full((1, 1, 1), value) for value in (0.8, 0.004, 0.02, 301.0)))
    h, i0, i1, q0, q1, factor = 47.0, 6.0, 9.0, 0.7, 1.4, np.array([300.0])

    def derivative(t: float, y: np.ndarray) -> list[float]:
        current, heat = i0 + (i1 - i0) * t / h, q0 + (q1 - q0) * t / h
        slow = arrhenius(cell.lag_activation_j_mol, factor)[0, 0, 0]
        stiff = arrhenius(cell.resistance_activation_j_mol, factor)[0, 0, 0]
        return [
            -current / cell.charge_c[0, 0, 0],
            (cell.lag_gain_s[0, 0, 0] * slow * current / cell.charge_c[0, 0, 0] - y[1])
            / (cell.lag_tau_s[0, 0, 0] * slow),
            (cell.r1_ohm[0, 0, 0] * stiff * current - y[2]) / cell.tau1_s[0, 0, 0],
            (heat - cell.cooling_w_k[0, 0, 0] * (y[3] - cell.air_k[0, 0, 0])) / cell.heat_capacity_j_k[0, 0, 0],
        ]

    exact = solve_ivp(derivative, (0, h), [0.8, 0.004, 0.02, 301.0], rtol=1e-11, atol=1e-13).y[:, -1]
    one = np.array
    filters = step_filters(cell, one([h]), factor)
    end = advance(cell, start, one([h]), one([i0]), one([i1]), one([q0]), one([q1]), filters)
    assert [end.soc[0, 0, 0], end.lag[0, 0, 0], end.v1[0, 0, 0]] == pytest.approx(list(exact[:3]), rel=1e-8)
    assert end.temperature_k[0, 0, 0] == pytest.approx(exact[3], rel=1e-9)


def test_two_steps_along_one_ramp_are_one_step() -> None:
    cell = lower([lower_one(complete(), 1.0)]).cell
    start = CellState(*(np.array([x]) for x in (0.5, 0.0, 0.0, 295.0)))
    one, factor = np.array, np.array([295.0])
    long, short = (step_filters(cell, one([seconds]), factor) for seconds in (20.0, 10.0))
    whole = advance(cell, start, one([20.0]), one([4.0]), one([8.0]), one([1.0]), one([1.0]), long)
    half = advance(cell, start, one([10.0]), one([4.0]), one([6.0]), one([1.0]), one([1.0]), short)
    both = advance(cell, half, one([10.0]), one([6.0]), one([8.0]), one([1.0]), one([1.0]), short)
    for name in CellState.__dataclass_fields__:
        assert getattr(whole, name)[0] == pytest.approx(getattr(both, name)[0], rel=1e-12)


@pytest.mark.parametrize("seconds", [0.5, 20.0, 400.0])
def test_the_volts_at_a_steps_end_yield_to_its_last_current_as_told(seconds: float) -> None:
    cell = lower([lower_one(complete(), 1.0)]).cell
    start = CellState(*(np.full((1, 1, 1), value) for value in (0.6, 0.004, 0.02, 290.0)))
    step = np.full((1, 1, 1), seconds)
    filters = step_filters(cell, step, start.temperature_k)

    def end(amps: float) -> CellState:
        one = [np.full((1, 1, 1), value) for value in (5.0, amps, 0.5, 0.5)]
        return advance(cell, start, step, *one, filters)

    # Within one step of the curves' grid, on which they run straight.
    little = 1e-4 / seconds
    fall = electromotive_v(cell, end(6.0)) - electromotive_v(cell, end(6.0 + little))
    assert fall / little == pytest.approx(yielding_ohm(cell, end(6.0), step, filters), rel=1e-4)


def test_resistance_from_a_pulse_reading_gives_the_reading_back() -> None:
    """A 10 s pulse simulated by hand with the R₀ and R₁ found must show the DCIR that was read."""
    dcir, charge, gain, tau, slope = 0.027, 4850 * 3.6, 0.035 * 3600, 120.0, 0.85
    r0, r1 = resistance_from_dcir(dcir, charge, gain, tau, slope)
    seen = r0 + r1 * (1 - np.exp(-10 / 15)) + gain / charge * (1 - np.exp(-10 / tau)) * slope
    assert seen == pytest.approx(dcir)
    assert r1 == pytest.approx(0.3 * r0)


def test_a_doubtful_reading_never_leaves_a_cell_without_resistance() -> None:
    r0, _ = resistance_from_dcir(0.001, 3600.0, 0.035 * 3600, 120.0, 0.9)
    assert r0 > 0.4e-3


def test_the_half_charge_slope_is_that_of_the_table() -> None:
    soc, volts = table("liion_energy_nmc_siox")
    by_hand = (np.interp(0.52, soc, volts) - np.interp(0.48, soc, volts)) / 0.04
    assert half_charge_slope(cell_type()) == pytest.approx(by_hand, rel=0.02)


@pytest.mark.parametrize("seconds", [10.0, 3600.0])
def test_a_resting_cell_comes_back_as_its_equations_have_it(seconds: float) -> None:
    """Against lag and polarisation that fade by themselves, each in its own time; the air is as warm as the cell."""
    cell = lower([lower_one(complete(), 1.0)]).cell
    shape = cell.charge_c.shape
    state = CellState(*(np.full(shape, value) for value in (0.4, 0.03, 0.05)), cell.air_k.copy())
    warm = arrhenius(cell.lag_activation_j_mol, cell.air_k)
    lag = 0.03 * np.exp(-seconds / (cell.lag_tau_s * warm))
    v1 = 0.05 * np.exp(-seconds / cell.tau1_s)
    assert rested_v(cell, state, seconds) == pytest.approx(cell.ocv(state.soc - lag) - v1, rel=1e-12)


def test_after_an_hour_a_cell_rests_and_after_ten_seconds_it_does_not_yet() -> None:
    found = answer(complete())
    assert float(found.series.loaded_v[-1]) < found.soon_v < found.hour_v <= found.resting_v + 1e-9
    assert found.hour_v == pytest.approx(found.resting_v, abs=1e-3)
    assert found.resting_v - found.soon_v > 0.01
