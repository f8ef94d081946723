"""How an answer comes about: every number in the steps is the answer's own, and they follow from each other."""

from __future__ import annotations

import math
import re

import pytest

from tests.builders import LANDING, PUNCH, TAKE_OFF, complete, cruise, mission
from wise_cellar.core.answer import Asked, answer, as_text, explain
from wise_cellar.core.documents import Conditions, LandingRule, replaced

DESIGN = complete(flown=mission(TAKE_OFF, cruise(300), PUNCH, cruise(), LANDING), conditions=Conditions(payload_g=120))
FOUND = answer(DESIGN)


def steps(asked: Asked) -> dict[str, str]:
    return {step.name: step.sentence for step in explain(DESIGN, FOUND, asked)}


def numbers(sentence: str) -> list[float]:
    return [float(text) for text in re.findall(r"\d+(?:\.\d+)?", sentence.replace("\u202f", ""))]


def test_the_minutes_follow_from_mass_to_power_to_charge() -> None:
    found = steps(Asked.MINUTES)
    assert list(found) == ["Mass", "Air", "Thrust", "Power", "Motors", "Amps", "Volts", "Charge", "Minutes", "End"]
    craft, pack, payload, total, weight = numbers(found["Mass"])
    assert craft + pack + payload == pytest.approx(total, abs=1)
    assert weight == pytest.approx(total * 9.80665e-3, abs=0.1)
    newton, speed, merit, watts = numbers(found["Power"])
    assert newton * speed / merit == pytest.approx(watts, rel=0.02)
    energy, power, minutes = numbers(found["Minutes"])
    assert 60 * energy / power == pytest.approx(minutes, rel=0.01)
    assert minutes == pytest.approx(FOUND.duration_s / 60, rel=0.01)


def test_the_longest_block_is_the_one_that_is_explained() -> None:
    assert "cruise, the longest block, flies at 9.0 m/s" in steps(Asked.MINUTES)["Thrust"]
    thrust = numbers(steps(Asked.MINUTES)["Thrust"])
    _, drag, total, _ = thrust
    weight = FOUND.takeoff_mass_g * 9.80665e-3
    assert total == pytest.approx(math.hypot(weight, drag), abs=0.1)


def test_mass_punch_link_and_end_say_the_answers_numbers() -> None:
    for entry in FOUND.build.masses:
        assert f"{entry.name.lower()} {entry.mass_g:.1f} g" in steps(Asked.MASS)["Pack"]
    punch = steps(Asked.PUNCH)
    assert f"{FOUND.late_punch.volts_a_cell:.2f} V as the craft sees" in punch["Volts"]
    rest, sag, low, _ = numbers(punch["Volts"])
    assert rest - sag == pytest.approx(low, abs=0.011)
    assert f"{FOUND.late_punch.thrust_margin:.1f} times" in punch["Thrust"]
    assert FOUND.weak_link.name in steps(Asked.LINK)["Link"]
    assert FOUND.reason.sentence == steps(Asked.END)["Rule"]
    assert f"rest at {FOUND.resting_v:.2f} V" in steps(Asked.END)["Then"]


@pytest.mark.parametrize("asked", list(Asked))
def test_every_answer_is_explained_and_moves_with_its_design(asked: Asked) -> None:
    other = replaced(DESIGN, "design.packs.0.recipe.parallel_count", 2)
    text = as_text(asked, explain(DESIGN, FOUND, asked))
    assert text.startswith(f"How {asked} comes about\n")
    assert text.count("\n") >= 2
    if asked is not Asked.END:
        assert text != as_text(asked, explain(other, answer(other), asked))


def test_a_flight_that_never_begins_is_explained_too() -> None:
    hopeless = complete(series_count=1, parallel_count=1)
    found = answer(hopeless)
    assert found.duration_s == 0
    for asked in Asked:
        assert explain(hopeless, found, asked)


# The thrust margin that is wanted


def test_the_margin_is_there_until_a_burst_no_longer_gives_it() -> None:
    wanted = 0.5 * (FOUND.series.thrust_margin[0] + FOUND.series.thrust_margin[-1])
    asked = complete(flown=DESIGN.mission, landing=LandingRule(least_margin=float(wanted)))
    found = answer(asked)
    assert 0 < found.margin_until_s < found.series.time_s[-1]
    after = found.series.time_s > found.margin_until_s + 1
    assert (found.series.thrust_margin[after] < wanted + 1e-9).all()
    assert any(
        f"less than the {wanted:g} wanted" in f.sentence and "gives as much until" in f.sentence for f in found.findings
    )


def test_a_small_margin_is_there_to_the_end_and_a_great_one_never() -> None:
    modest, greedy = (
        answer(complete(flown=DESIGN.mission, landing=LandingRule(least_margin=margin))) for margin in (1.0, 5.0)
    )
    assert modest.margin_until_s == pytest.approx(float(modest.series.time_s[-1]))
    assert greedy.margin_until_s == 0
