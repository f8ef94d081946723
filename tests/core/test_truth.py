"""Does the range cover? Runs that no fit saw, under every way of leaving runs out; and steps that pulses told."""

from __future__ import annotations

import numpy as np
import pytest

from tests.truth import BEGINS, ENDS, FITTED, PAGE, Met, all_phases, met, run_of, sheet, ways
from wise_cellar.core.curves import ModelParameters, simulate
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.fit.steps import fast_steps


def test_eight_of_ten_unseen_runs_lie_in_the_range_and_with_half_the_doubt_they_would_not() -> None:
    """Most ways of leaving runs out of two cells, with a right sheet (script/make-truth takes all); and the range is no
    wider than that needs: in the median 6 % of the time where it ends, 100 mV in mid-run."""
    some = [(cell, names) for cell in FITTED for names in ways(cell) if cell == "cell_b" or len(names) != 3]
    pairs = [pair for cell, names in some for pair in met(cell, names, "right", (1.0, 0.5), 80)]
    found, halved = (list(ones) for ones in zip(*pairs, strict=True))
    for quantity in ("end", "volts at mid-run", "10 A step"):
        assert covered(found, quantity) >= 0.8, quantity
        assert covered(halved, quantity) < 0.75, quantity
    assert np.median([one.width for one in found if one.quantity == "end"]) < 0.06
    assert np.median([one.high - one.low for one in found if one.quantity == "volts at mid-run"]) < 0.1


def covered(found: list[Met], quantity: str) -> float:
    return float(np.mean([one.covered for one in found if one.quantity == quantity]))


def test_fast_steps_come_out_where_the_pulses_were_in_the_fit() -> None:
    """Bar: 20 %, of 2.5 to 10 A, at once and after ten seconds, and the same of the two other steps."""
    names = ("c10_25c", "c2_25c", "1c_25c", "pulses_25c")
    model = fit_cell([run_of("cell_a", name) for name in names], sheet("cell_a", "high")).model
    assert not model.resistance_given
    run = run_of("cell_a", "pulses_25c")
    volts = simulate(ModelParameters.of(model), run)
    steps = fast_steps(run)
    assert len(steps.ohm) == 17
    assert steps.of(volts, run)[0] == pytest.approx(steps.ohm, rel=0.2)
    for rise in np.flatnonzero((np.diff(run.current_a) > 5) & (run.current_a[:-1] > 1)):
        after = int(np.searchsorted(run.time_s, run.time_s[rise] + 10))
        assert volts[0][rise] - volts[0][after] == pytest.approx(run.voltage_v[rise] - run.voltage_v[after], rel=0.2)


def test_without_a_fast_step_the_resistance_is_the_sheets_and_as_doubtful() -> None:
    """Constant currents alone: what ten seconds read follows the sheet, whatever the runs would ask for."""
    runs = [run_of("cell_a", name) for name in ("c10_25c", "c2_25c", "1c_25c")]
    low, high = (fit_cell(runs, sheet("cell_a", which)).model for which in ("low", "high"))
    half = [float(np.interp(0.5, model.resistance_soc, model.resistance_mohm)) for model in (low, high)]
    assert low.resistance_given
    assert half[1] > 1.07 * half[0]
    assert low.transfer_share == high.transfer_share == 0.0


def test_a_fit_has_no_wiggle_of_its_own_near_full() -> None:
    """Between half charge and full, R₀ rises or falls all along."""
    names = ("c10_25c", "c2_25c", "1c_25c", "pulses_25c")
    model = fit_cell([run_of("cell_a", name) for name in names], sheet("cell_a", "right")).model
    upper = np.array(model.resistance_mohm)[np.array(model.resistance_soc) >= 0.6]
    change = np.diff(upper)
    assert (change >= -1e-6).all() or (change <= 1e-6).all()
    assert np.ptp(upper) < 0.15 * upper.mean()


def test_eight_of_ten_phases_of_flights_lie_in_the_range_before_anything_was_measured() -> None:
    """Amps and volts of every long phase of three flights, by another power law, an ESC and another cell model."""
    found = all_phases()
    assert len(found) >= 24
    assert np.mean([one.covered for one in found]) >= 0.8
    assert all(one.covered for one in found if one.quantity == "amps")


def test_the_page_of_truth_holds_its_tables() -> None:
    """script/make-truth writes them between two marks."""
    text = PAGE.read_text(encoding="utf-8")
    assert text.count(BEGINS) == text.count(ENDS) == 1
    told = text.split(BEGINS)[1].split(ENDS)[0]
    assert all(words in told for words in ("when it ends", "volts in mid-run", "10 A step", "flight 03"))
