"""The sample world: complete, invented, marked, plausible."""

from __future__ import annotations

from importlib import resources

import numpy as np
import pytest

from wise_cellar.core.answer import answer, wing_figures
from wise_cellar.core.cells import Verdict, sheet_verdict
from wise_cellar.core.curves import traced_discharge
from wise_cellar.core.documents import (
    CellType,
    Craft,
    Design,
    DischargeRecord,
    FormFactor,
    Mission,
    TracedChart,
    replaced,
)
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.flight import Ending
from wise_cellar.demo import FIRST_DESIGN_ID, complete_sample, sample_documents, sample_series
from wise_cellar.demo.bench import TESTED_ID, fitted_curves, sample_curve, sample_fit
from wise_cellar.demo.sample_world import bench_cell
from wise_cellar.store.curve_files import read_discharge_curve
from wise_cellar.store.series import series_key, unpack_curve

DOCUMENTS = {document.id: document for document in sample_documents()}  # type: ignore[attr-defined]


def of(model: type) -> list:  # type: ignore[type-arg]
    return [document for document in DOCUMENTS.values() if isinstance(document, model)]


def test_what_is_there() -> None:
    assert {craft.name for craft in of(Craft)} == {"Whimbrel", "Dunlin", "Turnstone"}
    assert len(of(CellType)) >= 6
    assert len(of(Mission)) >= 2
    assert len(of(Design)) == 6
    assert FIRST_DESIGN_ID in DOCUMENTS
    assert len(DOCUMENTS) == len(sample_documents()), "identifiers are unique"


def test_everything_is_marked_as_sample_data() -> None:
    assert all(
        document.sample for document in DOCUMENTS.values() if not isinstance(document, DischargeRecord | TracedChart)
    )
    cells = {cell.id for cell in of(CellType)}
    assert all(record.cell_type_id in cells for record in of(DischargeRecord))


def test_cells_are_by_the_invented_makers_and_plausible_but_for_the_one_that_lies() -> None:
    for cell in of(CellType):
        assert cell.name.split()[0] in ("Tarn", "Fell", "Reed")
        lies = cell.id == "fell-18-60x"
        assert (sheet_verdict(cell) is Verdict.CANNOT_BE) == lies, cell.name


def test_every_form_of_cell_is_there() -> None:
    forms = {cell.form_factor for cell in of(CellType)}
    assert {FormFactor.C18650, FormFactor.C21700, FormFactor.POUCH, FormFactor.WHOLE_PACK} <= forms


def test_the_shipped_fit_is_what_a_fit_gives() -> None:
    """script/make-sample-fit wrote it; the fit is run again here."""
    again = fit_cell(fitted_curves(), bench_cell(fitted=False)).model
    shipped = sample_fit()
    assert shipped.residual_mv == pytest.approx(again.residual_mv, rel=0.02)
    assert shipped.capacity_mah == pytest.approx(again.capacity_mah, rel=1e-5)
    assert np.array(shipped.ocv_v) == pytest.approx(np.array(again.ocv_v), abs=2e-3)
    assert {curve.name for curve in shipped.curves} == {"C/10", "pulses", "1C"}


def test_the_traced_chart_gives_the_discharges_that_were_printed() -> None:
    chart = of(TracedChart)[0]
    assert series_key(sample_series()[chart.picture_key]) == chart.picture_key
    cell = DOCUMENTS[chart.cell_type_id]
    slow, fast = (traced_discharge(chart, curve) for curve in chart.curves)
    assert slow.charge_c[-1] / 3.6 == pytest.approx(cell.capacity_mah, rel=0.02)
    assert fast.charge_c[-1] < slow.charge_c[-1]


def test_the_series_of_every_record_are_there() -> None:
    series = sample_series()
    for record in of(DischargeRecord):
        curve = unpack_curve(record.name, series[record.series_key])
        assert len(curve.time_s) == record.points
        assert curve.charge_c[-1] / 3.6 == pytest.approx(record.charge_mah)


def test_craft_weigh_what_the_design_says() -> None:
    dry = {craft.name: craft.dry_mass_g for craft in of(Craft)}
    assert dry == {"Whimbrel": 1150, "Dunlin": 165, "Turnstone": 1650}


@pytest.mark.parametrize("identifier", [d.id for d in of(Design)])
def test_designs_fly_and_land_by_their_rule(identifier: str) -> None:
    found = answer(complete_sample(identifier))
    assert found.reason.ending is Ending.RESERVE_REACHED
    least, most = (60, 180) if complete_sample(identifier).craft.wing else (10, 60)
    assert least < found.duration_s / 60 < most
    assert found.calibration is None or found.calibration.plausible


@pytest.mark.parametrize("identifier", [d.id for d in of(Design)])
def test_designs_are_over_no_limit_and_leave_something_to_go_round_with(identifier: str) -> None:
    """As a careful builder would fly them."""
    found = answer(complete_sample(identifier))
    assert not [f.sentence for f in found.findings if f.severity == "over a limit"]
    assert found.hover_left_s > 90


def test_energy_cells_at_full_throttle_are_caught() -> None:
    """What the energy pack's held throttle is there for, and fewer cells."""
    held = complete_sample("whimbrel-energy")
    free = replaced(
        replaced(held, "design.conditions.throttle_percent", 100), "design.packs.0.recipe.parallel_count", 2
    )
    caught = [f.sentence for f in answer(free).findings if f.severity == "over a limit"]
    assert any(sentence.startswith("Cell:") for sentence in caught), "low-drain cells fail at the first throttle"


def test_turnstone_flies_well_over_its_stall_and_is_over_no_limit() -> None:
    case = complete_sample("turnstone-shoreline")
    found = answer(case)
    figures = wing_figures(case, found)
    assert figures is not None
    assert min(block.airspeed_m_s for block in case.mission.blocks if block.airspeed_m_s) > 1.2 * figures.stall_m_s
    assert not [finding.sentence for finding in found.findings if finding.severity == "over a limit"]


def test_dunlin_stays_in_its_mass_class() -> None:
    assert answer(complete_sample("dunlin-scout")).takeoff_mass_g < 400


@pytest.mark.parametrize("stem", ["c10", "c2", "1c", "pulses"])
def test_a_sample_discharge_is_what_its_file_is_read_as(stem: str) -> None:
    with resources.as_file(resources.files("wise_cellar.demo") / "curves" / f"{TESTED_ID}-{stem}.csv") as path:
        read = read_discharge_curve(path)
    shipped = sample_curve(stem)
    for name in ("time_s", "voltage_v", "current_a", "temperature_k"):
        np.testing.assert_allclose(getattr(shipped, name), getattr(read, name), rtol=1e-12)
