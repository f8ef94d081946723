"""Loads behind converters, at switch-on, and what a step-up would buy."""

from __future__ import annotations

import pytest

from tests.builders import LANDING, TAKE_OFF, complete, craft, cruise, mission
from wise_cellar.core.advice import step_up
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CompleteDesign, Converter, LandingRule, Load
from wise_cellar.core.flight import Ending
from wise_cellar.core.lowering import lower, lower_one

CAMERA = Load(name="camera", power_w=8, min_input_v=12.4)


def carrying(*loads: Load, **changes: object) -> CompleteDesign:
    return complete(
        carrier=craft(loads=loads), flown=mission(TAKE_OFF, cruise(), LANDING), landing=LandingRule(policy="deep"),
        **changes,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("load", "watts", "volts"),
    [
        (CAMERA, 8, 12.4),
        (CAMERA.model_copy(update={"converter": Converter.STEP_DOWN}), 8 / 0.88, 12.9),
        (CAMERA.model_copy(update={"converter": Converter.STEP_UP}), 8 / 0.88, 2.7),
        (CAMERA.model_copy(update={"converter": Converter.STEP_UP, "converter_min_v": 9.0}), 8 / 0.88, 9.0),
        (CAMERA.model_copy(update={"converter": Converter.STEP_DOWN, "converter_efficiency": 0.5}), 16, 12.9),
    ],
)
def test_what_a_load_takes_from_the_bus_and_needs_of_it(load: Load, watts: float, volts: float) -> None:
    assert load.bus_power_w == pytest.approx(watts)
    assert load.least_bus_v == pytest.approx(volts)
    batch = lower([lower_one(carrying(load), 1.0)])
    assert batch.load_w[0] == pytest.approx(watts)
    assert batch.brown_out_v[0] == pytest.approx(volts)


def test_a_load_that_stops_ends_the_flight_at_the_sagging_voltage() -> None:
    found = answer(carrying(CAMERA))
    assert found.reason.ending is Ending.BROWN_OUT
    assert found.series.loaded_v[-1] * 4 == pytest.approx(12.4, abs=1e-3)


def test_a_step_up_buys_the_minutes_of_the_craft_that_has_one() -> None:
    of = carrying(CAMERA)
    before = answer(of)
    found = step_up(of, before)
    assert found is not None
    assert (found.load, found.added_g) == ("camera", 6.0)
    lifted = CAMERA.model_copy(update={"converter": Converter.STEP_UP})
    heavier = craft(loads=(lifted,), parts=(*of.craft.parts, of.craft.parts[0].model_copy(update={"mass_g": 6})))
    after = answer(of.model_copy(update={"craft": heavier}))
    assert found.gain_s == pytest.approx(after.duration_s - before.duration_s, abs=1e-6)
    assert found.gain_s > 60


def test_where_nothing_stops_no_step_up_is_offered() -> None:
    modest = carrying(Load(name="controller", power_w=4, min_input_v=4.5))
    assert step_up(modest, answer(modest)) is None
    lifted = carrying(CAMERA.model_copy(update={"converter": Converter.STEP_UP}))
    assert step_up(lifted, answer(lifted)) is None


def test_a_switch_on_that_takes_another_load_down_is_told() -> None:
    hungry = Load(name="heater", power_w=10, startup_w=1600, min_input_v=5)
    found = answer(carrying(Load(name="controller", power_w=4, min_input_v=14.5), hungry))
    said = [f for f in found.findings if f.field == "craft.loads.1.startup_w"]
    assert said
    assert "heater draws 1\u202f600 W at switch-on" in said[0].sentence
    assert "controller (min 14.5 V) restarts" in said[0].sentence
    meek = answer(
        carrying(Load(name="controller", power_w=4, min_input_v=14.5), hungry.model_copy(update={"startup_w": 12}))
    )
    assert not [f for f in meek.findings if f.field == "craft.loads.1.startup_w"]
