"""Figures that were not so: masses that cannot be, volts below nothing, minutes on the ground, missing doubts."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import brentq

from tests.builders import LANDING, PUNCH, beside, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.core.answer import Asked, answer, explain, spread
from wise_cellar.core.charge import charge_plan, field_day, set_kind
from wise_cellar.core.documents import (
    Block,
    Charger,
    ChargeWish,
    Conditions,
    DaySet,
    DocumentError,
    FieldDay,
    KnownFlight,
    LandingRule,
    Load,
    OwnPlace,
    Part,
    Repeat,
    Wing,
    replaced,
)
from wise_cellar.core.documents.mission import LONGEST_S
from wise_cellar.core.flight import fly
from wise_cellar.core.flight.batch import Ending
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.pack import as_parts, rebuilt
from wise_cellar.core.physics.motor import full_throttle
from wise_cellar.core.propulsion.steps import TRUE_STEPS, plan
from wise_cellar.core.search import Space, fly_rows, growth
from wise_cellar.core.search.beside import difference
from wise_cellar.core.shelf import Footing, shelf_at_load

STILL = Conditions()


# Masses


def test_a_pack_cannot_weigh_less_than_nothing() -> None:
    light = complete(cell=cell_type(mass_g=10))
    assert replaced(light, "design.packs.0.recipe.fittings.other_g", -119)
    with pytest.raises(DocumentError, match="Other grams of −120 g are more than the whole pack weighs: its cells"):
        replaced(light, "design.packs.0.recipe.fittings.other_g", -120)
    mounted = replaced(light, "design.packs.0.recipe.fittings.mount_g", 50)
    assert replaced(mounted, "design.packs.0.recipe.fittings.other_g", -160)


def test_neither_can_one_beside_it_nor_a_craft() -> None:
    two = beside(complete(series_count=2, parallel_count=1), (whole_pack(), {}))
    with pytest.raises(DocumentError, match="Other grams of −400 g are more than the whole pack weighs"):
        replaced(two, "design.packs.1.recipe.fittings.other_g", -400)
    with pytest.raises(DocumentError, match="Whimbrel weighs nothing: give its parts their grams"):
        replaced(complete(), "craft.parts", (Part(name="frame", mass_g=0),))


# Volts


def test_loads_that_a_weak_source_cannot_feed_draw_it_down_to_nothing() -> None:
    """Against the equation itself: the bus is where E − R·(I + P/V) = V has its root, and at 0 V where it has none."""
    batch = lower([lower_one(complete(), 1.0)])
    drive = batch.drive
    for emf, ohm, watts in (
        (16.0, 0.05, 20.0),
        (16.0, 0.5, 20.0),
        (16.0, 2.0, 20.0),
        (16.0, 2.0, 120.0),
        (8.0, 1.0, 60.0),
    ):
        current, bus = full_throttle(drive, np.array([emf]), np.array([ohm]), np.array([watts]))
        assert float(bus[0]) >= 0
        volts = np.linspace(1e-3, emf, 4000)

        def motors(v: float) -> float:
            """Amps of all motors at full duty on v volts, by the motor's own equations."""
            torque = float(drive.torque_nm_s2[0]) * 2 * np.pi * float(drive.kv_rev_s_v[0])
            r, k, idle = float(drive.winding_ohm[0]), float(drive.kv_rev_s_v[0]), float(drive.no_load_a[0])
            speed = max((-1 / k + np.sqrt(1 / k**2 + 4 * torque * r * max(v - idle * r, 0.0))) / (2 * torque * r), 0.0)
            amps = torque * speed**2 + idle
            return float(drive.count[0] / drive.controller_efficiency[0]) * amps

        def left(v: float) -> float:
            return emf - ohm * (motors(v) + watts / v) - v  # noqa: B023

        signs = np.array([left(v) for v in volts])
        if (signs > 0).any():
            last = volts[np.flatnonzero(signs > 0)[-1]]
            assert float(bus[0]) == pytest.approx(brentq(left, last, emf), rel=2e-3)
        else:
            assert float(bus[0]) == 0
            assert float(current[0]) == pytest.approx(emf / ohm)


@pytest.mark.parametrize("watts", [5.0, 30.0, 300.0])
def test_cells_that_cannot_supply_say_so_and_never_show_volts_below_nothing(watts: float) -> None:
    weak = complete(
        cell=cell_type(dcir_mohm=500), carrier=craft(loads=(Load(name="video", power_w=watts, min_input_v=4),)),
        flown=mission(PUNCH, cruise(), LANDING), parallel_count=1,
    )  # fmt: skip
    found = answer(weak)
    assert found.series.loaded_v.min() >= 0
    assert found.series.punch_v.min() >= 0
    for punch in (found.early_punch, found.late_punch):
        assert punch.volts_a_cell >= 0
        assert punch.thrust_margin >= 0
    if found.late_punch.collapsed:
        assert found.late_punch.volts_words == "cannot supply"
        assert any("ask for more than these cells can supply" in f.sentence for f in found.findings)
    if watts == 300.0:
        assert found.reason.ending is Ending.NO_POWER
        assert found.late_punch.collapsed


# Minutes on the ground


def test_the_explanation_of_a_flight_with_a_pause_is_of_the_time_in_the_air() -> None:
    pause = Block(kind="pause", duration_s=1200)
    with_pause = complete(flown=mission(cruise(600), pause, cruise(), LANDING))
    found = answer(with_pause)
    minutes = next(step for step in explain(with_pause, found, Asked.MINUTES) if step.name == "Minutes").sentence
    assert f"= {found.duration_s / 60:.1f} min in the air." in minutes
    assert "Wh on the ground)" in minutes
    assert found.ground_wh == pytest.approx(4 * 1200 / 3600, rel=0.02), "4 W of flight controller for 20 minutes"
    assert found.mean_power_w * found.duration_s / 3600 == pytest.approx(found.energy_used_wh - found.ground_wh)


def test_a_pause_and_a_held_throttle_are_not_told_as_flying() -> None:
    bench = complete(flown=mission(Block(kind="throttle step", duration_s=300, throttle_percent=20)))
    found = answer(bench)
    steps = explain(bench, found, Asked.MINUTES)
    words = " ".join(step.sentence for step in steps)
    assert "flies at" not in words
    assert "stays on the ground with 20 % throttle held" in words
    watts = float(np.mean(found.series.pack_a * found.series.loaded_v)) * 4
    assert f"{watts:.0f} W on its mean" in words
    paused = complete(flown=mission(Block(kind="pause", duration_s=3000), cruise(60), LANDING))
    told = explain(paused, answer(paused), Asked.MINUTES)
    assert any("cruise, the longest block, flies at 9.0 m/s" in step.sentence for step in told)


# Long missions


@pytest.mark.parametrize(
    "block",
    [
        Block(kind="cruise", ground_speed_m_s=9, out_and_back=True, leg_s=5),
        Block(kind="cruise", ground_speed_m_s=9, out_and_back=True, leg_s=600),
        Block(kind="manual flying", airspeed_m_s=9, full_throttle_s=3),
    ],
)
def test_what_lasts_until_landing_is_written_out_for_days_in_some_hundred_steps(block: Block) -> None:
    steps = plan(mission(block, LANDING), Conditions(wind_m_s=4))
    assert len(steps) <= 2 * TRUE_STEPS
    assert np.isinf([step.seconds for step in steps if not step.landing]).any(), "and it has no end of its own"
    finite = [step for step in steps if not step.landing and np.isfinite(step.seconds)]
    assert sum(step.seconds for step in finite) > 0.9 * LONGEST_S - 2 * max(step.seconds for step in finite)
    if block.out_and_back:
        out, back = (sum(s.seconds for s in finite if s.airspeed_m_s == speed) for speed in (13.0, 5.0))
        assert out == pytest.approx(back, rel=0.1), "as long out as back"


def test_a_repeated_group_keeps_its_mean_over_days() -> None:
    group = mission(cruise(10), Block(kind="hover", duration_s=5), LANDING).model_copy(
        update={"repeats": (Repeat(first=1, last=2),)}
    )
    steps = plan(group, STILL)
    cruising = sum(step.seconds for step in steps if step.block == 0)
    hovering = sum(step.seconds for step in steps if step.block == 1)
    assert cruising == pytest.approx(2 * hovering)
    assert cruising + hovering == pytest.approx(LONGEST_S)
    assert [step.seconds for step in steps[:4]] == [10, 5, 10, 5], "as they are, at first"


def test_a_flight_of_more_than_four_hours_ends_by_its_pack() -> None:
    """A light wing on many cells: half of the charge was left where the mission "was complete"."""
    long = complete(
        carrier=craft(
            parts=(Part(name="all", mass_g=900),), wing=Wing(span_mm=3000, area_dm2=60), loads=(),
            rotors=replaced(craft(), "rotors.count", 1).rotors,
        ),
        flown=mission(Block(kind="cruise", ground_speed_m_s=10, out_and_back=True, leg_s=60), LANDING),
        series_count=4, parallel_count=14,
    )  # fmt: skip
    found = answer(long)
    assert found.duration_s > 4 * 3600
    assert found.reason.ending is Ending.RESERVE_REACHED


def test_real_craft_fit_into_the_bounds() -> None:
    big = complete(series_count=12, parallel_count=40)
    found = answer(big)
    assert found.build.mass_g > 480 * 70
    grown = growth(big, 1.0)
    assert int(grown.parallel[-1]) == 40
    assert KnownFlight(takeoff_mass_g=2000, duration_min=2000, charge_used_mah=90_000, mean_voltage_v=14)


# Own placement


def test_an_own_placement_that_names_only_groups_that_are_gone_is_laid_in_rows() -> None:
    places = tuple(OwnPlace(x=2 * n, y=0, group=9, positive_up=True) for n in range(3))
    gone = complete(arrangement="own placement", own_places=places, series_count=2, parallel_count=2)
    found = answer(gone)
    assert len(found.build.layout.cells) == 4
    square = answer(complete(series_count=2, parallel_count=2))
    assert found.build.layout.length_mm == square.build.layout.length_mm


# The range


def test_in_still_air_gusts_are_no_doubt_of_the_wind() -> None:
    gusty = complete(conditions=Conditions(gust_m_s=4))
    found = spread(gusty, answer(gusty), samples=20)
    assert found.doubts.wind_m_s == 0
    assert "wind" not in found.doubts.words
    assert all(driver.name != "wind" for driver in found.drivers)
    windy = complete(conditions=Conditions(wind_m_s=4, gust_m_s=4))
    assert spread(windy, answer(windy), samples=20).doubts.wind_m_s == pytest.approx(0.3 * 4 + 2)


def test_a_weighed_pack_flies_as_it_was_weighed_and_its_mass_is_less_in_doubt() -> None:
    plain = complete()
    parts_g = answer(plain).build.mass_g
    heavy = replaced(plain, "design.packs.0.recipe.weighed_g", parts_g + 120)
    found, by_parts = answer(heavy), answer(plain)
    assert found.build.mass_g == pytest.approx(parts_g + 120)
    assert found.takeoff_mass_g == pytest.approx(by_parts.takeoff_mass_g + 120)
    assert found.duration_s < by_parts.duration_s
    assert sum(entry.mass_g for entry in found.build.masses) == pytest.approx(found.build.mass_g)
    share = found.build.mass_g / found.takeoff_mass_g
    doubt = spread(heavy, found, samples=20).doubts.mass
    assert doubt == pytest.approx(0.003 * share + 0.01 * (1 - share))
    assert doubt < spread(plain, by_parts, samples=20).doubts.mass


def test_a_search_and_a_shelf_start_from_what_was_weighed() -> None:
    heavy = replaced(complete(), "design.packs.0.recipe.weighed_g", answer(complete()).build.mass_g + 120)
    found = answer(heavy)
    space = Space.around(heavy, parallel=range(1, 5))
    row = space.row_of(heavy)
    assert row is not None
    flown = fly_rows(space, np.array([row, row + 1]), 1.0)
    assert flown.duration_s[0] == pytest.approx(found.duration_s, rel=1e-9)
    assert flown.pack_g[1] - flown.pack_g[0] > 4 * 70, "one more in parallel weighs its cells"
    (same,) = shelf_at_load(heavy, [heavy.pack.cell], 1.0, 5.0, Footing.SAME_COUNT)
    assert same.duration_s == pytest.approx(found.duration_s, rel=1e-9)


def test_a_pack_that_is_built_otherwise_is_not_the_one_that_was_weighed() -> None:
    parts_g = answer(complete()).build.mass_g
    heavy = replaced(complete(), "design.packs.0.recipe.weighed_g", parts_g + 120)
    bigger = replaced(heavy, "design.packs.0.recipe.parallel_count", 4).design
    after = rebuilt(heavy, bigger)
    assert after.packs[0].recipe.weighed_g is None
    assert after.packs[0].recipe.fittings.other_g == pytest.approx(120, abs=0.06), "what the scale found stays"
    moved = replaced(heavy, "design.packs.0.recipe.fittings.shift_mm", 5).design
    assert rebuilt(heavy, moved) is moved, "the same pack, elsewhere"
    anew = replaced(heavy, "design.packs.0.recipe.weighed_g", parts_g + 90).design
    assert rebuilt(heavy, anew) is anew
    assert answer(as_parts(heavy)).takeoff_mass_g == pytest.approx(answer(heavy).takeoff_mass_g)


# The difference of two wings


def test_a_difference_of_wings_tells_mass_with_all_that_follows_it() -> None:
    """More mass alone: all of the difference is mass, because the propellers' slip follows the faster wing."""
    wing = craft(wing=Wing(span_mm=1900, area_dm2=42), rotors=replaced(craft(), "rotors.count", 1).rotors)
    light = complete(carrier=wing, flown=mission(Block(kind="loiter"), LANDING))
    loaded = replaced(light, "design.conditions.payload_g", 600)
    its, others = answer(light), answer(loaded)
    told = difference(light, its, loaded, others)
    by_name = {share.name: share.amount for share in told.seconds_of}
    assert sum(by_name.values()) == pytest.approx(told.seconds, abs=1e-6)
    assert by_name["volts and resistance"] == pytest.approx(0, abs=0.5)


# Charging


def test_a_charger_limited_by_its_power_is_told_with_its_three_phases() -> None:
    weak = complete(series_count=6, parallel_count=3)
    asked = weak.model_copy(
        update={"design": weak.design.model_copy(
            update={"charger": Charger(current_a=6, power_w=120), "charge": ChargeWish(most_c_rate=1.0)}
        )}
    )  # fmt: skip
    plan_ = charge_plan(asked, answer(asked))
    phases = {phase.held.name: phase for phase in plan_.charged.phases}
    assert set(phases) >= {"POWER", "VOLTAGE"}
    power = phases["POWER"]
    assert power.end_a < power.start_a < 6.01
    charged = plan_.charged
    inside = (charged.time_s > charged.power_from_s + 1) & (charged.time_s < charged.held_from_s - 1)
    assert charged.current_a[inside] * charged.voltage_v[inside] == pytest.approx(120, rel=1e-3), "at the plug"
    words = plan_.sentences()[0]
    assert f"at the charger's 120 W, {power.start_a:.1f} falling to {power.end_a:.1f} A" in words
    assert "with the voltage held at 4.20 V a cell" in words
    assert sum(phase.seconds for phase in charged.phases) == pytest.approx(charged.seconds, abs=3)
    current = dict(plan_.settings())["Current"]
    assert ("the charger's 120 W give" in current) == (charged.power_from_s <= 1)


def test_a_charger_with_power_to_spare_holds_its_current_first() -> None:
    plain = complete()
    plan_ = charge_plan(plain, answer(plain))
    assert plan_.charged.phases[-1].held.name == "VOLTAGE"


def test_a_field_day_keeps_to_no_faster_than_and_has_an_answer_in_any_air() -> None:
    base = complete(landing=LandingRule(policy="gentle"))
    charger = Charger(current_a=30, power_w=600)

    def minutes(rate: float | None, air: float = 20) -> float:
        there = replaced(base, "design.conditions.air_temperature_c", air)
        kind = set_kind("set", 1, there, answer(there), charger, rate)
        day = field_day([kind], FieldDay(length_h=8, sets=(DaySet(),)), charger)
        return day.air_s / 60

    assert minutes(0.2) < minutes(None)
    assert minutes(0.2) < minutes(1.0) == minutes(None)
    assert minutes(None, air=-40) >= 0, "a sentence or a day, no traceback"


def test_one_flight_of_a_batch_is_not_disturbed_by_one_that_collapses() -> None:
    weak = complete(cell=cell_type(dcir_mohm=500), flown=mission(PUNCH, cruise(), LANDING), parallel_count=1)
    strong = complete(flown=mission(PUNCH, cruise(), LANDING))
    one, both = lower([lower_one(strong, 1.0)]), lower([lower_one(weak, 1.0), lower_one(strong, 1.0)])
    assert fly(both).lasted_s[1] == pytest.approx(fly(one).lasted_s[0], rel=1e-9)
