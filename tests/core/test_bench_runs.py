"""Bench runs: schedules as they are typed, made of flights and of recordings, and what the pack does under them."""

from __future__ import annotations

from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import beside, cell_type, complete, cruise, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.bench import (
    flown,
    mission_of,
    on_one_cell,
    predicted_run,
    steps_from_text,
    steps_of_answer,
    steps_of_rows,
    steps_text,
    total_seconds,
)
from wise_cellar.core.documents import Block, BlockKind, DocumentError, RunStep
from wise_cellar.core.shown import Units, shown_in
from wise_cellar.instruments.stand_ins.pack import SimulatedPack

DESIGN = complete()


def held(step: RunStep) -> tuple[float | None, float | None, float | None, float]:
    return step.amps, step.watts, step.throttle_percent, step.seconds


@pytest.mark.parametrize(("text", "steps"), [
    ("10 A 60 s", [(10, None, None, 60)]),
    ("10A for 1:30; rest 2 min\n500 mA 1 h", [(10, None, None, 90), (None, None, None, 120), (0.5, None, None, 3600)]),
    ("2 x (1.2 kW 5 s; 40 % 10 s);", 2 * [(None, 1200, None, 5), (None, None, 40, 10)]),
    ("2×(3 A 1 s; 2x(1 W 2 s))", 2 * [(3, None, None, 1), (None, 1, None, 2), (None, 1, None, 2)]),
])  # fmt: skip
def test_a_schedule_is_read_as_it_is_typed(text: str, steps: list[tuple[float, ...]]) -> None:
    assert [held(step) for step in steps_from_text(text)] == steps


@pytest.mark.parametrize(("text", "words"), [
    ("", "has at least one step"), ("ten amps", "is no step: a current, a power or a throttle, and how long"),
    ("10 A", "is no step"), ("10 A 5 parsec", "“parsec” is not a unit of a time"),
    ("3 x (10 A 5 s", "A bracket of “3 x"), ("10 A 5 s)", "has no other"), ("0 A 5 s", "Held current must be"),
    ("9000 A 5 s", "Held current must be"), ("5 A -3 s", "Duration must be more than 0"),
    ("2000 x (2 A 1 s; 1 A 1 s)", "is more than 2000 steps"),
    ("120 % 5 s", "Throttle must be at most"), ("2x(2x(2x(2x(2x(1 A 1 s)))))", "more than four deep"),
])  # fmt: skip
def test_what_is_no_schedule_is_a_sentence(text: str, words: str) -> None:
    with pytest.raises(DocumentError, match=words.replace("(", "\\(").replace(")", "\\)")):
        steps_from_text(text)


steps = st.builds(
    lambda value, seconds, what: RunStep(seconds=seconds, **({what: value} if what else {})),
    st.integers(1, 99), st.integers(1, 9999), st.sampled_from(["amps", "watts", "throttle_percent", ""]),
)  # fmt: skip


@given(st.lists(steps, min_size=1, max_size=12), st.booleans())
def test_what_is_written_of_a_schedule_is_read_again(some: list[RunStep], comma: bool) -> None:
    with shown_in(Units(decimal_comma=comma)):
        assert steps_from_text(steps_text(some)) == tuple(some)


@given(st.text(max_size=60))
def test_nonsense_is_a_sentence(text: str) -> None:
    with suppress(DocumentError):
        assert steps_from_text(text)


def test_the_pack_under_a_schedule_is_what_an_independent_cell_does() -> None:
    some = steps_from_text("3 x (12 A 240 s; rest 60 s; 80 W 120 s)")
    found = predicted_run(DESIGN, on_one_cell(some, 4, 3), one_cell=True)
    one = SimulatedPack(DESIGN.pack.cell, air_c=DESIGN.pack.state.temperature_c or 25.0)
    for step in on_one_cell(some, 4, 3):
        for _ in range(int(step.seconds)):
            emf, ohm = float(one.emf_v[0]), float(one.ohm[0])
            watts = step.watts or 0.0
            amps = step.amps or (emf - np.sqrt(emf**2 - 4 * ohm * watts)) / (2 * ohm)
            one.run(1.0, float(amps))
    assert found.completes
    assert found.seconds == pytest.approx(total_seconds(some))
    assert found.given_mah == pytest.approx(one.given_mah, rel=2e-3)
    assert found.volts[-1] == pytest.approx(one.volts(float(amps)), abs=0.01)


def test_a_pack_ends_a_run_at_its_cells_minimum() -> None:
    found = predicted_run(DESIGN, steps_from_text("30 A 2 h"))
    assert not found.completes
    assert found.seconds < 7200
    assert found.cell_v[-1] == pytest.approx(DESIGN.pack.cell.min_voltage_v, abs=1e-3)
    assert found.volts[-1] < 4 * found.cell_v[-1], "some is lost in the wiring"


def test_a_flight_becomes_a_schedule_of_the_same_energy_and_minutes() -> None:
    flight = complete(flown=mission(
        cruise(600), Block(kind=BlockKind.PUNCH, duration_s=5), cruise(300),
        Block(kind=BlockKind.THROTTLE, duration_s=30, bench_current_a=7.0),
    ))  # fmt: skip
    answered = answer(flight)
    schedule = steps_of_answer(flight, answered)
    drawn_wh = sum((step.watts or 0.0) * step.seconds for step in schedule) / 3600
    amp_s = sum((step.amps or 0.0) * step.seconds for step in schedule)
    assert total_seconds(schedule) == pytest.approx(answered.series.time_s[-1])
    assert amp_s == pytest.approx(210.0)
    assert drawn_wh + 210.0 * answered.series.loaded_v[-1] * 4 / 3600 == pytest.approx(
        answered.energy_used_wh, rel=2e-3
    )
    assert max(step.watts or 0.0 for step in schedule) > 2 * np.median([step.watts or 0.0 for step in schedule])
    run = predicted_run(flight, schedule)
    assert run.given_mah == pytest.approx(answered.given_mah, rel=5e-3)
    as_flown = flown(flight, answered)
    assert np.interp(500, run.time_s, run.volts) == pytest.approx(
        np.interp(500, as_flown.time_s, as_flown.volts), abs=0.02
    )
    again = steps_of_rows(as_flown.time_s, as_flown.volts, as_flown.amps)
    assert total_seconds(again) == pytest.approx(answered.series.time_s[-1])
    assert sum((one.watts or 0) * one.seconds for one in again) / 3600 == pytest.approx(
        answered.energy_used_wh, rel=5e-3
    )


def test_a_long_noisy_recording_is_thinned_and_keeps_its_energy() -> None:
    time_s = np.arange(0, 8000.0, 0.2)
    watts = 200 + 150 * np.random.default_rng(1).random(len(time_s))
    some = steps_of_rows(time_s, np.full(len(time_s), 15.0), watts / 15)
    assert len(some) <= 2000
    assert sum((one.watts or 0) * one.seconds for one in some) == pytest.approx(
        float(np.trapezoid(watts, time_s)), rel=1e-6
    )


def test_throttle_becomes_power_by_the_mission_that_it_is() -> None:
    some = steps_from_text("40 % 60 s; rest 10 s; 10 A 30 s")
    with pytest.raises(DocumentError, match="A load knows no throttle"):
        predicted_run(DESIGN, some)
    bench = complete(flown=mission_of(some))
    schedule = steps_of_answer(bench, answer(bench))
    assert schedule[0].watts is not None
    assert schedule[0].watts > 5
    assert schedule[-1].amps == 10.0
    assert total_seconds(schedule) == pytest.approx(100.0)
    with pytest.raises(DocumentError, match="up to 200 steps"):
        mission_of(201 * some[:1])


def test_a_flight_of_too_many_steps_is_refused_and_not_cut(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wise_cellar.core.bench.schedule.MOST_STEPS", 3)
    with pytest.raises(DocumentError, match="more than 3 steps"):
        steps_of_answer(DESIGN, answer(DESIGN))


def test_what_hangs_on_no_load_is_refused() -> None:
    both = beside(DESIGN, (cell_type(id="other"), {}))
    with pytest.raises(DocumentError, match="a load hangs on one"):
        predicted_run(both, steps_from_text("1 A 1 s"))
    with pytest.raises(DocumentError, match="there is nothing to run"):
        predicted_run(DESIGN, [])
    with pytest.raises(DocumentError, match="Nothing flows in this recording"):
        steps_of_rows(np.arange(3.0), np.full(3, 15.0), np.zeros(3))
    with pytest.raises(DocumentError, match="one of them"):
        RunStep.from_data({"seconds": 1, "amps": 1, "watts": 1})
