"""A line in words: what it says is what the line does."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wise_cellar.core.course import course, turning_points


def minutes(value: float) -> str:
    return f"{value:.0f} min"


def parallel(value: float) -> str:
    return f"{value:.0f}P"


def said(y: list[float]) -> str:
    return course(np.arange(1.0, len(y) + 1), np.array(y), parallel, minutes)


def test_a_rise_to_a_peak_and_a_fall() -> None:
    assert said([22, 33, 39, 41, 40, 36]) == "rises from 22 min at 1P to 41 min at 4P, then falls to 36 min at 6P"


def test_one_way_only() -> None:
    assert said([41, 40, 33, 22]) == "falls from 41 min at 1P to 22 min at 4P"


def test_what_stays_what_is_one_point_and_what_is_none() -> None:
    assert said([20, 20.1, 20]) == "stays at 20 min from 1P to 3P"
    assert said([20]) == "20 min at 1P"
    assert said([]) == ""
    assert said([0.0, 0.0]) == "stays at 0 min from 1P to 2P"


def test_a_gap_is_passed_over() -> None:
    assert said([10, float("nan"), 30]) == "rises from 10 min at 1P to 30 min at 3P"


def test_many_turns_are_told_by_their_ends() -> None:
    assert said([0, 9, 1, 10, 0, 9, 2]) == "goes up and down between 0 min and 10 min, lowest at 1P, highest at 4P"


def test_noise_is_no_turn() -> None:
    x = np.linspace(0, 1, 400)
    noisy = 100 * x + np.random.default_rng(3).normal(0, 0.8, len(x))
    assert course(x, noisy, minutes, minutes).count("rises") == 1
    assert "falls" not in course(x, noisy, minutes, minutes)


def test_the_peak_of_a_long_line_is_not_lost() -> None:
    y = np.zeros(5000)
    y[1234] = 7.0
    assert "to 7 min at 1234 min" in course(np.arange(5000.0), y, minutes, minutes)


@given(st.lists(st.floats(-1e3, 1e3), min_size=2, max_size=60))
def test_turns_go_up_and_down_in_turn_and_keep_the_ends(y: list[float]) -> None:
    values = np.array(y)
    turns = turning_points(values)
    assert (turns[0], turns[-1]) == (0, len(y) - 1)
    assert turns == sorted(set(turns))
    steps = np.sign(np.diff(values[turns[:-1]]))
    assert np.all(steps[1:] * steps[:-1] <= 0), "legs that are turned at go up and down in turn"


@pytest.mark.parametrize("peak", [0.2, 0.5, 0.8])
def test_the_turn_is_at_the_peak(peak: float) -> None:
    x = np.linspace(0, 1, 201)
    turns = turning_points(-((x - peak) ** 2))
    assert len(turns) == 3
    assert x[turns[1]] == pytest.approx(peak, abs=0.006)
