"""What a sentence tells is what the model found, to the digit shown, and is told where it is so and nowhere else."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest

from tests.builders import LANDING, beside, cell_type, complete, craft, cruise, mission
from tests.core.test_wing import winged
from wise_cellar.core.answer import Answer, Asked, Severity, answer, explain
from wise_cellar.core.answer.spread import Driver, Spread, spread
from wise_cellar.core.documents import (
    Balance,
    Bay,
    CompleteDesign,
    Conditions,
    Design,
    KeepOut,
    LandingRule,
    Leads,
    Load,
    Part,
)
from wise_cellar.core.pack import LinkKind, balance_of
from wise_cellar.demo import complete_sample, sample_documents

SHORT = mission(cruise(), LANDING)


def numbers(sentence: str) -> list[float]:
    """Every number of a sentence, in order."""
    return [float(text) for text in re.findall(r"\d+(?:\.\d+)?", sentence.replace("\u202f", ""))]


def said(design: CompleteDesign, field: str, found: Answer | None = None) -> list[str]:
    """What is to be careful about at a field."""
    return [one.sentence for one in (found or answer(design)).findings if one.field == field]


# Findings


def test_over_its_mass_a_craft_is_told_by_how_much() -> None:
    heavy = complete(carrier=craft(max_takeoff_mass_g=1500), flown=SHORT)
    found = answer(heavy)
    (sentence,) = said(heavy, "craft.max_takeoff_mass_g", found)
    assert numbers(sentence) == pytest.approx([found.takeoff_mass_g, found.takeoff_mass_g - 1500, 1500], abs=0.5)


@pytest.mark.parametrize(("air_c", "told"), [(-0.5, True), (0, False), (0.5, False)])
def test_frost_begins_under_zero(air_c: float, told: bool) -> None:
    cold = complete(conditions=Conditions(air_temperature_c=air_c), flown=SHORT)
    assert any("Below 0 °C cells sag" in one for one in said(cold, "design.conditions.air_temperature_c")) is told


@pytest.mark.parametrize(("beyond_v", "told"), [(-0.05, False), (0.05, True)])
def test_a_late_punch_under_the_cells_minimum_is_told_and_none_above(beyond_v: float, told: bool) -> None:
    usual = complete(flown=SHORT, landing=LandingRule(policy="own", own_voltage_v=3.4))
    late = answer(usual).packs[0].late_cell_v
    least = round(late + beyond_v, 3)
    strict = complete(flown=SHORT, landing=usual.design.landing, cell=cell_type(min_voltage_v=least))
    found = answer(strict)
    sentences = [one for one in said(strict, "design.landing.policy", found) if "late punch" in one]
    assert len(sentences) == told
    for sentence in sentences:
        assert numbers(sentence) == pytest.approx([found.packs[0].late_cell_v, least], abs=0.006)


@pytest.mark.parametrize("design_id", [one.id for one in sample_documents() if isinstance(one, Design)])
def test_links_near_their_limit_are_told_with_their_amps_and_no_others(design_id: str) -> None:
    found = answer(complete_sample(design_id))
    near = {link.name: link for link in found.links if link.worst_share > 0.85 and link.kind is not LinkKind.GROUP}
    told = {one.sentence.rsplit(": ", 1)[0]: one for one in found.findings if one.sentence.endswith("A allowed.")}
    assert told.keys() == near.keys()
    for name, one in told.items():
        link = near[name]
        assert (one.severity is Severity.OVER) is (link.worst_share > 1)
        punch = "punch against" in one.sentence
        amps, limit = (link.punch_a, link.punch_limit_a) if punch else (link.cruise_a, link.cruise_limit_a)
        assert f": {amps:.1f} A " in one.sentence
        assert f"against {limit:.1f} A" in one.sentence
        assert punch is (link.cruise_share <= min(link.punch_share, 1))


@pytest.mark.parametrize(("tolerance_mm", "told"), [(400, 0), (1, 1)])
def test_off_its_balance_point_a_craft_is_told_by_how_far(tolerance_mm: float, told: int) -> None:
    balanced = craft(
        balance=Balance(dry_mm=-12, bay_mm=0, tolerance_mm=tolerance_mm),
        bay=Bay(length_mm=200, width_mm=90, height_mm=80),
    )
    design = complete(carrier=balanced, flown=SHORT)
    found = answer(design)
    point = balance_of(design, found.build)
    assert point is not None
    sentences = said(design, "design.packs.0.recipe.fittings.shift_mm", found)
    assert len(sentences) == told
    for sentence in sentences:
        assert numbers(sentence) == pytest.approx([abs(point.after_mm), tolerance_mm], abs=0.5)
        assert ("behind" in sentence) is (point.after_mm < 0)


def test_a_pack_that_goes_in_is_not_told_of_and_one_that_something_keeps_out_is() -> None:
    layout = answer(complete(flown=SHORT)).build.layout
    size = {"length_mm": layout.length_mm + 4, "width_mm": layout.width_mm + 4, "height_mm": layout.height_mm + 4}

    def sentences(bay: Bay) -> list[str]:
        design = complete(flown=SHORT, carrier=craft(bay=bay))
        return said(design, "craft.bay.length_mm") + said(design, "craft.bay.keep_outs")

    assert sentences(Bay(**size)) == []
    (small,) = sentences(Bay(**size | {"height_mm": layout.height_mm - 4}))
    sides = [layout.length_mm, layout.width_mm, layout.height_mm]
    assert numbers(small) == pytest.approx([*sides, *sides[:2], sides[2] - 4], abs=4.6)
    antenna = KeepOut(name="antenna", x_mm=20, y_mm=0, length_mm=20, width_mm=20)
    (kept,) = sentences(Bay(**size, keep_outs=(antenna,)))
    assert "only over what must stay free: antenna" in kept


def test_a_wing_is_told_its_launch_and_the_speed_that_leaves_a_margin() -> None:
    weak = winged(rotors=winged().rotors.changed(pitch_mm=40), parts=(Part(name="all", mass_g=6000),))
    design = complete(carrier=weak, flown=mission(cruise(airspeed=5), LANDING))
    found = answer(design)
    (slow,) = said(design, "mission.blocks.0.airspeed_m_s", found)
    asked, stall, safe = numbers(slow)
    assert asked == 5
    assert safe == pytest.approx(1.2 * stall, abs=0.12)
    (launch,) = said(design, "craft.rotors.pitch_mm", found)
    thrust = found.early_punch.thrust_n / (found.takeoff_mass_g * 1e-3 * 9.80665)
    assert numbers(launch) == pytest.approx([100 * thrust, 35], abs=0.5)


# How an answer comes about


def test_what_is_used_is_volts_times_amps_over_the_flight() -> None:
    found = answer(complete(flown=SHORT))
    series = found.series
    watts = series.pack_a * series.loaded_v * found.build.recipe.series_count
    joules = np.sum(0.5 * (watts[1:] + watts[:-1]) * np.diff(series.time_s))
    assert found.energy_used_wh == pytest.approx(joules / 3600, rel=2e-3)


def test_the_explanation_of_a_wing_is_its_own_arithmetic() -> None:
    design = complete(carrier=winged(), flown=mission(cruise(airspeed=16), LANDING))
    steps = {step.name: step.sentence for step in explain(design, answer(design), Asked.MINUTES)}
    density = numbers(steps["Air"])[0]
    speed, over, stall, weight, area, lift = numbers(steps["Wing"])
    assert speed / stall == pytest.approx(over, rel=0.01)
    assert weight / (0.5 * density * speed**2 * area / 100) == pytest.approx(lift, rel=0.02)
    zero, induced, again, _two, total, newton = numbers(steps["Drag"].replace("²", " 2"))
    assert again == lift
    assert zero + induced * lift**2 == pytest.approx(total, abs=6e-4)
    assert weight * total / lift == pytest.approx(newton, rel=0.02)
    drag, airspeed, efficiency, watts = numbers(steps["Power"])[:4]
    assert drag * airspeed / efficiency == pytest.approx(watts, rel=0.02)


def test_amps_of_packs_beside_each_other_add_up_to_what_is_told_of_all() -> None:
    design = beside(complete(flown=SHORT), (cell_type(id="other", capacity_mah=3000, dcir_mohm=30), {}))
    steps = {step.name: step.sentence for step in explain(design, answer(design), Asked.MINUTES)}
    amps = [float(text) for text in re.findall(r"([\d.]+) A", steps["Amps"])]
    assert len(amps) == 3
    assert amps[0] == pytest.approx(amps[1] + amps[2], abs=0.11)
    assert amps[1] > amps[2] > 0


def test_the_end_tells_the_last_volts_under_load() -> None:
    design = complete(flown=SHORT)
    found = answer(design)
    steps = {step.name: step.sentence for step in explain(design, found, Asked.END)}
    assert numbers(steps["Then"]) == pytest.approx(
        [100 * found.charge_left, found.resting_v, found.series.loaded_v[-1]], abs=0.51
    )
    assert f"{found.series.loaded_v[-1]:.2f} V under load" in steps["Then"]


# Doubt


def test_the_words_of_doubt_are_its_shares_in_per_cent() -> None:
    design = complete(flown=SHORT, conditions=Conditions(wind_m_s=5))
    found = spread(design, answer(design))
    known = found.doubts
    told = [float(text) for text in re.findall(r"± ([\d.]+)", known.words)]
    cell = known.cell
    percent = [100 * share for share in (cell.capacity, cell.resistance, cell.lag)]
    rest = [100 * share for share in (known.drive, known.mass, known.cooling)]
    assert told == pytest.approx([*percent, 1000 * cell.volts, *rest, known.wind_m_s], abs=0.5)
    assert told[0] == pytest.approx(100 * cell.capacity, abs=0.051)
    by_name = {driver.name: driver.doubt for driver in found.drivers}
    assert by_name["mass"] == f"± {100 * known.mass:.2g} %"
    assert by_name["drive efficiency"] == f"± {100 * known.drive:.2g} %"


@pytest.mark.parametrize(("shrinks_s", "worth"), [(0.9, False), (1.0, True), (1.9, True)])
def test_a_measurement_is_named_where_it_shrinks_the_range_by_a_second(shrinks_s: float, worth: bool) -> None:
    design = complete(flown=SHORT)
    found = spread(design, answer(design))
    driver = Driver("mass", "± 1 %", "parts added up", 10.0, 10.0 - shrinks_s, "weigh", "craft.parts")
    one = Spread(found.duration_s, found.late_punch_v, found.doubts, (driver,), found.bands)
    assert (one.best_measurement is driver) is worth


# Loads that stop


def test_what_browns_out_first_is_the_load_that_needs_most() -> None:
    needy, modest = Load(name="video", power_w=5, min_input_v=13.5), Load(name="radio", power_w=1, min_input_v=5)
    free = Load(name="lamp", power_w=1, min_input_v=0)
    stops = {
        name: answer(complete(flown=SHORT, carrier=craft(loads=loads))).duration_s
        for name, loads in {"needy": (free, needy, modest), "modest": (free, modest), "free": (free,)}.items()
    }
    assert stops["needy"] < 0.9 * stops["modest"]
    assert math.isclose(stops["modest"], stops["free"], rel_tol=0.01)


def test_switch_on_pulls_the_bus_down_by_the_ohms_of_pack_and_leads() -> None:
    hungry = craft(loads=(Load(name="heater", power_w=10, startup_w=400, min_input_v=5),))
    found = answer(complete(flown=SHORT, carrier=hungry, leads=Leads(gauge_awg=12, connector="90 A class")))
    source = found.at_rest
    assert float(source.ohm[0]) == pytest.approx(4 * found.cell_dcir_ohm / 3 + found.build.wiring_ohm, rel=0.01)
    assert float(source.volts[0]) == pytest.approx(4 * 4.2, rel=0.01)
