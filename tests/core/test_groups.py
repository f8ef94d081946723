"""Series groups that differ: one current through all of them, and an end that is the weakest one's."""

from __future__ import annotations

from dataclasses import fields, replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.builders import LANDING, PUNCH, beside, cell_type, complete, cruise, mission
from tests.reference_flight import ReferenceFlight
from wise_cellar.core.answer import Severity, answer
from wise_cellar.core.documents import (
    CompleteDesign,
    DocumentError,
    LandingRule,
    PackRecipe,
    PackState,
    UnlikeGroup,
    replaced,
)
from wise_cellar.core.flight import Ending, FlightBatch, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.lowering.packs import groups_of

FLOWN = mission(cruise(300), PUNCH, cruise(), LANDING)


def batch_of(design: CompleteDesign) -> FlightBatch:
    return lower([lower_one(design, 1.0)])


def with_groups(*unlike: UnlikeGroup, **changes: object) -> CompleteDesign:
    values: dict = {"flown": FLOWN, "landing": LandingRule(policy="deep")} | changes  # type: ignore[type-arg]
    return complete(state=PackState(groups=unlike), **values)


WEAK = UnlikeGroup(group=2, capacity_percent=85, resistance_percent=140)


def test_groups_that_are_alike_are_one_group_of_their_number() -> None:
    """4S as one group of four, and as one and three: to 1e-9, bursts and all."""
    one = batch_of(complete(flown=FLOWN))
    wide = {name: np.repeat(getattr(one, name), 2, axis=1) for name in ("cut_off_v", "counted")}
    parted = replace(
        one,
        cell=replace(one.cell, **{f.name: getattr(one.cell, f.name)[:, [0, 0]] for f in fields(one.cell)}),
        start=replace(one.start, **{f.name: getattr(one.start, f.name)[:, [0, 0]] for f in fields(one.start)}),
        group_share=np.array([0.25, 0.75]).reshape(1, 2, 1),
        cut_off_v=wide["cut_off_v"],
        counted=one.counted * np.array([0.25, 0.75]).reshape(1, 2, 1),
    )
    alike, expected = fly(parted), fly(one)
    assert alike.end_s == pytest.approx(expected.end_s, rel=1e-9)
    assert alike.ending.tolist() == expected.ending.tolist()
    for group in (0, 1):
        assert alike.end_state.soc[0, group] == pytest.approx(expected.end_state.soc[0, 0], rel=1e-9)
        assert alike.hottest_k[0, group] == pytest.approx(expected.hottest_k[0, 0], rel=1e-9)
    assert alike.energy_j == pytest.approx(expected.energy_j, rel=1e-9)
    assert alike.punch_current_a == pytest.approx(expected.punch_current_a, rel=1e-9)


def test_groups_named_without_a_difference_are_none() -> None:
    same = (UnlikeGroup(group=1), UnlikeGroup(group=3))
    assert len(groups_of(PackState(groups=same), 4)) == 1
    assert answer(with_groups(*same)).duration_s == answer(with_groups()).duration_s


def test_two_unlike_groups_are_integrated_as_solve_ivp_does() -> None:
    """Eight equations written out again: one weak group of four, under a held power, to the weak one's minimum."""
    design = with_groups(
        UnlikeGroup(group=3, capacity_percent=80, resistance_percent=150, start_charge_percent=96, temperature_c=30),
        flown=mission(cruise()),
    )
    strong = ReferenceFlight(complete())
    counts, capacity, resistance = np.array([3, 1]), np.array([1.0, 0.8]), np.array([1.0, 1.5])
    watts = 240.0

    def moment(y: np.ndarray) -> tuple[float, np.ndarray]:
        states = y.reshape(2, 4)
        emf = np.array([strong.ocv(z - w) - v1 for z, w, v1, _ in states])
        inner = np.array([strong.r0 * strong.shape(z) * strong.factor(20e3, t) for z, _, _, t in states]) * resistance
        e, r = (counts * emf).sum(), (counts * inner).sum() / strong.p + strong.outer * strong.s / strong.p
        bus_a = (e - np.sqrt(e**2 - 4 * r * watts)) / (2 * r)
        amps = bus_a / strong.p
        return amps, emf - amps * inner

    def derivative(_t: float, y: np.ndarray) -> list[float]:
        amps, volts = moment(y)
        found: list[float] = []
        for (z, w, v1, kelvin), q, r, cell_v in zip(y.reshape(2, 4), capacity, resistance, volts, strict=True):
            slow = strong.factor(25e3, kelvin)
            charge = q * strong.q
            found += [
                -amps / charge,
                (strong.kappa * slow * amps / charge - w) / (strong.tau_w * slow),
                (r * strong.r1 * strong.factor(20e3, kelvin) * amps - v1) / strong.tau1,
                (amps * (strong.ocv(z) - cell_v) - strong.cool * (kelvin - strong.air)) / strong.heat,
            ]
        return found

    def met(_t: float, y: np.ndarray) -> float:
        return float(moment(np.asarray(y))[1].min() - 2.5)

    met.terminal = True  # type: ignore[attr-defined]
    start = [1.0, 0.0, 0.0, 293.15, 0.96, 0.0, 0.0, 303.15]
    found = solve_ivp(derivative, (0, 20000), start, method="LSODA", rtol=1e-9, atol=1e-11, events=met, max_step=20)
    flown = fly(batch_of(design).one_block(20000.0, power_w=np.array([watts])))
    assert flown.ending[0] == Ending.CELL_CUT_OFF
    assert flown.end_s[0] == pytest.approx(found.t[-1], rel=5e-4)
    y = found.y[:, -1].reshape(2, 4)
    assert flown.end_state.soc[0, :, 0] == pytest.approx(y[:, 0], abs=5e-4)
    assert flown.end_state.temperature_k[0, :, 0] == pytest.approx(y[:, 3], abs=0.1)
    assert flown.end_cell_v[0, :, 0] == pytest.approx(moment(found.y[:, -1])[1], abs=2e-3)
    assert flown.end_cell_v[0, 1, 0] < 2.51 < flown.end_cell_v[0, 0, 0], (
        "the weak one is at its minimum, not the others"
    )


def test_the_answer_names_the_weakest_group() -> None:
    own = LandingRule(policy="own", own_voltage_v=2.0)
    found = answer(with_groups(WEAK, landing=own, flown=mission(cruise())))
    (pack,) = found.packs
    assert pack.weakest_words == "group 2"
    assert [group.words for group in pack.groups] == ["groups 1, 3 and 4", "group 2"]
    assert found.reason.sentence.startswith("Cells of group 2 sag to 2.50 V")
    assert pack.series.cell_v[-1] == pytest.approx(2.5, abs=1e-3)
    assert found.series.loaded_v[-1] > 2.7, "the craft sees the mean of all groups"
    cautions = [one.sentence for one in found.findings if one.severity is Severity.CAUTION]
    assert any(sentence.startswith("Group 2 is the weakest") for sentence in cautions)
    even = answer(with_groups(landing=own, flown=mission(cruise())))
    assert found.duration_s < even.duration_s
    assert even.packs[0].weakest_words == ""


def test_less_charge_in_one_group_ends_the_flight_as_early_as_less_in_all() -> None:
    """What one group lacks, no other makes up for."""
    own = LandingRule(policy="own", own_voltage_v=2.0)
    steady = mission(cruise())
    one = answer(with_groups(UnlikeGroup(group=1, capacity_percent=70), landing=own, flown=steady)).duration_s
    every = answer(
        with_groups(*(UnlikeGroup(group=n + 1, capacity_percent=70) for n in range(4)), landing=own, flown=steady)
    ).duration_s
    whole = answer(with_groups(landing=own, flown=steady)).duration_s
    assert every < one < 0.75 * whole, "a little more: the others hold the volts up, so the amps are fewer"


def test_landing_by_rest_goes_by_the_lowest_group() -> None:
    rule = LandingRule(basis="volts at rest", resting_voltage_v=3.6)
    batch = batch_of(with_groups(WEAK, landing=rule))
    flown = fly(batch)
    rest = batch.cell.ocv(flown.late_state.soc)[0, :, 0]
    assert rest.min() == pytest.approx(3.6, abs=3e-4)
    assert rest[0] > rest[1]


def test_landing_by_charge_counts_what_went_through_the_pack() -> None:
    """The charge that a counter sees does not hang on what each group holds."""
    rule = LandingRule(basis="charge used", charge_percent=60)
    flown = fly(batch_of(with_groups(WEAK, landing=rule)))
    for group, held in ((0, 1.0), (1, 0.85)):
        used = (1.0 - float(flown.late_state.soc[0, group, 0])) * 13500 * held
        assert used == pytest.approx(0.6 * 13500, rel=1e-3)


def test_packs_with_groups_and_without_share_a_bus_and_a_batch() -> None:
    even = complete(flown=FLOWN, parallel_count=2)
    second = cell_type(id="second")
    mixed = beside(even, (second, {"groups": (WEAK,), "recipe": PackRecipe(series_count=4, parallel_count=1)}))
    both = fly(lower([lower_one(even, 1.0), lower_one(mixed, 1.0)]))
    for place, design in enumerate((even, mixed)):
        alone = fly(batch_of(design))
        assert both.end_s[place] == pytest.approx(alone.end_s[0], rel=1e-9)
        assert both.bus_energy_j[place] == pytest.approx(alone.bus_energy_j[0], rel=1e-9)


def test_a_group_is_named_once_and_one_that_the_pack_does_not_have_is_idle() -> None:
    with pytest.raises(DocumentError, match="A group that differs is named once"):
        replaced(complete(), "design.packs.0.state.groups", (UnlikeGroup(group=2), UnlikeGroup(group=2)))
    beyond = with_groups(UnlikeGroup(group=8, capacity_percent=50))
    assert answer(beyond).duration_s == answer(with_groups()).duration_s
