"""Bursts one after another: what they heat, how long cells may give them, and what a search says of the same."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.builders import cell_type, complete, cruise, mission
from wise_cellar.core.answer import Answer, Asked, Severity, answer, explain
from wise_cellar.core.cells import electrical, inside_heating
from wise_cellar.core.documents import (
    Block,
    CompleteDesign,
    Conditions,
    Cooling,
    Joint,
    LandingRule,
    Leads,
    Mission,
    Repeat,
    replaced,
)
from wise_cellar.core.flight import Ending
from wise_cellar.core.pack import Link, LinkKind
from wise_cellar.core.pack.rating import Carrier, carriers_of
from wise_cellar.core.search import Space, fly_rows
from wise_cellar.demo import complete_sample


def bursting(seconds: float, rest_s: float, times: int) -> Mission:
    return mission(
        cruise(5), Block(kind="punch", duration_s=seconds), cruise(rest_s), Block(kind="landing", duration_s=10)
    ).changed(repeats=(Repeat(first=2, last=3, times=times),))


def transect(seconds: float = 4, rest_s: float = 2, times: int = 40) -> CompleteDesign:
    """The larger craft of the sample world, bursting."""
    return complete_sample("whimbrel-transect").changed(mission=bursting(seconds, rest_s, times))


def link(found: Answer, name: str) -> Link:
    return next(one for one in found.links if one.name.startswith(name))


def said(found: Answer, words: str) -> list[tuple[Severity, str]]:
    return [(one.severity, one.sentence) for one in found.findings if words in one.sentence]


def test_forty_bursts_in_a_row_heat_leads_that_one_may_last_in() -> None:
    found = answer(transect())
    lead = link(found, "Lead")
    assert lead.punch_share < 1 < lead.flown_share
    assert lead.worst_share == lead.flown_share
    assert lead.flown_rise_k is not None
    severity, sentence = said(found, "Lead, 12 AWG")[0]
    assert severity is Severity.OVER
    assert f"one after another, warm it by {lead.flown_rise_k:.0f} K; 40 K are allowed" in sentence
    assert answer(transect(times=1)).findings == tuple(
        one for one in answer(transect(times=1)).findings if "one after another" not in one.sentence
    )


def test_what_leads_feel_is_the_recorded_current_through_their_own_heat_balance() -> None:
    """Stepped through in two hundredths of every step of the recorded trace."""
    found = answer(transect(times=12))
    series, heating = found.series, found.build.lead.heating
    amps, rise, warmest = found.packs[0].series.amps, 0.0, 0.0
    for place, seconds in enumerate(np.diff(series.time_s)):
        for share in np.linspace(0, 1, 200, endpoint=False):
            now = amps[place] + share * (amps[place + 1] - amps[place])
            rise += seconds / 200 * (now**2 * heating.rise_k_a2 - rise) / heating.time_constant_s
            warmest = max(warmest, rise)
    assert link(found, "Lead").flown_rise_k == pytest.approx(warmest, rel=0.01)


def test_long_rests_let_them_cool() -> None:
    rises = [link(answer(transect(rest_s=rest, times=6)), "Lead").flown_rise_k for rest in (2, 20, 90)]
    assert rises[0] > rises[1] > rises[2] > 0  # type: ignore[operator]


@pytest.mark.parametrize(("seconds", "rest_s", "held"), [(4, 5, False), (4, 1, True), (12, 60, True), (9, 60, False)])
def test_cells_give_a_burst_for_as_long_as_they_may(seconds: float, rest_s: float, held: bool) -> None:
    """More than 20 A for 10 s at most; a rest shorter than the burst does not part two of them."""
    cell = cell_type(continuous_current_a=20, pulse_current_a=60, dcir_mohm=12)
    found = answer(complete(cell=cell, flown=bursting(seconds, rest_s, 5)))
    cells = link(found, "Cell")
    assert cells.punch_share < 1
    assert (cells.flown_share > 1) == held
    told = said(found, "in bursts of more than 10 s in all")
    assert bool(told) == held
    if held:
        assert told[0][0] is Severity.OVER
        assert f"{cells.held_a:.1f} A" in told[0][1]


def test_springs_are_a_link_and_are_told_with_the_heat_of_each_contact() -> None:
    """The small scout of the sample world held by springs, as a bench holder would."""
    found = answer(replaced(complete_sample("dunlin-scout"), "design.packs.0.recipe.joint", Joint.SPRING_HOLDER))
    springs = link(found, "Springs")
    assert springs.kind is LinkKind.JOINT
    assert (springs.cruise_limit_a, springs.cruise_share > 1) == (pytest.approx(4), True)
    severity, sentence = said(found, "Springs")[0]
    amps = max(springs.cruise_a, springs.punch_a)
    assert severity is Severity.OVER
    assert f"{amps:.1f} A heats each contact with {amps**2 * 15e-3:.1f} W" in sentence


def test_springs_in_many_bursts_are_told_by_amps_and_watts_not_by_kelvin() -> None:
    """Their warmth is a figure of speech: what they bear is known in amps."""
    held = replaced(complete_sample("dunlin-scout"), "design.packs.0.recipe.joint", Joint.SPRING_HOLDER)
    held = held.changed(mission=bursting(3, 1, 20))
    found = answer(held)
    springs = link(found, "Springs")
    assert springs.by_flight
    assert found.weak_link is springs
    assert springs.flown_rise_k is None
    assert next(one.sentence for one in found.findings if one.sentence.startswith("Springs: ")).endswith("for 3 s.")
    told = [step.sentence for step in explain(held, found, Asked.LINK)]
    assert any("one after another, come to" in sentence for sentence in told)


def test_a_spring_bears_twice_its_current_for_three_seconds() -> None:
    table = carriers_of(answer(complete(joint=Joint.SPRING_HOLDER)).build)
    rise, tau = table.rise_k_a2[0, Carrier.JOINT], table.time_s[0, Carrier.JOINT]
    assert rise * 4**2 == pytest.approx(40)
    assert rise * 8**2 * (1 - math.exp(-3 / tau)) == pytest.approx(40)


@pytest.mark.parametrize(("welds", "own", "limit"), [(4, None, 32), (2, None, 16), (4, 50.0, 50)])
def test_welds_carry_eight_amps_a_spot_or_what_the_recipe_says(welds: int, own: float | None, limit: float) -> None:
    found = link(answer(complete(welds=welds, joint_limit_a=own)), "Welds")
    assert found.cruise_limit_a == found.punch_limit_a == pytest.approx(limit)


def test_solder_has_a_limit_only_where_the_recipe_says_one() -> None:
    assert not [one for one in answer(complete(joint=Joint.SOLDERED)).links if one.kind is LinkKind.JOINT]
    assert link(answer(complete(joint=Joint.SOLDERED, joint_limit_a=30)), "Joint").cruise_limit_a == 30


def test_worn_poles_resist_more_and_carry_less() -> None:
    new, worn = (answer(complete(leads=Leads(connector="60 A class", wear=wear))) for wear in (1, 3))
    ohm = [next(one.ohm for one in found.build.resistances if one.name == "Connector") for found in (new, worn)]
    assert ohm[1] == pytest.approx(3 * ohm[0])
    assert link(new, "Connector").cruise_limit_a == pytest.approx(48)
    assert link(worn, "Connector").cruise_limit_a == pytest.approx(48 / math.sqrt(3))


def test_a_fuse_stands_in_chain_and_ledgers() -> None:
    plain, fused = (answer(complete(leads=Leads(gauge_awg=12, fuse_a=amps))) for amps in (None, 40))
    fuse = link(fused, "Fuse, 40 A")
    assert fuse.cruise_limit_a == pytest.approx(32)
    assert 40 < fuse.punch_limit_a <= 54, "1.35 times its rating at most, less after cruise"
    assert fused.build.mass_g > plain.build.mass_g + 5
    assert next(one.ohm for one in fused.build.resistances if one.name == "Fuse") == pytest.approx(0.09 / 40)
    assert said(fused, "Fuse, 40 A")[0][0] is Severity.OVER, "a punch opens it"
    assert not [one for one in plain.links if one.kind is LinkKind.FUSE]


def test_hot_cells_leave_strips_less() -> None:
    hot, mild = (
        answer(complete(conditions=Conditions(air_temperature_c=air), cooling=Cooling.CLOSED)) for air in (45, 15)
    )
    allowed = [link(found, "Strips").rise_allowed_k for found in (hot, mild)]
    assert allowed[0] == pytest.approx(75 - hot.hottest_c)
    assert allowed[1] == 30


def test_a_search_tells_the_same_of_bursts_as_an_answer() -> None:
    base = replaced(transect(times=10), "design.packs.0.recipe.leads.fuse_a", 60)
    one = answer(base)
    found = fly_rows(Space.around(base), np.arange(1), one.factor)
    assert found.joint_share[0] == pytest.approx(link(one, "Welds").worst_share, rel=1e-6)
    outwards = max(link(one, name).worst_share for name in ("Lead", "Connector", "Fuse"))
    assert found.lead_share[0] == pytest.approx(outwards, rel=1e-4)
    assert found.cell_share[0] == pytest.approx(link(one, "Cell").worst_share, rel=1e-6)
    assert found.strip_share[0] == pytest.approx(
        max(each.worst_share for each in one.links if each.kind in (LinkKind.STRIP, LinkKind.BUS)), rel=1e-4
    )


def test_the_middle_of_a_cylinder_is_warmer_than_its_mean() -> None:
    """20 A through 15 mΩ of r₀ and r₁ in 24.8 ml of 10.6 mm radius: 6 W, q·L²/3k = 9 K at the most."""
    cell = cell_type()
    heating = inside_heating(cell)
    ohm = electrical(cell)["r0_ohm"] + electrical(cell)["r1_ohm"]
    assert heating.steady_rise_k(20) == pytest.approx(400 * ohm / 24.78e-6 * 10.6e-3**2 / 3, rel=1e-3)
    assert 30 < heating.time_constant_s < 300, "some minutes, not the seconds of a burst"


def test_a_cell_that_is_hot_inside_is_told_before_it_vents() -> None:
    cell = cell_type(dcir_mohm=28, continuous_current_a=21, pulse_current_a=40, max_temperature_c=100)
    warm = complete(
        cell=cell,
        parallel_count=1,
        flown=mission(cruise()),
        cooling=Cooling.CLOSED,
        conditions=Conditions(air_temperature_c=50),
    )
    found = answer(warm)
    assert found.inside_c > found.hottest_c > 60
    told = said(found, "venting is near")
    assert bool(told) == (found.inside_c > 75)
    assert told[0][0] is Severity.OVER
    assert f"about {found.inside_c:.0f} °C inside" in told[0][1]
    rows = fly_rows(Space.around(warm), np.arange(1), found.factor)
    assert rows.inside_c[0] == pytest.approx(found.inside_c, rel=1e-6)
    mild = answer(complete())
    assert mild.hottest_c < mild.inside_c < 75
    assert not said(mild, "venting")


# Dips under the cells' minimum


def dipping(**rule: object) -> CompleteDesign:
    """Cells whose bursts sag under 3.0 V from the first third on."""
    weak = cell_type(dcir_mohm=40, min_voltage_v=3.0, continuous_current_a=20, pulse_current_a=40)
    flown = mission(cruise(200), Block(kind="punch", duration_s=5), cruise(60), Block(kind="punch", duration_s=5),
                    cruise(), Block(kind="landing", duration_s=20))  # fmt: skip
    landed = LandingRule(policy="own", own_voltage_v=3.3, **rule)
    return complete(cell=weak, flown=flown, landing=landed, parallel_count=2)


def test_a_dip_in_a_burst_is_counted_told_and_flown_through() -> None:
    found = answer(dipping())
    assert found.reason.ending is Ending.RESERVE_REACHED
    pack, series = found.packs[0], found.series
    below = below_s = 0.0
    for place, seconds in enumerate(np.diff(series.time_s)):
        volts = np.linspace(pack.series.cell_v[place], pack.series.cell_v[place + 1], 400)
        below_s += seconds * float(np.mean(volts < 3.0))
        below = min(below, float(volts.min()) - 3.0)
    assert below_s > 5
    assert pack.dip_s == pytest.approx(below_s, rel=0.02)
    assert pack.dip_v == pytest.approx(3.0 + below, abs=1e-6)
    severity, sentence = said(found, "Bursts pull the cells under their minimum of 3.00 V")[0]
    assert severity is Severity.CAUTION
    assert f"for {pack.dip_s:.1f} s in all, down to {pack.dip_v:.2f} V" in sentence


def test_who_asks_for_it_is_brought_down_by_the_first_dip() -> None:
    strict = answer(dipping(strict_minimum=True))
    assert strict.reason.ending is Ending.CELL_CUT_OFF
    assert strict.duration_s < 210
    assert not said(strict, "Bursts pull the cells")
    rows = fly_rows(Space.around(dipping(strict_minimum=True)), np.arange(1), strict.factor)
    assert rows.ending[0] == Ending.CELL_CUT_OFF


def test_cells_under_their_minimum_after_a_burst_end_the_flight() -> None:
    """A cruise that asks too much of them is no burst."""
    weak = cell_type(dcir_mohm=60, min_voltage_v=3.0, continuous_current_a=10)
    low = answer(complete(cell=weak, landing=LandingRule(policy="own", own_voltage_v=2.5), parallel_count=2))
    assert low.reason.ending is Ending.CELL_CUT_OFF
    assert low.packs[0].dip_s == 0
