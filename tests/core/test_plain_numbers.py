"""A flight alone goes in plain numbers, or two of them a bus, many go in arrays, by the same lines: both give the same,
step by step."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import LANDING, PUNCH, TAKE_OFF, beside, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.core.documents import Block, CompleteDesign, LandingRule, PackState
from wise_cellar.core.flight import FlightBatch, FlightTraces, fly
from wise_cellar.core.flight.integrator import MOST_ALONE
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics import numbers as law
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.two import Two
from wise_cellar.demo import complete_sample

LANDINGS = (
    LandingRule(policy="gentle"),
    LandingRule(policy="own", own_voltage_v=2.0, strict_minimum=True),
    LandingRule(basis="volts at rest", resting_voltage_v=3.4),
    LandingRule(basis="volts in bursts", burst_voltage_v=3.2),
    LandingRule(basis="charge used", charge_percent=60),
)  # fmt: skip
MISSIONS = (
    mission(TAKE_OFF, cruise(200), PUNCH, cruise(60), PUNCH, cruise(), LANDING),
    mission(Block(kind="throttle step", duration_s=900, throttle_percent=60)),
    mission(Block(kind="manual flying", airspeed_m_s=4, liveliness=1.4, full_throttle_s=2), LANDING),
)


def batch_of(design: CompleteDesign) -> FlightBatch:
    return lower([lower_one(design, 1.0)])


def alone(batch: FlightBatch) -> FlightTraces:
    """In plain numbers and no other way: what flies in arrays parts with its blocks."""

    def refused(_batch: FlightBatch) -> FlightBatch:
        raise AssertionError("plain numbers were refused")

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(FlightBatch, "lean", refused)
        return fly(batch, record=True)


def among_many(batch: FlightBatch) -> FlightTraces:
    """The same flight so many times that arrays are the quicker way."""
    return fly(batch.take(np.zeros(MOST_ALONE + 1, np.intp)), record=True)


def numbers(found: object) -> Iterator[tuple[str, np.ndarray]]:
    """What was left behind of the first flight, by its name."""
    for field in dataclasses.fields(found):  # type: ignore[arg-type]
        value = getattr(found, field.name)
        if isinstance(value, CellState):
            yield from ((f"{field.name}.{name}", of[..., :1]) for name, of in numbers(value))
        elif isinstance(value, np.ndarray):
            yield field.name, value


@settings(max_examples=12, deadline=None)
@given(
    landing=st.sampled_from(LANDINGS),
    flown=st.sampled_from(MISSIONS),
    parallel=st.integers(1, 4),
    celsius=st.sampled_from([-8.0, 20.0]),
    polymer=st.booleans(),
    packs=st.sampled_from([1, 2]),
)
def test_a_flight_alone_is_the_flight_that_it_is_among_many(
    landing: LandingRule, flown: object, parallel: int, celsius: float, polymer: bool, packs: int
) -> None:
    cell = whole_pack(cells_in_series=1, mass_g=50) if polymer else cell_type()
    design = complete(
        cell=cell, flown=flown, landing=landing, parallel_count=parallel, state=PackState(temperature_c=celsius)
    )  # type: ignore[arg-type]
    if packs == 2:
        other = whole_pack(id="other", cells_in_series=1, mass_g=60)
        design = beside(design, (other, {"start_charge_percent": 80}))
    batch = batch_of(design)
    one, many = alone(batch), among_many(batch)
    assert one.steps == many.steps
    for (name, here), (_, there) in zip(numbers(one), numbers(many), strict=True):
        assert here[..., 0] == pytest.approx(there[..., 0], rel=1e-9, abs=1e-12), name
    for (name, here), (_, there) in zip(numbers(one.trace[0]), numbers(many.trace[0]), strict=True):
        assert here == pytest.approx(there, rel=1e-9, abs=1e-12), name


@pytest.mark.parametrize("sample", ["whimbrel-energy", "dunlin-scout", "turnstone-shoreline", "dunlin-extended"])
def test_so_are_the_sample_designs_with_cells_whose_resistance_falls_and_lag_grows(sample: str) -> None:
    design = complete_sample(sample)
    batch = batch_of(design)
    for (name, here), (_, there) in zip(numbers(alone(batch)), numbers(among_many(batch)), strict=True):
        assert here[..., 0] == pytest.approx(there[..., 0], rel=1e-9, abs=1e-12), name


SOME = st.floats(-50, 50).filter(lambda x: abs(x) > 1e-3)


@given(x=st.tuples(SOME, SOME), y=st.tuples(SOME, SOME), one=SOME)
def test_two_numbers_are_reckoned_with_as_an_array_of_two(
    x: tuple[float, float], y: tuple[float, float], one: float
) -> None:
    laws: tuple[Callable[[Any, Any, Any], Any], ...] = (
        lambda x, y, one: (x + y) * one - (one - x) / y + (one + y) / one,
        lambda x, y, one: one / x - abs(-y) * x + (one * y - x),
        lambda x, y, one: law.larger(x, y) + law.smaller(x, one) + abs(x) ** 0.5 + abs(x) ** law.smaller(abs(y), 1.5),
        lambda x, y, one: law.exp(x / 50) + law.exp_less_one(y / 50) + law.inverse_sinh(x),
        lambda x, y, one: law.where((x > y) & (y < one), x, one) + law.where(x > one, law.alike(x, 2.0), y),
        lambda x, y, one: law.highest(x + 0, y, x > one) + law.lowest(x + 0, y, (y < one) & (x > y)),
        lambda x, y, one: law.whole_and_rest(x, -3, 7)[1],
    )
    for place, of in enumerate(laws):
        here, there = of(Two(*x), Two(*y), one), of(np.array(x), np.array(y), one)
        assert law.pair(here) == pytest.approx(tuple(there), rel=1e-12, abs=1e-12), place
    assert law.some(Two(*x) > one) == bool((np.array(x) > one).any())
    with pytest.raises(TypeError, match="of which of the two"):
        bool(Two(*x) > one)


def test_so_is_a_held_current() -> None:
    batch = batch_of(complete()).one_block(np.inf, cell_current_a=np.array([6.0]))
    one, many = alone(batch), among_many(batch)
    assert one.end_s[0] == pytest.approx(many.end_s[0], rel=1e-9)
    assert one.trace[0].current_a == pytest.approx(6.0)


def test_a_few_flights_keep_their_order_and_their_points() -> None:
    batch = lower([lower_one(complete(parallel_count=count), 1.0) for count in (3, 1, 2)])
    few = fly(batch, record=True)
    for place, trace in enumerate(few.trace):
        assert trace.time_s[-1] == few.end_s[place] == fly(batch.take(np.array([place]))).end_s[0]
    assert few.end_s[1] < few.end_s[2] < few.end_s[0]


def test_what_plain_numbers_refuse_is_flown_in_arrays() -> None:
    """Cells and wiring without any resistance, whose greatest power has no number."""
    batch = batch_of(complete(carrier=craft()))
    none = np.zeros_like(batch.parallel)
    batch = dataclasses.replace(batch, cell=dataclasses.replace(batch.cell, r0_ohm=none, r1_ohm=none), wiring_ohm=none)
    with np.errstate(divide="ignore", invalid="ignore"):
        found = fly(batch)
        expected = among_many(batch)
    assert found.end_s[0] == pytest.approx(expected.end_s[0], rel=1e-9)
    assert found.end_s[0] > 600
