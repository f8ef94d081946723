"""A balance lead read with a meter: every single and double fault put in and found, with noise."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np
import pytest

from wise_cellar.core.build.taps import Diagnosis, diagnose
from wise_cellar.core.build.wiring import Against, Fault, Readings, expected, faults_of, read_as
from wise_cellar.core.documents import DocumentError

NOISE_V = 0.005


def groups(series: int, seed: int = 1) -> list[float]:
    return (3.6 + 0.006 * np.random.default_rng(seed).standard_normal(series)).tolist()


def noisy(readings: Readings, random: np.random.Generator) -> Readings:
    volts = tuple(volts + NOISE_V * random.standard_normal() for volts in readings.volts)
    main = None if readings.main_v is None else readings.main_v + NOISE_V * random.standard_normal()
    return Readings(volts, readings.against, main)


def is_found(found: Diagnosis, group_v: Sequence[float], readings: Readings) -> bool:
    """Whether one of the first two explanations is a wiring that would read the same."""
    for one in found.explanations[:2]:
        if any(fault.kind == "down" for fault in one.faults):
            continue
        same = read_as(group_v, one.faults, readings.against)
        near = np.allclose(same.volts, readings.volts, atol=0.03)
        if near and (readings.main_v is None or abs(same.main_v - readings.main_v) < 0.05):
            return True
    return False


@pytest.mark.parametrize("against", list(Against))
@pytest.mark.parametrize("series", range(2, 9))
def test_every_single_fault_is_found(series: int, against: Against) -> None:
    random = np.random.default_rng(series)
    group_v = groups(series)
    missed = []
    for fault in faults_of(series):
        readings = read_as(group_v, [fault], against)
        if not is_found(diagnose(group_v, noisy(readings, random)), group_v, readings):
            missed.append(fault.words)
    assert not missed


@pytest.mark.parametrize("series", [2, 3, 4, 6, 8, 14, 20])
def test_every_double_fault_is_found(series: int) -> None:
    """All pairs of small leads, a sample of the thousands of larger ones."""
    random = np.random.default_rng(series)
    group_v = groups(series)
    pairs = list(combinations(faults_of(series), 2))
    many = 120 if series <= 8 else 60
    chosen = range(len(pairs)) if len(pairs) < 500 else random.choice(len(pairs), many, replace=False)
    missed = []
    for place in chosen:
        readings = read_as(group_v, pairs[place])
        if not is_found(diagnose(group_v, noisy(readings, random)), group_v, readings):
            missed.append(tuple(fault.words for fault in pairs[place]))
    assert not missed


def test_a_right_lead_is_told_right() -> None:
    random = np.random.default_rng(4)
    for series in range(1, 21):
        group_v = groups(series, series)
        found = diagnose(group_v, noisy(read_as(group_v, []), random))
        assert found.best.right
        assert len(found.explanations) == 1
        assert found.sentences() == ["All is as it should be.", "The lead may be plugged into a charger."]


def test_what_to_expect_is_the_sum_of_the_groups() -> None:
    assert expected([3.6, 3.5, 3.7]) == pytest.approx((3.6, 7.1, 10.8))
    assert expected([3.6, 3.5, 3.7], Against.NEIGHBOUR) == pytest.approx((3.6, 3.5, 3.7))


def test_no_charger_where_it_would_do_harm() -> None:
    group_v = groups(4)
    for fault in faults_of(4):
        told = " ".join(diagnose(group_v, read_as(group_v, [fault])).sentences())
        assert "o not connect a charger" in told, fault.words


def test_words_count_wires_and_groups_from_the_negative_end() -> None:
    group_v = groups(4)
    found = diagnose(group_v, read_as(group_v, [Fault("swap", 1, 2)]))
    assert found.best.words == "Wires 2 and 3 are swapped"
    found = diagnose(group_v, read_as(group_v, [Fault("turn", 2)]))
    assert found.best.words == "Group 3 is the wrong way round"
    assert "part this group from its neighbours" in found.best.advice


def test_a_group_far_down_is_told_as_one() -> None:
    group_v = groups(4)
    low = [*group_v[:2], 2.4, group_v[3]]
    found = diagnose(group_v, Readings(expected(low), main_v=sum(low)))
    assert found.best.words == "Group 3 is far down"
    assert "Read its cells one by one" in found.best.advice


def test_two_explanations_stand_beside_each_other_where_the_readings_do_not_tell() -> None:
    """Nought at the second pin: it lies at nothing, or at the first joint."""
    group_v = groups(4)
    found = diagnose(group_v, read_as(group_v, [Fault("miss", 1)]))
    assert {one.words for one in found.explanations} >= {
        "Wire 2 lies at nothing: not joined, or broken", "Wire 2 lies at the joint of wire 1",
    }  # fmt: skip
    assert "It may as well be that wire 2" in found.sentences()[2]


def test_readings_that_nothing_explains_are_said_to_be() -> None:
    found = diagnose(groups(4), Readings((1.1, 9.3, 2.2, 31.0)))
    assert not found.explained
    assert "Nothing that was tried explains these readings" in found.sentences()[0]
    assert "Do not connect a charger" in found.sentences()[1]


@pytest.mark.parametrize(("readings", "says"), [
    (Readings((3.6, 7.2, 10.8)), "A lead of 4S has 5 pins, so 4 readings; there are 3"),
    (Readings((3600.0, 7200.0, 10800.0, 14400.0)), "3\u202f600 V is no voltage of this pack; millivolts"),
])  # fmt: skip
def test_readings_that_cannot_be_are_a_sentence(readings: Readings, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        diagnose(groups(4), readings)
