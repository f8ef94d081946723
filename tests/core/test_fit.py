"""Fits on curves from an independent, physics-based model; some curves are held out and must be met."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.builders import LANDING, PUNCH, cell_type, complete, cruise, mission
from wise_cellar.core.curves import DischargeCurve, ModelParameters, simulate
from wise_cellar.core.documents import CellType, Conditions, DocumentError, FittedModel
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.flight import answer, fly, lower, lower_one
from wise_cellar.store.curve_files import read_discharge_curve

FOLDER = Path(__file__).parents[1] / "data" / "curves"
CELL = cell_type(capacity_mah=5000, dcir_mohm=35)


def curve(name: str) -> DischargeCurve:
    return read_discharge_curve(FOLDER / f"{name}.csv")


def fitted(*names: str) -> FittedModel:
    return fit_cell([curve(name) for name in names], CELL).model


def rms_v(model: FittedModel, unseen: DischargeCurve) -> float:
    return float(np.sqrt(np.mean((simulate(ModelParameters.of(model), unseen)[0] - unseen.voltage_v) ** 2)))


def end_time_s(model: FittedModel, unseen: DischargeCurve, cut_off_v: float = 2.5) -> float:
    """When the model falls to the cut-off, its constant current carried on past the log's end if need be."""
    more = np.arange(2.0, 0.3 * unseen.time_s[-1], 2.0)
    longer = DischargeCurve(
        unseen.name,
        np.concatenate([unseen.time_s, unseen.time_s[-1] + more]),
        np.zeros(len(unseen.time_s) + len(more)),
        np.concatenate([unseen.current_a, np.full(len(more), unseen.current_a[-1])]),
        np.concatenate([unseen.temperature_k, np.full(len(more), unseen.temperature_k[-1])]),
    )
    volts = simulate(ModelParameters.of(model), longer)[0]
    after = int(np.argmax(volts <= cut_off_v))
    assert after > 0
    share = (volts[after - 1] - cut_off_v) / (volts[after - 1] - volts[after])
    return float(longer.time_s[after - 1] + share * (longer.time_s[after] - longer.time_s[after - 1]))


@pytest.fixture(scope="module")
def cell_a() -> FittedModel:
    return fitted("cell_a_c10_25c", "cell_a_c2_25c", "cell_a_1c_25c")


def test_a_rate_between_two_fitted_ones_is_met() -> None:
    """Bar: end time within 1.5 %, 25 mV. C/2 is held out."""
    model, unseen = fitted("cell_a_c10_25c", "cell_a_1c_25c"), curve("cell_a_c2_25c")
    assert end_time_s(model, unseen) == pytest.approx(unseen.time_s[-1], rel=0.015)
    assert rms_v(model, unseen) < 0.025


def test_changing_loads_are_met_by_a_fit_on_constant_ones(cell_a: FittedModel) -> None:
    """Bar: 25 mV. The pulses go to twice the highest fitted current, with rests between."""
    assert rms_v(cell_a, curve("cell_a_pulses_25c")) < 0.025


def test_twice_the_highest_fitted_current_is_met() -> None:
    """Bar: 4 % at 1.5 times; here at twice."""
    model, unseen = fitted("cell_a_c10_25c", "cell_a_c2_25c"), curve("cell_a_1c_25c")
    assert model.highest_current_a == pytest.approx(2.5)
    assert end_time_s(model, unseen) == pytest.approx(unseen.time_s[-1], rel=0.04)


def test_a_cell_whose_ions_tire_is_met_where_it_was_fitted_and_only_there() -> None:
    """Bars: 3 % inside the range, 10 % cold once a cold curve is given. Without one, cold is far off."""
    warm = fitted("cell_b_c10_25c", "cell_b_1c_25c")
    cold = fitted("cell_b_c10_25c", "cell_b_1c_25c", "cell_b_1c_0c")
    for unseen, bar in ((curve("cell_b_1c_25c"), 0.03), (curve("cell_b_1c_0c"), 0.10)):
        assert end_time_s(cold, unseen) == pytest.approx(unseen.time_s[-1], rel=bar)
    seen = curve("cell_b_1c_0c")
    assert abs(end_time_s(warm, seen) / seen.time_s[-1] - 1) > 0.10
    assert warm.coldest_c > 20
    assert cold.coldest_c < 1
    assert cold.lag_activation_j_mol > 40e3, "its ions tire in the cold"


def test_the_fit_says_what_it_rests_on(cell_a: FittedModel) -> None:
    assert cell_a.capacity_mah == pytest.approx(5134, rel=0.002), "from C/10"
    assert cell_a.highest_current_a == 5
    assert (cell_a.coldest_c, cell_a.warmest_c) == pytest.approx((25, 32.9), abs=0.1)
    assert cell_a.residual_mv < 6


def test_a_known_cell_is_found_again() -> None:
    """Curves made by the model itself: parameters that the curves tell are recovered."""
    truth = fitted("cell_a_c10_25c", "cell_a_1c_25c")
    truth = truth.model_copy(update={"lag_gain_s": 160.0, "lag_tau_s": 150.0, "r1_mohm": 8.0, "tau1_s": 20.0})
    parameters = ModelParameters.of(truth)
    made = []
    for amps, seconds in ((0.5, 36000.0), (2.5, 7000.0), (6.0, 2850.0)):
        time = np.linspace(0, seconds, 400)
        blank = DischargeCurve(f"{amps} A", time, np.zeros(400), np.full(400, amps), np.full(400, 298.15))
        made.append(replace(blank, voltage_v=simulate(parameters, blank)[0]))
    rested = np.linspace(0, 4000, 800)
    pulsing = np.where((rested % 1000) < 500, 5.0, 0.0)
    blank = DischargeCurve("pulses", rested, np.zeros(800), pulsing, np.full(800, 298.15))
    made.append(replace(blank, voltage_v=simulate(parameters, blank)[0]))
    found = fit_cell(made, CELL, capacity_mah=truth.capacity_mah).model
    assert found.lag_gain_s == pytest.approx(160, rel=0.15)
    assert np.interp(0.5, found.resistance_soc, found.resistance_mohm) == pytest.approx(
        np.interp(0.5, truth.resistance_soc, truth.resistance_mohm), rel=0.1
    )
    assert found.residual_mv < 3


def test_a_steady_load_is_resistance_and_lag_by_hand() -> None:
    """Flat tables: after a long time V = OCV − I(R₀ + R₁) − slope·κI/Q, here with a straight OCV of 1 V per unit."""
    soc = (0.0, 0.25, 0.5, 0.75, 1.0)
    model = FittedModel(
        capacity_mah=5000, ocv_soc=soc, ocv_v=tuple(3 + z for z in soc), resistance_soc=(0.0, 1.0),
        resistance_mohm=(20.0, 20.0), r1_mohm=10, tau1_s=10, lag_gain_s=36, lag_tau_s=30,
        resistance_activation_j_mol=0, lag_activation_j_mol=0, residual_mv=0, highest_current_a=5, coldest_c=25,
        warmest_c=25,
    )  # fmt: skip
    time = np.linspace(0, 1000, 101)
    steady = DischargeCurve("x", time, np.zeros(101), np.full(101, 5.0), np.full(101, 298.15))
    volts = simulate(ModelParameters.of(model), steady)[0]
    bulk = 1 - 5 * 1000 / 18000
    assert volts[-1] == pytest.approx(3 + bulk - 36 * 5 / 18000 - 5 * 0.030, abs=1e-6)
    assert volts[0] == pytest.approx(4 - 5 * 0.020), "at once only R₀ is seen"


# What a fit refuses


def test_what_cannot_carry_a_fit_is_refused_with_a_sentence() -> None:
    slow, fast = curve("cell_a_c10_25c"), curve("cell_a_1c_25c")
    with pytest.raises(DocumentError, match="two rates or more"):
        fit_cell([slow], CELL)
    with pytest.raises(DocumentError, match=r"All curves are near 0\.5 A"):
        fit_cell([slow, slow], CELL)
    with pytest.raises(DocumentError, match="all of these switch"):
        fit_cell([curve("cell_a_pulses_25c")] * 2, CELL)
    with pytest.raises(DocumentError, match=r"takes 2\.0 h; give the capacity"):
        fit_cell([curve("cell_a_c2_25c"), fast], CELL)
    assert fit_cell([curve("cell_a_c2_25c"), fast], CELL, capacity_mah=5134).model.capacity_mah == 5134


def test_a_curve_that_makes_no_sense_is_refused() -> None:
    time = np.linspace(0, 100, 20)
    ones = np.ones(20)
    with pytest.raises(DocumentError, match="runs backwards at point 6"):
        DischargeCurve("x", np.where(np.arange(20) == 5, 0, time), ones, ones, ones)
    with pytest.raises(DocumentError, match="discharge must be positive"):
        DischargeCurve("x", time, ones, -ones, ones)
    with pytest.raises(DocumentError, match="has 5 points"):
        DischargeCurve("x", time[:5], ones[:5], ones[:5], ones[:5])


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("time_s,volts\n0,4\n", "has no column voltage_v; it needs time_s, voltage_v, current_a"),
        ("time_s,voltage_v,current_a\n0,4.1,1\n1,4.1x,1\n", "line 3, voltage_v: “4.1x” is not a number"),
        ("time_s,voltage_v,current_a\n0,4.1\n", "line 2, current_a: “” is not a number"),
    ],
)
def test_a_bad_curve_file_is_named_by_line_and_column(tmp_path: Path, text: str, says: str) -> None:
    path = tmp_path / "log.csv"
    path.write_text(text)
    with pytest.raises(DocumentError, match=says):
        read_discharge_curve(path)


# The fitted cell flies


def with_fit(model: FittedModel | None) -> CellType:
    return cell_type(capacity_mah=5000, dcir_mohm=34, fitted=model)


def test_a_fitted_cell_flies_by_its_own_tables(cell_a: FittedModel) -> None:
    design = complete(cell=with_fit(cell_a), flown=mission(cruise(300), PUNCH, cruise(), LANDING))
    batch = lower([lower_one(design, 1.0), lower_one(complete(cell=with_fit(None)), 1.0)])
    assert batch.cell.charge_c[0] == pytest.approx(cell_a.capacity_mah * 3.6)
    at = np.array([0.5, 0.5])
    assert batch.cell.ocv(at)[0] == pytest.approx(np.interp(0.5, cell_a.ocv_soc, cell_a.ocv_v), abs=1e-3)
    assert batch.cell.ocv(at)[1] == pytest.approx(3.75, abs=0.05), "the other flight keeps its family's"
    assert fly(batch).end_s[0] > 600


def test_a_fitted_cell_shows_what_was_fitted_not_its_label(cell_a: FittedModel) -> None:
    """The label says 5 mΩ and 9 Ah; the reading and the energy shown are those of the model."""
    wrong = cell_type(capacity_mah=9000, dcir_mohm=5, fitted=cell_a)
    found = answer(complete(cell=wrong))
    at_half = np.interp(0.5, cell_a.resistance_soc, cell_a.resistance_mohm)
    assert found.cell_dcir_ohm * 1e3 > at_half
    assert found.cell_dcir_ohm * 1e3 < at_half + cell_a.r1_mohm + 5
    assert found.build.energy_wh == pytest.approx(12 * 5.134 * 3.7, rel=0.03)


def test_the_integrator_and_the_fits_simulation_are_one_model(cell_a: FittedModel) -> None:
    """Fly the fitted cell, hand the flown current and temperature to the fit's simulation: the same volts."""
    design = complete(cell=with_fit(cell_a), flown=mission(cruise(400), PUNCH, cruise(600)))
    trace = fly(lower([lower_one(design, 1.0)]), record=True).trace[0]
    flown = DischargeCurve("flown", trace.time_s, trace.cell_v, trace.current_a, trace.state.temperature_k)
    assert simulate(ModelParameters.of(cell_a), flown)[0] == pytest.approx(trace.cell_v, abs=5e-3)


def test_outside_its_range_a_fit_says_so(cell_a: FittedModel) -> None:
    def cautions(model: FittedModel | None, air: float) -> list[str]:
        design = complete(cell=with_fit(model), parallel_count=1, conditions=Conditions(air_temperature_c=air))
        return [f.sentence for f in answer(design).findings if f.field == "cell_type.fitted"]

    cold = cautions(cell_a, 5)
    assert any("rests on at most 5.0 A" in sentence for sentence in cold)
    assert any("rests on 25 to 33 °C" in sentence for sentence in cold)
    assert cautions(None, 5) == []
    wide = cell_a.model_copy(update={"highest_current_a": 60.0, "coldest_c": 0.0, "warmest_c": 60.0})
    assert cautions(wide, 20) == []


def test_tables_of_a_fitted_model_must_go_together(cell_a: FittedModel) -> None:
    data = cell_a.model_dump()
    with pytest.raises(DocumentError, match="one value for each state of charge, rising from 0 to 1"):
        FittedModel.from_data({**data, "ocv_v": data["ocv_v"][:-1]})
    with pytest.raises(DocumentError, match="must be more than 0"):
        FittedModel.from_data({**data, "resistance_mohm": tuple(-r for r in data["resistance_mohm"])})
