"""Missions laid out: winds, repeats, manual flying, pauses, held throttle; and the conditions they are flown in."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from tests.builders import LANDING, TAKE_OFF, complete, cruise, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import (
    Block,
    BlockKind,
    Conditions,
    DocumentError,
    Mission,
    PackState,
    Repeat,
    with_block_added,
    with_block_removed,
)
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.propulsion.steps import TRUE_STEPS, airspeed_over_ground, plan

STILL = Conditions()


def hover(seconds: float | None = None) -> Block:
    return Block(kind="hover", duration_s=seconds)


def repeated(*blocks: Block, repeats: tuple[Repeat, ...]) -> Mission:
    return Mission.from_data(
        {"id": "m", "name": "Survey", "blocks": [b.model_dump() for b in blocks],
         "repeats": [r.model_dump() for r in repeats]}
    )  # fmt: skip


# Wind


@pytest.mark.parametrize(
    ("heading", "wind_from", "air"), [(0, 0, 12), (180, 0, 4), (90, 0, math.hypot(8, 4)), (270, 90, 4), (45, 45, 12)]
)
def test_airspeed_over_ground_by_hand(heading: float, wind_from: float, air: float) -> None:
    """8 m/s over ground in 4 m/s of wind: 12 into it, 4 with it, √(8² + 4²) across it."""
    conditions = Conditions(wind_m_s=4, wind_from_deg=wind_from)
    assert airspeed_over_ground(8, heading, conditions) == pytest.approx(air)


@given(st.floats(0, 20), st.floats(0, 360), st.floats(0, 15), st.floats(0, 360))
def test_airspeed_over_ground_is_the_vector_difference(
    ground: float, heading: float, wind: float, source: float
) -> None:
    over = ground * np.array([math.sin(math.radians(heading)), math.cos(math.radians(heading))])
    blowing = -wind * np.array([math.sin(math.radians(source)), math.cos(math.radians(source))])
    found = airspeed_over_ground(ground, heading, Conditions(wind_m_s=wind, wind_from_deg=source))
    assert found == pytest.approx(float(np.linalg.norm(over - blowing)), abs=1e-9)


def test_out_and_back_turns_at_every_leg() -> None:
    block = Block(kind="cruise", duration_s=150, ground_speed_m_s=8, heading_deg=0, out_and_back=True, leg_s=60)
    steps = plan(mission(block, LANDING), Conditions(wind_m_s=3))
    assert [(s.seconds, s.airspeed_m_s) for s in steps[:3]] == [
        (60, pytest.approx(11)), (60, pytest.approx(5)), (30, pytest.approx(11))
    ]  # fmt: skip
    still = plan(mission(block, LANDING), STILL)
    assert [s.seconds for s in still] == [150, 30], "without wind there is nothing to tell the legs apart"


def test_an_airspeed_needs_no_wind_and_a_hover_holds_against_it() -> None:
    steps = plan(mission(TAKE_OFF, cruise(60, airspeed=9), hover()), Conditions(wind_m_s=5))
    assert [s.airspeed_m_s for s in steps] == [5, 9, 5]


# Repeats


def test_repeats_are_written_out_in_order() -> None:
    flown = repeated(
        TAKE_OFF, cruise(100), hover(20), hover(30), hover(), LANDING,
        repeats=(Repeat(first=2, last=3, times=3), Repeat(first=4, last=4, times=2)),
    )  # fmt: skip
    assert [step.block for step in plan(flown, STILL)] == [0, 1, 2, 1, 2, 1, 2, 3, 3, 4, 5]


def test_a_repeat_until_landing_goes_on_until_the_pack_is_low() -> None:
    flown = repeated(TAKE_OFF, cruise(100), hover(50), LANDING, repeats=(Repeat(first=2, last=3),))
    found = answer(complete(flown=flown))
    assert found.reason.ending is Ending.RESERVE_REACHED
    turns = np.flatnonzero(np.diff(found.series.block) != 0)
    assert len(turns) > 10
    assert found.series.block[-1] == 3
    assert len(plan(flown, STILL)) <= 2 * TRUE_STEPS


@pytest.mark.parametrize(
    ("repeats", "says"),
    [
        ((Repeat(first=3, last=2, times=2),), "ends before it begins"),
        ((Repeat(first=2, last=9, times=2),), "names a block that is not there; there are 5"),
        ((Repeat(first=1, last=2, times=2), Repeat(first=2, last=3, times=2)), "overlaps another"),
        ((Repeat(first=2, last=4, times=2),), "holds hover, which is flown once only"),
        ((Repeat(first=2, last=3),), "is never flown, because the repeat of blocks up to 3"),
    ],
)
def test_a_repeat_that_cannot_be_flown_is_refused(repeats: tuple[Repeat, ...], says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        repeated(TAKE_OFF, cruise(100), hover(20), hover(), LANDING, repeats=repeats)


def test_repeats_follow_their_blocks_when_blocks_come_and_go() -> None:
    flown = repeated(TAKE_OFF, cruise(100), hover(20), hover(), LANDING, repeats=(Repeat(first=2, last=3, times=4),))
    before = with_block_added(flown, 1, hover(5))
    assert (before.repeats[0].first, before.repeats[0].last) == (3, 4)
    inside = with_block_added(flown, 2, hover(5))
    assert (inside.repeats[0].first, inside.repeats[0].last) == (2, 4)
    fewer = with_block_removed(flown, 1)
    assert (fewer.repeats[0].first, fewer.repeats[0].last) == (2, 2)
    assert with_block_removed(fewer, 1).repeats == ()


# Kinds of blocks


def test_manual_flying_is_livelier_level_flight_with_bursts() -> None:
    """90 s with 6 s a minute: 54 s and a burst of 6, then 27 s and a burst of 3."""
    manual = Block(kind="manual flying", duration_s=90, airspeed_m_s=5, liveliness=1.4, full_throttle_s=6)
    steps = plan(mission(manual, LANDING), STILL)
    assert [(s.seconds, s.duty, s.punch) for s in steps[:4]] == [
        (54, 0, False), (6, 1, True), (27, 0, False), (3, 1, True)
    ]  # fmt: skip
    calm = Block(kind="manual flying", duration_s=90, airspeed_m_s=5, liveliness=1.4)
    level = lower([lower_one(complete(flown=mission(cruise(90, airspeed=5), LANDING)), 1.0)])
    lively = lower([lower_one(complete(flown=mission(calm, LANDING)), 1.0)])
    loads = level.load_w[0]
    assert lively.block_w[0, 0] - loads == pytest.approx(1.4 * (level.block_w[0, 0] - loads))


def test_bursts_cost_minutes_and_show_in_the_current() -> None:
    def flown(seconds: float) -> Mission:
        return mission(Block(kind="manual flying", airspeed_m_s=5, liveliness=1.2, full_throttle_s=seconds), LANDING)

    calm, wild = (answer(complete(flown=flown(seconds))) for seconds in (0, 8))
    assert wild.duration_s < 0.85 * calm.duration_s
    assert wild.series.throttle.max() == 1
    assert calm.series.throttle.max() < 0.9


def test_a_pause_draws_only_the_other_loads_and_is_no_flying() -> None:
    of = complete(flown=mission(cruise(120), Block(kind="pause", duration_s=300), cruise(120), LANDING))
    found = answer(of)
    resting = (found.series.block == 1) & (found.series.time_s > 125)
    watts = found.series.pack_a * found.series.loaded_v * of.pack.recipe.series_count
    assert watts[resting] == pytest.approx(sum(load.power_w for load in of.craft.loads), rel=1e-6)
    assert found.series.time_s[-1] == pytest.approx(120 + 300 + 120 + 30)
    assert found.duration_s == pytest.approx(120 + 120 + 30)
    assert found.series.loaded_v[resting][-1] > found.series.loaded_v[found.series.block == 0][-1], "it rebounds"


def test_held_throttle_is_the_motor_equations_on_a_sagging_pack() -> None:
    """At duty d: V_m = d·V, V_m = n/k + I·R, I = q·n² + I₀, bus current N·d·I/η + P/V, V = E − R_s·I_bus."""
    of = complete(flown=mission(Block(kind="throttle step", duration_s=20, throttle_percent=55), LANDING))
    batch = lower([lower_one(of, 1.0)])
    trace = fly(batch, record=True).trace[0]
    amps, volts = trace.current_a[0, 0, 0] * batch.parallel[0, 0, 0], trace.bus_v[0]
    drive = batch.drive
    torque = float(drive.torque_nm_s2[0] * 2 * np.pi * drive.kv_rev_s_v[0])

    def off(speed: float) -> float:
        current = torque * speed**2 + float(drive.no_load_a[0])
        return speed / float(drive.kv_rev_s_v[0]) + current * float(drive.winding_ohm[0]) - 0.55 * volts

    speed = brentq(off, 0, 1e4)
    motor = torque * speed**2 + float(drive.no_load_a[0])
    kept = 0.95 - 0.12 * 0.45
    expected = float(drive.count[0]) * 0.55 * motor / kept + batch.load_w[0] / volts
    assert amps == pytest.approx(expected, rel=1e-5)
    assert trace.block[0] == 0
    assert answer(of).series.throttle[0] == pytest.approx(0.55)
    assert answer(of).duration_s == pytest.approx(30), "the bench is not the air"


def test_a_descent_wins_a_part_back_and_never_most_of_it() -> None:
    def watts(*blocks: Block) -> float:
        batch = lower([lower_one(complete(flown=mission(*blocks, LANDING)), 1.0)])
        return float(batch.block_w[0, 0] - batch.load_w[0])

    level = watts(hover(30))
    slow, fast = (watts(Block(kind="descent", duration_s=30, sink_m_s=sink)) for sink in (1, 9))
    assert slow < level
    assert fast == pytest.approx(0.7 * level)
    assert watts(Block(kind="descent", duration_s=30, sink_m_s=0)) == pytest.approx(level)


def test_a_block_that_the_pack_does_not_last_for_is_told() -> None:
    found = answer(complete(flown=mission(cruise(9000), hover(60), LANDING)))
    said = [f for f in found.findings if "is not reached" in f.sentence]
    assert said[0].field == "mission.blocks.1.duration_s"
    assert "hover, block 2 of 3" in said[0].sentence


# Conditions


def test_gusts_cost_power_because_it_rises_faster_than_the_wind() -> None:
    calm, gusty = (
        answer(complete(flown=mission(cruise(airspeed=12), LANDING), conditions=Conditions(gust_m_s=gust)))
        for gust in (0, 6)
    )
    assert gusty.duration_s < calm.duration_s


def test_payload_is_carried_and_weighed() -> None:
    bare, laden = (answer(complete(conditions=Conditions(payload_g=grams))) for grams in (0, 300))
    assert laden.takeoff_mass_g == pytest.approx(bare.takeoff_mass_g + 300)
    assert laden.duration_s < bare.duration_s


def test_an_old_pack_holds_less_and_resists_more() -> None:
    fresh = complete()
    worn = complete(state=PackState(capacity_percent=80, resistance_percent=150))
    one, other = (lower([lower_one(design, 1.0)]) for design in (fresh, worn))
    assert other.cell.charge_c[0, 0, 0] == pytest.approx(0.8 * one.cell.charge_c[0, 0, 0])
    assert other.cell.r0_ohm[0, 0, 0] == pytest.approx(1.5 * one.cell.r0_ohm[0, 0, 0])
    assert other.cell.r1_ohm[0, 0, 0] == pytest.approx(1.5 * one.cell.r1_ohm[0, 0, 0])
    assert 0.6 < answer(worn).duration_s / answer(fresh).duration_s < 0.8


def test_missions_of_version_1_are_read() -> None:
    old = mission(TAKE_OFF, cruise(), LANDING).model_dump(mode="json")
    old["schema_version"] = 1
    del old["repeats"]
    old["blocks"] = [
        {k: v for k, v in block.items() if k in ("kind", "name", "duration_s", "airspeed_m_s", "climb_m_s")}
        for block in old["blocks"]
    ]
    assert Mission.from_data(old) == mission(TAKE_OFF, cruise(), LANDING)
    assert BlockKind(old["blocks"][0]["kind"]) is BlockKind.TAKE_OFF
