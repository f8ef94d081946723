"""Landing rules of every kind, policies side by side, and the alarm card."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.builders import LANDING, TAKE_OFF, beside, cell_type, complete, craft, cruise, mission
from wise_cellar.core.answer import alarm_card, alarm_values, answer, card_lines, card_values, policies
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.documents import (
    AlarmNames,
    Block,
    CompleteDesign,
    LandingBasis,
    LandingPolicy,
    LandingRule,
    PackState,
    replaced,
)
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.motor import MOST_DUTY
from wise_cellar.core.units import format_mah

FLOWN = mission(TAKE_OFF, cruise(), LANDING)


def landing(**rule: object) -> CompleteDesign:
    return complete(flown=FLOWN, landing=LandingRule(**rule))


def test_landing_by_resting_volts_calls_where_the_cells_would_rest() -> None:
    batch = lower([lower_one(landing(basis="volts at rest", resting_voltage_v=3.6), 1.0)])
    flown = fly(batch)
    assert flown.ending[0] == Ending.RESERVE_REACHED
    assert float(batch.cell.ocv(flown.late_state.soc)[0, 0, 0]) == pytest.approx(3.6, abs=3e-4)
    found = answer(landing(basis="volts at rest", resting_voltage_v=3.6))
    assert "would rest at 3.60 V" in found.reason.sentence
    assert found.reason.field == "design.landing.resting_voltage_v"


@pytest.mark.parametrize("percent", [50, 80])
def test_landing_by_charge_calls_when_it_is_used(percent: float) -> None:
    """3P of 4 500 mAh: 80 % are 10 800 mAh."""
    of = landing(basis="charge used", charge_percent=percent)
    flown = fly(lower([lower_one(of, 1.0)]))
    used = (1.0 - float(flown.late_state.soc[0, 0, 0])) * 13500
    assert used == pytest.approx(135 * percent, rel=1e-3)
    assert of.landing_charge_mah == pytest.approx(135 * percent)
    assert f"has given {format_mah(135 * percent)}" in answer(of).reason.sentence


def test_a_counter_that_believes_in_a_smaller_pack_comes_home_early() -> None:
    """Told of 5 000 mAh and landing at 80 %: at 4 000 mAh of 13 500."""
    of = landing(basis="the craft's own counter", counter_mah=5000)
    found = answer(of)
    assert found.reason.words == "its own counter says empty"
    assert found.reason.field == "design.landing.counter_mah"
    called = np.interp(found.landing_call_s, found.series.time_s, found.series.charge_used_mah)
    assert called == pytest.approx(4000, rel=1e-2)
    assert any("of the charge unused" in finding.sentence for finding in found.findings)


def test_a_part_charged_pack_gives_the_same_charge_before_a_counter_calls() -> None:
    of = replaced(landing(basis="charge used", charge_percent=40), "design.packs.0.state.start_charge_percent", 90)
    flown = fly(lower([lower_one(of, 1.0)]))
    assert (0.9 - float(flown.late_state.soc[0, 0, 0])) * 13500 == pytest.approx(5400, rel=1e-3)


def test_the_rule_does_not_depend_on_what_else_is_in_the_batch() -> None:
    designs = [landing(), landing(basis="volts at rest"), landing(basis="charge used")]
    together = fly(lower([lower_one(d, 1.0) for d in designs]))
    for place, design in enumerate(designs):
        assert together.end_s[place] == pytest.approx(float(fly(lower([lower_one(design, 1.0)])).end_s[0]), rel=1e-9)


# Policies


def test_policies_are_the_flights_they_stand_for() -> None:
    found = policies(landing(), 1.0)
    assert [outcome.policy for outcome in found] == [LandingPolicy.GENTLE, LandingPolicy.BALANCED, LandingPolicy.DEEP]
    for outcome in found:
        alone = answer(landing(policy=outcome.policy))
        assert outcome.duration_s == pytest.approx(alone.duration_s, rel=1e-9)
        assert outcome.resting_v == pytest.approx(alone.resting_v, rel=1e-9)
        assert outcome.used_share == pytest.approx(1 - alone.charge_left, rel=1e-6)
    gentle, balanced, deep = found
    assert gentle.duration_s < balanced.duration_s < deep.duration_s
    assert gentle.hover_left_s > balanced.hover_left_s > deep.hover_left_s >= 0
    assert gentle.resting_v > balanced.resting_v > deep.resting_v


def test_the_own_policy_stands_beside_the_ready_ones() -> None:
    found = policies(landing(policy="own", own_voltage_v=3.15), 1.0)
    assert found[-1].policy is LandingPolicy.OWN
    assert found[-1].threshold_v == 3.15


def test_what_is_left_to_go_round_is_hover_to_the_cells_minimum() -> None:
    """Bounds by energy: the charge that is left, at volts above and below those of the rest of the way."""
    gentle = policies(landing(), 1.0)[0]
    one = lower_one(landing(policy="gentle"), 1.0)
    batch = lower([one])
    flown = fly(batch)
    watts = float(one.propulsion.step_power(batch.weight_n, one.hover)[0][0] + batch.load_w[0])
    volts = 4 * 3.0
    charge = float(flown.end_state.soc[0, 0, 0]) * 4.5 * 3
    assert gentle.hover_left_s / 3600 < charge * 4 * 3.5 / watts
    assert gentle.hover_left_s / 3600 > 0.4 * charge * volts / watts


# Reserves


@pytest.mark.parametrize(("policy", "reserve"), [("gentle", 0.25), ("balanced", 0.15), ("deep", 0.08)])
def test_a_ready_policy_calls_at_its_reserve_where_no_voltage_is_reached(policy: str, reserve: float) -> None:
    """A light load on much charge: the cells stay above every threshold, and the reserve calls."""
    easy = complete(flown=FLOWN, landing=LandingRule(policy=policy), parallel_count=8)
    batch = lower([lower_one(easy, 1.0)])
    flown = fly(batch)
    called = float(flown.late_state.soc[0, 0, 0])
    assert called == pytest.approx(reserve, abs=3e-3) or called > reserve
    by_volts = fly(replace(batch, landing_soc=np.full(1, -np.inf)))
    assert flown.landing_call_s[0] <= by_volts.landing_call_s[0]
    found = answer(easy)
    assert (f"{100 * reserve:.0f} % of the charge is left, the reserve of the {policy}" in found.reason.sentence) == (
        flown.landing_call_s[0] < by_volts.landing_call_s[0] - 5
    )


def test_its_own_volts_have_no_reserve() -> None:
    batch = lower([lower_one(landing(policy="own", own_voltage_v=2.6), 1.0)])
    assert batch.landing_soc[0] == -np.inf
    assert lower([lower_one(landing(), 1.0)]).landing_soc[0] == 0.15


def test_packs_of_unlike_classes_land_at_the_higher_volts() -> None:
    iron = cell_type(id="iron", ocv_family="lfp", max_voltage_v=3.6, min_voltage_v=2.0)
    pouch = cell_type(id="pouch", kinetic_class="polymer pouch")
    both = beside(complete(flown=FLOWN), (pouch, {}))
    assert both.landing_voltage_v == 3.6
    assert float(lower([lower_one(both, 1.0)]).landing_v[0]) == 3.6
    assert complete(cell=iron).landing_voltage_v == 2.8


def test_hover_that_is_left_is_told_and_found_where_it_is_little() -> None:
    """The larger craft landed by 2.95 V: what is left is what the deepest policy's table says of it."""
    deep = landing(policy="own", own_voltage_v=2.95)
    found = answer(deep)
    assert found.hover_left_s == pytest.approx(policies(deep, found.factor)[-1].hover_left_s, rel=1e-6)
    told = [one.sentence for one in found.findings if "nothing to go round with" in one.sentence]
    assert found.hover_left_s < 90
    assert told == [f"After this landing {found.hover_left_s:.0f} s of hover are left: nothing to go round with."]
    plenty = answer(landing(policy="gentle"))
    assert plenty.hover_left_s > 90
    assert not [one for one in plenty.findings if "go round" in one.sentence]
    assert any("cost cycles" in one.sentence for one in answer(landing(policy="deep")).findings)


# The card


def test_the_card_locks_the_count_and_tells_where_a_count_goes_wrong() -> None:
    """4S at 4.35·3/4 = 3.2625 V a cell or less could be three cells at 4.35 V."""
    of = landing()
    card = alarm_card(of, answer(of))
    curve = resting_curve(of.pack.cell)
    assert card.miscount_below is not None
    volts = np.interp(card.miscount_below, np.linspace(0, 1, len(curve.values)), curve.values)
    assert volts == pytest.approx(3.2625, abs=1e-3)
    assert math.ceil(4 * (volts - 0.01) / 4.35) == 3
    assert math.ceil(4 * (volts + 0.01) / 4.35) == 4
    assert (card.cells, card.miscount_cells) == (4, 3)
    single = complete(cell=cell_type(), flown=FLOWN, series_count=1)
    assert alarm_card(single, answer(single)).miscount_below is None
    twelve = complete(flown=FLOWN, series_count=10)
    assert (alarm_card(twelve, answer(twelve)).miscount_below or 0) > card.miscount_below, "more cells, sooner wrong"


def test_the_card_is_this_flight_two_minutes_before_and_at_the_call() -> None:
    of = landing(policy="gentle")
    found = answer(of)
    card = alarm_card(of, found)
    assert card.land_v >= of.landing_voltage_v
    assert card.warning_v > card.land_v
    assert card.capacity_mah == 13500
    at = [np.interp(found.landing_call_s - s, found.series.time_s, found.series.charge_used_mah) for s in (120, 0)]
    assert card.warning_mah == pytest.approx(at[0], rel=1e-3)
    assert card.land_mah == pytest.approx(at[1], rel=1e-3)
    cruising = found.series.block == 1
    assert card.cruise_a == pytest.approx(float(found.series.pack_a[cruising].mean()))
    by_charge = landing(basis="charge used")
    other = alarm_card(by_charge, answer(by_charge))
    assert other.land_mah == pytest.approx(10800, rel=1e-2)
    assert 2.5 < other.land_v < 4.0, "the volts that go with that charge"


def test_a_short_flight_is_warned_in_the_minutes_that_it_has() -> None:
    short = complete(flown=FLOWN, parallel_count=1, state=PackState(start_charge_percent=21))
    found = answer(short)
    assert found.landing_call_s < 120
    card = alarm_card(short, found)
    assert card.warning_s == pytest.approx(found.landing_call_s)
    text = "\n".join(card_lines(short, card))
    assert "2 min" not in text
    assert f"delay longer than your punch of {card.punch_s:g} s" in text


def test_the_card_as_words_and_as_values() -> None:
    of = landing()
    card = alarm_card(of, answer(of))
    text = "\n".join(card_lines(of, card))
    assert "Lock the cell count at 4: below" in text
    assert f"{card.land_v:.2f} V a cell under load" in text
    values = dict(line.split(" = ") for line in card_values(card, AlarmNames()).splitlines())
    assert list(values) == [value.name for value in alarm_values(card)]
    assert float(values["pack_capacity_mah"]) == 13500
    assert float(values["land_pack_v"]) == pytest.approx(4 * card.land_v, abs=0.01)
    assert float(values["warning_left_mah"]) == pytest.approx(13500 - card.warning_mah, abs=1)
    assert float(values["warning_left_mah"]) > float(values["land_left_mah"])


def test_the_card_under_the_names_of_the_craft_s_own_device() -> None:
    card = alarm_card(landing(), answer(landing()))
    names = AlarmNames(warning="Volts, first bell", landing="=LAND")
    lines = card_values(card, names).splitlines()
    assert lines[0] == "pack_capacity_mah = 13500", "what has no name there stands under ours"
    assert lines[1] == f"Volts, first bell = {card.warning_v * 4:.2f}"
    table = card_values(card, names, as_table=True).splitlines()
    assert table[0] == "name,value"
    assert table[2] == f'"Volts, first bell",{card.warning_v * 4:.2f}'
    assert table[3].startswith("'=LAND,"), "no cell of a table begins a formula"


def test_every_basis_has_a_sentence_and_a_field() -> None:
    for basis in LandingBasis:
        if basis is LandingBasis.BURSTS:
            continue  # it has bursts of its own, below
        found = answer(landing(basis=basis))
        assert found.reason.ending is Ending.RESERVE_REACHED
        assert found.reason.field.startswith("design.landing.")


def test_a_counter_of_two_unlike_packs_calls_when_both_together_have_given_it() -> None:
    """9 000 and 6 000 mAh, half used up: 7 500 mAh, shared as they please."""
    first = replaced(landing(basis="charge used", charge_percent=50), "design.packs.0.recipe.parallel_count", 2)
    both = beside(first, (cell_type(id="other", capacity_mah=3000, dcir_mohm=24), {}))
    found = answer(both)
    assert found.reason.ending is Ending.RESERVE_REACHED
    given = [np.interp(found.landing_call_s, found.series.time_s, pack.series.given_mah) for pack in found.packs]
    assert sum(given) == pytest.approx(7500, rel=2e-3)
    assert given[0] > given[1] > 0


def test_out_of_thrust_is_when_the_motors_ask_for_nearly_all_of_the_volts() -> None:
    weak = craft(motor=craft().motor.changed(kv_rpm_per_v=420))
    found = answer(complete(flown=FLOWN, carrier=weak, landing=LandingRule(policy="deep")))
    assert found.reason.ending is Ending.OUT_OF_THRUST
    cruising = found.series.in_air & (found.series.time_s > 60)
    assert np.all(np.diff(found.series.throttle[cruising]) > -1e-6), "rises as the volts fall"
    assert found.series.throttle[-1] == pytest.approx(MOST_DUTY, abs=1e-3)


# Landing by what bursts show


def lively(landing: LandingRule) -> CompleteDesign:
    block = Block(kind="manual flying", airspeed_m_s=5, liveliness=1.3, full_throttle_s=3)
    return complete(flown=mission(block, LANDING), landing=landing)


def by_bursts(volts: float) -> CompleteDesign:
    return lively(LandingRule(basis="volts in bursts", burst_voltage_v=volts))


def test_landing_by_bursts_calls_in_the_first_burst_that_shows_the_volts() -> None:
    found = answer(by_bursts(3.0))
    assert found.reason.ending is Ending.RESERVE_REACHED
    assert "A burst shows 3.00 V a cell" in found.reason.sentence
    series, call = found.series, found.landing_call_s
    bursts = series.throttle > 0.99
    assert series.loaded_v[bursts & (series.time_s < call - 1)].min() > 3.0
    here = np.abs(series.time_s - call) < 3
    assert 2.9 < series.loaded_v[here].min() <= 3.0
    assert series.at(series.loaded_v, call + 1) > 3.1, "and cruise stands well above it"


def test_the_lower_the_volts_the_longer_the_flight_and_cruise_does_not_call() -> None:
    early, late = answer(by_bursts(3.2)).duration_s, answer(by_bursts(2.9)).duration_s
    assert early < late
    never = answer(complete(landing=LandingRule(basis="volts in bursts")))
    assert never.reason.ending is Ending.CELL_CUT_OFF
    assert any("the mission has none: it never calls" in finding.sentence for finding in never.findings)


def test_the_card_and_the_rules_beside_it_tell_landing_by_bursts() -> None:
    design = by_bursts(3.0)
    found = answer(design)
    card = alarm_card(design, found)
    assert card.in_bursts
    assert card.land_v == 3.0
    lines = "\n".join(card_lines(design, card))
    assert "Land now at 3.00 V a cell in a burst, 12.0 V in all." in lines
    assert "shorter than your punch" in lines
    told = policies(design, found.factor)
    assert [outcome.policy for outcome in told][-1] is None
    assert told[-1].threshold_v == 3.0
    assert told[-1].duration_s == pytest.approx(found.duration_s, rel=1e-6)
    assert all(outcome.policy is not None for outcome in policies(complete(), 1.0)), "no bursts, no such rule"
