"""The answer: five answers with the fields that govern them, findings, calibration, the power curve."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest

from tests.builders import LANDING, PUNCH, TAKE_OFF, cell_type, complete, craft, cruise, mission
from wise_cellar.core.answer import Answer, Severity, answer
from wise_cellar.core.documents import (
    Bay,
    Block,
    CompleteDesign,
    Conditions,
    Craft,
    DocumentError,
    KnownFlight,
    LandingRule,
    Leads,
    Load,
    PackState,
    Part,
    Strip,
    value_at,
)
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one, nominal_bus_v
from wise_cellar.core.propulsion import calibrate, power_against_mass

FULL = mission(TAKE_OFF, cruise(120), PUNCH, cruise(), LANDING)


def sentences(found: Answer) -> list[str]:
    return [finding.sentence for finding in found.findings]


def test_the_answer_is_the_simulated_flight() -> None:
    design = complete(flown=FULL)
    found = answer(design)
    flown = fly(lower([lower_one(design, 1.0)]))
    assert found.duration_s == pytest.approx(float(flown.end_s[0]))
    assert found.charge_left == pytest.approx(float(flown.end_state.soc[0, 0, 0]))
    assert found.series.time_s[-1] == found.duration_s
    assert found.mean_power_w * found.duration_s / 3600 == pytest.approx(found.energy_used_wh)


def test_take_off_mass_is_craft_and_pack() -> None:
    design = complete(flown=FULL)
    assert answer(design).takeoff_mass_g == pytest.approx(1150 + answer(design).build.mass_g)


@pytest.mark.parametrize("dcir", [12.0, 27.5])
def test_the_resistance_shown_is_the_reading_on_the_sheet(dcir: float) -> None:
    """R₀, R₁ and lag were taken apart from it; a 10 s pulse puts them together again."""
    assert answer(complete(cell=cell_type(dcir_mohm=dcir))).cell_dcir_ohm == pytest.approx(dcir * 1e-3)


def test_a_late_punch_sags_more_than_the_first() -> None:
    found = answer(complete(flown=FULL))
    assert found.late_punch.volts_a_cell < found.early_punch.volts_a_cell
    assert found.late_punch.thrust_margin < found.early_punch.thrust_margin
    assert found.early_punch.cell_v > found.early_punch.volts_a_cell, "wiring takes its part"
    assert found.punch_s == 5


def test_the_early_punch_is_the_first_point_of_the_punch_line() -> None:
    found = answer(complete(flown=FULL))
    assert found.series.punch_v[0] == pytest.approx(found.early_punch.volts_a_cell)


def test_a_mission_without_a_punch_is_asked_about_three_seconds() -> None:
    assert answer(complete()).punch_s == 3


def test_a_minute_of_full_throttle_is_a_block_but_not_a_burst() -> None:
    long = mission(cruise(60), Block(kind="punch", duration_s=60), LANDING)
    assert answer(complete(flown=long)).punch_s == 10


def test_the_flown_punch_and_the_asked_one_agree() -> None:
    """A mission that begins with a punch sags as the first-punch answer says."""
    found = answer(complete(flown=mission(PUNCH, cruise(60), LANDING)))
    end_of_punch = found.series.loaded_v[found.series.block == 0][-1]
    assert end_of_punch == pytest.approx(found.early_punch.volts_a_cell, abs=1e-6)


def test_series_are_in_peoples_units() -> None:
    found = answer(complete(flown=FULL))
    series = found.series
    assert series.charge_used_mah[-1] == pytest.approx((1 - found.charge_left) * 4500 * 3)
    assert series.throttle.max() == 1.0
    cruising = series.block == 1
    assert np.all((series.throttle[cruising] > 0.3) & (series.throttle[cruising] < 0.8))
    assert np.all(series.resting_v >= series.loaded_v - 0.25)
    assert series.temperature_c[0] == pytest.approx(20)


def test_the_weak_link_is_the_one_nearest_its_limit() -> None:
    found = answer(complete(flown=FULL, leads=Leads(gauge_awg=22, connector="90 A class")))
    assert found.weak_link.name.startswith("Lead")
    assert found.weak_link.field == "design.packs.0.recipe.leads.gauge_awg"
    assert found.weak_link.worst_share == max(link.worst_share for link in found.links)
    single = answer(complete(flown=FULL, strip=Strip(width_mm=4, thickness_mm=0.1)))
    assert single.weak_link.name.startswith("Strip")


@pytest.mark.parametrize(
    ("design", "ending", "field"),
    [
        (complete(flown=FULL), Ending.RESERVE_REACHED, "design.landing.policy"),
        (complete(flown=mission(cruise(60), LANDING)), Ending.MISSION_COMPLETE, "mission.blocks"),
        (complete(flown=mission(cruise()), landing=LandingRule(policy="own", own_voltage_v=2)), Ending.CELL_CUT_OFF,
         "cells.0.min_voltage_v"),
        (complete(carrier=craft(loads=(Load(name="a", power_w=1), Load(name="video", power_w=4, min_input_v=14)))),
         Ending.BROWN_OUT, "craft.loads.1.min_input_v"),
        (complete(carrier=craft(parts=(Part(name="all", mass_g=2900),)), series_count=3), Ending.OUT_OF_THRUST,
         "design.packs.0.recipe.series_count"),
        (complete(cell=cell_type(dcir_mohm=480), parallel_count=1, series_count=6), Ending.NO_POWER,
         "design.packs.0.cell_type_id"),
    ],
    ids=lambda value: value.name if isinstance(value, Ending) else "",
)  # fmt: skip
def test_every_end_has_a_sentence_and_a_governing_field(design: CompleteDesign, ending: Ending, field: str) -> None:
    found = answer(design)
    assert found.reason.ending is ending
    assert found.reason.field == field
    assert found.reason.sentence.endswith(".")
    value_at(design, field)
    for path in (found.duration_field, found.mass_field, found.punch_field, found.weak_link.field):
        value_at(design, path)


def test_a_brown_out_names_the_load() -> None:
    needy = craft(loads=(Load(name="video transmitter", power_w=4, min_input_v=14),))
    assert "video transmitter" in answer(complete(carrier=needy)).reason.words


def test_mass_is_governed_by_the_heavier_half() -> None:
    assert answer(complete()).mass_field == "craft.parts"
    assert answer(complete(parallel_count=6)).mass_field == "design.packs.0.recipe.parallel_count"


# Findings


def test_a_sound_design_has_nothing_to_be_careful_about() -> None:
    gentle = LandingRule(policy="own", own_voltage_v=3.2)
    slow_motor = craft().motor.model_copy(update={"kv_rpm_per_v": 640})
    thick = complete(
        flown=mission(cruise(), LANDING),
        carrier=craft(motor=slow_motor),
        landing=gentle,
        parallel_count=4,
        leads=Leads(gauge_awg=8, connector="90 A class"),
        strip=Strip(width_mm=10, thickness_mm=0.2, layers=3),
    )
    assert sentences(answer(thick)) == []


def only(design: CompleteDesign, pattern: str) -> tuple[Severity, str]:
    matching = [f for f in answer(design).findings if re.search(pattern, f.sentence)]
    assert len(matching) == 1, [f.sentence for f in answer(design).findings]
    value_at(design, matching[0].field)
    return matching[0].severity, matching[0].field


@pytest.mark.parametrize(
    ("design", "pattern", "severity", "field"),
    [
        (complete(carrier=craft(max_takeoff_mass_g=2000)), r"g over the 2\u202f000 g that Whimbrel may", "over a limit",
         "craft.max_takeoff_mass_g"),
        (complete(carrier=craft(bay=Bay(length_mm=60, width_mm=60, height_mm=60))), "does not go into Whimbrel's bay",
         "over a limit", "craft.bay.length_mm"),
        (complete(series_count=7), r"A full pack has 29.4 V; the ESC may see 26.0 V", "over a limit",
         "craft.esc.max_voltage_v"),
        (complete(carrier=craft(loads=(Load(name="video", power_w=5, min_input_v=11.3),))),
         r"in a late punch: .* video \(min 11.3 V\) restarts", "over a limit", "craft.loads.0.min_input_v"),
        (complete(conditions=Conditions(air_temperature_c=-5)), "Below 0 °C", "caution",
         "design.conditions.air_temperature_c"),
        (complete(landing=LandingRule(policy="own", own_voltage_v=3.6)), r"with \d+\s% of the charge unused", "caution",
         "design.landing.policy"),
        (complete(flown=mission(cruise(60, airspeed=3), LANDING), conditions=Conditions(wind_m_s=6)),
         "goes backwards", "caution", "mission.blocks.0.airspeed_m_s"),
        (complete(cell=cell_type(continuous_current_a=4, pulse_current_a=8)), "^Cell: .* A allowed", "over a limit",
         "cells.0.continuous_current_a"),
        (complete(series_count=3, carrier=craft(parts=(Part(name="all", mass_g=1900),))),
         r"gives 1\.\d\d? times the weight, less than the 1\.5", "caution", "design.packs.0.recipe.series_count"),
        (complete(parallel_count=1, cell=cell_type(dcir_mohm=40), conditions=Conditions(air_temperature_c=35)),
         r"Cells reach \d+\s°C", None, "design.packs.0.cooling"),
    ],
    ids=range(10),
)  # fmt: skip
def test_mistakes_are_caught_by_name(design: CompleteDesign, pattern: str, severity: str | None, field: str) -> None:
    found_severity, found_field = only(design, pattern)
    assert severity is None or found_severity == severity
    assert found_field == field


def test_a_design_over_a_limit_still_computes() -> None:
    found = answer(complete(carrier=craft(max_takeoff_mass_g=1000)))
    assert found.duration_s > 600


def test_findings_over_a_limit_come_first() -> None:
    design = complete(carrier=craft(max_takeoff_mass_g=1000), conditions=Conditions(air_temperature_c=-5))
    severities = [f.severity for f in answer(design).findings]
    assert severities == sorted(severities, key=lambda s: s is not Severity.OVER)


# Calibration


def known(**changes: float) -> KnownFlight:
    values = {"takeoff_mass_g": 1900, "airspeed_m_s": 9, "duration_min": 20, "charge_used_mah": 5200}
    return KnownFlight(**({"mean_voltage_v": 14.5} | values | changes))


def test_no_known_flight_no_factor() -> None:
    assert calibrate(craft()) is None
    assert answer(complete()).factor == 1.0


def test_the_factor_makes_the_known_flight_come_true() -> None:
    """Fly the calibrated craft level at the known mass and speed: mean power must be what was measured."""
    carrier = craft(known_flights=(known(),))
    found = calibrate(carrier)
    assert found is not None
    (reading,) = found.readings
    assert reading.measured_w == pytest.approx(14.5 * 5.2 * 3)
    assert found.scatter is None
    still = Conditions(air_temperature_c=20)
    curve = power_against_mass(carrier, still, 9.0, np.array([1900.0]), found.factor, 14.5)
    assert curve.cruise_w[0] == pytest.approx(reading.measured_w, rel=1e-9)
    before = power_against_mass(carrier, still, 9.0, np.array([1900.0]), 1.0, 14.5)
    assert before.cruise_w[0] == pytest.approx(reading.predicted_w)


def test_a_hungrier_known_flight_shortens_the_answer() -> None:
    plain, hungry = (complete(carrier=craft(known_flights=f), flown=FULL) for f in ((), (known(charge_used_mah=6500),)))
    assert answer(hungry).factor > 1.1
    assert answer(hungry).duration_s < answer(plain).duration_s


def test_an_implausible_factor_asks_to_check_the_inputs() -> None:
    design = complete(carrier=craft(known_flights=(known(charge_used_mah=12000),)))
    assert any("check their figures and the craft's" in s for s in sentences(answer(design)))


def test_a_flight_that_drew_less_than_idling_is_refused() -> None:
    with pytest.raises(DocumentError, match="Check its charge, current, voltage and minutes") as refusal:
        calibrate(craft(known_flights=(known(charge_used_mah=20),)))
    assert refusal.value.path == "known_flights.0.charge_used_mah"


def test_a_reading_of_amps_is_a_known_flight_too() -> None:
    """15.6 A in a hover at 14.5 V are 226.2 W, the same as 5 200 mAh in 20 minutes."""
    by_charge, by_amps = (
        calibrate(craft(known_flights=(flight,)))
        for flight in (known(), known(duration_min=None, charge_used_mah=None, mean_current_a=15.6))
    )
    assert by_charge is not None
    assert by_amps is not None
    assert by_amps.factor == pytest.approx(by_charge.factor)
    with pytest.raises(DocumentError, match="either its mean current, or its charge and its duration"):
        KnownFlight.from_data({"takeoff_mass_g": 1900, "mean_voltage_v": 14.5, "charge_used_mah": 5000})


def test_several_flights_agree_on_one_factor_and_a_stray_one_hardly_counts() -> None:
    """Four flights within 2 % and one that drew half as much again: the four carry the factor."""
    charges = (5100, 5150, 5200, 5250)
    four = calibrate(craft(known_flights=tuple(known(charge_used_mah=c) for c in charges)))
    assert four is not None
    assert four.scatter is not None
    each = [reading.factor for reading in four.readings]
    assert min(each) < four.factor < max(each)
    assert four.factor == pytest.approx(math.exp(np.mean(np.log(each))), rel=2e-3)
    assert four.scatter == pytest.approx(np.std(np.log(each), ddof=1), rel=0.2)
    stray = calibrate(craft(known_flights=tuple(known(charge_used_mah=c) for c in (*charges, 7800))))
    assert stray is not None
    assert stray.factor == pytest.approx(four.factor, rel=0.03)
    assert stray.readings[-1].weight < 0.15
    mean = math.exp(np.mean(np.log([reading.factor for reading in stray.readings])))
    assert mean / four.factor - 1 > 2 * (stray.factor / four.factor - 1), "a plain mean would be carried off"


def test_a_flight_that_is_only_compared_does_not_move_the_factor() -> None:
    alone = calibrate(craft(known_flights=(known(),)))
    beside = calibrate(craft(known_flights=(known(), known(charge_used_mah=7000, used=False, name="gusty"))))
    assert alone is not None
    assert beside is not None
    assert beside.factor == alone.factor
    assert (beside.count, beside.readings[1].weight, beside.readings[1].name) == (1, 0.0, "gusty")
    assert calibrate(craft(known_flights=(known(used=False),))) is None


def test_a_craft_of_version_1_keeps_its_known_flight() -> None:
    old = craft(known_flights=(known(),)).model_dump(mode="json")
    old["schema_version"] = 1
    (flight,) = old.pop("known_flights")
    old["known_flight"] = {k: v for k, v in flight.items() if k not in ("name", "used", "mean_current_a")}
    assert Craft.from_data(old) == craft(known_flights=(known(),))
    old["known_flight"] = None
    assert Craft.from_data(old).known_flights == ()


def test_the_power_curve_rises_with_mass_and_passes_through_the_design() -> None:
    design = complete(flown=mission(cruise(60), LANDING))
    masses = np.linspace(1150, 3000, 50)
    curve = power_against_mass(design.craft, design.design.conditions, 9.0, masses, 1.0)
    assert np.all(np.diff(curve.hover_w) > 0)
    assert np.all(np.diff(curve.cruise_w) > 0)
    one = lower([lower_one(design, 1.0)])
    here = power_against_mass(
        design.craft, design.design.conditions, 9.0, np.array([answer(design).takeoff_mass_g]), 1.0,
        nominal_bus_v(design),
    )  # fmt: skip
    assert here.cruise_w[0] == pytest.approx(one.block_w[0, 0])


def test_wind_costs_power_only_where_the_craft_holds_its_place() -> None:
    def energy(block: Block, wind: float) -> float:
        return answer(complete(flown=mission(block), conditions=Conditions(wind_m_s=wind))).energy_used_wh

    hover = Block(kind="hover", duration_s=60)
    assert energy(cruise(60), 5) == pytest.approx(energy(cruise(60), 0))
    assert energy(hover, 14) != pytest.approx(energy(hover, 0), rel=1e-3)


def test_cold_and_altitude_shorten_the_flight() -> None:
    def minutes(**weather: float) -> float:
        by_volts = LandingRule(policy="own", own_voltage_v=3.0)
        return answer(complete(flown=FULL, conditions=Conditions(**weather), landing=by_volts)).duration_s

    assert minutes(air_temperature_c=-10) < minutes(air_temperature_c=20)
    assert minutes(altitude_m=2500) < minutes()
    partly, full = (
        answer(complete(flown=FULL, state=PackState(start_charge_percent=charge))).duration_s for charge in (80, 100)
    )
    assert partly < 0.85 * full


def test_age_takes_charge_and_adds_to_every_ohm_of_a_cell() -> None:
    fresh, aged = (
        lower([lower_one(complete(state=PackState(**state)), 1.0)]).cell
        for state in ({}, {"capacity_percent": 80, "resistance_percent": 150})
    )
    assert aged.charge_c / fresh.charge_c == pytest.approx(0.8)
    assert aged.r0_ohm / fresh.r0_ohm == pytest.approx(1.5)
    assert aged.r1_ohm / fresh.r1_ohm == pytest.approx(1.5)


def test_volts_after_the_end_rise_from_the_load_to_what_a_pilot_and_a_charger_read() -> None:
    found = answer(complete())
    seconds, volts = found.rebound
    assert (np.diff(volts) >= 0).all()
    assert volts[0] > found.series.loaded_v[-1], "at once only R₀ is gone"
    assert np.interp(10.0, seconds, volts) == pytest.approx(found.soon_v)
    assert volts[-1] == pytest.approx(found.hour_v)
