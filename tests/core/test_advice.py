"""What is worth changing: every proposal is flown, and says what the same design by itself says."""

from __future__ import annotations

import pytest

from tests.builders import PUNCH, TAKE_OFF, cell_type, complete, craft, cruise, mission, whole_pack
from wise_cellar.core.advice import CELLS, PackStudy, Target, proposals, study_pack
from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.documents import (
    Bay,
    CompleteDesign,
    ConnectorClass,
    Joint,
    LeadExit,
    Leads,
    PackRecipe,
    Strip,
    replaced,
)
from wise_cellar.core.flight import fly
from wise_cellar.core.lowering.designs import lower, lower_one

FLOWN = mission(TAKE_OFF, cruise(300), PUNCH, cruise())


def design(**recipe: object) -> CompleteDesign:
    return complete(flown=FLOWN, **recipe)


def studied(of: CompleteDesign) -> tuple[PackStudy, Answer]:
    found = answer(of)
    return study_pack(of, found), found


THIN = design(strip=Strip(layers=1))


def test_the_smallest_change_clears_the_weakest_link_and_keeps_its_promise() -> None:
    study, found = studied(THIN)
    assert found.weak_link.name.startswith("Strips")
    assert found.weak_link.worst_share > 0.85
    cure = study.cure
    assert cure is not None
    assert cure.before == pytest.approx(found.weak_link.worst_share)
    assert cure.after <= 0.85
    taken = answer(replaced(THIN, "design.packs.0.recipe", cure.proposal.recipe))
    assert taken.takeoff_mass_g - found.takeoff_mass_g == pytest.approx(cure.added_g)
    assert taken.duration_s - found.duration_s == pytest.approx(cure.gain_s, abs=1e-6)
    strips = max(link.worst_share for link in taken.links if link.name.startswith("Strip"))
    assert strips == pytest.approx(cure.after)


def test_no_lighter_proposal_would_have_cleared_it() -> None:
    study, found = studied(THIN)
    assert study.cure is not None
    for proposal in proposals(THIN.pack.recipe, found):
        if proposal.target is Target.LINK and proposal.link == found.weak_link.name:
            taken = answer(replaced(THIN, "design.packs.0.recipe", proposal.recipe))
            lighter = taken.takeoff_mass_g < found.takeoff_mass_g + study.cure.added_g - 1e-6
            strips = max(link.worst_share for link in taken.links if link.name.startswith("Strip"))
            assert not (lighter and strips <= 0.85), proposal.words


def test_a_fold_gets_layers_on_its_own_link() -> None:
    """12S in bands: only the links at the folds carry all on one strip; they are named and reinforced alone."""
    folded = complete(
        flown=FLOWN, carrier=craft(max_takeoff_mass_g=None), series_count=8, parallel_count=2, bands=2,
        strip=Strip(layers=2),
    )  # fmt: skip
    found = answer(folded)
    assert found.weak_link.name == "Strip 4–5"
    words = [p.words for p in proposals(folded.pack.recipe, found)]
    assert "Third strip layer on link 4" in words
    more = next(p for p in proposals(folded.pack.recipe, found) if p.words == "Fourth strip layer on link 4")
    assert more.recipe.layers_at(4) == 4
    assert more.recipe.layers_at(3) == 2


@pytest.mark.parametrize(
    ("recipe", "word"),
    [
        ({"leads": Leads(gauge_awg=18, connector="90 A class")}, "Leads of"),
        ({"leads": Leads(gauge_awg=10, connector=ConnectorClass.SMALL)}, "Connector of the"),
    ],
)
def test_thin_leads_and_small_connectors_are_cured_by_larger_ones(recipe: dict[str, object], word: str) -> None:
    study, found = studied(design(**recipe))
    assert found.weak_link.worst_share > 1
    assert study.cure is not None
    assert study.cure.proposal.words.startswith(word)
    assert study.cure.after < study.cure.before


def test_weak_cells_are_cured_by_more_of_them_where_the_mass_allows() -> None:
    weak = cell_type(continuous_current_a=25, pulse_current_a=45)
    leads = Leads(gauge_awg=8, connector="90 A class")
    free = complete(cell=weak, flown=FLOWN, parallel_count=2, leads=leads, strip=Strip(layers=5))
    study, found = studied(free)
    assert found.weak_link.name == "Cell"
    assert study.cure is not None
    assert "cells in parallel" in study.cure.proposal.words
    limited = complete(
        cell=weak, flown=FLOWN, carrier=craft(max_takeoff_mass_g=found.takeoff_mass_g + 1), parallel_count=2
    )
    assert studied(limited)[0].cure is None, "a change past another limit is no cure"


def test_what_a_link_costs_is_the_flight_without_it() -> None:
    of = design()
    study, found = studied(of)
    assert set(study.lost_s) == {CELLS, *(entry.name for entry in found.build.resistances)}
    assert study.lost_s[CELLS] > study.lost_s["Leads"] > study.lost_s["Joints"] > 0
    batch = lower([lower_one(of, found.factor)])
    leads = next(entry.ohm for entry in found.build.resistances if entry.name == "Leads")
    batch.wiring_ohm[0] -= leads
    assert study.lost_s["Leads"] == pytest.approx(float(fly(batch).lasted_s[0]) - found.duration_s)


def test_what_is_worth_it_gains_time_or_saves_mass_and_harms_no_link() -> None:
    study, found = studied(design(leads=Leads(gauge_awg=12, length_mm=1200, connector="90 A class")))
    assert study.worth
    for outcome in study.worth:
        gains_time = outcome.gain_s >= 0.005 * found.duration_s
        assert gains_time or (outcome.added_g <= -0.005 * found.takeoff_mass_g and outcome.gain_s >= 0)
        taken = answer(replaced(design(), "design.packs.0.recipe", outcome.proposal.recipe))
        over = {link.kind for link in found.links if link.worst_share > 1}
        assert {link.kind for link in taken.links if link.worst_share > 1} <= over
    gains = [outcome.gain_s for outcome in study.worth]
    assert gains == sorted(gains, reverse=True)
    assert any(outcome.proposal.words == "Leads of 600 mm, if they still reach" for outcome in study.worth)


def test_springs_are_told_what_welds_would_bring() -> None:
    held = complete(flown=FLOWN, series_count=2, parallel_count=1, joint=Joint.SPRING_HOLDER)
    words = [p.words for p in proposals(held.pack.recipe, answer(held))]
    assert "Spot-welded strips instead of springs" in words
    assert not any("Copper" in each for each in words), "nothing is welded to a spring"


def test_a_recipe_is_never_proposed_twice_nor_to_itself() -> None:
    found = answer(THIN)
    recipes: list[PackRecipe] = [p.recipe for p in proposals(THIN.pack.recipe, found)]
    assert len(recipes) == len(set(recipes))
    assert THIN.pack.recipe not in recipes
    exits = {recipe.leads.exit for recipe in recipes}
    assert exits == set(LeadExit)


def test_a_pack_bought_whole_is_only_told_about_its_plug_and_leads() -> None:
    bought = complete(cell=whole_pack(), flown=FLOWN, series_count=2, parallel_count=2)
    study, _ = studied(bought)
    words = {o.proposal.words for o in study.worth} | ({study.cure.proposal.words} if study.cure else set())
    assert not any("strip" in each.lower() or "weld" in each for each in words)
    assert study.alternatives == ()
    assert set(study.lost_s) == {CELLS, "Connector", "Adaptor leads"}


def test_a_bay_that_takes_nothing_names_what_would_fit() -> None:
    small = complete(flown=FLOWN, carrier=craft(bay=Bay(length_mm=100, width_mm=45, height_mm=75)))
    study, _ = studied(small)
    assert study.largest is not None
    assert (study.largest.recipe.series_count, study.largest.recipe.parallel_count) == (4, 2)
