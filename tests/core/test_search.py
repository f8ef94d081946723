"""The search: equal to single answers, its limits equal to their findings, its front to brute force."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import LANDING, PUNCH, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.core.answer import Answer, Severity, answer
from wise_cellar.core.answer.findings.bus import landed_flow
from wise_cellar.core.documents import (
    Bay,
    Block,
    CellType,
    CompleteDesign,
    Conditions,
    CounterSees,
    DocumentError,
    Joint,
    LandingPolicy,
    LandingRule,
    Leads,
    Load,
    PackState,
    Part,
    Repeat,
    SearchChoice,
    Wishes,
    parse_counts,
    replaced,
)
from wise_cellar.core.lowering.space import READY_POLICIES
from wise_cellar.core.search import (
    Aim,
    Flown,
    Flyers,
    Space,
    as_csv,
    as_text,
    bought,
    columns,
    difference,
    fly_rows,
    gains,
    growth,
    joined,
    judge,
    matching,
    pareto,
    present,
    sensitivity,
    swaps,
    worst_exclusion,
)
from wise_cellar.core.search.flown import MOST_AT_ONCE, in_parts
from wise_cellar.core.units import format_minutes
from wise_cellar.demo import complete_sample, sample_documents

DOCUMENTS = {document.id: document for document in sample_documents()}
SHELF = [document for document in DOCUMENTS.values() if isinstance(document, CellType)]


def with_landing(rule: LandingRule) -> CompleteDesign:
    return complete(landing=rule, flown=mission(cruise(60), PUNCH, cruise(), LANDING))


def wide(base: CompleteDesign, **axes: Any) -> Space:
    usual = {"series": range(1, 9), "parallel": range(1, 5), "cells": SHELF, "joints": tuple(Joint),
             "gauges": (10, 14, 18), "policies": READY_POLICIES}  # fmt: skip
    return Space.around(base, **(usual | axes))


def picked(space: Space, count: int, seed: int = 1) -> np.ndarray:
    return np.sort(np.random.default_rng(seed).choice(space.rows, count, replace=False))


def shares(one: Answer) -> dict[str, float]:
    """Of the weakest link of each sort."""
    found = {"cell": 0.0, "strip": 0.0, "lead": 0.0, "joint": 0.0, "craft": 0.0, "others": 0.0}
    sorts = {"bus": "strip", "connector": "lead", "fuse": "lead"}
    for link in one.links:
        if link.kind != "group":
            sort = "others" if link.pack else sorts.get(str(link.kind), str(link.kind))
            found[sort] = max(found[sort], link.worst_share)
    return found


def extended(landing: LandingRule | None = None, own: float = 88) -> CompleteDesign:
    """The small craft with its own battery, charged to ``own`` percent, and an auxiliary."""
    base = complete_sample("dunlin-extended")
    battery = base.packs[1].of
    battery = battery.changed(state=battery.state.changed(start_charge_percent=own))
    changes = {} if landing is None else {"landing": landing}
    return base.with_design(packs=(base.design.packs[0], battery), **changes)


# Ranges


@pytest.mark.parametrize(
    ("text", "found"), [("", ()), ("4", (4,)), ("3:6", (3, 4, 5, 6)), ("1, 2,4", (1, 2, 4)), ("2…3,3", (2, 3))]
)
def test_ranges_are_read(text: str, found: tuple[int, ...]) -> None:
    assert parse_counts(text, "cells in series", 1, 20) == found


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("8:3", r"8:3 for cells in series is empty: .* 3:8"),
        ("few", r"“few” is no range of cells in series\. Write 4, or 3:8"),
        ("0:4", r"Cells in series: 1 to 20 can be searched, not 0:4"),
        ("4:", r"“4:” is no range"),
    ],
)
def test_a_range_that_is_none_is_refused(text: str, sentence: str) -> None:
    with pytest.raises(ValueError, match=sentence):
        parse_counts(text, "cells in series", 1, 20)
    with pytest.raises(DocumentError, match=sentence):
        SearchChoice.from_data({"series": text})


def test_a_space_keeps_to_the_design_where_nothing_is_given() -> None:
    base = complete_sample("whimbrel-transect")
    space = Space.around(base)
    assert space.size == 1
    assert space.design(0).pack.recipe == base.pack.recipe
    asked = SearchChoice(parallel="2:3", cell_ids=("fell-18-35e",))
    choice = base.model_copy(update={"design": base.design.model_copy(update={"search": asked})})
    searched = Space.searched(choice, SHELF)
    assert (searched.series, searched.parallel) == ((3, 4, 5, 6), (2, 3))
    assert [cell.id for cell in searched.cells] == ["fell-18-35e"]
    gone = choice.design.model_copy(update={"search": SearchChoice(cell_ids=("nobody",))})
    with pytest.raises(DocumentError, match="No cell type is chosen that is on the shelf"):
        Space.searched(choice.model_copy(update={"design": gone}), SHELF)


def test_a_search_too_large_says_how_large_and_offers_a_coarser_one() -> None:
    with pytest.raises(DocumentError) as refused:
        wide(complete_sample("whimbrel-transect"), series=range(1, 21), parallel=range(1, 26), gauges=range(31))
    told = str(refused.value).replace("\u202f", "")
    assert "That is 1813500 designs; 1000000 is the most" in told
    assert "With 17 of the 31 lead gauges it would be 994500." in told


def test_packs_bought_whole_are_not_repeated_for_joints_and_leads_they_do_not_have() -> None:
    space = Space.around(complete(), cells=[whole_pack()], series=(2, 4), joints=tuple(Joint), gauges=(10, 14),
                         parallel=(1,))  # fmt: skip
    assert space.size == 12
    found = [(space.design(row).pack.recipe.series_count, space.design(row).pack.recipe.leads.gauge_awg)
             for row in space.rows.tolist()]  # fmt: skip
    assert found == [(2, 10), (4, 10), (4, 14)], "one pack alone has its own leads; two have an adaptor"


def test_the_row_of_a_design_is_found() -> None:
    space = wide(complete_sample("whimbrel-transect"))
    for row in picked(space, 20).tolist():
        assert space.row_of(space.design(row)) == row
    assert space.row_of(complete()) is None


# Equal to single answers


@pytest.mark.parametrize(
    "base",
    [
        complete_sample("whimbrel-transect"),
        complete_sample("dunlin-scout"),
        complete_sample("turnstone-shoreline"),
        complete(conditions=Conditions(air_temperature_c=-8, wind_m_s=5, gust_m_s=3, payload_g=120),
                 state=PackState(temperature_c=18, capacity_percent=88, resistance_percent=130,
                                 start_charge_percent=93),
                 leads=Leads(gauge_awg=12, length_mm=210, adaptors=2), joint_mohm=0.4),
        with_landing(LandingRule(basis="volts at rest", resting_voltage_v=3.55)),
        with_landing(LandingRule(basis="charge used", charge_percent=70)),
        with_landing(LandingRule(basis="the craft's own counter", counter_mah=3000, charge_percent=80)),
        extended(),
        extended(own=45),
        extended(LandingRule(basis="volts at rest", resting_voltage_v=3.6)),
        extended(LandingRule(basis="charge used", charge_percent=60)),
        extended(LandingRule(basis="the craft's own counter", charge_percent=60)),
        extended(LandingRule(basis="the craft's own counter", charge_percent=60, counter_sees=CounterSees.ALL)),
    ],
    ids=["rotors", "small", "wing", "cold, aged, adaptors", "resting", "charge", "counter", "extended", "unlike charge",
         "extended, resting", "extended, charge", "extended, own counter", "extended, all counted"],
)  # fmt: skip
def test_a_search_is_as_many_single_answers(base: CompleteDesign) -> None:
    space = wide(base, series=(2,)) if len(base.packs) > 1 else wide(base)
    factor = answer(base).factor
    rows = picked(space, 10)
    found = fly_rows(space, rows, factor)
    judged = judge(space, found, Wishes())
    for place, row in enumerate(rows.tolist()):
        design = space.design(row)
        one = answer(design)
        for name, value in {
            "duration_s": one.duration_s, "takeoff_g": one.takeoff_mass_g, "pack_g": one.build.mass_g,
            "charge_left": one.charge_left, "usable_wh": one.energy_used_wh,
            "late_v": one.late_punch.volts_a_cell, "late_margin": one.late_punch.thrust_margin,
            "early_margin": one.early_punch.thrust_margin, "hottest_c": one.packs[0].hottest_c,
            "coldest_c": one.packs[0].coldest_c, "cruise_a": one.currents.cruise_a,
            "punch_a": one.currents.punch_a, **{f"{sort}_share": share for sort, share in shares(one).items()},
        }.items():  # fmt: skip
            assert getattr(found, name)[place] == pytest.approx(value, rel=1e-9, abs=1e-9), (name, row)
        assert found.ending[place] == one.reason.ending
        landed = landed_flow(one)
        # What flows after landing is for hands to end, and no limit of a search.
        by_hand = landed.sentence if landed is not None else ""
        over = [told.sentence for told in one.findings if told.severity is Severity.OVER]
        over = [sentence for sentence in over if sentence != by_hand]
        assert bool(over) == (not judged.passes[place]), (over, judged.reasons(place))


def test_own_placements_hold_for_their_own_counts_and_others_are_searched_in_square_rows() -> None:
    base = complete(arrangement="own placement", own_places=(), parallel_count=3)
    space = Space.around(base, parallel=(2, 3, 4))
    found = [str(space.design(row).pack.recipe.arrangement) for row in space.rows.tolist()]
    assert found == ["square rows", "own placement", "square rows"]
    assert space.row_of(base) == 1


def test_results_do_not_hang_on_how_they_are_parted() -> None:
    space = wide(complete_sample("whimbrel-transect"), joints=(), policies=())
    rows = space.rows[:300]
    whole = fly_rows(space, rows, 1.0)
    parts = joined([fly_rows(space, some, 1.0) for some in (rows[200:], rows[:90], rows[90:200])])
    assert (parts.row == whole.row).all()
    assert parts.duration_s == pytest.approx(whole.duration_s, rel=1e-12)


def test_a_long_mission_is_flown_in_small_batches() -> None:
    """Memory is bounded by flights times steps: 1 200 steps leave 250 flights at once, few leave 12 000."""
    once = mission(cruise(10), LANDING)
    many = once.model_copy(update={"repeats": (Repeat(first=1, last=1),)})
    for flown, least, most in ((many, 200, 250), (mission(), 2000, MOST_AT_ONCE)):
        space = wide(complete(flown=flown), series=range(1, 15), parallel=range(1, 13))
        parts = in_parts(space, 2)
        assert (np.concatenate(parts) == space.rows).all()
        assert least < max(len(part) for part in parts) <= most
        assert len(parts) % 2 == 0
    assert [len(part) for part in in_parts(Space.around(complete(), parallel=range(1, 11)), 2)] == [5, 5]


# Processes


def test_processes_bring_what_one_would_and_a_search_that_is_left_leaves_nothing() -> None:
    space = wide(complete_sample("whimbrel-transect"), policies=(), series=range(3, 7))
    assert len(space.rows) > 1500
    flyers = Flyers(2)
    try:
        found = joined(list(flyers.fly(space, 1.0)))
        assert found.duration_s == pytest.approx(fly_rows(space, space.rows, 1.0).duration_s, rel=1e-12)
        parts = flyers.fly(space, 1.0)
        next(parts)
        parts.close()
        assert joined(list(flyers.fly(Space.around(complete(), parallel=(1, 2)), 1.0))).row.tolist() == [0, 1]
    finally:
        flyers.close()


def test_where_no_process_lives_the_search_is_flown_here(monkeypatch: pytest.MonkeyPatch) -> None:
    from concurrent.futures.process import BrokenProcessPool

    from wise_cellar.core.search import pool

    class Broken:
        def __init__(self, *_: object, **__: object) -> None:
            raise BrokenProcessPool

    monkeypatch.setattr(pool, "ProcessPoolExecutor", Broken)
    space = wide(complete_sample("whimbrel-transect"), policies=(), series=range(3, 7), parallel=range(1, 3))
    assert len(joined(list(Flyers(2).fly(space, 1.0)))) == len(space.rows)


# Limits


def test_every_wish_excludes_what_breaks_it_and_says_so() -> None:
    space = wide(complete(carrier=craft(bay=Bay(length_mm=120, width_mm=70, height_mm=80))), joints=(), policies=())
    found = fly_rows(space, space.rows, 1.0)
    plain = judge(space, found, Wishes(into_bay=False)).passes
    assert plain.sum() > 10

    def middle(values: np.ndarray) -> float:
        return round(float(np.nanmedian(values[plain])), 2)

    minutes, margin, hover = (
        middle(found.duration_s / 60),
        middle(found.late_margin),
        middle(100 * found.hover_throttle),
    )
    grams, price, volts, warm = (middle(v) for v in (found.takeoff_g, found.price, found.late_v, found.hottest_c))
    for wish, value, keeps, words in (
        ("least_duration_min", minutes, found.duration_s >= 60 * minutes, "in the air, less than"),
        (
            "least_margin",
            margin,
            found.late_margin >= margin,
            rf"Late thrust .* times the weight, less than {margin:g}",
        ),
        ("most_hover_percent", hover, 100 * found.hover_throttle <= hover, "throttle in a hover, more than"),
        ("most_takeoff_mass_g", grams, found.takeoff_g <= grams, "over the class of"),
        ("most_price", price, found.price <= price, f"more than {price:.2f}|without a price"),
        ("least_late_v", volts, found.late_v >= volts, f"V a cell in a late punch, less than {volts:.2f} V"),
        ("most_temperature_c", warm, found.hottest_c <= warm, f"more than {warm:.0f} °C"),
        ("into_bay", True, found.fits > 0, "does not go into the bay"),
    ):
        judged = judge(space, found, Wishes.from_data({"into_bay": False, wish: value}))
        assert (judged.passes == (plain & keeps)).all(), wish
        excluded = np.flatnonzero(plain & ~keeps)
        assert len(excluded), wish
        (reason,) = judged.reasons(int(excluded[0]))
        assert re.search(words, reason), reason


def test_motors_and_escs_are_held_to_their_volts() -> None:
    """Full at 4.2 V a cell: 6S has 25.2 V, 5S 21.0 V."""
    base = craft()
    held = base.model_copy(update={"motor": base.motor.model_copy(update={"max_voltage_v": 22.0})})
    space = Space.around(complete(carrier=held), series=range(4, 8))
    judged = judge(space, fly_rows(space, space.rows, 1.0), Wishes())
    by_name = {limit.name: limit.fails.tolist() for limit in judged.limits}
    assert by_name["Motor voltage"] == [False, False, True, True]
    assert by_name["ESC voltage"] == [False, False, False, True], "which may see 26 V"
    for place, row in enumerate(space.rows.tolist()):
        told = [finding.field for finding in answer(space.design(row)).findings]
        assert ("craft.motor.max_voltage_v" in told) == by_name["Motor voltage"][place]


def test_the_limit_that_excludes_most_and_what_relaxing_it_brings() -> None:
    space = wide(complete(carrier=craft(max_takeoff_mass_g=1800)), cells=[cell_type()], joints=(), policies=())
    found = fly_rows(space, space.rows, 1.0)
    judged = judge(space, found, Wishes())
    exclusion = worst_exclusion(judged, found)
    assert exclusion is not None
    assert exclusion.count == max(limit.fails.sum() for limit in judged.limits)
    others = np.logical_or.reduce([limit.fails for limit in judged.limits if limit is not exclusion.limit])
    assert exclusion.alone == (exclusion.limit.fails & ~others).sum()
    assert exclusion.nearest is not None
    best = found.duration_s[judged.passes].max()
    assert exclusion.gained_s == pytest.approx(found.duration_s[exclusion.nearest] - best)
    relaxed = judge(space, replace(found, takeoff_g=np.minimum(found.takeoff_g, 1800)), Wishes())
    assert exclusion.limit.name != "Take-off mass" or relaxed.passes[exclusion.nearest]
    assert f"{exclusion.limit.name} excludes most: {exclusion.count}" in exclusion.sentence(len(found), found)
    everything = judge(space, found, Wishes(least_duration_min=1000))
    assert not everything.passes.any()
    worst = worst_exclusion(everything, found)
    assert worst is not None
    assert worst.limit.name == "Least time in the air"
    none = Space.around(complete(conditions=Conditions(air_temperature_c=20)))
    alone = fly_rows(none, none.rows, 1.0)
    fine = judge(none, alone, Wishes())
    assert not fine.passes.all() or worst_exclusion(fine, alone) is None


# Front


def beaten(rows: np.ndarray) -> np.ndarray:
    """By its definition: some row is at least as good in all columns and better in one."""
    return np.array([any((other >= row).all() and (other > row).any() for other in rows) for row in rows], bool)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 6)] * 3), min_size=1, max_size=60))
def test_the_front_is_what_brute_force_finds(rows: list[tuple[int, int, int]]) -> None:
    values = np.array(rows, float)
    assert (pareto(values) == ~beaten(values)).all()
    among = values[:, 0] > 2
    only = pareto(values, among)
    assert not only[~among].any()
    assert (only[among] == ~beaten(values[among])).all()


def test_the_front_of_many_rows_over_several_blocks() -> None:
    values = np.random.default_rng(4).integers(0, 40, (3000, 2)).astype(float)
    assert (pareto(values) == ~beaten(values)).all()


def test_aims_are_minutes_mass_price_and_margin() -> None:
    space = wide(complete_sample("whimbrel-transect"), joints=(), policies=(), gauges=())
    found = fly_rows(space, space.rows, 1.0)
    two, four = (pareto(gains(found, aims)) for aims in ([Aim.MINUTES, Aim.MASS], list(Aim)))
    assert set(np.flatnonzero(two)) <= set(np.flatnonzero(four))
    edge = np.flatnonzero(two)
    edge = edge[np.argsort(found.takeoff_g[edge])]
    assert (np.diff(found.duration_s[edge]) > 0).all(), "what is heavier flies longer"
    priceless = replace(found, price=np.full(len(found), np.nan))
    assert (pareto(gains(priceless, [Aim.MINUTES, Aim.MASS, Aim.PRICE])) == two).all()


# Growth, slopes, swaps, differences


def test_growth_is_the_answers_of_one_to_twelve_in_parallel() -> None:
    base = complete_sample("whimbrel-transect")
    found = growth(base, answer(base).factor)
    each = []
    for count in (1, 4, 9):
        recipe = base.pack.recipe.model_copy(update={"parallel_count": count})
        one = answer(base.with_pack(recipe=recipe))
        each.append(one)
        assert found.minutes[count - 1] == pytest.approx(one.duration_s / 60, rel=1e-9)
    assert found.peak == int(np.argmax(found.minutes))
    assert 0 < found.peak < 11, "the peak is visible"
    assert found.marginal_s[0] == pytest.approx((found.minutes[1] - found.minutes[0]) * 60 / 4)
    handles = found.handles
    assert handles is not None
    assert found.flown.late_margin[handles] >= found.least_margin > found.flown.late_margin[handles + 1]
    words = " ".join(found.sentences(3))
    assert f"Longest at {found.parallel[found.peak]}P" in words
    assert f"From 3P to 4P every added cell brings {found.marginal_s[2]:.0f} s" in words
    assert f"Beyond {found.parallel[handles]}P" in words


def test_an_auxiliary_grows_beside_the_battery_the_craft_has() -> None:
    """Its peak, what it brings over the own battery alone, and how many stay in the mass class."""
    base = complete_sample("dunlin-extended")
    found = growth(base, answer(base).factor)
    assert 0 < found.peak < 4, "the peak is visible"
    bare = base.without_auxiliary
    assert bare is not None
    alone = answer(bare)
    assert found.alone is not None
    assert found.alone.duration_s[0] == pytest.approx(alone.duration_s, rel=1e-9)
    assert found.alone.takeoff_g[0] == pytest.approx(alone.takeoff_mass_g, rel=1e-9)
    words = " ".join(found.sentences(1))
    brings = answer(base).duration_s - alone.duration_s
    assert f"With its own battery alone it flies {format_minutes(alone.duration_s)}" in words
    assert f"the auxiliary {'brings' if brings > 0 else 'costs'} {format_minutes(abs(brings))}" in words
    assert found.takeoff_g[found.peak] > 400
    assert "over the 400 g it may weigh; within them 1P" in words
    lighter = replaced(base, "design.taken_off", (Part(name="lid", mass_g=20),))
    assert growth(lighter, 1.0).takeoff_g[0] == pytest.approx(found.takeoff_g[0] - 14)


def test_packs_beside_hold_the_search_to_their_count_in_series() -> None:
    base = complete_sample("dunlin-extended")
    asked = base.design.model_copy(update={"search": SearchChoice(series="1:6", parallel="1:3")})
    assert Space.searched(base.model_copy(update={"design": asked}), SHELF).series == (2,)
    with pytest.raises(DocumentError, match="Reed 4S 5200 has 4 cells in series and cannot stand on a bus of 2S"):
        bought(base, DOCUMENTS["reed-4s-5200"], 1.0)  # type: ignore[arg-type]


def test_slopes_are_what_answers_differ_by() -> None:
    base = complete_sample("whimbrel-transect")
    found = {slope.name: slope.seconds for slope in sensitivity(base, answer(base).factor)}

    its, now = base.pack.state, base.design.conditions

    def seconds(state: PackState = its, **weather: float) -> float:
        return answer(base.with_pack(state=state).with_design(conditions=now.changed(**weather))).duration_s

    assert found["Take-off mass"] == pytest.approx((seconds(payload_g=10) - seconds()) / 10, rel=1e-6)
    warm, cold = (
        seconds(its.changed(temperature_c=its.temperature_c + by), air_temperature_c=now.air_temperature_c + by)
        for by in (2, -2)
    )
    warmer = warm - cold
    assert found["Air and pack"] == pytest.approx(warmer / 4, rel=1e-6)
    less, more = (its.changed(capacity_percent=percent) for percent in (98, 102))
    assert found["Capacity"] == pytest.approx((seconds(less) - seconds(more)) / 4)
    assert found["Leads and joints"] < 0 < found["Air and pack"]
    assert list(found.values()) == sorted(found.values(), key=lambda value: -abs(value))


def test_a_swap_weighs_the_same_and_tells_minutes_and_punch() -> None:
    base = complete_sample("dunlin-scout")
    pack = next(cell for cell in SHELF if cell.whole_pack and cell.cells_in_series == 2)
    factor = answer(base).factor
    reference = bought(base, pack, factor)
    assert reference.complete.pack.recipe.series_count % 2 == 0
    space = wide(base, joints=(), policies=(), gauges=())
    found = fly_rows(space, space.rows, factor)
    offered = swaps(space, found, reference, 0.1)
    assert offered
    assert [swap.more_s for swap in offered] == sorted((swap.more_s for swap in offered), reverse=True)
    was = answer(reference.complete)
    for swap in offered[:3]:
        assert abs(swap.pack_g - reference.pack_g) <= 0.1 * reference.pack_g
        design = space.design(int(found.row[swap.place]))
        assert not design.pack.cell.whole_pack
        one = answer(design)
        assert swap.more_s == pytest.approx(one.duration_s - was.duration_s)
        assert swap.early_margin == pytest.approx(one.early_punch.thrust_margin - was.early_punch.thrust_margin)
    own = present(base, factor)
    assert own.name == f"{base.pack.recipe.series_count}S {base.pack.recipe.parallel_count}P of {base.pack.cell.name}"
    assert space.row_of(base) not in [found.row[swap.place] for swap in swaps(space, found, own, 0.2)]


def test_a_difference_is_told_apart_and_adds_up() -> None:
    base = complete_sample("whimbrel-transect")
    recipe = base.pack.recipe.model_copy(update={"parallel_count": 4})
    other = base.with_pack(recipe=recipe)
    its, others = answer(base), answer(other)
    found = difference(base, its, other, others)
    assert found.grams == pytest.approx(others.takeoff_mass_g - its.takeoff_mass_g)
    assert sum(share.amount for share in found.grams_of) == pytest.approx(found.grams, abs=0.5)
    assert sum(share.amount for share in found.seconds_of) == pytest.approx(found.seconds)
    by_name = {share.name: share.amount for share in found.seconds_of}
    assert by_name["mission, weather and landing"] == pytest.approx(0, abs=1e-6)
    assert by_name["mass"] < 0 < by_name["capacity"]
    # What mass alone costs is what as much payload costs.
    laden = base.design.conditions.model_copy(update={"payload_g": found.grams})
    heavier = base.model_copy(update={"design": base.design.model_copy(update={"conditions": laden})})
    assert by_name["mass"] == pytest.approx(answer(heavier).duration_s - its.duration_s, rel=1e-6)
    assert found.sentence().startswith(f"+{found.grams:.0f} g, of which cells ")
    gentle = base.design.landing.model_copy(update={"policy": LandingPolicy.DEEP})
    deeper = base.model_copy(update={"design": base.design.model_copy(update={"landing": gentle})})
    only = difference(base, its, deeper, answer(deeper))
    assert {share.name: share.amount for share in only.seconds_of}["mission, weather and landing"] == pytest.approx(
        only.seconds
    )


# Table


def few() -> tuple[Space, Flown]:
    space = wide(complete_sample("whimbrel-transect"), joints=(), policies=(), gauges=(), parallel=(1, 2, 3))
    return space, fly_rows(space, space.rows, 1.0)


def test_a_filter_leaves_what_it_names() -> None:
    space, found = few()
    every = columns(space, found, judge(space, found, Wishes()))
    place = space.places(found.row)
    tarn = np.array(["tarn" in cell.name.lower() for cell in space.cells])[place.cells]
    four = np.array(space.series)[place.series] == 4
    assert (matching(every, "tarn 4s") == (tarn & four)).all()
    assert (matching(every, "margin>1.5 mass<1800") == ((found.late_margin > 1.5) & (found.takeoff_g < 1800))).all()
    assert (matching(every, "minutes >= 20") == (found.duration_s >= 1200)).all()
    assert matching(every, "").all()
    for wrong in ("frogs>2", "mass>", "mass>heavy"):
        with pytest.raises(DocumentError, match="compares nothing that is known: write minutes, mass"):
            matching(every, wrong)


def test_the_table_goes_out_as_csv_and_as_text() -> None:
    space, found = few()
    judged = judge(space, found, Wishes(most_price=30))
    every = columns(space, found, judged)
    some = np.array([3, 0])
    lines = list(csv.DictReader(io.StringIO(as_csv(every, some))))
    assert [float(line["duration_s"]) for line in lines] == pytest.approx(found.duration_s[some], rel=1e-5)
    assert lines[0]["cell"] == space.design(int(found.row[3])).pack.cell.name
    reasons = judged.reasons(3)
    assert lines[0]["excluded_by"] == (reasons[0].split(":")[0] if reasons else "")
    shown = [column for column in every if column.usual]
    text = as_text(shown, some).splitlines()
    assert text[0].split("\t") == [column.head for column in shown]
    assert len(text) == 3


def test_throttle_in_hover_is_that_of_a_hover_flown_on_a_full_pack() -> None:
    hovering = complete(flown=mission(Block(kind="hover", duration_s=60), LANDING), conditions=Conditions(wind_m_s=3))
    space = Space.around(hovering, parallel=(2, 4), series=(4, 6))
    found = fly_rows(space, space.rows, 1.0)
    flown = [float(answer(space.design(row)).series.throttle[0]) for row in space.rows.tolist()]
    assert found.hover_throttle == pytest.approx(flown, rel=1e-9)


def test_a_load_that_restarts_at_switch_on_excludes() -> None:
    starved = craft(loads=(Load(name="big radio", power_w=4, startup_w=400, min_input_v=10),))
    space = Space.around(complete(carrier=starved, flown=mission(Block(kind="hover", duration_s=30))), parallel=(1, 12),
                         cells=[cell_type(dcir_mohm=60)])  # fmt: skip
    found = fly_rows(space, space.rows, 1.0)
    judged = judge(space, found, Wishes())
    for place, row in enumerate(space.rows.tolist()):
        told = [f for f in answer(space.design(row)).findings if "restarts" in f.sentence]
        assert bool(told) == any(reason.startswith("Loads stay on") for reason in judged.reasons(place))


def test_a_measured_joint_holds_for_its_own_way_of_joining_only() -> None:
    space = Space.around(complete(joint=Joint.SOLDERED, joint_mohm=0.4), joints=tuple(Joint))
    for joint in Joint:
        expected = 0.4 if joint is Joint.SOLDERED else None
        assert space.recipe(4, 3, joint, 12).joint_mohm == expected
