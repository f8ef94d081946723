"""The integrator: events, phases of a mission, conservation, batches and invariants."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import LANDING, PUNCH, TAKE_OFF, cell_type, complete, craft, cruise, mission
from wise_cellar.core.documents import Block, CompleteDesign, Conditions, LandingRule, Leads, Load, PackState, Part
from wise_cellar.core.flight import Ending, FlightBatch, FlightTraces, UnwantedError, fly, while_wanted
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.curve_bank import GRID_POINTS, CurveBank, SocCurve

DEEP = LandingRule(policy="own", own_voltage_v=2.0)


def batch(*designs: CompleteDesign) -> FlightBatch:
    return lower([lower_one(design, 1.0) for design in designs])


def flown(*designs: CompleteDesign, record: bool = False) -> FlightTraces:
    return fly(batch(*designs), record=record)


def ending(design: CompleteDesign) -> Ending:
    return Ending(int(flown(design).ending[0]))


# Ends


def test_a_mission_of_fixed_blocks_is_completed_to_the_second() -> None:
    result = flown(complete(flown=mission(TAKE_OFF, cruise(300), PUNCH, cruise(60), LANDING)))
    assert Ending(result.ending[0]) is Ending.MISSION_COMPLETE
    assert result.end_s[0] == pytest.approx(20 + 300 + 5 + 60 + 30)


def test_the_landing_is_flown_after_the_rule_has_called() -> None:
    result = flown(complete(flown=mission(cruise(), LANDING), landing=LandingRule(policy="gentle")))
    assert Ending(result.ending[0]) is Ending.RESERVE_REACHED
    assert result.end_s[0] - result.landing_call_s[0] == pytest.approx(30)


def test_without_a_landing_block_the_flight_ends_at_the_call() -> None:
    result = flown(complete(flown=mission(cruise())))
    assert Ending(result.ending[0]) is Ending.RESERVE_REACHED
    assert result.end_s[0] == result.landing_call_s[0]


def test_the_rule_holds_for_its_seconds() -> None:
    at_once, held = (
        flown(complete(flown=mission(cruise()), landing=LandingRule(policy="gentle", hold_s=s))) for s in (0, 10)
    )
    assert held.end_s[0] - at_once.end_s[0] == pytest.approx(10, abs=0.05)


def test_a_punch_under_the_threshold_does_not_call_the_craft_home() -> None:
    """A 4P-of-one cell sags far under 3.6 V in a punch, and recovers in cruise."""
    weak = cell_type(dcir_mohm=30, continuous_current_a=60, pulse_current_a=90)
    rule = LandingRule(policy="own", own_voltage_v=3.6, hold_s=1)
    result = flown(complete(cell=weak, flown=mission(cruise(60), PUNCH, cruise(60)), landing=rule), record=True)
    trace = result.trace[0]
    assert trace.bus_v[trace.block == 1].min() / 4 < 3.6
    assert trace.bus_v[trace.block == 2].min() / 4 > 3.6
    assert Ending(result.ending[0]) is Ending.MISSION_COMPLETE


def test_cells_are_cut_off_at_their_minimum() -> None:
    result = flown(complete(flown=mission(cruise()), landing=DEEP))
    assert Ending(result.ending[0]) is Ending.CELL_CUT_OFF
    assert result.end_cell_v[0, 0, 0] == pytest.approx(2.5, abs=2e-4)


def test_the_most_demanding_load_browns_out() -> None:
    needy = craft(loads=(Load(name="fc", power_w=3, min_input_v=5), Load(name="vtx", power_w=3, min_input_v=13)))
    result = flown(complete(carrier=needy, flown=mission(cruise()), landing=DEEP))
    assert Ending(result.ending[0]) is Ending.BROWN_OUT
    assert result.end_bus_v[0] == pytest.approx(13, abs=1e-3)


def test_what_has_no_minimum_input_cannot_brown_out() -> None:
    """A lead so thin that full throttle takes all the voltage: the flight ends, but not by a load."""
    bare = craft(loads=(Load(name="light", power_w=1),))
    design = complete(carrier=bare, flown=mission(PUNCH), landing=DEEP, leads=Leads(gauge_awg=30, length_mm=2000))
    for one in (design, design.model_copy(update={"craft": craft(loads=())})):
        assert ending(one) is not Ending.BROWN_OUT


def test_a_brown_out_at_the_first_punch_ends_the_flight_there() -> None:
    needy = craft(loads=(Load(name="vtx", power_w=3, min_input_v=14.5),))
    result = flown(complete(carrier=needy, flown=mission(cruise(60), PUNCH, cruise()), landing=DEEP))
    assert Ending(result.ending[0]) is Ending.BROWN_OUT
    assert 60 <= result.end_s[0] < 65


def test_too_little_voltage_to_hover_is_out_of_thrust() -> None:
    heavy = craft(parts=(Part(name="all", mass_g=2900),))
    assert (
        ending(complete(carrier=heavy, series_count=3, flown=mission(cruise()), landing=DEEP)) is Ending.OUT_OF_THRUST
    )


def test_too_much_resistance_cannot_supply_the_power() -> None:
    stiff = cell_type(dcir_mohm=480)
    result = flown(complete(cell=stiff, parallel_count=1, series_count=6, flown=mission(cruise()), landing=DEEP))
    assert Ending(result.ending[0]) is Ending.NO_POWER
    assert result.end_s[0] == 0


def test_leading_blocks_of_no_length_are_skipped_in_a_mixed_batch() -> None:
    long, short = mission(TAKE_OFF, cruise(100), PUNCH, cruise(50), LANDING), mission(cruise(100))
    result = flown(complete(flown=long), complete(flown=short))
    assert result.end_s == pytest.approx([205, 100])


# Conservation


def test_charge_given_is_the_integral_of_the_current() -> None:
    result = flown(complete(flown=mission(TAKE_OFF, cruise(200), PUNCH, cruise(), LANDING)), record=True)
    trace = result.trace[0]
    integral = float(np.trapezoid(trace.current_a[0, 0], trace.time_s))
    assert integral == pytest.approx(float(result.charge_c[0, 0, 0]), rel=1e-4), "within the step tolerance"


def test_energy_is_conserved() -> None:
    """∫OCV(z)·I dt of all cells = energy at the bus + heat in the wiring + heat in the cells, and the heat of a cell is
    in its warmth or went to the air."""
    design = complete(flown=mission(TAKE_OFF, cruise(900), PUNCH, cruise(), LANDING))
    one = batch(design)
    result = fly(one, record=True)
    trace = result.trace[0]
    cells = one.series[0] * one.parallel[0, 0, 0]
    rest = one.cell.ocv[..., np.zeros(len(trace.time_s), np.intp)](trace.state.soc)[0, 0]
    amps, cell_v, kelvin = trace.current_a[0, 0], trace.cell_v[0, 0], trace.state.temperature_k[0, 0]
    chemical = cells * np.trapezoid(rest * amps, trace.time_s)
    wiring = one.wiring_ohm[0, 0, 0] * np.trapezoid((amps * one.parallel[0, 0, 0]) ** 2, trace.time_s)
    heat = np.trapezoid((rest - cell_v) * amps, trace.time_s)
    assert chemical == pytest.approx(result.energy_j[0, 0, 0] + wiring + cells * heat, rel=1e-3)
    warmth = one.cell.heat_capacity_j_k[0, 0, 0] * (kelvin[-1] - kelvin[0])
    to_air = one.cell.cooling_w_k[0, 0, 0] * np.trapezoid(kelvin - one.cell.air_k[0, 0, 0], trace.time_s)
    assert heat == pytest.approx(warmth + to_air, rel=0.01)


def test_constant_power_from_a_constant_voltage_is_the_closed_form() -> None:
    """Flat OCV, no RC, no lag, fixed R: I is constant and the flight lasts Q/I."""
    one = batch(complete(flown=mission(cruise()), landing=DEEP))
    flat = CurveBank([SocCurve(np.full(GRID_POINTS, 3.7), 1e6, 0.0)], np.zeros((1, 1, 1), int))
    even = CurveBank([SocCurve(np.ones(GRID_POINTS), 0.0, 0.0)], np.zeros((1, 1, 1), int))
    zero = np.zeros((1, 1, 1))
    cell = replace(
        one.cell, ocv=flat, shape=even, r1_ohm=zero, lag_gain_s=zero, resistance_activation_j_mol=zero
    )  # fmt: skip
    ideal = replace(one, cell=cell)
    ohm = cell.r0_ohm[0, 0, 0] + one.wiring_ohm[0, 0, 0] * 3 / 4
    power = one.block_w[0, 0] / 12
    current = (3.7 - np.sqrt(3.7**2 - 4 * ohm * power)) / (2 * ohm)
    assert fly(ideal).end_s[0] == pytest.approx(cell.charge_c[0, 0, 0] / current, rel=1e-5)


def test_a_warm_cell_cools_as_newton_says() -> None:
    """A pack that gives next to nothing: T − T_air falls by e^(−t·G/C)."""
    idle = craft(loads=())
    design = complete(carrier=idle, parallel_count=12, flown=mission(cruise(600)), state=PackState(temperature_c=50))
    one = batch(design)
    quiet = replace(one, block_w=np.full((1, 1), 1e-6), block_motor_v=np.zeros((1, 1)))
    end = fly(quiet).end_state.temperature_k[0, 0, 0]
    rate = one.cell.cooling_w_k[0, 0, 0] / one.cell.heat_capacity_j_k[0, 0, 0]
    assert end == pytest.approx(293.15 + 30 * np.exp(-600 * rate), abs=0.01)


# Batches

designs = st.builds(
    lambda series, parallel, dcir, mass, air, policy: complete(
        cell=cell_type(dcir_mohm=dcir),
        carrier=craft(parts=(Part(name="all", mass_g=mass),)),
        series_count=series,
        parallel_count=parallel,
        flown=mission(TAKE_OFF, cruise(240), PUNCH, Block(kind="hover", duration_s=30), cruise(), LANDING),
        conditions=Conditions(air_temperature_c=air),
        landing=LandingRule(policy=policy),
    ),
    st.integers(3, 6),
    st.integers(1, 6),
    st.floats(8, 45),
    st.floats(700, 1500),
    st.floats(-5, 35),
    st.sampled_from(["gentle", "balanced", "deep"]),
)


@settings(max_examples=12)
@given(st.lists(designs, min_size=2, max_size=6))
def test_a_batch_of_designs_is_the_single_designs(some: list[CompleteDesign]) -> None:
    together = flown(*some)
    for place, design in enumerate(some):
        alone = flown(design)
        assert together.ending[place] == alone.ending[0]
        assert together.end_s[place] == pytest.approx(alone.end_s[0], rel=1e-9)
        assert together.end_state.soc[0, 0, place] == pytest.approx(alone.end_state.soc[0, 0, 0], rel=1e-9)
        assert together.hottest_k[0, 0, place] == pytest.approx(alone.hottest_k[0, 0, 0], rel=1e-9)
        assert together.punch_current_a[0, 0, place] == pytest.approx(alone.punch_current_a[0, 0, 0], rel=1e-9)


def test_recording_changes_nothing() -> None:
    design = complete(flown=mission(TAKE_OFF, cruise(100), PUNCH, cruise(), LANDING))
    silent, recorded = flown(design), flown(design, record=True)
    assert silent.end_s[0] == recorded.end_s[0]
    trace = recorded.trace[0]
    assert trace.time_s[-1] == recorded.end_s[0]
    assert np.all(np.diff(trace.time_s) >= 0)
    assert np.all(np.diff(trace.state.soc) <= 0)
    assert list(np.unique(trace.block)) == [0, 1, 2, 3, 4]


def test_taking_flights_keeps_their_parameters() -> None:
    whole = batch(complete(), complete(parallel_count=5))
    assert whole.take(np.array([1])).parallel.tolist() == [[[5]]]
    assert fly(whole.take(np.array([1]))).end_s[0] == pytest.approx(fly(whole).end_s[1], rel=1e-9)


# Invariants
#
# They hold for a calm flight at a held temperature. Two true effects break them elsewhere: a cell worked harder runs
# warmer and so resists less, and more resistance outside the cell spares it at full throttle.

calm = designs.map(
    lambda design: design.model_copy(
        update={"mission": mission(TAKE_OFF, cruise(240), Block(kind="hover", duration_s=30), cruise(), LANDING)}
    )
)


def held_warm(some: Sequence[CompleteDesign]) -> FlightBatch:
    many = batch(*some)
    return replace(many, cell=replace(many.cell, heat_capacity_j_k=np.full(many.flights, 1e9)))


def pairs(design: st.SearchStrategy[CompleteDesign], change: st.SearchStrategy[Any]) -> Any:
    """Designs with a change for each: many, because a batch of them is flown as quickly as one."""
    return st.lists(st.tuples(design, change), min_size=24, max_size=24).map(
        lambda found: tuple(zip(*found, strict=True))
    )


def test_a_landing_is_met_within_a_twentieth_of_a_second() -> None:
    """A little more wiring each time: a little shorter each time, and none of them off by half a second."""
    carrier = craft(parts=(Part(name="all", mass_g=961.125),))
    design = complete(
        cell=cell_type(dcir_mohm=15),
        carrier=carrier,
        series_count=5,
        parallel_count=2,
        flown=mission(TAKE_OFF, cruise(240), Block(kind="hover", duration_s=30), cruise(), LANDING),
        conditions=Conditions(air_temperature_c=0),
        landing=LandingRule(policy="gentle"),
    )
    factors = np.array([1.0, 1.002, 1.005, 1.01, 1.02, 1.05, 1.1])
    many = held_warm([design] * len(factors))
    ends = fly(replace(many, wiring_ohm=many.wiring_ohm * factors)).end_s
    assert np.all(np.diff(ends) < 0.05)


@settings(max_examples=4)
@given(pairs(calm, st.floats(1.01, 2.0)))
def test_more_resistance_never_flies_longer(some: tuple[tuple[CompleteDesign, ...], tuple[float, ...]]) -> None:
    many, factor = held_warm(some[0]), np.array(some[1])
    usual = fly(many).end_s
    stiffer = replace(many.cell, r0_ohm=many.cell.r0_ohm * factor, r1_ohm=many.cell.r1_ohm * factor)
    assert np.all(fly(replace(many, cell=stiffer)).end_s <= usual + 0.05)
    assert np.all(fly(replace(many, wiring_ohm=many.wiring_ohm * factor)).end_s <= usual + 0.05)


@settings(max_examples=4)
@given(pairs(calm, st.floats(5, 600)))
def test_more_mass_never_flies_longer_on_the_same_pack(
    some: tuple[tuple[CompleteDesign, ...], tuple[float, ...]],
) -> None:
    heavier = [
        design.model_copy(update={"craft": craft(parts=(*design.craft.parts, Part(name="ballast", mass_g=extra)))})
        for design, extra in zip(*some, strict=True)
    ]
    assert np.all(fly(held_warm(heavier)).end_s <= fly(held_warm(some[0])).end_s + 0.05)


@settings(max_examples=4)
@given(pairs(calm, st.floats(1.01, 1.5)))
def test_more_capacity_never_flies_shorter(some: tuple[tuple[CompleteDesign, ...], tuple[float, ...]]) -> None:
    many = held_warm(some[0])
    larger = replace(many, cell=replace(many.cell, charge_c=many.cell.charge_c * np.array(some[1])))
    assert np.all(fly(larger).end_s >= fly(many).end_s - 0.05)


@settings(max_examples=4)
@given(st.lists(designs, min_size=16, max_size=16))
def test_a_deeper_landing_never_comes_down_earlier(some: list[CompleteDesign]) -> None:
    gentle, balanced, deep = (
        fly(batch(*(under(design, policy) for design in some))).landing_call_s
        for policy in ("gentle", "balanced", "deep")
    )
    assert np.all(gentle <= balanced + 0.05)
    assert np.all(balanced <= deep + 0.05)


def under(design: CompleteDesign, policy: str) -> CompleteDesign:
    """The design with another landing rule."""
    ruled = design.design.model_copy(update={"landing": LandingRule(policy=policy)})
    return design.model_copy(update={"design": ruled})


def test_tolerances_are_tight_enough_that_tighter_ones_change_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    from wise_cellar.core.flight import integrator

    design = complete(flown=mission(TAKE_OFF, cruise(300), PUNCH, cruise(), LANDING))
    usual = flown(design)
    monkeypatch.setattr(integrator, "TEMPERATURE_TOLERANCE", 1e-3)
    tight = fly(lower([lower_one(design, 1.0)]), tolerance_v=1e-5)
    assert tight.steps > 2 * usual.steps
    assert usual.end_s[0] == pytest.approx(tight.end_s[0], rel=5e-4)


def test_a_cell_state_merges_by_mask() -> None:
    low, high = (CellState(*(np.full(2, x) for _ in range(4))) for x in (0.0, 1.0))
    assert list(low.merged(np.array([True, False]), high).soc) == [1.0, 0.0]


def test_a_held_current_is_held_and_takes_what_the_closed_form_takes() -> None:
    """Flat OCV is not to be had, but charge is: 5 A of one cell for 600 s take 3 000 C, whatever the voltage does."""
    batch = lower([lower_one(complete(), 1.0)]).one_block(600.0, cell_current_a=np.array([5.0]))
    flown = fly(batch, record=True)
    assert flown.charge_c[0, 0, 0] == pytest.approx(3000, rel=1e-9)
    assert flown.trace[0].current_a == pytest.approx(5.0)
    assert flown.end_s[0] == pytest.approx(600)
    assert flown.ending[0] == Ending.MISSION_COMPLETE


def test_a_current_too_large_ends_at_the_cut_off() -> None:
    batch = lower([lower_one(complete(), 1.0)]).one_block(np.inf, cell_current_a=np.array([400.0]))
    assert fly(batch).end_s[0] == 0
    gentle = lower([lower_one(complete(), 1.0)]).one_block(np.inf, cell_current_a=np.array([2.0]))
    flown = fly(gentle)
    assert flown.ending[0] == Ending.CELL_CUT_OFF
    assert flown.end_cell_v[0, 0, 0] == pytest.approx(2.5, abs=2e-4)


def test_a_flight_that_nobody_waits_for_ends_at_its_next_step() -> None:
    one, asked = batch(complete()), list[int]()

    def five_times() -> bool:
        asked.append(len(asked))
        return len(asked) <= 5

    whole = fly(one)
    with while_wanted(five_times), pytest.raises(UnwantedError):
        fly(one)
    assert len(asked) == 6
    with while_wanted(lambda: True):
        assert fly(one).end_s == whole.end_s
    assert fly(one).end_s == whole.end_s, "and outside of it nobody asks"
