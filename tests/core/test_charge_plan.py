"""The charge of a pack, planned: current within every rating, mode, times, cautions."""

from __future__ import annotations

import math

import pytest

from tests.builders import beside, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.core.answer import Severity, answer
from wise_cellar.core.charge import ChargePlan, about, charge_plan, cooling_s, planned
from wise_cellar.core.documents import (
    Charger,
    ChargeWish,
    CompleteDesign,
    PackRecipe,
    replaced,
)
from wise_cellar.core.pack import build_pack

CELL = cell_type(charge_current_a=4.0)
DESIGN = complete(cell=CELL, flown=mission(cruise(600)))
BIG = Charger(current_a=40, power_w=2000)


def plan(design: CompleteDesign = DESIGN, charger: Charger = BIG, **wish: object) -> ChargePlan:
    asked = design.design.model_copy(update={"charger": charger, "charge": ChargeWish(**wish)})
    there = design.model_copy(update={"design": asked})
    return charge_plan(there, answer(there))


def cautions(found: ChargePlan, severity: Severity | None = None) -> str:
    return " ".join(c.sentence for c in found.cautions if severity in (None, c.severity))


def test_the_least_of_all_ratings_governs() -> None:
    """Three cells of 4.5 Ah that may take 4 A each; every limit in turn is made the least."""
    assert plan().current_a == pytest.approx(12.0)
    assert "the cell's charge current" in plan().governed
    assert plan(charger=Charger(current_a=6, power_w=2000)).current_a == 6
    assert plan(most_c_rate=0.5).current_a == pytest.approx(0.5 * 13.5)
    assert plan(first_charge=True).current_a == pytest.approx(13.5 / 5)
    quick = replaced(DESIGN, "cells.0.charge_current_a", 9.0)
    assert plan(quick).current_a == pytest.approx(13.5), "1C is the usual most"
    assert plan(quick, most_c_rate=2).current_a == pytest.approx(27.0), "until another wish is told"
    thin = replaced(DESIGN, "design.packs.0.recipe.leads.gauge_awg", 26)
    assert plan(thin).current_a < 12
    assert plan(thin).limits[0].name == "lead, 26 AWG"
    assert plan(thin).limits[0].field == "design.packs.0.recipe.leads.gauge_awg"


def test_a_missing_charge_current_is_estimated_and_told() -> None:
    silent = replaced(DESIGN, "cells.0.charge_current_a", None)
    found = plan(silent)
    assert found.current_a == pytest.approx(13.5 / 2)
    assert found.limits[0].estimate
    assert "tells no charge current: half of 1C is taken" in cautions(found)
    assert "tells no charge current" not in cautions(plan())


def test_it_starts_where_the_flight_ends_or_where_it_is_told_to() -> None:
    landed = answer(DESIGN).packs[0]
    assert plan().start_soc == landed.charge_left
    assert plan().charged.charge_c == pytest.approx((plan().charged.soc[-1] - landed.charge_left) * 13500 * 3.6)
    assert plan(start="a given charge", start_percent=35).start_soc == 0.35
    fuller, emptier = (plan(start="a given charge", start_percent=p).charged.seconds for p in (60, 20))
    assert fuller < emptier


def test_the_mode_is_that_of_the_family_and_the_volts() -> None:
    assert plan().mode == "lithium-ion, 4.20 V a cell"
    assert plan().settings()[-1] == ("Ends at", "4.20 V a cell, 16.80 V in all")
    for family, full, mode in (
        ("lipo_hobby", 4.2, "lithium polymer, 4.20 V a cell"),
        ("lihv_hobby", 4.35, "high-voltage polymer, 4.35 V a cell"),
        ("lfp", 3.6, "iron phosphate, 3.60 V a cell"),
    ):
        pack = whole_pack(ocv_family=family, max_voltage_v=full, min_voltage_v=2.5, charge_current_a=3.8)
        assert plan(complete(cell=pack, series_count=4, parallel_count=1), start="a given charge").mode == mode


def test_storage_charges_up_or_drains_down() -> None:
    up = plan(goal="storage", start="a given charge", start_percent=10)
    down = plan(goal="storage", start="a given charge", start_percent=95)
    assert (up.drains, down.drains) == (False, True)
    assert up.end_v == down.end_v == up.storage_v
    assert 3.5 < up.storage_v < 3.9
    assert down.supply_wh == 0
    assert "are taken out" in down.sentences()[0]
    assert dict(down.settings())["Do"] == "Discharge, for storage"


def test_the_supply_gives_what_the_charger_loses_too() -> None:
    half = plan(charger=BIG.model_copy(update={"efficiency": 0.5}))
    assert half.supply_wh == pytest.approx(half.charged.energy_j / 3600 / 0.5)
    assert plan(charger=BIG.model_copy(update={"balance_a": 0.1})).balance_s == pytest.approx(0.01 * 13500 * 3.6 / 0.1)


def test_cold_and_heat_are_over_a_limit() -> None:
    assert "lithium plates out" in cautions(plan(temperature_c=2), Severity.OVER)
    assert "do not charge; 45 °C is the most" in cautions(plan(temperature_c=48), Severity.OVER)
    assert cautions(plan(temperature_c=20), Severity.OVER) == ""
    assert plan(temperature_c=2).charged.done, "a limit is told, and it still computes"


def test_a_warm_pack_waits_as_the_law_of_cooling_has_it() -> None:
    build = build_pack(DESIGN.pack.recipe, CELL)
    pack = DESIGN.packs[0]
    heat = 12 * 0.070 * 950
    tau = heat / (8.0 * build.outer_area_m2)
    assert cooling_s(pack, build, 55, 40, 20) == pytest.approx(tau * math.log(35 / 20))
    assert cooling_s(pack, build, 35, 40, 20) == 0
    assert cooling_s(pack, build, 55, 40, 41) == math.inf
    hard = complete(cell=CELL, carrier=craft(parts=({"name": "airframe", "mass_g": 3400},)), parallel_count=1)
    warm = plan(hard)
    landed = float(answer(hard).packs[0].series.temperature_c[-1])
    assert landed > 45
    assert warm.wait_s > 60
    assert f"It lands at {landed:.0f} °C" in cautions(warm)
    assert warm.charged.temperature_c[0] == pytest.approx(40)


def test_first_charge_supervision_and_balance_are_told_where_they_belong() -> None:
    assert "First charge after building" in cautions(plan(first_charge=True))
    assert "First charge" not in cautions(plan())
    assert "Stay with it" in cautions(plan())
    assert "Without a balance lead" in cautions(plan(replaced(DESIGN, "design.packs.0.recipe.balance.fitted", False)))


def test_a_pack_below_empty_is_not_charged_as_if_nothing_were() -> None:
    pack, build = DESIGN.packs[0], build_pack(DESIGN.pack.recipe, CELL)
    below, at = (planned(pack, build, BIG, ChargeWish(), soc, 20.0, 4.2) for soc in (-0.02, 0.0))
    assert "It is below empty: do not charge it at this current" in cautions(below, Severity.OVER)
    assert "below empty" not in cautions(at)
    assert below.charged.done, "it is told, and it still computes"


def test_packs_of_one_bus_are_charged_apart_and_to_the_lower_voltage() -> None:
    high = whole_pack(id="high", max_voltage_v=4.35, ocv_family="lihv_hobby", charge_current_a=3.8)
    own = {"name": "own battery", "own": True, "recipe": PackRecipe(series_count=2), "start_charge_percent": 88}
    both = beside(complete(cell=CELL, series_count=2, parallel_count=1), (high, own))
    told = plan(both, pack=1)
    assert told.pack.name == "Own battery"
    assert told.mode == "lithium polymer, 4.20 V a cell"
    assert "Charge the own battery by itself, off the bus" in cautions(told)
    assert "would take 4.35 V a cell" in cautions(told)
    assert told.charged.soc[-1] < 0.9
    assert plan(both, pack=4).pack.name == "Auxiliary", "a pack that is not there means the first"


def test_times_are_told_as_one_plans_with_them() -> None:
    assert [about(s) for s in (48, 3700, 11400)] == ["48 s", "62 min", "3 h 10 min"]
