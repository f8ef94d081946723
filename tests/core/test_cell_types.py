"""Cell types of every form: what they need, what follows, where values come from, tables in and out."""

from __future__ import annotations

import math
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import cell_type, complete, fitted_model, whole_pack
from wise_cellar.core.answer import answer
from wise_cellar.core.cells import (
    burst_limit_a,
    capacity_mah,
    lasting_limit_a,
    limit_field,
    mean_resting_v,
    measured,
    resting_curve,
)
from wise_cellar.core.documents import (
    BenchResult,
    CellType,
    DocumentError,
    FormFactor,
    OcvTable,
    SourceKind,
    ValueSource,
    blank_cell_type,
    cell_types_from_csv,
    cell_types_to_csv,
    with_form,
)

STRAIGHT = OcvTable(soc=(0, 0.25, 0.5, 0.75, 1), ocv_v=(3.0, 3.3, 3.6, 3.9, 4.2))


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"diameter_mm": None}, "is a cylinder and needs a diameter"),
        ({"form_factor": "pouch", "width_mm": 40}, "is no cylinder and needs a width and a thickness"),
        ({"cells_in_series": 4}, "only a pack bought whole has cells in series inside"),
        ({"dcir_mohm": None}, "needs a DC internal resistance, or an AC resistance"),
        ({"continuous_current_a": None}, "needs a continuous current or a C-rating"),
        ({"pulse_current_a": 20}, r"Pulse current \(20 A\) .* at least its continuous current \(35 A\)"),
        ({"min_voltage_v": 3.4, "max_voltage_v": 3.3}, "Minimum voltage of .* must be less than its full voltage"),
        ({"source_day": "2026-02-30"}, "must be a date such as 2026-03-14"),
        ({"bench_results": [{"label": "a"}]}, "needs a measured capacity, resistance or mass"),
    ],
)
def test_what_a_cell_type_lacks_is_a_sentence(changes: dict[str, object], says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        cell_type(**changes)


def test_size_follows_the_form() -> None:
    """π·(2.12 cm/2)²·7.02 cm = 24.8 ml, π·2.12·(7.02 + 1.06) = 53.8 cm²; 7.4 × 3.4 × 1.5 cm = 37.7 ml, 82.7 cm²."""
    assert 1000 * cell_type().volume_l == pytest.approx(24.78, abs=0.01)
    assert 1e4 * cell_type().surface_m2 == pytest.approx(53.8, abs=0.05)
    assert 1000 * whole_pack().volume_l == pytest.approx(37.74)
    assert 1e4 * whole_pack().surface_m2 == pytest.approx(2 * (7.4 * 3.4 + 7.4 * 1.5 + 3.4 * 1.5))


def test_limits_come_from_claim_pulse_seconds_and_trust() -> None:
    cell = cell_type(continuous_current_a=20, pulse_current_a=40, pulse_s=5)
    assert (burst_limit_a(cell, 5), burst_limit_a(cell, 6)) == (40, 20)
    unsaid = cell_type(continuous_current_a=20, pulse_current_a=40)
    assert (burst_limit_a(unsaid, 10), burst_limit_a(unsaid, 10.1)) == (40, 20), "10 s where no length is claimed"
    trusted = cell.model_copy(update={"trusted_current_a": 12.0})
    assert (lasting_limit_a(trusted), trusted.rated_current_a, burst_limit_a(trusted, 60)) == (12, 20, 12)
    assert whole_pack(c_rating=40, capacity_mah=1900).rated_current_a == pytest.approx(76)


def test_no_limit_is_more_than_the_resistance_lets_through() -> None:
    """0.6 V over the DC resistance for good, 1.2 V in a burst: over 30 mΩ 20 and 40 A, over 50 mΩ on the bench 12."""
    claimed = cell_type(dcir_mohm=30, continuous_current_a=45, pulse_current_a=90)
    assert lasting_limit_a(claimed) == pytest.approx(20)
    assert burst_limit_a(claimed, 5) == pytest.approx(40)
    assert limit_field(claimed) == "cell.dcir_mohm"
    assert limit_field(cell_type(dcir_mohm=None, ac_resistance_mohm=30)) == "cell.ac_resistance_mohm"
    measured = claimed.changed(bench_results=(BenchResult(label="A", dcir_mohm=50),))
    assert lasting_limit_a(measured) == pytest.approx(12)
    better = claimed.changed(bench_results=(BenchResult(label="A", dcir_mohm=20),))
    assert lasting_limit_a(better) == pytest.approx(20), "one good specimen raises nothing"
    assert limit_field(cell_type(trusted_current_a=9)) == "cell.trusted_current_a"


def test_a_trusted_current_and_the_pulse_seconds_govern_the_chain() -> None:
    def share(**changes: object) -> float:
        return answer(complete(cell=cell_type(**changes))).links[0].worst_share

    assert share(trusted_current_a=5.0, pulse_current_a=None) > 3 * share(pulse_current_a=None)
    assert share(pulse_current_a=60, pulse_s=1) > share(pulse_current_a=60, pulse_s=10), "the punch takes 3 s"


def test_an_ac_reading_stands_for_a_larger_dc_resistance_and_says_so() -> None:
    cell = cell_type(dcir_mohm=None, ac_resistance_mohm=9)
    assert cell.resistance_mohm == pytest.approx(15)
    found = answer(complete(cell=cell))
    assert found.duration_s == pytest.approx(answer(complete(cell=cell_type(dcir_mohm=15))).duration_s)
    assert any("only an AC resistance, 9 mΩ" in f.sentence for f in found.findings)


def test_an_own_voltage_table_stands_in_for_the_familys_and_a_fit_for_both() -> None:
    """A straight line from 3.0 to 4.2 V has a mean of 3.6 V."""
    own = cell_type(own_ocv=STRAIGHT)
    assert mean_resting_v(own) == pytest.approx(3.6)
    assert resting_curve(own).values[1000] == pytest.approx(3.6)
    assert answer(complete(cell=own)).build.energy_wh == pytest.approx(12 * 4.5 * 3.6)
    fitted = own.model_copy(update={"fitted": fitted_model(capacity_mah=4400)})
    assert mean_resting_v(fitted) != pytest.approx(3.6, abs=0.01)
    assert capacity_mah(fitted) == 4400


def test_below_its_coldest_a_cell_is_over_a_limit() -> None:
    from wise_cellar.core.documents import Conditions

    cold = answer(complete(cell=cell_type(min_temperature_c=0), conditions=Conditions(air_temperature_c=-5)))
    assert any("may not be discharged below 0 °C" in f.sentence for f in cold.findings)


def test_each_value_has_a_source_its_own_or_the_documents() -> None:
    mine = ValueSource(field="mass_g", kind=SourceKind.MEASURED, day=date(2026, 3, 14))
    cell = cell_type(source="estimate", sources=(mine,))
    assert cell.source_of("mass_g") == (SourceKind.MEASURED, date(2026, 3, 14))
    assert cell.source_of("capacity_mah") == (SourceKind.ESTIMATE, None)


def test_version_1_of_a_cell_type_is_read() -> None:
    old = cell_type().model_dump(mode="json", exclude_none=True) | {"schema_version": 1}
    for fresh in ("archived", "cells_in_series", "source", "sources", "bench_results", "min_temperature_c"):
        old.pop(fresh)
    assert CellType.from_data(old) == cell_type()


@pytest.mark.parametrize("form", list(FormFactor))
def test_a_blank_cell_of_every_form_flies_and_is_all_estimates(form: FormFactor) -> None:
    cell = blank_cell_type("x", "x", form)
    assert cell.source_of("capacity_mah")[0] is SourceKind.ESTIMATE
    assert answer(complete(cell=cell)).duration_s > 60


@pytest.mark.parametrize("form", list(FormFactor))
def test_a_cell_changes_form_and_back(form: FormFactor) -> None:
    other = with_form(cell_type(), form)
    assert other.form_factor is form
    assert other.capacity_mah == 4500
    assert with_form(other, FormFactor.C21700).diameter_mm == 21.2
    assert with_form(whole_pack(), form).cells_in_series == (2 if form is FormFactor.WHOLE_PACK else 1)


def test_specimens_have_a_median_and_a_spread() -> None:
    """4 400, 4 500, 4 600 mAh: median 4 500, standard deviation 100, 2.2 % of the mean; ± 2.85 % for 8 of 10."""
    results = [BenchResult(label=str(mah), capacity_mah=mah) for mah in (4600, 4400, 4500)]
    found = measured(results, "capacity_mah")
    assert found is not None
    assert (found.count, found.median) == (3, 4500)
    assert found.spread == pytest.approx(1.2816 * 100 / 4500, rel=1e-3)
    assert measured(results, "dcir_mohm") is None
    assert measured(results[:1], "capacity_mah").spread == 0  # type: ignore[union-attr]


# Tables


def test_a_table_comes_back_equal() -> None:
    mine = ValueSource(field="mass_g", kind=SourceKind.MEASURED, day=date(2026, 3, 14))
    guess = ValueSource(field="price", kind=SourceKind.ESTIMATE)
    cells = {
        "a": cell_type(id="a", name="Tarn, 18 «P»", sources=(mine, guess), notes="two\nlines", archived=True),
        "b": whole_pack(id="b", price=12.5),
        "c": cell_type(id="c", dcir_mohm=None, ac_resistance_mohm=9.25, pulse_s=7),
    }
    table = cell_types_from_csv(cell_types_to_csv(cells))
    assert table.refusals == ()
    assert table.rows == tuple(cells.values())


@given(st.floats(min_value=1.5, max_value=9999), st.floats(min_value=60, max_value=49000))
def test_numbers_survive_a_table(mass: float, capacity: float) -> None:
    cell = cell_type(mass_g=mass, capacity_mah=capacity, pulse_current_a=None)
    back = cell_types_from_csv(cell_types_to_csv({"a": cell})).rows[0]
    assert math.isclose(back.mass_g, mass, rel_tol=1e-9)
    assert math.isclose(back.capacity_mah, capacity, rel_tol=1e-9)


def test_wrong_rows_are_named_by_line_and_column_and_the_rest_goes_in() -> None:
    text = (
        "name;form_factor;diameter_mm;length_mm;mass_g;capacity_mah;dcir_mohm;continuous_current_a;ocv_family;"
        "kinetic_class;colour\n"
        "Tarn 18-30P;18650;18,4;65,2;47,5;3 Ah;21;20;power, NCA;power cylinder;grey\n"
        "Tarn 18-31P;18650;18,4;65,2;heavy;3000;21;20;liion_power_nca;power cylinder;grey\n"
        "\n"
        "Tarn 18-32P;18650;18,4;65,2;47;3000;21;20;sodium;power cylinder;grey\n"
        "Tarn 18-33P;18650;18,4;65,2;47;3000;-1;20;liion_power_nca;power cylinder;grey\n"
        "Tarn 18-34P;18650;;65,2;47;3000;21;20;liion_power_nca;power cylinder;grey\n"
        "Tarn 18-35P;18650;18.4;65.2;47;3000;21;20;liion_power_nca;power cylinder;grey;more\n"
        "Tarn 18-36P;18650;18.4;65.2;47;3000;21;20;liion_power_nca;power cylinder\n"
    )
    table = cell_types_from_csv(text)
    assert [(cell.id, cell.mass_g, cell.capacity_mah) for cell in table.rows] == [
        ("tarn-18-30p", 47.5, 3000), ("tarn-18-36p", 47, 3000),
    ]  # fmt: skip
    said = "\n".join(table.refusals).replace("\u00a0", " ")
    assert "Line 1: “colour” is no column of a table of cell types" in said
    assert "Line 3, mass_g: “heavy” is not a number" in said
    assert "Line 5, ocv_family: “sodium” must be one of liion_energy_nmc_siox" in said
    assert "Line 6, dcir_mohm: DC internal resistance must be more than 0.5 mΩ" in said
    assert "Line 7: Tarn 18-34P is a cylinder and needs a diameter" in said
    assert "Line 8: there are 12 values for 11 columns" in said


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "empty"),
        ("  \n \n", "empty"),
        ("time,volts\n1,2\n", "no table of cell types"),
        ("name,mass_g,mass_g,capacity_mah\nx,1,1,1\n", "column mass_g is there twice"),
        ("name,mass_g,capacity_mah,sources\nx,47,3000,mass_g measured\n", "must be written as mass_g=measured@"),
    ],
)
def test_what_is_no_table_is_a_sentence(text: str, says: str) -> None:
    try:
        said = " ".join(cell_types_from_csv(text).refusals)
    except DocumentError as error:
        said = str(error)
    assert says in said
