"""A charge that is watched: when it is done, and what is wrong with it, on charges with truths that nobody told."""

from __future__ import annotations

import lzma
import re
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from tests.builders import cell_type, complete
from tests.core.test_fit import curve
from wise_cellar.core.answer import Severity, answer
from wise_cellar.core.charge import Came, Charged, ChargePlan, charge, charge_plan, expected_from, watched
from wise_cellar.core.documents import ChargeFrom, Charger, ChargeWish
from wise_cellar.core.fit import fit_cell
from wise_cellar.instruments.stand_ins.charger import PackCharger

LOGS = Path(__file__).parent.parent / "data" / "logs"
RUNS = ("cell_a_c10_25c", "cell_a_c2_25c", "cell_a_1c_25c", "cell_a_pulses_25c")
WISH = ChargeWish(start=ChargeFrom.GIVEN, start_percent=60.0)


@cache
def plan(start_percent: float = 60.0) -> ChargePlan:
    design = complete().with_design(charge=WISH.changed(start_percent=start_percent))
    return charge_plan(design, answer(design))


@cache
def charged_by_a_stand_in(seed: int, really_percent: float = 60.0) -> Came:
    """A line a second, of a pack that began elsewhere than was planned."""
    charger = PackCharger(plan(really_percent), seed, 0.3)
    lines: list[str] = []
    while charger.on:
        lines += charger.lines(len(lines) + 30.0)
    rows = np.array([[float(text) for text in re.findall(r"=([-\d.]+)", line)] for line in lines[1:]])
    rows = rows[: int(np.flatnonzero(rows[:, 1] > 0.05)[-1]) + 1]
    return Came.of(np.arange(len(rows), dtype=float), rows[:, 1], rows[:, 0], rows[:, 4:], rows[:, 2])


def until(came: Came, seconds: float) -> Came:
    upto = came.time_s <= seconds
    return Came.of(came.time_s[upto], came.amps[upto], came.volts[upto], came.groups[upto], came.celsius[upto])


def as_planned(charged: Charged | None = None, **changed: Callable[[Came], np.ndarray]) -> Came:
    """The plan itself, or another charge, a reading every ten seconds, with four groups alike; and what is changed."""
    charged, cells = charged or plan().charged, plan().cells
    time_s = np.arange(0.0, charged.seconds, 10.0)
    amps, volts, celsius = (
        np.interp(time_s, charged.time_s, values)
        for values in (charged.current_a, charged.voltage_v, charged.temperature_c)
    )
    came = Came.of(time_s, amps, volts, np.repeat(volts[:, None] / cells, cells, axis=1), celsius)
    now = replace(came, **{name: change(came) for name, change in changed.items()})
    return Came.of(now.time_s, now.amps, now.volts, now.groups, now.celsius)


def said(came: Came) -> list[str]:
    return [alarm.finding.sentence for alarm in watched(plan(), plan().charged, came).alarms]


@pytest.mark.parametrize(("seed", "really_percent"), [(1, 60.0), (2, 40.0)])
def test_when_it_is_done_is_known_after_some_minutes(seed: int, really_percent: float) -> None:
    came = charged_by_a_stand_in(seed, really_percent)
    assert watched(plan(), plan().charged, until(came, 100)).left_s is None
    expected = expected_from(plan(), until(came, 300))
    assert expected.soc[0] == pytest.approx(really_percent / 100, abs=0.02)
    for seconds in np.linspace(300, came.seconds - 120, 7):
        found = watched(plan(), expected, until(came, float(seconds)))
        assert found.left_s == pytest.approx(came.seconds - seconds, abs=0.06 * came.seconds)
        assert not found.alarms, "and nothing is wrong with it"


def test_a_charger_that_gives_less_is_expected_to_take_longer() -> None:
    slow = charge(replace(plan().on_charger, current_a=0.5 * plan().charged.current_a[0]))
    assert slow.seconds > 1.3 * plan().charged.seconds
    assert expected_from(plan(), as_planned(slow)).seconds == pytest.approx(slow.seconds, rel=0.02)
    assert expected_from(plan(), as_planned()).seconds == pytest.approx(plan().charged.seconds, rel=0.01)


def test_what_goes_as_planned_alarms_nobody() -> None:
    whole = as_planned()
    for seconds in np.linspace(0, whole.seconds, 30):
        assert not said(until(whole, float(seconds)))


NO_GROUPS = {"groups": lambda came: came.groups[:, :0]}


@pytest.mark.parametrize(("changed", "words", "stops"), [
    ({"celsius": lambda came: came.celsius + 30}, "charging ends at 45 °C", True),
    ({"celsius": lambda came: came.celsius - 30}, "Never charge a cell under 0 °C", True),
    ({"celsius": lambda came: came.celsius + 10}, "10 K warmer than expected", False),
    ({"amps": lambda came: came.amps + 6}, "this pack takes", True),
    ({"volts": lambda came: came.volts + 4.3} | NO_GROUPS, "are more than 4 cells", True),
    ({"groups": lambda came: came.groups[:, :3]}, "3 groups are told of 4", True),
    ({"groups": lambda came: came.groups + np.array([0, 0, 0.2, 0])}, "Group 3 is at 4", True),
    ({"groups": lambda came: came.groups - np.array([0, 0.06, 0, 0])}, "Group 2 is 60 mV under the others", False),
    ({"time_s": lambda came: 1.4 * came.time_s}, "were expected. Something takes charge", False),
    ({"time_s": lambda came: 6.0 * came.time_s}, "more than its label", True),
])  # fmt: skip
def test_what_is_wrong_is_told(changed: dict[str, Callable[[Came], np.ndarray]], words: str, stops: bool) -> None:
    came = as_planned(**changed)
    late = until(came, 0.97 * came.seconds)
    alarms = [alarm for alarm in watched(plan(), plan().charged, late).alarms if words in alarm.finding.sentence]
    assert len(alarms) == 1, said(late)
    assert alarms[0].stops is stops
    assert (alarms[0].finding.severity is Severity.OVER) is stops


def test_a_current_that_stays_while_the_volts_are_held_is_told() -> None:
    whole, held_s = as_planned(), plan().charged.held_from_s
    time_s = np.arange(0.0, held_s + 1500.0, 10.0)
    held = np.maximum(time_s - held_s, 0)
    amps = np.maximum(np.interp(time_s, whole.time_s, whole.amps), 3.0)
    volts = np.where(held > 0, plan().cells * plan().full_v, np.interp(time_s, whole.time_s, whole.volts))
    stays = Came.of(time_s, amps, volts, np.zeros((len(time_s), 0)), np.full(len(time_s), np.nan))
    assert any("it should fall" in sentence for sentence in said(stays))
    assert not any("it should fall" in sentence for sentence in said(until(stays, held_s + 300)))


def test_one_reading_that_is_wrong_alarms_nobody() -> None:
    came = until(as_planned(), 1000)
    for values in (came.celsius, came.volts, came.amps):
        values[-2] = 500.0
    assert not said(came)


def test_a_charge_of_another_model_is_known_from_its_first_minutes_and_its_weak_group_named() -> None:
    """A logged charge of a 4S 2P pack (tests/data/README.md): it was empty, and its third group holds 4 % less."""
    text = lzma.decompress((LOGS / "charge_4s2p.csv.xz").read_bytes()).decode().replace(",", ".")
    rows = np.array([[float(cell) for cell in line.split(";")] for line in text.splitlines()[1:]])
    flows = np.flatnonzero(rows[:, 2] > 0.05)
    rows = rows[flows[0] : flows[-1]]
    time_s = 60 * (rows[:, 0] - rows[0, 0])
    came = Came.of(time_s, rows[:, 2], rows[:, 1], rows[:, 4:], np.full(len(rows), np.nan))
    fitted = fit_cell([curve(name) for name in RUNS], cell_type()).model
    design = complete(cell=cell_type(fitted=fitted, charge_current_a=5.0), parallel_count=2).with_design(
        charge=WISH.changed(start_percent=30.0, temperature_c=22.0), charger=Charger(current_a=5.0, power_w=500.0)
    )
    other = charge_plan(design, answer(design))
    expected = expected_from(other, until(came, 300.0))
    tapered = float(time_s[np.flatnonzero((rows[:, 2] < other.on_charger.taper_a) & (time_s > 1000))[0]])
    assert expected.seconds == pytest.approx(tapered, rel=0.05)
    for seconds in (1000.0, 4000.0, 6000.0):
        found = watched(other, expected, until(came, seconds))
        assert found.left_s == pytest.approx(tapered - seconds, abs=0.12 * tapered)
    first = watched(other, expected, until(came, 60.0)).alarms
    assert [alarm.finding.sentence[:7] for alarm in first] == ["Group 3"]
