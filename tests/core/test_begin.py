"""A craft made of a sentence with gaps: what is read, what is taken for open gaps, what they do to the range."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wise_cellar.core.answer import answer, spread
from wise_cellar.core.begin import (
    USUAL,
    Arranged,
    Beginning,
    Begun,
    Carried,
    Chemistry,
    Description,
    Purpose,
    cell_type_of,
    make,
    narrowing,
    offered,
    read_description,
)
from wise_cellar.core.cells.claims import Verdict, sheet_claims
from wise_cellar.core.documents import CellType, DocumentError, FormFactor, Manner, OcvFamily, SourceKind
from wise_cellar.core.physics.rotor import DUCT_DRAG, DUCTED_AREA
from wise_cellar.core.propulsion import calibrate
from wise_cellar.core.propulsion.carrier import rotor_propulsion

POLYMER = read_description("4S 850 mAh polymer")


def slug(_model: type[Any], name: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")


def begun(**gaps: Any) -> Begun:
    return make(Beginning(**gaps), slug, {})


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("4S 850 mAh polymer, 95 g",
         {"series_count": 4, "capacity_mah": 850, "mass_g": 95, "chemistry": Chemistry.POLYMER}),
        ("a 21700 of 4 200 mAh and 70 g, good for 45 A, 15 mΩ",
         {"size": "21700", "capacity_mah": 4200, "mass_g": 70, "current_a": 45, "resistance_mohm": 15}),
        ("6S1P 16Ah 25C HV", {"series_count": 6, "parallel_count": 1, "capacity_mah": 16000, "c_rating": 25,
                              "chemistry": Chemistry.HIGH_VOLTAGE_POLYMER}),
        ("4s 2p of 18650 li-ion energy cells, 3.4 Ah",
         {"series_count": 4, "parallel_count": 2, "size": "18650", "capacity_mah": 3400,
          "chemistry": Chemistry.ENERGY}),
        ("3S 2,2 Ah lithium iron phosphate",
         {"series_count": 3, "capacity_mah": 2200, "chemistry": Chemistry.IRON_PHOSPHATE}),
        ("1S 300", {"series_count": 1, "capacity_mah": 300}),
        ("10 000 mAh 6S, 1.3 kg", {"series_count": 6, "capacity_mah": 10000, "mass_g": 1300}),
        ("21700", {"size": "21700"}),
        ("3S 21700 mAh", {"series_count": 3, "capacity_mah": 21700}),
    ],
)  # fmt: skip
def test_a_battery_is_read_as_people_write_it(text: str, found: dict[str, Any]) -> None:
    said = read_description(text).model_dump()
    told = {name: value for name, value in said.items() if value not in (None, "")}
    assert told == pytest.approx(found)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("blue", "“blue” is not understood here"),
        ("4S 45 mAhh", "“45 mAhh” is not understood here: give it a unit"),
        ("12", "“12” is not understood here: give it a unit"),
        ("4S 6S 850", "“6S” is the second of its kind"),
        ("", "names no battery"),
        ("of the", "names no battery"),
        ("21700 8000 mAh", "8\u202f000 mAh is more than one 21700 holds"),
        ("4S 2P 850 mAh", "Cells in parallel need the cells' size"),
        ("2P of 18650", "Say how many stand in series"),
        ("21700 polymer", "polymer comes in pouches"),
        ("40S 850", "at most 20"),
        ("4S 850 @", "“@” is not understood"),
        ("x" * 300, "too long"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_a_sentence(text: str, says: str) -> None:
    with pytest.raises(DocumentError, match=re.escape(says)):
        read_description(text)


@given(
    st.builds(
        Description,
        size=st.sampled_from(["", "18650", "21700"]),
        series_count=st.integers(1, 20),
        capacity_mah=st.integers(60, 3500).map(float),
        mass_g=st.none() | st.integers(2, 900).map(float),
        current_a=st.none() | st.integers(1, 200).map(float),
        resistance_mohm=st.none() | st.integers(1, 300).map(float),
    )
)
def test_what_was_understood_is_read_again_as_the_same(said: Description) -> None:
    assert read_description(said.words) == said


def test_open_gaps_are_usual_and_marked_as_estimates() -> None:
    craft = begun().craft
    assert {"parts", "rotors.diameter_mm", "rotors.count", "motor.kv_rpm_per_v", "loads"} <= set(craft.estimates)
    told = begun(rotor_count=4, propeller_mm=127.0, mass_g=330.0).craft
    assert not {"parts", "rotors.diameter_mm", "rotors.count"} & set(told.estimates)
    assert told.is_estimate("motor.kv_rpm_per_v")
    assert told.dry_mass_g == 330


def test_a_told_value_is_no_estimate_any_more() -> None:
    craft = begun().craft
    assert craft.is_estimate("parts.0.mass_g")
    assert not craft.told("parts.0.mass_g").is_estimate("parts.0.mass_g")
    assert not craft.told("motor").is_estimate("motor.kv_rpm_per_v")
    assert craft.told("notes") is craft


def test_the_battery_flown_now_is_kept_as_a_pack_beside_the_one_wanted() -> None:
    made = begun(
        name="Sandpiper",
        propeller_mm=127.0,
        mass_g=330.0,
        battery=POLYMER,
        onto=read_description("21700 4200 mAh 45 A"),
    )
    assert [design.name for design in made.designs] == [
        "Sandpiper, 4S 1P of 21700 4200 power", "Sandpiper, 4S 850 polymer",
    ]  # fmt: skip
    wanted, flown = made.cells
    assert wanted.form_factor is FormFactor.C21700
    assert (flown.whole_pack, flown.cells_in_series, flown.ocv_family) == (True, 4, OcvFamily.POLYMER)
    assert flown.source_of("capacity_mah")[0] is SourceKind.MAKERS_SHEET
    assert flown.source_of("mass_g")[0] is SourceKind.ESTIMATE
    assert {design.craft_id for design in made.designs} == {made.craft.id}


def test_a_cell_of_the_workspace_is_taken_and_not_made_again() -> None:
    cell = read_cell("21700 4200 mAh 70 g 45 A 15 mΩ")
    made = make(Beginning(propeller_mm=254.0, onto_cell_id=cell.id), slug, {cell.id: cell})
    assert made.cells == ()
    assert made.complete.pack.cell == cell


def read_cell(text: str) -> CellType:
    return cell_type_of(read_description(text), "own", "Own cell")


def test_a_known_flight_is_met() -> None:
    """The craft as made, on the battery it flies now, flies as long as it was said to, to the charge put back."""
    made = begun(propeller_mm=254.0, mass_g=1150.0, battery=read_description("4S 5200 mAh polymer, 505 g"),
                 flown_min=21.0, charge_mah=4160.0, purpose=Purpose.LEGS)  # fmt: skip
    (flight,) = made.craft.known_flights
    assert (flight.manner, flight.charge_used_mah, flight.charge_guessed) == (Manner.LEVEL, 4160, False)
    found = answer(made.complete)
    used = float(found.series.charge_used_mah[-1])
    assert found.duration_s / 60 * 4160 / used == pytest.approx(21.0, rel=0.06)


def test_minutes_alone_are_a_guess_of_the_charge_and_known_less_well() -> None:
    gaps = {"propeller_mm": 254.0, "mass_g": 1150.0, "battery": POLYMER.changed(capacity_mah=5200.0), "flown_min": 21.0,
            "purpose": Purpose.LEGS}  # fmt: skip
    guessed, told = begun(**gaps).complete, begun(**gaps, charge_mah=4160.0).complete
    assert guessed.craft.known_flights[0].charge_guessed
    assert guessed.craft.known_flights[0].charge_used_mah == told.craft.known_flights[0].charge_used_mah == 4160

    def width(complete: Any) -> float:
        low, high = spread(complete, answer(complete)).duration_s
        return high - low

    assert width(guessed) > 1.5 * width(told)


def test_with_the_battery_in_it_the_battery_is_taken_off() -> None:
    craft = begun(mass_g=500.0, with_battery=True, battery=read_description("4S 1300 mAh polymer 150 g")).craft
    assert craft.dry_mass_g == 350
    with pytest.raises(DocumentError, match="the battery alone weighs 150 g") as refused:
        begun(mass_g=120.0, with_battery=True, battery=read_description("4S 1300 mAh polymer 150 g"))
    assert refused.value.path == "mass_g"


@pytest.mark.parametrize(
    ("gaps", "says"),
    [
        ({"purpose": Purpose.GLIDE}, "A craft on rotors is not for gliding"),
        ({"span_mm": 1900.0, "purpose": Purpose.HOVER}, "A craft on a wing is not for hovering"),
        ({"rotor_count": 5, "arranged": Arranged.COAXIAL}, "do not make coaxial pairs"),
        ({"span_mm": 1900.0, "arranged": Arranged.DUCTED}, "do not stand in pairs or ducts"),
        ({"battery": POLYMER, "charge_mah": 1200.0}, "were put back into a battery of 850 mAh"),
        ({"propeller_mm": 5.0}, "must be at least 20"),
    ],
)
def test_what_cannot_be_true_together_is_a_sentence(gaps: dict[str, Any], says: str) -> None:
    with pytest.raises(DocumentError, match=re.escape(says)):
        Beginning.from_data(gaps)


@pytest.mark.parametrize("usual", USUAL, ids=[usual.words for usual in USUAL])
def test_every_usual_craft_flies_as_it_is(usual: Any) -> None:
    """It lands by its rule, with thrust to spare, and the minutes are within what such craft do."""
    made = make(usual.said, slug, {})
    found = answer(made.complete)
    assert found.reason.ending.value <= 1, found.reason.words
    assert 2 < found.duration_s / 60 < 240
    assert found.early_punch.thrust_margin > 1.5
    assert made.purpose in offered(usual.said)


@pytest.mark.parametrize("purpose", list(Purpose))
def test_every_purpose_has_a_mission_that_fits_the_craft(purpose: Purpose) -> None:
    gaps: dict[str, Any] = {"purpose": purpose}
    if purpose is Purpose.GLIDE:
        gaps["carried"] = Carried.WING
    made = begun(**gaps)
    assert made.mission.craft_id == made.craft.id
    assert answer(made.complete).duration_s > 60


def test_ducts_help_the_hover_and_drag_in_the_wind() -> None:
    """In the hover the shaft's power goes as one over the root of the area (momentum theory)."""
    plain, ducted = (
        rotor_propulsion(begun(propeller_mm=65.0, mass_g=70.0, arranged=arranged).craft, 0.0, 15.0, 1.0)
        for arranged in (Arranged.SINGLE, Arranged.DUCTED)
    )
    assert ducted.area_m2 / plain.area_m2 == pytest.approx(DUCTED_AREA)
    assert ducted.drag_area_m2 / plain.drag_area_m2 == pytest.approx(DUCT_DRAG)
    weight, still = np.array([0.8]), np.zeros(1)
    hover = [float(one.power(weight, still, still)[0][0]) for one in (plain, ducted)]
    fast = [float(one.power(weight, still + 15, still)[0][0]) for one in (plain, ducted)]
    assert hover[1] / hover[0] == pytest.approx(DUCTED_AREA**-0.5, rel=0.02)
    assert fast[1] > fast[0]


def test_one_bare_cell_has_no_strip() -> None:
    made = begun(propeller_mm=40.0, mass_g=40.0, battery=read_description("1S 1P of 18350, 1100 mAh"))
    build = answer(made.complete).packs[0].build
    strips = [entry for entry in build.masses if "strip" in entry.name.lower()]
    assert sum(entry.mass_g for entry in strips) == 0


def test_each_gap_that_is_filled_narrows_the_share_of_the_range() -> None:
    said = Beginning(
        rotor_count=4, propeller_mm=254.0, mass_g=1150.0, battery=read_description("4S 5200 mAh polymer, 505 g"),
        flown_min=21.0, charge_mah=4160.0, purpose=Purpose.LEGS,
    )  # fmt: skip
    rows = narrowing(said, {})
    assert [row.gap for row in rows] == ["", "rotor_count", "propeller_mm", "mass_g", "battery", "flown_min",
                                         "charge_mah", "purpose"]  # fmt: skip
    shares = [(row.high_s - row.low_s) / row.duration_s for row in rows]
    assert all(later <= earlier * 1.1 for earlier, later in pairwise(shares))
    assert shares[-1] < shares[0] / 3


def test_a_known_flight_that_cannot_be_is_told_at_its_field() -> None:
    made = begun(propeller_mm=127.0, mass_g=330.0, battery=POLYMER, flown_min=9000.0)
    with pytest.raises(DocumentError, match="idling motors and other loads") as refused:
        answer(made.complete)
    assert refused.value.path.startswith("known_flights")


def test_motors_are_as_strong_as_the_flight_it_makes_now() -> None:
    """A craft that takes half as much more than its class still has thrust to spare: it flies."""
    gaps = {"rotor_count": 8, "arranged": Arranged.COAXIAL, "propeller_mm": 457.0, "mass_g": 5000.0,
            "battery": read_description("6S 16000 mAh polymer 2000 g"), "flown_min": 14.0}  # fmt: skip
    made = begun(**gaps)
    calibration = calibrate(made.craft)
    assert calibration is not None
    assert calibration.factor > 1.2
    assert answer(made.complete).late_punch.thrust_margin > 1.5


@pytest.mark.parametrize(
    ("words", "grams"), [("18650 3500 mAh", 48), ("18650 2500 mAh 30 A", 45), ("21700 5000 mAh", 69)]
)
def test_a_cylinder_weighs_what_its_size_and_its_charge_ask_for(words: str, grams: float) -> None:
    """Usual masses of the class: 45 to 49 g and 66 to 70 g. No claim of an estimate may be one that cannot be."""
    cell = cell_type_of(read_description(words), "x", "x", series=1)
    assert cell.mass_g == pytest.approx(grams, abs=1.5)
    assert all(claim.verdict is Verdict.HOLDS for claim in sheet_claims(cell) if claim.title == "Energy for its mass")
