"""Each claim of a sheet is judged, with numbers that come from the model."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.builders import cell_type, complete, fitted_model, whole_pack
from wise_cellar.core.cells import sheet_verdict
from wise_cellar.core.documents import BenchResult, CellType
from wise_cellar.core.shelf import Claim, Sustained, Verdict, claims, sustained
from wise_cellar.core.units import format_mah

_TABLE = np.loadtxt(files("wise_cellar") / "data" / "ocv" / "liion_energy_nmc_siox.csv", delimiter=",", skiprows=1)
RESTING_V = abs(float(np.trapezoid(_TABLE[:, 1], _TABLE[:, 0])))
MODEST = {"capacity_mah": 4500, "continuous_current_a": 10, "pulse_current_a": 20, "dcir_mohm": 20}


def cell(**changes: object) -> CellType:
    return cell_type(**(MODEST | changes))


@cache
def modest() -> Sustained:
    """What the modest cell sustains; for claims that do not hang on heat, it stands in for what any cell does."""
    return sustained(complete(cell=cell()))


def judged(of: CellType, held: Sustained | None = None) -> dict[str, Claim]:
    found = claims(of, held or sustained(complete(cell=of)))
    assert [c.verdict for c in found] == sorted((c.verdict for c in found), reverse=True), "the worst come first"
    return {claim.title: claim for claim in found}


def test_everything_on_a_modest_sheet_holds() -> None:
    assert {claim.verdict for claim in judged(cell()).values()} == {Verdict.HOLDS}
    assert sheet_verdict(cell()) is Verdict.HOLDS


def test_more_than_the_can_holds_cannot_be() -> None:
    """9 900 mAh in an 18650: 36.9 Wh in 17.3 ml is over 2 100 Wh a litre, and over 780 Wh/kg at 47 g."""
    liar = cell(form_factor="18650", capacity_mah=9900, diameter_mm=18.4, length_mm=65.2, mass_g=47)
    found = judged(liar, modest())
    for title in ("Energy for its mass", "Energy for its size"):
        assert found[title].verdict is Verdict.CANNOT_BE
        assert "no 18650 cells have held more than" in found[title].sentence
    energy = 9.9 * RESTING_V
    assert f"= {energy:.1f} Wh; ÷ 47 g = {1000 * energy / 47:.0f} Wh/kg" in found["Energy for its mass"].arithmetic
    assert sheet_verdict(liar) is Verdict.CANNOT_BE


@pytest.mark.parametrize(
    ("mass_g", "verdict", "says"),
    [(70, Verdict.HOLDS, "usual"), (58, Verdict.DOUBTFUL, "too light"), (40, Verdict.CANNOT_BE, "too light"),
     (95, Verdict.CANNOT_BE, "too heavy")],
)  # fmt: skip
def test_mass_is_held_against_size(mass_g: float, verdict: Verdict, says: str) -> None:
    """A 21700 of 24.8 ml: 70 g are 2.8 g/ml, 58 g 2.3, 40 g 1.6, 95 g 3.8; steel cans have 2.5 to 3.1."""
    found = judged(cell(mass_g=mass_g), modest())["Mass against size"]
    assert found.verdict is verdict
    assert says in found.sentence


def test_a_rating_that_heat_forbids_is_doubted_with_the_time_to_60_and_the_bearable_current() -> None:
    hot = cell(continuous_current_a=25, pulse_current_a=60)
    found, held = judged(hot)["Heat at its rated 25 A"], sustained(complete(cell=hot))
    assert found.verdict is Verdict.DOUBTFUL
    assert held.at_claim.to_60_c_s is not None
    assert f"60 °C are passed after {held.at_claim.to_60_c_s / 60:.0f} min" in found.sentence
    assert f"Up to {held.trusted_a:.0f} A can be held" in found.sentence
    assert "(25 A)² × 20 mΩ = 12.5 W a cell" in found.arithmetic
    assert 12.5 < held.trusted_a < 25


def test_a_rating_more_than_twice_the_bearable_current_cannot_be() -> None:
    hot = cell(continuous_current_a=60, pulse_current_a=80)
    assert sustained(complete(cell=hot)).trusted_a < 30
    assert judged(hot)["Heat at its rated 60 A"].verdict is Verdict.CANNOT_BE


def test_less_resistance_sustains_more() -> None:
    currents = [sustained(complete(cell=cell(continuous_current_a=35, pulse_current_a=None, dcir_mohm=dcir))).trusted_a
                for dcir in (10, 20, 40)]  # fmt: skip
    assert currents == sorted(currents, reverse=True)
    assert currents[0] > 1.2 * currents[2]


def test_the_bearable_current_agrees_with_a_heat_balance_of_its_own() -> None:
    """A coarse balance: C dT/dt = I²·R(T) − U·A·(T − 25) over the time Q/I, R with the Arrhenius factor only."""
    held = sustained(complete(cell=cell(continuous_current_a=35, pulse_current_a=None, kinetic_class="power cylinder")))
    area = np.pi * 0.0212 * (0.0702 + 0.0106)

    def hottest(current: float) -> float:
        def slope(_t: float, t: np.ndarray) -> np.ndarray:
            factor = np.exp(20e3 / 8.314 * (1 / (t + 273.15) - 1 / 298.15))
            # The shape of R₀ averages about 1.1 over a whole discharge.
            return (current**2 * 0.020 * 1.1 * factor - 20 * area * (t - 25)) / (0.070 * 950)

        return float(solve_ivp(slope, (0, 4.5 * 3600 / current), [25.0]).y[0].max())

    assert hottest(0.8 * held.trusted_a) < 60 < hottest(1.25 * held.trusted_a)


def test_a_sag_at_the_rating_is_reckoned_in_volts() -> None:
    """20 A × 45 mΩ = 0.9 V is doubtful, 30 A × 45 mΩ = 1.35 V takes a cell under its minimum."""
    title = "Rated current against resistance"
    doubtful = judged(cell(continuous_current_a=20, dcir_mohm=45), modest())[title]
    assert (doubtful.verdict, doubtful.arithmetic) == (Verdict.DOUBTFUL, "20 A × 45 mΩ = 0.90 V")
    assert (
        judged(cell(continuous_current_a=30, pulse_current_a=None, dcir_mohm=45), modest())[title].verdict
        is Verdict.CANNOT_BE
    )


def test_a_c_rating_is_held_against_the_packs_own_resistance() -> None:
    """120C of 2 Ah is 240 A; through 9 mΩ that is 2.2 V. 0.6 V lets 67 A through: 33C."""
    pack = whole_pack(capacity_mah=2000, dcir_mohm=9, c_rating=120)
    found = judged(pack, modest())["C-rating against resistance"]
    assert found.verdict is Verdict.CANNOT_BE
    assert "At 120C each cell would lose 2.16 V" in found.sentence
    assert "about 33C" in found.sentence


def test_an_ac_reading_is_never_taken_for_dc_silently() -> None:
    found = judged(cell(dcir_mohm=None, ac_resistance_mohm=12), modest())["Rated current against resistance"]
    assert found.arithmetic == "10 A × 20 mΩ (from 12 mΩ AC ÷ 0.6) = 0.20 V"


@pytest.mark.parametrize(
    ("measured", "verdict"), [(4480, Verdict.HOLDS), (4100, Verdict.DOUBTFUL), (2000, Verdict.CANNOT_BE)]
)
def test_capacity_is_held_against_bench_and_curves(measured: float, verdict: Verdict) -> None:
    on_bench = judged(cell(bench_results=(BenchResult(label="a", capacity_mah=measured),)), modest())["Capacity"]
    by_curves = judged(cell(fitted=fitted_model(capacity_mah=measured)), modest())["Capacity"]
    assert on_bench.verdict is by_curves.verdict is verdict
    assert f"{format_mah(measured)} where 4\u202f500 are written" in on_bench.sentence
    assert by_curves.sentence.startswith("By its own discharge curves")
    assert "Capacity" not in judged(cell(fitted=fitted_model(capacity_mah=measured, capacity_given=True)), modest())


def test_nominal_voltage_is_held_against_what_rests_in_the_cell() -> None:
    """4.5 Ah × 3.7 V = 16.65 Wh; the family's table has 3.72 V in the mean. 4.2 V on a label promises 13 % more."""
    assert judged(cell(nominal_voltage_v=3.7), modest())["Nominal voltage as energy"].verdict is Verdict.HOLDS
    found = judged(cell(nominal_voltage_v=4.2), modest())["Nominal voltage as energy"]
    assert found.verdict is Verdict.DOUBTFUL
    assert f"18.9 Wh are promised, but it has {4.5 * RESTING_V:.1f} Wh at rest" in found.sentence
    assert "Nominal voltage as energy" not in judged(cell(), modest())


def test_a_cell_that_can_give_nothing_sustains_nothing() -> None:
    broken = cell(dcir_mohm=500, continuous_current_a=300, pulse_current_a=None)
    held = sustained(complete(cell=broken))
    assert held.at_claim.lasted_s == 0
    assert held.trusted_a < 10
    assert "pull a full cell under 2.5 V at once" in judged(broken)["Heat at its rated 300 A"].sentence


@pytest.mark.parametrize("family", ["lipo_hobby", "lfp", "liion_power_nca"])
def test_every_family_can_be_asked(family: str) -> None:
    held = sustained(complete(cell=cell(ocv_family=family, min_voltage_v=2.0 if family == "lfp" else 3.0)))
    assert held.trusted_a > 0
    assert held.at_claim.hottest_c > 25
