"""The shelf: every cell flown in the present design, equal to flying it alone."""

from __future__ import annotations

import numpy as np
import pytest

from tests.builders import LANDING, PUNCH, cell_type, complete, cruise, fitted_model, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import PackState
from wise_cellar.core.pack import build_pack
from wise_cellar.core.shelf import (
    Footing,
    bench_discharge,
    discharge_at_current,
    mean_cell_current_a,
    parallel_at_mass,
    shelf_at_load,
)
from wise_cellar.instruments.stand_ins.pack import SimulatedPack

CELLS = [
    cell_type(),
    cell_type(id="small", name="Tarn 18-29P", diameter_mm=18.4, length_mm=65.2, mass_g=47, capacity_mah=2850,
              dcir_mohm=21, ocv_family="liion_power_nca", kinetic_class="power cylinder", price=5.0),
    cell_type(id="weak", name="Fell 18-35E", mass_g=48, capacity_mah=3450, dcir_mohm=38, continuous_current_a=8,
              pulse_current_a=None),
]  # fmt: skip
AMPS = 5.0
DESIGN = complete(flown=mission(cruise(120), PUNCH, cruise(), LANDING))


@pytest.mark.parametrize("place", range(3))
def test_a_row_is_the_answer_with_that_cell(place: int) -> None:
    row = shelf_at_load(DESIGN, CELLS, 1.0, AMPS)[place]
    found = answer(complete(cell=CELLS[place], flown=DESIGN.mission))
    assert row.duration_s == pytest.approx(found.duration_s, rel=1e-9)
    assert row.usable_wh == pytest.approx(found.energy_used_wh, rel=1e-9)
    assert row.late_punch_v == pytest.approx(found.late_punch.volts_a_cell, rel=1e-9)
    assert row.hottest_c == pytest.approx(found.hottest_c)
    assert row.used_share == pytest.approx(1 - found.charge_left)
    assert row.usable_wh_kg == pytest.approx(1000 * found.energy_used_wh / found.build.mass_g)
    cell = found.links[0]
    assert row.rating_share == pytest.approx(cell.worst_share, rel=0.02)


def test_price_a_minute_is_all_cells_over_the_flight() -> None:
    rows = shelf_at_load(DESIGN, CELLS, 1.0, AMPS)
    assert rows[0].price_per_minute is None
    assert rows[1].price_per_minute == pytest.approx(12 * 5.0 / (rows[1].duration_s / 60))


def test_loaded_volts_are_energy_over_charge() -> None:
    row = shelf_at_load(DESIGN, CELLS[:1], 1.0, AMPS)[0]
    charge_ah = row.used_share * CELLS[0].capacity_mah / 1000 * 12
    assert row.loaded_v == pytest.approx(row.usable_wh / charge_ah)
    assert row.late_punch_v < row.loaded_v < 4.2


def test_a_discharge_at_a_held_current_takes_that_current_down_to_the_minimum() -> None:
    for curve in discharge_at_current(DESIGN, CELLS, 1.0, AMPS):
        assert curve.current_a == AMPS
        assert curve.voltage_v[-1] == pytest.approx(2.5, abs=2e-4)
        assert np.all(np.diff(curve.charge_ah) >= 0)
        assert 0.8 < curve.charge_ah[-1] / (curve.cell.capacity_mah / 1000) <= 1.01
        mean = curve.energy_wh[-1] / curve.charge_ah[-1]
        assert 3.2 < mean < 3.8, "watt-hours are volts by ampere-hours"


def test_more_current_takes_less_out() -> None:
    gentle, hard = (discharge_at_current(DESIGN, CELLS, 1.0, amps) for amps in (1.0, 12.0))
    for slow, fast in zip(gentle, hard, strict=True):
        assert fast.charge_ah[-1] < slow.charge_ah[-1]
        assert fast.temperature_c.max() > slow.temperature_c.max()


def test_the_small_lines_are_on_one_scale() -> None:
    rows = shelf_at_load(DESIGN, CELLS, 1.0, AMPS)
    ends = {row.cell.id: row.line_charge[-1] for row in rows}
    assert ends["cell"] == pytest.approx(1.0, abs=0.05), "the largest goes across"
    assert ends["small"] == pytest.approx(2850 / 4500, abs=0.04)
    assert all(len(row.line_v) == len(row.line_charge) <= 48 for row in rows)


def test_at_equal_mass_each_cell_gets_the_count_that_comes_nearest() -> None:
    present = build_pack(DESIGN.pack.recipe, DESIGN.pack.cell, None).mass_g
    for cell in CELLS:
        masses = [
            build_pack(DESIGN.pack.recipe.model_copy(update={"parallel_count": n}), cell, None).mass_g
            for n in range(1, 13)
        ]
        nearest = 1 + int(np.argmin(np.abs(np.array(masses) - present)))
        assert parallel_at_mass(DESIGN, cell, present) == nearest
    rows = shelf_at_load(DESIGN, CELLS, 1.0, AMPS, Footing.SAME_MASS)
    assert [row.parallel_count for row in rows] == [3, 4, 4]
    alone = answer(complete(cell=CELLS[1], flown=DESIGN.mission, parallel_count=4))
    assert rows[1].duration_s == pytest.approx(alone.duration_s, rel=1e-9)
    assert rows[1].pack_mass_g == pytest.approx(alone.build.mass_g)


def test_equal_mass_stays_within_what_a_recipe_takes() -> None:
    heavy = cell_type(id="heavy", mass_g=900)
    assert parallel_at_mass(DESIGN, heavy, 100.0) == 1
    assert parallel_at_mass(DESIGN, CELLS[1], 1e6) == 40


def test_mean_amps_of_a_cell_by_hand() -> None:
    """7 200 mAh of a 3P pack in half an hour: 14.4 A, 4.8 A a cell."""
    assert mean_cell_current_a(DESIGN, 7200, 1800) == pytest.approx(4.8)


def test_the_shelf_marks_cells_flown_beyond_their_fits() -> None:
    """One cell under three names: fitted wide enough, fitted at small currents only, and never fitted."""
    wide = cell_type(id="wide", fitted=fitted_model(coldest_c=-20, warmest_c=80, highest_current_a=90))
    narrow = cell_type(id="narrow", fitted=fitted_model(coldest_c=-20, warmest_c=80, highest_current_a=2))
    rows = shelf_at_load(DESIGN, [wide, narrow, cell_type()], 1.0, 5.0)
    assert [row.beyond_fit for row in rows] == [False, True, False]


def test_on_the_bench_a_cell_is_new_full_and_as_warm_as_the_room() -> None:
    tired = PackState(start_charge_percent=40.0, capacity_percent=80.0, resistance_percent=200.0, temperature_c=-5.0)
    used = DESIGN.with_pack(state=tired)
    fresh, again = bench_discharge(DESIGN, 1.0, 23.0), bench_discharge(used, 1.0, 23.0)
    assert np.array_equal(fresh.voltage_v, again.voltage_v), "whatever the design's own pack is like"
    assert fresh.temperature_c[0] == pytest.approx(23.0)
    assert fresh.voltage_v[-1] == pytest.approx(fresh.cell.min_voltage_v, abs=0.01)
    # The stand-in steps the law by itself, five seconds at a time.
    one = SimulatedPack(fresh.cell)
    place = len(fresh.charge_ah) // 2
    one.run(3600 * float(fresh.charge_ah[place]), 1.0)
    assert one.volts(1.0) == pytest.approx(fresh.voltage_v[place], abs=0.01)
