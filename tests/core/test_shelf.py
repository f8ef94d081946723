"""The shelf: every cell flown in the present design, equal to flying it alone."""

from __future__ import annotations

import numpy as np
import pytest

from tests.builders import LANDING, PUNCH, cell_type, complete, cruise, mission
from wise_cellar.core.flight import answer
from wise_cellar.core.shelf import discharge_at_load, shelf_at_load

CELLS = [
    cell_type(),
    cell_type(id="small", name="Tarn 18-29P", diameter_mm=18.4, length_mm=65.2, mass_g=47, capacity_mah=2850,
              dcir_mohm=21, ocv_family="liion_power_nca", kinetic_class="power cylinder", price=5.0),
    cell_type(id="weak", name="Fell 18-35E", mass_g=48, capacity_mah=3450, dcir_mohm=38, continuous_current_a=8,
              pulse_current_a=None),
]  # fmt: skip
DESIGN = complete(flown=mission(cruise(120), PUNCH, cruise(), LANDING))


@pytest.mark.parametrize("place", range(3))
def test_a_row_is_the_answer_with_that_cell(place: int) -> None:
    row = shelf_at_load(DESIGN, CELLS, 1.0)[place]
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
    rows = shelf_at_load(DESIGN, CELLS, 1.0)
    assert rows[0].price_per_minute is None
    assert rows[1].price_per_minute == pytest.approx(12 * 5.0 / (rows[1].duration_s / 60))


def test_a_discharge_at_held_power_gives_that_power_down_to_the_minimum() -> None:
    curves = discharge_at_load(DESIGN, CELLS, 1.0, 240.0)
    for curve in curves:
        assert curve.voltage_v[-1] == pytest.approx(2.5, abs=2e-4)
        assert np.all(np.diff(curve.charge_ah) >= 0)
        assert 0.8 < curve.charge_ah[-1] / (curve.cell.capacity_mah / 1000) <= 1.01


def test_more_power_takes_less_out() -> None:
    gentle, hard = (discharge_at_load(DESIGN, CELLS, 1.0, watts) for watts in (100.0, 500.0))
    for slow, fast in zip(gentle, hard, strict=True):
        assert fast.charge_ah[-1] < slow.charge_ah[-1]
