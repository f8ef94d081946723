"""Packs in parallel on one bus: the split, the books of each, and what the answer says of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from tests.builders import LANDING, PUNCH, TAKE_OFF, beside, cell_type, complete, craft, cruise, mission, whole_pack
from tests.reference_flight import ReferenceFlight
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import (
    CompleteDesign,
    Conditions,
    CounterSees,
    DocumentError,
    LandingBasis,
    LandingRule,
    Pack,
    PackRecipe,
    PackRole,
    PackState,
    Part,
    replaced,
)
from wise_cellar.core.flight import Ending, FlightBatch, fly
from wise_cellar.core.flight.balance import Blocks, evaluate
from wise_cellar.core.lowering import lower, lower_one

ENERGY = cell_type(id="energy", name="Fell 21-49E", mass_g=68.5, capacity_mah=4850, dcir_mohm=27,
                   continuous_current_a=10, pulse_current_a=18)  # fmt: skip
FLOWN = mission(TAKE_OFF, cruise(400), PUNCH, cruise(), LANDING)


def batch_of(design: CompleteDesign) -> FlightBatch:
    return lower([lower_one(design, 1.0)])


def same_weight(batch: FlightBatch, as_of: FlightBatch) -> FlightBatch:
    """The packs of one batch under the craft of another."""
    names = [name for name in FlightBatch.__dataclass_fields__
             if name.startswith("block_") or name in ("weight_n", "thrust_wanted_n", "cruising_slip")]  # fmt: skip
    return replace(batch, **{name: getattr(as_of, name) for name in names})


def test_two_identical_branches_are_one_doubled_pack() -> None:
    """Two packs of 2P behind a wiring each, and one of 4P behind half of it; full throttle and all."""
    one = complete(parallel_count=2, flown=FLOWN)
    two = batch_of(beside(one, (one.pack.cell, {})))
    single = batch_of(one)
    doubled = replace(single, parallel=2 * single.parallel, wiring_ohm=single.wiring_ohm / 2)
    doubled = same_weight(doubled, two)
    flown, expected = fly(two), fly(doubled)
    assert flown.end_s[0] == pytest.approx(expected.end_s[0], rel=1e-9)
    assert flown.ending[0] == expected.ending[0]
    for branch in (0, 1):
        assert flown.charge_c[branch, 0, 0] == pytest.approx(expected.charge_c[0, 0, 0], rel=1e-9)
        assert flown.hottest_k[branch, 0, 0] == pytest.approx(expected.hottest_k[0, 0, 0], rel=1e-9)
        assert flown.cruise_current_a[branch, 0, 0] == pytest.approx(expected.cruise_current_a[0, 0, 0], rel=1e-9)
        assert flown.punch_current_a[branch, 0, 0] == pytest.approx(expected.punch_current_a[0, 0, 0], rel=1e-9)
    assert flown.bus_energy_j[0] == pytest.approx(expected.bus_energy_j[0], rel=1e-9)
    assert flown.taken_current_a.max() < 1e-9


def evaluated(batch: FlightBatch, watts: float):  # type: ignore[no-untyped-def]
    held = batch.one_block(10.0, power_w=np.array([watts]))
    return evaluate(held, held.start, Blocks(held).demand(np.array([0]), np.array([0])))


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.1, 1.0), st.floats(0.1, 1.0), st.integers(1, 6), st.integers(1, 6), st.floats(-0.02, 0.02),
    st.floats(0.0, 400.0),
)  # fmt: skip
def test_the_split_against_the_closed_form(
    first: float, second: float, one: int, two: int, wiring: float, watts: float
) -> None:
    """Two sources E₁, E₂ behind R₁, R₂ under a constant power: I = I₁ + I₂ from the quadratic of the common bus."""
    design = complete(parallel_count=one, state=PackState(start_charge_percent=100 * first))
    state = {"start_charge_percent": 100 * second, "recipe": PackRecipe(series_count=4, parallel_count=two)}
    batch = batch_of(beside(design, (ENERGY, state)))
    batch = replace(batch, wiring_ohm=np.array([0.03, 0.03 + wiring]).reshape(2, 1, 1))
    point = evaluated(batch, watts)
    ocv, shape = batch.cell.ocv(batch.start.soc)[:, 0, 0], batch.cell.shape(batch.start.soc)[:, 0, 0]
    warmth = np.exp(20e3 / 8.314 * (1 / 293.15 - 1 / 298.15))
    volts = 4 * ocv
    ohms = 4 * batch.cell.r0_ohm[:, 0, 0] * shape * warmth / [one, two] + batch.wiring_ohm[:, 0, 0]
    # (E₁ − V)/R₁ + (E₂ − V)/R₂ = P/V  →  g·V² − h·V + P = 0 with g = Σ1/R, h = ΣE/R; the larger root is the stable one.
    g, h = (1 / ohms).sum(), (volts / ohms).sum()
    bus = (h + np.sqrt(h**2 - 4 * g * watts)) / (2 * g)
    assert point.bus_v[0] == pytest.approx(bus, rel=1e-9)
    amps = (volts - bus) / ohms
    assert point.current[:, 0, 0] * [one, two] == pytest.approx(amps, abs=1e-9 * max(abs(amps).max(), 1))
    assert point.bus_a[0] * point.bus_v[0] == pytest.approx(watts, abs=1e-7)
    assert point.current[:, 0, 0] @ [one, two] == pytest.approx(point.bus_a[0], abs=1e-9)


def test_a_branch_that_is_not_there_changes_nothing() -> None:
    """In one batch with a design of two packs, a design of one flies as it does alone."""
    alone, two = complete(flown=FLOWN), beside(complete(flown=FLOWN), (ENERGY, {}))
    both = fly(lower([lower_one(alone, 1.0), lower_one(two, 1.0)]))
    for place, design in enumerate((alone, two)):
        expected = fly(batch_of(design))
        assert both.end_s[place] == pytest.approx(expected.end_s[0], rel=1e-9)
        assert both.bus_energy_j[place] == pytest.approx(expected.bus_energy_j[0], rel=1e-9)
        assert both.ending[place] == expected.ending[0]
    assert both.charge_c[1, 0, 0] == 0


def test_each_branch_keeps_its_own_books() -> None:
    """Charge of every pack is the integral of its own current; what all give is what the bus takes."""
    design = beside(complete(parallel_count=1, flown=FLOWN), (ENERGY, {"start_charge_percent": 97}))
    batch = batch_of(design)
    flown = fly(batch, record=True)
    trace = flown.trace[0]
    steps = np.diff(trace.time_s)
    amps = trace.current_a[:, 0]
    given_c = (0.5 * (amps[:, 1:] + amps[:, :-1]) * steps).sum(axis=1)
    # Recorded points are up to a minute apart: straight lines between them are not the last word on the split.
    assert given_c == pytest.approx(flown.charge_c[:, 0, 0], rel=1e-3)
    assert given_c.sum() == pytest.approx(flown.charge_c.sum(), rel=1e-4)
    gone = (batch.start.soc - flown.end_state.soc)[:, 0, 0] * batch.cell.charge_c[:, 0, 0]
    assert gone == pytest.approx(flown.charge_c[:, 0, 0], rel=1e-12)
    together = (trace.current_a * batch.parallel).sum(axis=(0, 1))
    assert together == pytest.approx(trace.bus_a, rel=1e-9)
    watts = trace.bus_a * trace.bus_v
    assert flown.bus_energy_j[0] == pytest.approx((0.5 * (watts[1:] + watts[:-1]) * steps).sum(), rel=1e-9)
    assert flown.energy_j.sum() == pytest.approx(flown.bus_energy_j[0])


def test_two_unlike_packs_are_integrated_as_solve_ivp_does() -> None:
    """Seven equations written out again: two packs of unlike cells at unlike charge and warmth under a held power."""
    base = complete(parallel_count=2, flown=mission(cruise()), conditions=Conditions(air_temperature_c=15))
    other = complete(
        cell=cell_type(id="cell", ocv_family="liion_power_nca", kinetic_class="power cylinder", capacity_mah=2850),
        parallel_count=1, conditions=Conditions(air_temperature_c=15),
        state=PackState(start_charge_percent=80, temperature_c=30),
    )  # fmt: skip
    second = other.pack.cell.model_copy(update={"id": "second"})
    design = beside(base, (second, {
        "recipe": other.pack.recipe, "start_charge_percent": 80, "temperature_c": 30,
    }))  # fmt: skip
    batch = batch_of(design)
    packs = [ReferenceFlight(base), ReferenceFlight(other)]
    watts = 260.0

    def moment(y: np.ndarray) -> tuple[np.ndarray, float]:
        emf, ohm = [], []
        for pack, (z, w, v1, kelvin) in zip(packs, y.reshape(2, 4), strict=True):
            inner = pack.r0 * pack.shape(z) * pack.factor(20e3, kelvin)
            emf.append(pack.s * (pack.ocv(z - w) - v1))
            ohm.append(pack.s * (inner + pack.outer) / pack.p)
        e, r = np.array(emf), np.array(ohm)
        g, h = (1 / r).sum(), (e / r).sum()
        bus = (h + np.sqrt(h**2 - 4 * g * watts)) / (2 * g)
        return (e - bus) / r / [pack.p for pack in packs], bus

    def derivative(_t: float, y: np.ndarray) -> list[float]:
        amps, bus = moment(y)
        found: list[float] = []
        for pack, (z, w, v1, kelvin), i in zip(packs, y.reshape(2, 4), amps, strict=True):
            slow = pack.factor(25e3, kelvin)
            cell_v = bus / pack.s + i * pack.outer
            found += [
                -i / pack.q,
                (pack.kappa * slow * i / pack.q - w) / (pack.tau_w * slow),
                (pack.r1 * pack.factor(20e3, kelvin) * i - v1) / pack.tau1,
                (i * (pack.ocv(z) - cell_v) - pack.cool * (kelvin - pack.air)) / pack.heat,
            ]
        return found

    start = np.concatenate([pack.start() for pack in packs])
    found = solve_ivp(derivative, (0, 1200), start, method="LSODA", rtol=1e-9, atol=1e-11)
    flown = fly(batch.one_block(1200.0, power_w=np.array([watts])))
    expected = found.y[:, -1].reshape(2, 4)
    assert flown.end_s[0] == 1200
    assert flown.end_state.soc[:, 0, 0] == pytest.approx(expected[:, 0], abs=5e-4)
    assert flown.end_state.temperature_k[:, 0, 0] == pytest.approx(expected[:, 3], abs=0.05)
    assert flown.end_bus_v[0] == pytest.approx(moment(found.y[:, -1])[1], abs=4e-3)
    assert flown.taken_current_a[1, 0, 0] == pytest.approx(-moment(start)[0][1], rel=1e-6), (
        "the fuller charges it first"
    )


def test_the_fuller_pack_charges_the_other_when_the_load_drops() -> None:
    design = beside(complete(flown=mission(cruise(60))), (ENERGY, {"start_charge_percent": 60}))
    resting = fly(batch_of(design).one_block(120.0, power_w=np.array([0.0])))
    assert resting.taken_current_a[1, 0, 0] > 1
    assert resting.taken_current_a[0, 0, 0] == 0
    assert resting.charge_c[1, 0, 0] < 0 < resting.charge_c[0, 0, 0]
    given, taken = resting.charge_c[0, 0, 0] * 3, -resting.charge_c[1, 0, 0] * 3
    assert given == pytest.approx(taken, rel=1e-6), "nothing is lost between them"
    assert resting.energy_j.sum() == pytest.approx(0, abs=1e-6), "and the bus gives nothing away"


# The answer


def extended(**changes: object) -> CompleteDesign:
    """A craft with its own polymer battery and an auxiliary of energy cells."""
    small = craft(parts=(Part(name="airframe", mass_g=500),))
    aux = complete(cell=ENERGY, carrier=small, flown=FLOWN, series_count=2, parallel_count=2)
    values: dict[str, object] = {"name": "own battery", "own": True, "recipe": PackRecipe(series_count=2)}
    return beside(aux, (whole_pack(), values | changes))


def test_the_answer_tells_every_pack() -> None:
    said = answer(extended())
    aux, own = said.packs
    assert [pack.complete.name for pack in said.packs] == ["Auxiliary", "Own battery"]
    assert said.takeoff_mass_g == pytest.approx(500 + aux.build.mass_g + own.build.mass_g)
    assert aux.series.amps + own.series.amps == pytest.approx(said.series.pack_a)
    assert aux.given_mah + own.given_mah == pytest.approx(said.series.charge_used_mah[-1])
    assert said.hottest_c == max(aux.hottest_c, own.hottest_c)
    names = [link.name for link in said.links]
    assert "Auxiliary: cell" in names
    assert "Own battery: cell" in names
    assert names.count("ESC") == 1
    esc = next(link for link in said.links if link.name == "ESC")
    assert esc.punch_a * 4 == pytest.approx(max(said.series.pack_a.max(), said.early_punch.bus_a))


def test_an_auxiliary_lead_may_be_the_weak_link() -> None:
    thin = replaced(extended(), "design.packs.0.recipe.leads.gauge_awg", 28)
    weak = answer(thin).weak_link
    assert weak.name == "Auxiliary: lead, 28 AWG"
    assert weak.field == "design.packs.0.recipe.leads.gauge_awg"
    small = extended(recipe=PackRecipe(series_count=2, leads={"connector": "small plug"}))
    plug = next(link for link in answer(small).links if link.name == "Own battery: connector, small plug")
    assert plug.field == "design.packs.1.recipe.leads.connector"


def test_what_is_taken_off_the_craft_is_weighed() -> None:
    plain = extended()
    lighter = replaced(plain, "design.taken_off", (Part(name="lid", mass_g=12),))
    assert answer(lighter).takeoff_mass_g == pytest.approx(answer(plain).takeoff_mass_g - 12)
    assert answer(lighter).duration_s > answer(plain).duration_s
    with pytest.raises(DocumentError, match=r"500 g cannot be taken off Whimbrel, which weighs 500 g"):
        replaced(plain, "design.taken_off", (Part(name="all of it", mass_g=500),))


def test_a_pack_that_meets_its_minimum_is_named() -> None:
    own = whole_pack(min_voltage_v=3.4)
    design = beside(extended(), (own, {"name": "own battery", "own": True, "recipe": PackRecipe(series_count=2)}))
    deep = replaced(design, "design.landing", LandingRule(policy="own", own_voltage_v=2.0))
    said = answer(deep)
    assert said.reason.ending is Ending.CELL_CUT_OFF
    assert "Cells of the own battery sag to 3.40 V" in said.reason.sentence
    assert said.reason.field == "cells.1.min_voltage_v"


# The craft's own counter


def with_counter(sees: CounterSees, **changes: object) -> CompleteDesign:
    rule = LandingRule(basis=LandingBasis.COUNTER, counter_sees=sees, charge_percent=80, **changes)
    return replaced(extended(), "design.landing", rule)


def test_a_counter_that_sees_its_own_battery_only_leaves_the_auxiliary_charged() -> None:
    aux, own = answer(with_counter(CounterSees.OWN)).packs
    at_call = float(np.interp(answer(with_counter(CounterSees.OWN)).landing_call_s,
                              answer(with_counter(CounterSees.OWN)).series.time_s, own.series.given_mah))  # fmt: skip
    assert at_call == pytest.approx(0.8 * 1900, rel=1e-3)
    assert aux.given_mah > 100


def test_a_counter_that_takes_all_for_its_own_calls_sooner() -> None:
    own_only, everything = (answer(with_counter(sees)) for sees in CounterSees)
    assert everything.duration_s < own_only.duration_s
    call = everything.landing_call_s
    used = float(np.interp(call, everything.series.time_s, everything.series.charge_used_mah))
    assert used == pytest.approx(0.8 * 1900, rel=1e-3)


def test_charge_used_counts_every_pack() -> None:
    rule = LandingRule(basis=LandingBasis.CHARGE, charge_percent=50)
    said = answer(replaced(extended(), "design.landing", rule))
    used = float(np.interp(said.landing_call_s, said.series.time_s, said.series.charge_used_mah))
    assert used == pytest.approx(0.5 * (1900 + 2 * 4850), rel=1e-3)


# What is refused


def test_packs_of_another_count_in_series_are_refused() -> None:
    with pytest.raises(DocumentError, match=r"as many cells in series: own battery has 2S and cannot stand beside 3S"):
        replaced(extended(), "design.packs.0.recipe.series_count", 3)


def test_a_second_battery_of_its_own_is_refused() -> None:
    own = Pack(role=PackRole.OWN, name="another", cell_type_id="pack", recipe=PackRecipe(series_count=2))
    design = extended()
    with pytest.raises(DocumentError, match="A craft has one battery of its own"):
        design.with_design(packs=(*design.design.packs, own))


def test_a_battery_without_a_resistance_is_refused() -> None:
    with pytest.raises(DocumentError, match="Reed 2S 1900 needs a DC internal resistance"):
        replaced(extended(), "cells.1.dcir_mohm", None)


def test_a_cell_type_that_is_not_there_is_refused() -> None:
    data = extended().model_dump()
    data["cells"] = data["cells"][:1]
    with pytest.raises(DocumentError, match="own battery is made of a cell type “pack” that is not among the cells"):
        CompleteDesign.from_data(data)
