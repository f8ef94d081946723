"""Missions as long as people ask for, launches and climbs by throttle, and runs on the bench."""

from __future__ import annotations

import pytest

from tests.builders import LANDING, PUNCH, TAKE_OFF, beside, cell_type, complete, craft, cruise, mission
from wise_cellar.core.answer import answer, measured_capacity_percent
from wise_cellar.core.documents import Block, Conditions, DocumentError, LandingRule, Load, Mission, Repeat, replaced
from wise_cellar.core.flight import Ending
from wise_cellar.core.propulsion.steps import plan

STILL = Conditions()


def hover(seconds: float | None = None) -> Block:
    return Block(kind="hover", duration_s=seconds)


def repeated(*blocks: Block, repeats: tuple[Repeat, ...]) -> Mission:
    return Mission.from_data(
        {
            "id": "m",
            "name": "Survey",
            "blocks": [b.model_dump() for b in blocks],
            "repeats": [r.model_dump() for r in repeats],
        }
    )


# As long as people ask for


def test_missions_of_any_length_are_flown_whole() -> None:
    """Thousands of rounds, each as said in the sum: nothing is cut off at the end."""
    rounds = Repeat(first=2, last=3, times=5000)
    steps = plan(repeated(TAKE_OFF, cruise(100), hover(50), cruise(70), LANDING, repeats=(rounds,)), STILL)
    assert sum(step.seconds for step in steps if step.block == 1) == pytest.approx(5000 * 100)
    assert sum(step.seconds for step in steps if step.block == 2) == pytest.approx(5000 * 50)
    assert sum(step.seconds for step in steps if step.block == 3) == 70
    assert len(steps) < 1500


def test_a_repeat_of_lively_flying_is_still_some_hundred_steps() -> None:
    lively = Block(kind="manual flying", duration_s=1200, full_throttle_s=3)
    steps = plan(repeated(cruise(60), lively, LANDING, repeats=(Repeat(first=1, last=2, times=900),)), STILL)
    assert len(steps) < 6000
    assert sum(step.seconds for step in steps if step.block == 1) == pytest.approx(900 * 1200)


@pytest.mark.parametrize("kind", ["loiter", "cruise"])
def test_a_block_of_ten_days_ends_where_the_pack_does(kind: str) -> None:
    block = Block(kind=kind, duration_s=10 * 86400, airspeed_m_s=9)
    found = answer(complete(flown=mission(block, LANDING)))
    assert found.reason.ending is Ending.RESERVE_REACHED
    assert found.duration_s == pytest.approx(answer(complete()).duration_s, rel=0.1)


# By throttle in the air


def test_a_launch_by_throttle_draws_what_the_throttle_draws() -> None:
    """Full throttle for 8 s draws a punch's amps, in the air, and does not call the craft home."""
    launch = Block(kind="take-off", duration_s=8, climb_throttle_percent=100)
    found = answer(complete(flown=mission(launch, cruise(), LANDING)))
    punch = answer(complete(flown=mission(PUNCH, cruise(), LANDING)))
    first = found.series.pack_a[found.series.block == 0]
    assert first.max() == pytest.approx(punch.series.pack_a[punch.series.block == 0].max(), rel=0.02)
    assert found.series.in_air[found.series.block == 0].all()
    assert found.reason.ending is Ending.RESERVE_REACHED


def test_a_steep_climb_by_throttle_draws_more_the_more_is_held() -> None:
    def amps(percent: float) -> float:
        climb = Block(kind="cruise", duration_s=60, airspeed_m_s=9, climb_throttle_percent=percent)
        found = answer(complete(flown=mission(climb, cruise(), LANDING)))
        here = found.series.block == 0
        assert found.series.throttle[here] == pytest.approx(percent / 100)
        return float(found.series.pack_a[here].mean())

    assert amps(90) > 1.2 * amps(75)


# A run on the bench


def bench(**load: float) -> Block:
    return Block(kind="throttle step", **load)


def test_a_run_on_the_bench_is_told_by_its_minutes_there() -> None:
    """20 A until the rule calls: charge is amps times hours, and the volts, the warmth and the reason are there."""
    found = answer(complete(flown=mission(bench(bench_current_a=20)), landing=LandingRule(policy="deep")))
    assert found.on_bench
    assert found.where == "on the bench"
    assert found.duration_s == pytest.approx(float(found.series.time_s[-1]))
    assert found.given_mah == pytest.approx(20 * found.duration_s / 3.6, rel=1e-6)
    assert found.mean_power_w == pytest.approx(3600 * found.energy_used_wh / found.duration_s, rel=1e-6)
    assert found.reason.ending is Ending.RESERVE_REACHED
    assert found.hottest_c > 25


def test_watts_on_the_bench_are_held_at_the_plug() -> None:
    found = answer(complete(flown=mission(bench(bench_power_w=250, duration_s=600))))
    watts = found.series.pack_a * found.series.loaded_v * 4
    assert watts == pytest.approx(250, rel=1e-6)
    assert found.duration_s == pytest.approx(600)
    assert not answer(complete()).on_bench


def test_a_bigger_pack_lasts_longer_on_one_schedule() -> None:
    schedule = mission(bench(bench_current_a=15, duration_s=600), bench(bench_current_a=25))
    small, big = (answer(complete(flown=schedule, parallel_count=count)) for count in (2, 3))
    assert big.duration_s > 1.4 * small.duration_s
    assert big.given_mah > 1.4 * small.given_mah


def test_a_load_on_the_bench_has_no_craft_that_stops() -> None:
    """The craft's transmitter stops below 14 V; on an electronic load the cells go on to their minimum, by throttle it
    is there."""
    needy = craft(loads=(Load(name="transmitter", power_w=8, min_input_v=14.0),))
    deep = LandingRule(policy="own", own_voltage_v=2.4)
    held = answer(complete(carrier=needy, flown=mission(bench(bench_current_a=20)), landing=deep))
    assert held.reason.ending is Ending.CELL_CUT_OFF
    by_throttle = answer(complete(carrier=needy, flown=mission(bench(throttle_percent=40)), landing=deep))
    assert by_throttle.reason.ending is Ending.BROWN_OUT


UNTIL_THE_RULE, FIELD = mission(bench(bench_current_a=20)), "design.packs.0.state.capacity_percent"


def test_the_charge_of_a_run_tells_the_capacity_of_an_aged_pack() -> None:
    """What a pack of 88 % gives, taken for one that was thought new, is 88 %; from any capacity that was thought."""
    aged = replaced(complete(flown=UNTIL_THE_RULE), FIELD, 88.0)
    given = answer(aged).given_mah
    for thought in (100.0, 92.0, 75.0):
        design = replaced(aged, FIELD, thought)
        assert measured_capacity_percent(design, answer(design), given) == pytest.approx(88.0, abs=0.1)


@pytest.mark.parametrize(
    ("flown", "given_mah", "asked"),
    [
        (mission(bench(bench_current_a=20, duration_s=600)), 3000.0, "ends with its time"),
        (mission(bench(bench_current_a=900)), 2000.0, "ends at once"),
        (UNTIL_THE_RULE, 4000.0, "between 40 and 110 %"),
        (UNTIL_THE_RULE, 0.0, "between 40 and 110 %"),
        (UNTIL_THE_RULE, 20000.0, "between 40 and 110 %"),
    ],
)
def test_a_run_that_does_not_tell_the_capacity_says_so(flown: Mission, given_mah: float, asked: str) -> None:
    design = complete(flown=flown)
    with pytest.raises(DocumentError, match=asked):
        measured_capacity_percent(design, answer(design), given_mah)


def test_two_packs_together_do_not_tell_the_capacity_of_one() -> None:
    design = beside(complete(flown=UNTIL_THE_RULE), (cell_type(), {}))
    with pytest.raises(DocumentError, match="alone"):
        measured_capacity_percent(design, answer(design), 9000.0)
