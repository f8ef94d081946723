"""Claims that cannot be true are named, with numbers that come from the model."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.builders import cell_type, complete
from wise_cellar.core.physics.ocv import ocv_curve
from wise_cellar.core.shelf import claims, sustained


def doubts(**changes: object) -> list[str]:
    values = {"capacity_mah": 4500, "continuous_current_a": 10, "pulse_current_a": 20, "dcir_mohm": 20}
    return claims(complete(cell=cell_type(**(values | changes))))


def test_a_modest_sheet_raises_no_doubt() -> None:
    assert doubts() == []


def test_more_than_the_can_holds_is_doubted() -> None:
    """9 900 mAh in an 18650: 36.6 Wh in 0.0173 l is over 2 100 Wh a litre, and 780 Wh/kg at 47 g."""
    found = doubts(capacity_mah=9900, diameter_mm=18.4, length_mm=65.2, mass_g=47)
    assert any("Wh/kg; no such cell passes 320" in sentence for sentence in found)
    assert any("The label promises more than the can holds" in sentence for sentence in found)


def test_a_rating_that_heat_forbids_is_doubted_and_the_bearable_one_told() -> None:
    found = [s for s in doubts(continuous_current_a=45, pulse_current_a=60) if "cannot be held" in s]
    assert len(found) == 1
    held = sustained(complete(cell=cell_type(continuous_current_a=45, pulse_current_a=60, dcir_mohm=20)))
    assert f"up to {held.current_a:.0f} A" in found[0]
    assert 10 < held.current_a < 45


def test_less_resistance_sustains_more() -> None:
    currents = [
        sustained(complete(cell=cell_type(continuous_current_a=35, dcir_mohm=dcir))).current_a for dcir in (10, 20, 40)
    ]
    assert currents == sorted(currents, reverse=True)
    assert currents[0] > 1.2 * currents[2]


def test_a_large_sag_at_the_rating_is_told() -> None:
    assert any("it loses 0.90 V to its own 45 mΩ" in s for s in doubts(continuous_current_a=20, dcir_mohm=45))


def test_the_bearable_current_agrees_with_a_heat_balance_of_its_own() -> None:
    """A coarse balance: C dT/dt = I²·R(T) − U·A·(T − 25) over the time Q/I, R with the Arrhenius factor only."""
    cell = cell_type(continuous_current_a=35, dcir_mohm=20, kinetic_class="power cylinder")
    held = sustained(complete(cell=cell)).current_a
    area = np.pi * 0.0212 * (0.0702 + 0.0106)

    def hottest(current: float) -> float:
        def slope(_t: float, t: np.ndarray) -> np.ndarray:
            factor = np.exp(20e3 / 8.314 * (1 / (t + 273.15) - 1 / 298.15))
            # The shape of R₀ averages about 1.1 over a whole discharge.
            return (current**2 * 0.020 * 1.1 * factor - 20 * area * (t - 25)) / (0.070 * 950)

        return float(solve_ivp(slope, (0, 4.5 * 3600 / current), [25.0]).y[0].max())

    assert hottest(0.8 * held) < 60 < hottest(1.25 * held)


def test_a_fit_below_the_label_is_told() -> None:
    from wise_cellar.core.documents import FittedModel

    curve = ocv_curve("liion_energy_nmc_siox").values[::100]
    soc = tuple(np.linspace(0, 1, len(curve)).tolist())
    fitted = FittedModel(
        capacity_mah=4100, ocv_soc=soc, ocv_v=tuple(curve.tolist()), resistance_soc=(0.0, 1.0),
        resistance_mohm=(20.0, 15.0), r1_mohm=5, tau1_s=15, lag_gain_s=100, lag_tau_s=100,
        resistance_activation_j_mol=20e3, lag_activation_j_mol=25e3, residual_mv=3, highest_current_a=20, coldest_c=20,
        warmest_c=40,
    )  # fmt: skip
    assert any("Measured 4100 mAh where the label says 4500" in s for s in doubts(fitted=fitted))


def test_a_cell_that_can_give_nothing_sustains_nothing() -> None:
    assert (
        sustained(complete(cell=cell_type(dcir_mohm=500, continuous_current_a=300, pulse_current_a=None))).current_a
        == 0
    )


@pytest.mark.parametrize("family", ["lipo_hobby", "lfp", "liion_power_nca"])
def test_every_family_can_be_asked(family: str) -> None:
    cell = cell_type(ocv_family=family, min_voltage_v=2.0 if family == "lfp" else 3.0)
    held = sustained(complete(cell=cell))
    assert held.current_a > 0
    assert held.at_rating_c > 25
