"""Packs put on one bus, what flows then and after landing, charging through the craft, and the craft's own counter."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.builders import LANDING, beside, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.core.answer import Severity, answer
from wise_cellar.core.answer.bus import BusStart, charge_percent_at
from wise_cellar.core.answer.findings.bus import landed_flow
from wise_cellar.core.documents import CompleteDesign, PackRecipe, PackState, Part, replaced
from wise_cellar.core.extend import (
    bus_sentences,
    charge_through_craft,
    counter_outcomes,
    equalise,
    figures,
    verdict,
)
from wise_cellar.core.extend.equalising import WATCHED_S, equalised
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.curve_bank import GRID_POINTS, CurveBank, SocCurve

STRAIGHT = {"soc": (0.0, 1.0), "ocv_v": (3.0, 4.2)}
HIGH = whole_pack(id="high", name="Reed 2S 1900 HV", max_voltage_v=4.35, ocv_family="lihv_hobby", charge_current_a=3.8)
OWN = {"name": "own battery", "own": True, "recipe": PackRecipe(series_count=2)}
AUX = cell_type(id="cell", name="Tarn 18-33E", form_factor="18650", diameter_mm=18.4, length_mm=65.2, mass_g=47.5,
                capacity_mah=3250, dcir_mohm=33, continuous_current_a=8, pulse_current_a=13,
                charge_current_a=1.6)  # fmt: skip


def extended(own_percent: float = 88, aux_percent: float = 100, own=HIGH, **aux: object) -> CompleteDesign:  # type: ignore[no-untyped-def]
    small = craft(parts=(Part(name="airframe", mass_g=250),))
    design = complete(
        cell=AUX.model_copy(update=aux), carrier=small, flown=mission(cruise(airspeed=5), LANDING), series_count=2,
        parallel_count=1, state=PackState(start_charge_percent=aux_percent),
    )  # fmt: skip
    return beside(design, (own, OWN | {"start_charge_percent": own_percent}))


# The moment at the plug


def test_the_equalising_current_of_two_is_the_difference_over_all_resistance() -> None:
    start = answer(extended(own_percent=60)).bus_start
    assert start is not None
    aux, own = start.packs
    apart = 2 * (aux.rest_v - own.rest_v)
    assert aux.current_a == pytest.approx(apart / (aux.ohm + own.ohm), rel=1e-9)
    assert own.current_a == pytest.approx(-aux.current_a, rel=1e-9)
    assert own.limit_a == 1.9, "1C, where the charge rating is more"
    assert aux.limit_a == 1.6


def test_at_the_edge_of_the_window_the_taker_takes_just_what_it_may() -> None:
    """Put the auxiliary as far over the other as the window says: the other takes its limit; likewise under it."""
    slow = HIGH.model_copy(update={"charge_current_a": 0.6})
    start = answer(extended(50, 50, slow, charge_current_a=0.5)).bus_start
    assert start is not None
    aux, own = start.packs
    assert max(aux.above_v, aux.below_v) < 0.05
    for apart, taker in ((aux.above_v, own), (-aux.below_v, aux)):
        volts = own.rest_v + apart
        soc = charge_percent_at(aux.complete, volts)
        there = answer(extended(50, soc, slow, charge_current_a=0.5)).bus_start
        assert there is not None
        taken = -next(p for p in there.packs if p.complete.name == taker.complete.name).current_a
        assert taken == pytest.approx(taker.limit_a, rel=0.05), "resistance changes a little with the charge"


@pytest.mark.parametrize(("series", "most_mv"), [(1, 50), (2, 50), (6, 1000 * 0.2 / 6)])
def test_packs_are_put_on_one_bus_within_50_mv_a_cell_and_200_at_the_plug(series: int, most_mv: float) -> None:
    """However much their resistance lets through; today's cells would take what flows at twice as much."""
    able = cell_type(charge_current_a=20)

    def start(other_percent: float) -> BusStart:
        design = complete(cell=able, series_count=series, parallel_count=1, state=PackState(start_charge_percent=60),
                          flown=mission(cruise(60), LANDING))  # fmt: skip
        found = answer(beside(design, (able, {"start_charge_percent": other_percent})))
        assert found.bus_start is not None
        apart = [f for f in found.findings if "most that packs may be apart" in f.sentence]
        assert bool(apart) == (not found.bus_start.safe)
        assert all(one.severity is Severity.OVER for one in apart)
        return found.bus_start

    near = start(60)
    volts = near.packs[0].rest_v
    assert (1000 * near.packs[0].above_v, 1000 * near.packs[0].below_v) == pytest.approx((most_mv, most_mv))
    for share, safe in ((0.95, True), (1.05, False)):
        there = start(charge_percent_at(near.packs[1].complete, volts - share * most_mv / 1000))
        assert there.apart_v == pytest.approx(share * most_mv / 1000, rel=0.01)
        assert not any(pack.too_much for pack in there.packs)
        assert there.safe is safe


@pytest.mark.parametrize(("celsius", "may_a"), [(-15, 0), (-0.5, 0), (1, 0.65), (9, 0.65), (12, 1.6)])
def test_a_cold_pack_takes_nothing_and_a_cool_one_a_fifth_of_1c(celsius: float, may_a: float) -> None:
    """Joined, in flight and landed alike; in the search as in the answer."""
    state = {"start_charge_percent": 99, "temperature_c": celsius}
    design = replaced(extended(own_percent=94), "design.packs.0.state", PackState(**state))
    found = answer(replaced(design, "design.conditions.air_temperature_c", celsius))
    assert found.bus_start is not None
    taker = found.bus_start.packs[0]
    assert taker.limit_a == pytest.approx(may_a)
    window = 50 if may_a > 1 else 1000 * may_a * (taker.ohm + found.bus_start.packs[1].ohm) / 2
    assert 1000 * taker.below_v == pytest.approx(min(50, window))


def test_three_packs_joined_meet_in_one_bus() -> None:
    design = extended(own_percent=60)
    more = {"name": "second auxiliary", "recipe": design.pack.recipe, "start_charge_percent": 90}
    three = beside(design, (HIGH, OWN | {"start_charge_percent": 60}), (AUX.model_copy(update={"id": "more"}), more))
    start = answer(three).bus_start
    assert start is not None
    volts, ohms, amps = np.array([(2 * p.rest_v, p.ohm, p.current_a) for p in start.packs]).T
    bus = (volts / ohms).sum() / (1 / ohms).sum()
    assert amps == pytest.approx((volts - bus) / ohms)
    assert amps.sum() == pytest.approx(0, abs=1e-9)


def test_it_decays_as_two_capacitors_do() -> None:
    """Straight resting voltages, no lag, no polarisation, resistance the same at any charge: an RC circuit."""
    soc = tuple(np.linspace(0, 1, 11).tolist())
    straight = {"own_ocv": {"soc": soc, "ocv_v": tuple((3.0 + 1.2 * np.array(soc)).tolist())}}
    one = cell_type(id="cell", capacity_mah=3000, **straight)
    other = cell_type(id="other", capacity_mah=1500, dcir_mohm=20, **straight)
    design = beside(
        complete(cell=one, series_count=2, parallel_count=2),
        (other, {"recipe": PackRecipe(series_count=2), "start_charge_percent": 70}),
    )
    batch = lower([lower_one(design, 1.0)])
    nothing = np.full((2, 1, 1), 1e-12)
    flat = np.ones((2, 1, 1))
    level = CurveBank([SocCurve(np.ones(GRID_POINTS), 0.0, 0.0)], np.zeros((2, 1, 1), int))
    cell = replace(
        batch.cell, r1_ohm=nothing, lag_gain_s=nothing, cooling_w_k=1e6 * flat, shape=level,
        resistance_activation_j_mol=0 * flat,
    )  # fmt: skip
    flow = equalised(replace(batch, cell=cell))
    ohm = (2 * cell.r0_ohm / batch.parallel + batch.wiring_ohm)[:, 0, 0]
    farads = (cell.charge_c * batch.parallel)[:, 0, 0] / 1.2 / 2
    tau = ohm.sum() * farads.prod() / farads.sum()
    first = 2 * 1.2 * 0.3 / ohm.sum()
    assert flow.first_a == pytest.approx(first, rel=1e-6)
    early = flow.time_s < 3 * tau
    expected = first * np.exp(-flow.time_s[early] / tau)
    assert flow.amps[0, early] == pytest.approx(expected, abs=0.005 * first)
    assert flow.settled_s == pytest.approx(tau * np.log(10), rel=0.15), "read off recorded points"
    # All of the charge that was apart: Q = ΔE·C₁C₂/(C₁ + C₂); and half of the energy goes to heat, ½·C·ΔE².
    series = farads.prod() / farads.sum()
    assert flow.moved_mah == pytest.approx(series * 2 * 1.2 * 0.3 / 3.6, rel=0.01)
    assert flow.heat_j == pytest.approx(0.5 * series * (2 * 1.2 * 0.3) ** 2, rel=0.02)


def test_no_charge_is_lost_between_packs() -> None:
    flow = equalise(extended(own_percent=50))
    assert flow is not None
    assert flow.time_s[-1] == WATCHED_S
    assert np.abs(flow.amps.sum(axis=0)).max() < 1e-9
    assert flow.rest_v[0, -1] == pytest.approx(flow.rest_v[1, -1], abs=2e-3), "they come to rest alike"
    assert flow.warmest_c > 20


def test_one_pack_has_no_bus_to_share() -> None:
    assert equalise(complete()) is None
    assert answer(complete()).bus_start is None
    assert landed_flow(answer(complete())) is None


# In words


def said(design: CompleteDesign) -> str:
    answered, flow = answer(design), equalise(design)
    assert answered.bus_start is not None
    assert flow is not None
    return " ".join(bus_sentences(answered.bus_start, flow))


def test_the_sentences_carry_the_numbers() -> None:
    words = said(extended(own_percent=60))
    start = answer(extended(own_percent=60)).bus_start
    assert start is not None
    assert f"{-start.packs[1].current_a:.2f} A flow into the own battery at once, more than the 1.9 A" in words
    assert "88 % of its charge" in words
    assert "within the 1.9 A" in said(extended(own_percent=87))


def test_the_verdict_leads_and_its_numbers_stand_under_it() -> None:
    for design, begins in (
        (extended(own_percent=60), "Not as they are:"),
        (extended(own_percent=87), "They may be put"),
    ):
        start, flow = answer(design).bus_start, equalise(design)
        assert start is not None
        assert flow is not None
        assert verdict(start, flow).startswith(begins)
        rows = figures(start, flow)
        assert [row[0] for row in rows[1:-1]] == [pack.complete.name for pack in start.packs]
        assert rows[2][2] == f"{start.packs[1].current_a:.1f} A".replace("-", "−")
        assert f"{flow.moved_mah:.0f} mAh" in rows[-1][2].replace("\u202f", "")


def test_alike_packs_are_told_so() -> None:
    same = AUX.model_copy(update={"id": "same"})
    words = said(beside(extended(), (same, {"name": "second auxiliary"})))
    assert "nothing flows on one bus" in words
    assert "All of them are full at 4.20 V a cell." in words


def sentences(design: CompleteDesign, severity: Severity) -> str:
    return " ".join(f.sentence for f in answer(design).findings if f.severity is severity)


def test_a_bus_outside_the_window_is_over_a_limit() -> None:
    assert "On one bus as they rest" not in sentences(extended(own_percent=87), Severity.OVER)
    far = sentences(extended(own_percent=60), Severity.OVER)
    assert "the own battery takes" in far
    assert "it may take 1.9 A" in far


def test_a_base_that_is_charged_higher_than_the_auxiliary_may_be_is_over_a_limit() -> None:
    high = sentences(extended(own_percent=100), Severity.OVER)
    assert "The own battery rests at 4.35 V a cell; another pack on the bus is full at 4.20 V" in high
    lower = charge_percent_at(extended().packs[1], 4.2)
    assert "rests at" not in sentences(extended(own_percent=lower), Severity.OVER)


def test_unlike_chemistry_and_a_missing_charge_rating_are_told() -> None:
    told = sentences(extended(charge_current_a=None), Severity.CAUTION)
    assert "Packs of unlike chemistry (energy, NMC, high-voltage polymer)" in told
    assert "Tarn 18-33E tells no charge current; half of 1C, 1.6 A for the auxiliary" in told
    iron = whole_pack(id="iron", name="Reed LFP", ocv_family="lfp", max_voltage_v=3.6, min_voltage_v=2.5)
    assert "no match for one bus" in sentences(extended(own=iron), Severity.OVER)


def test_what_is_taken_back_in_flight_is_held_to_the_charge_limit() -> None:
    design = extended(own_percent=100, charge_current_a=0.2)
    taken = answer(design).packs[0].taken_a
    assert taken > 1
    said = sentences(design, Severity.OVER)
    assert f"In flight the auxiliary is charged by the others with up to {taken:.1f} A; it may take 0.2 A" in said
    assert "In flight" not in sentences(extended(own_percent=87, charge_current_a=0.2), Severity.OVER)


# Charging through the craft, and after landing


def test_a_charger_on_the_craft_s_port_overcharges_the_auxiliary() -> None:
    through = charge_through_craft(answer(extended()))
    assert through is not None
    assert through.charger_a == 3.8
    aux, own = answer(extended()).bus_start.packs  # type: ignore[union-attr]
    assert through.into_other_a == pytest.approx(3.8 * own.ohm / (aux.ohm + own.ohm))
    assert through.over_v == pytest.approx(0.15)
    assert "It ends at 4.35 V a cell, 0.15 V over what Tarn 18-33E may have" in through.sentence
    level = charge_through_craft(answer(extended(own=whole_pack(id="level", charge_current_a=1.0))))
    assert level is not None
    assert "which the auxiliary may have" in level.sentence
    assert charge_through_craft(answer(complete())) is None


def test_packs_left_joined_after_landing_go_on_evening_out() -> None:
    design = extended()
    said = answer(design)
    aux, own = said.bus_start.packs  # type: ignore[union-attr]
    amps = 2 * (said.packs[0].resting_v - said.packs[1].resting_v) / (aux.ohm + own.ohm)
    landed = landed_flow(said)
    assert landed is not None
    assert (landed.name, landed.amps) == ("Own battery", pytest.approx(amps))
    assert f"{amps:.1f} A go on flowing into the own battery, which may take 1.9: part them" in landed.sentence
    assert landed.sentence in sentences(design, Severity.OVER)
    same = AUX.model_copy(update={"id": "same"})
    assert landed_flow(answer(beside(extended(), (same, {"name": "second auxiliary"})))) is None, "they rest alike"


# The counter


def test_each_way_to_be_called_home_is_flown_and_tells_what_is_left() -> None:
    design = replaced(extended(), "design.landing.charge_percent", 60)
    loaded, own_only, everything = counter_outcomes(design, 1.0)
    present = answer(design)
    assert loaded.duration_s == pytest.approx(present.duration_s)
    assert loaded.call_s == pytest.approx(present.landing_call_s)
    assert everything.call_s < own_only.call_s
    for outcome in (loaded, own_only, everything):
        aux, own = outcome.packs
        assert aux.left_mah == pytest.approx(aux.left_share * 3250)
        assert own.own
    used = 0.88 * 1900 - own_only.packs[1].left_mah
    assert used == pytest.approx(0.6 * 1900, rel=1e-3), "its own counter saw 60 % of its own label"
    both = 0.88 * 1900 + 3250 - sum(pack.left_mah for pack in everything.packs)
    assert both == pytest.approx(0.6 * 1900, rel=1e-3), "all charge was taken for its own"
    assert everything.packs[0].left_mah > own_only.packs[0].left_mah


def test_a_counter_that_can_never_call_is_told() -> None:
    design = replaced(extended(), "design.landing.charge_percent", 100)
    own_only = counter_outcomes(design, 1.0)[1]
    assert not own_only.called, "88 % are in it, and 100 % are waited for"
