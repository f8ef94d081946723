"""What is told of a design that could be built or flown wrongly: benches against labels, claims, bursts, advice."""

from __future__ import annotations

import re

import pytest

from tests.builders import cell_type, complete, cruise, mission
from wise_cellar.core.advice import study_pack
from wise_cellar.core.answer import Answer, Severity, answer, spread
from wise_cellar.core.cells import capacity_mah, electrical
from wise_cellar.core.documents import BenchResult, Block, CellType, CompleteDesign, Leads
from wise_cellar.core.pack import build_pack
from wise_cellar.core.search import growth
from wise_cellar.demo import complete_sample


def told(found: Answer, words: str) -> list[tuple[Severity, str]]:
    return [(one.severity, one.sentence) for one in found.findings if words in one.sentence]


def benched(*values: float, quantity: str = "capacity_mah", **changes: object) -> CellType:
    results = tuple(BenchResult(label=f"No. {n}", **{quantity: value}) for n, value in enumerate(values))
    return cell_type(bench_results=results, **changes)


# What the bench says flies


def test_three_specimens_fly_their_median_and_say_so() -> None:
    label, measured = answer(complete()), complete(cell=benched(3800, 3870, 3900))
    found = answer(measured)
    assert capacity_mah(measured.pack.cell) == 3870
    assert found.duration_s < 0.9 * label.duration_s
    severity, sentence = told(found, "specimens of")[0]
    assert severity is Severity.CAUTION
    assert "3 specimens of Fell 21-45P measured 14 % under the capacity of its label" in sentence
    assert not told(found, "where 4500 are written"), "once is enough"
    low, high = spread(measured, found).duration_s
    assert low < found.duration_s < high


@pytest.mark.parametrize("values", [(3800,), (3800, 3900)])
def test_fewer_specimens_leave_the_label(values: tuple[float, ...]) -> None:
    found = answer(complete(cell=benched(*values)))
    assert found.duration_s == pytest.approx(answer(complete()).duration_s)
    assert not told(found, "specimens of")


def test_a_bench_near_the_label_is_not_worth_a_word() -> None:
    assert not told(answer(complete(cell=benched(4430, 4450, 4470))), "specimens of")


def test_measured_resistance_and_mass_fly_too() -> None:
    plain = cell_type()
    ohmic = benched(24, 25, 26, quantity="dcir_mohm")
    assert electrical(ohmic)["r0_ohm"] > 1.5 * electrical(plain)["r0_ohm"]
    assert told(answer(complete(cell=ohmic)), "67 % over the resistance of its label")
    heavy = benched(72, 73, 74, quantity="mass_g")
    recipe = complete().pack.recipe
    assert build_pack(recipe, heavy).mass_g - build_pack(recipe, plain).mass_g == pytest.approx(12 * 3)


# Claims


def test_a_doubtful_claim_is_a_caution_of_every_design_that_rests_on_it() -> None:
    """40 A over 18 mΩ lose 0.72 V: doubtful; 80 A lose 1.44 V: cannot be."""
    doubtful, impossible = (
        answer(complete(cell=cell_type(dcir_mohm=18, continuous_current_a=amps, pulse_current_a=None)))
        for amps in (40, 80)
    )
    assert told(doubtful, "rated current against resistance")[0][0] is Severity.CAUTION
    assert told(impossible, "rated current against resistance")[0][0] is Severity.OVER


# Bursts and margins


def test_a_first_punch_under_a_minimum_is_told_like_a_late_one() -> None:
    weak = cell_type(dcir_mohm=45, min_voltage_v=3.0, continuous_current_a=35)
    found = answer(complete(cell=weak))
    assert found.packs[0].early_cell_v < 3.0
    severity, sentence = told(found, "A first punch pulls the cells")[0]
    assert severity is Severity.CAUTION
    assert f"to {found.packs[0].early_cell_v:.2f} V, under their minimum of 3.00 V" in sentence


def test_a_margin_just_under_what_is_wanted_is_told_in_figures_that_differ() -> None:
    base = answer(complete())
    wanted = round(base.late_punch.thrust_margin, 2) + 0.01
    close = complete(landing={"least_margin": wanted})
    sentence = told(answer(close), "Late in the pack")[0][1]
    assert (
        f"gives {answer(close).late_punch.thrust_margin:.2f} times" in sentence
        or f"less than the {wanted:g}" in sentence
    )
    assert f"gives {wanted:g} times" not in sentence


# Advice


def overloaded() -> CompleteDesign:
    """The larger craft on two energy cells in parallel, whose bursts are too much for them."""
    sample = complete_sample("turnstone-shoreline")
    whimbrel = complete_sample("whimbrel-transect")
    recipe = whimbrel.pack.recipe.changed(parallel_count=2)
    return whimbrel.with_pack(sample.pack.cell, recipe=recipe)


def test_where_no_wiring_clears_a_link_what_would_is_said() -> None:
    found = answer(overloaded())
    study = study_pack(overloaded(), found)
    assert study.cure is None
    assert f"a power cell that gives {found.weak_link.punch_a:.0f} A for {found.punch_s:g} s" in study.would
    assert re.search(r"throttle held to \d\d % in bursts would\.$", study.would)
    assert study_pack(complete(), answer(complete())).would == ""


def test_throttle_held_to_what_is_said_keeps_to_the_limit() -> None:
    """Flown on the bench at that throttle, the cell that carries most gives what its burst may be."""
    found = answer(overloaded())
    said = re.search(r"throttle held to (\d\d) %", study_pack(overloaded(), found).would)
    assert said is not None
    hold = mission(
        Block(kind="throttle step", duration_s=found.punch_s, throttle_percent=float(said[1])),
        Block(kind="landing", duration_s=1),
    )
    bench = answer(overloaded().changed(mission=hold))
    assert bench.links[0].cruise_a == pytest.approx(found.weak_link.punch_limit_a, rel=0.03)


def test_of_changes_that_weigh_the_same_the_least_is_proposed() -> None:
    """Eight welds clear what twelve and sixteen clear too."""
    few = complete(welds=4, flown=mission(cruise(60), Block(kind="punch", duration_s=4), cruise()), parallel_count=3)
    found = answer(few)
    assert found.weak_link.name == "Welds on a cell end"
    cure = study_pack(few, found).cure
    assert cure is not None
    assert cure.proposal.recipe.welds == next(
        welds for welds in (6, 8, 12, 16) if found.weak_link.punch_a * 1.02 <= 0.85 * 8 * welds
    )


def test_worn_poles_are_cured_by_new_ones() -> None:
    worn = complete(leads=Leads(gauge_awg=10, connector="90 A class", wear=3))
    found = answer(worn)
    assert found.weak_link.name.startswith("Connector")
    cure = study_pack(worn, found).cure
    assert cure is not None
    assert cure.proposal.words == "A new connector of its class"


def test_shorter_leads_ask_whether_they_still_reach() -> None:
    long = complete(leads=Leads(gauge_awg=10, length_mm=1500, connector="90 A class"), flown=mission(cruise()))
    words = [outcome.proposal.words for outcome in study_pack(long, answer(long)).worth]
    assert any(each.startswith("Leads of ") and each.endswith("mm, if they still reach") for each in words)


# Growth


def test_growth_says_which_rule_leaves_what_in_which_pack() -> None:
    found = growth(complete(), 1.0)
    single = answer(complete(parallel_count=int(found.parallel[found.peak])))
    words = " ".join(found.sentences(3))
    assert f"landed by the balanced rule, with {100 * single.charge_left:.0f} % of the charge left" in words
    several = growth(complete_sample("dunlin-extended"), 1.0)
    told_of = next(one for one in several.sentences(1) if "landed by" in one)
    assert " in the auxiliary and " in told_of


# Carriers


def test_watt_hours_as_carriers_read_them() -> None:
    """12 cells of 4.5 Ah: at 3.6 V 194 Wh, at a label's 3.7 V 200, iron phosphate 3.2 V 173."""
    recipe = complete().pack.recipe
    assert build_pack(recipe, cell_type()).label_wh == pytest.approx(12 * 4.5 * 3.6)
    assert build_pack(recipe, cell_type(nominal_voltage_v=3.7)).label_wh == pytest.approx(12 * 4.5 * 3.7)
    assert build_pack(recipe, cell_type(ocv_family="lfp", max_voltage_v=3.6)).label_wh == pytest.approx(12 * 4.5 * 3.2)
