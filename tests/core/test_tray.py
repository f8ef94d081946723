"""Numbered cells: each rule of judgement by itself, lots, losses at rest, and what the tray tells its type."""

from __future__ import annotations

from datetime import date
from typing import Any

import numpy as np
import pytest

from tests.builders import cell_type
from wise_cellar.core.build import Fate, JudgedCell, Tray, judge, loss_mah_day
from wise_cellar.core.build.robust import robust_z, two_kinds
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.documents import CellType, DocumentError, KineticClass, Look, NumberedCell
from wise_cellar.core.documents.tray_table import tray_from_csv, tray_to_csv

CELL = cell_type()


def numbered(number: int = 1, **values: Any) -> NumberedCell:
    return NumberedCell.from_data({"id": f"cell-{number}", "number": number, "cell_type_id": "x", **values})


def lot(count: int = 20, seed: int = 3, **values: Any) -> list[NumberedCell]:
    """Sound cells of one lot."""
    random = np.random.default_rng(seed)
    return [
        numbered(
            number,
            **{
                "arrival_v": round(3.55 + 0.002 * random.standard_normal(), 3),
                "capacity_mah": round(CELL.capacity_mah * (1 + 0.005 * random.standard_normal()), 1),
                "dcir_mohm": round(CELL.resistance_mohm * (1 + 0.02 * random.standard_normal()), 2),
                "mass_g": round(CELL.mass_g * (1 + 0.002 * random.standard_normal()), 2),
                **values,
            },
        )
        for number in range(1, count + 1)
    ]


def judged(cell: NumberedCell, cell_type: CellType = CELL) -> JudgedCell:
    """One more cell in a sound lot."""
    tray = judge(cell_type, [*lot(), cell.changed(number=99, id="99")])
    return tray.cells[-1]


def test_a_sound_lot_is_used() -> None:
    tray = judge(CELL, lot())
    assert tray.counts() == {Fate.USE: 20, Fate.APART: 0, Fate.NEVER: 0}
    assert not tray.of_lot


@pytest.mark.parametrize(
    ("values", "fate", "words"),
    [
        ({"arrival_v": 1.62}, Fate.NEVER, "Arrived at 1.62 V: never charge it"),
        ({"arrival_v": 2.55}, Fate.APART, "a twentieth of 1C under watch"),
        ({"arrival_v": 3.50}, Fate.APART, "Its volts lie lower than its lot's"),
        ({"mass_g": CELL.mass_g * 0.95}, Fate.APART, "Too light for what it says"),
        ({"mass_g": CELL.mass_g * 0.85}, Fate.NEVER, "it is no such cell"),
        ({"mass_g": CELL.mass_g * 1.1}, Fate.NEVER, "Far too heavy"),
        ({"capacity_mah": CELL.capacity_mah * 0.75}, Fate.NEVER, "75\u00a0% of its label"),
        ({"capacity_mah": CELL.capacity_mah * 0.95}, Fate.APART, "less than its lot"),
        ({"capacity_mah": CELL.capacity_mah * 1.2}, Fate.APART, "more than its label"),
        ({"dcir_mohm": CELL.resistance_mohm * 1.4}, Fate.APART, "higher than its lot's"),
        ({"dcir_mohm": CELL.resistance_mohm * 0.7}, Fate.APART, "lower than its lot's"),
        ({"dcir_mohm": CELL.resistance_mohm * 2.2}, Fate.NEVER, "Twice the resistance"),
        ({"looks": [Look.DENT]}, Fate.NEVER, "A dent"),
        ({"looks": [Look.RUST]}, Fate.NEVER, "Rust"),
        ({"looks": [Look.TORN_WRAP]}, Fate.APART, "wrap it anew"),
        ({"looks": [Look.REWRAPPED]}, Fate.APART, "Wrapped anew by somebody"),
    ],
)
def test_each_rule_by_itself(values: dict[str, Any], fate: Fate, words: str) -> None:
    found = judged(numbered(**values))
    assert found.fate is fate
    assert words in found.remarks[0].sentence
    assert found.remarks[0].sum
    assert found.remarks[0].field in (*values, "looks")


def test_a_bad_cell_is_told_what_to_do_with() -> None:
    for values in ({"arrival_v": 1.5}, {"looks": [Look.DENT]}, {"mass_g": 0.8 * CELL.mass_g}):
        assert "hand it in" in judged(numbered(**values)).remarks[0].sentence


def test_polymer_is_lost_higher() -> None:
    polymer = cell_type(kinetic_class=KineticClass.POLYMER_POUCH)
    assert judge(polymer, [numbered(arrival_v=2.4)]).cells[0].fate is Fate.NEVER
    assert judge(CELL, [numbered(arrival_v=2.4)]).cells[0].fate is Fate.APART


def test_a_rewrapped_cell_that_was_weighed_and_measured_is_used() -> None:
    found = judged(numbered(looks=[Look.REWRAPPED], mass_g=CELL.mass_g, capacity_mah=CELL.capacity_mah))
    assert found.fate is Fate.USE


def test_few_readings_are_no_lot() -> None:
    assert judge(CELL, [numbered(1, arrival_v=3.5), numbered(2, arrival_v=3.6)]).counts()[Fate.USE] == 2
    assert np.isnan(robust_z(np.array([1.0, 2.0, 3.0, 9.0]), 0.1)).all()


def resting_at(*charges: float) -> list[float]:
    values = resting_curve(CELL).values
    return np.interp(charges, np.linspace(0, 1, len(values)), values).tolist()


def test_charge_lost_at_rest_is_read_off_the_resting_volts() -> None:
    """A cell that falls from 60 % to 57 % in ten days has lost 3 % of its charge."""
    volts = resting_at(0.60, 0.57)
    cell = numbered(arrival_v=volts[0], rested_v=volts[1], arrived_on=date(2026, 4, 1), rested_on=date(2026, 4, 11))
    found = loss_mah_day(CELL, cell)
    assert found is not None
    assert found[0] == pytest.approx(0.003 * CELL.capacity_mah, rel=0.01)
    assert 0 < found[1] < found[0]
    leaking = judge(CELL, [cell]).cells[0]
    assert leaking.loss_mah_day == found[0]


@pytest.mark.parametrize(("points", "fate"), [(0.0, Fate.USE), (0.02, Fate.APART), (0.05, Fate.NEVER)])
def test_a_loss_is_judged_by_its_days(points: float, fate: Fate) -> None:
    volts = resting_at(0.60, 0.60 - points)
    cell = numbered(arrival_v=volts[0], rested_v=volts[1], arrived_on=date(2026, 4, 1), rested_on=date(2026, 4, 11))
    assert judge(CELL, [cell]).cells[0].fate is fate


def test_two_readings_on_neighbouring_days_tell_nothing() -> None:
    cell = numbered(arrival_v=3.6, rested_v=3.5, arrived_on=date(2026, 4, 1), rested_on=date(2026, 4, 3))
    assert loss_mah_day(CELL, cell) is None


def test_a_tray_of_two_kinds_is_told() -> None:
    cells = [*lot(12), *(cell.changed(number=cell.number + 50, id=f"b{cell.number}", mass_g=cell.mass_g * 0.96,
                                      capacity_mah=cell.capacity_mah * 0.94) for cell in lot(8, seed=9))]  # fmt: skip
    told = judge(CELL, cells).of_lot
    assert any("By capacity this tray is of two kinds: 8 about" in sentence for sentence in told)
    assert any("By mass" in sentence for sentence in told)
    assert not any("resistance" in sentence for sentence in told)


def test_one_wide_lot_is_one_kind() -> None:
    random = np.random.default_rng(5)
    for seed in range(30):
        assert two_kinds(np.random.default_rng(seed).normal(4400, 60, 40), 20.0) is None
    assert two_kinds(np.append(random.normal(4400, 20, 20), random.normal(4000, 20, 6)), 20.0) is not None


def test_ac_and_dc_readings_are_not_put_beside_each_other() -> None:
    cells = [cell.changed(dcir_mohm=None, ac_resistance_mohm=0.6 * cell.dcir_mohm) for cell in lot()]
    cells += [numbered(60, dcir_mohm=CELL.resistance_mohm)]
    assert judge(CELL, cells).counts()[Fate.USE] == 21


def test_usable_cells_feed_the_bench_results_of_their_type() -> None:
    tray = judge(CELL, [*lot(5), numbered(70, capacity_mah=0.5 * CELL.capacity_mah), numbered(71)])
    results = tray.bench_results()
    assert [result.label for result in results] == ["1", "2", "3", "4", "5"]
    assert results[0].capacity_mah == tray.usable[0].capacity_mah
    assert isinstance(tray, Tray)


def test_days_that_run_backwards_are_refused() -> None:
    with pytest.raises(DocumentError, match="read again on 2026-03-01, before it arrived on 2026-04-01"):
        numbered(arrived_on=date(2026, 4, 1), rested_on=date(2026, 3, 1))


def test_a_tray_goes_out_as_a_table_and_comes_back() -> None:
    cells = [*lot(4), numbered(9, looks=[Look.RUST, Look.REWRAPPED], note="from a drill; found in 2024",
                               arrived_on=date(2026, 4, 1), arrival_v=3.5)]  # fmt: skip
    table = tray_from_csv(tray_to_csv(cells))
    assert table.refusals == ()
    for cell, back in zip(cells, table.rows, strict=True):
        assert back.changed(id=cell.id, cell_type_id=cell.cell_type_id) == cell


def test_rows_that_are_wrong_are_named_and_the_rest_is_taken() -> None:
    table = tray_from_csv(
        "number;arrival_v;capacity_mah;looks;colour\n1;3,52;4 350 mAh;dent;red\n2;3520 mV;4.36 Ah;;\n1;3,5;;;\n"
        ";3,5;;;\n5;nine;;;\n6;3,5;;bent;\n7;9;;;\n"
    )
    assert [(cell.number, cell.arrival_v, cell.capacity_mah, cell.looks) for cell in table.rows] == [
        (1, 3.52, 4350.0, (Look.DENT,)), (2, 3.52, 4360.0, ()),
    ]  # fmt: skip
    said = "\n".join(table.refusals)
    for words in (
        "Line 1: “colour” is no column of a table of numbered cells",
        "Line 4: “Cell 1” stands in line 2 already; give one of the two another number",
        "Line 5, number: a cell needs the number that is written on it",
        "Line 6, arrival_v: “nine” is not a number",
        "Line 7, looks: “bent” must be one of dent, rust, torn wrap, re-wrapped",
        "Line 8, arrival_v: Volts on arrival must be at most 5\u00a0V",
    ):
        assert words in said


@pytest.mark.parametrize("text", ["", "name,mass_g\nx,3\n", "number\n1\n"])
def test_what_is_no_tray_is_refused_whole(text: str) -> None:
    with pytest.raises(DocumentError, match="must name columns such as number, arrival_v"):
        tray_from_csv(text)


@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize(
    "values", [{}, {"mass_g": CELL.mass_g}, {"capacity_mah": 4000.0}, {"arrival_v": 3.5}, {"dcir_mohm": 15.0}]
)
def test_whatever_was_read_is_enough(values: dict[str, Any]) -> None:
    tray = judge(CELL, [numbered(number, **values) for number in range(1, 9)])
    assert tray.counts()[Fate.NEVER] == 0
