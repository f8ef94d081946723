"""Whether a pack is fit to be built: each mistake is told once, where it is made, and a sound pack is not scolded."""

from __future__ import annotations

import pytest

from tests import judgement
from tests.builders import beside, cell_type, complete, cruise, mission, whole_pack
from wise_cellar.core.answer import Finding, Severity, answer
from wise_cellar.core.cells import electrical
from wise_cellar.core.documents import (
    BalanceLead,
    CellType,
    CompleteDesign,
    Conditions,
    Fittings,
    Joint,
    PackState,
    Strip,
    UnlikeGroup,
    Welder,
    value_at,
)
from wise_cellar.core.extend import fuse_sentences
from wise_cellar.core.pack import build_pack
from wise_cellar.core.pack.cautions import joining_advice
from wise_cellar.demo import complete_sample


def pouch(**changes: object) -> CellType:
    values = {"id": "pouch", "form_factor": "pouch", "diameter_mm": None, "width_mm": 43, "thickness_mm": 8.4,
              "length_mm": 132, "mass_g": 108, "kinetic_class": "polymer pouch", "ocv_family": "pouch_nmc"}  # fmt: skip
    return cell_type(**(values | changes))


def told(design: CompleteDesign, words: str) -> Finding | None:
    found = [one for one in answer(design).findings if words in one.sentence]
    assert len(found) <= 1, "once is enough"
    if found:
        value_at(design, found[0].field)
    return found[0] if found else None


COPPER = Strip(metal="copper", thickness_mm=0.3)


@pytest.mark.parametrize(
    ("recipe", "cell", "words", "severity", "field"),
    [
        ({"strip": Strip(width_mm=12)}, cell_type(), "12 mm wide reaches over the insulating ring", "caution",
         "strip.width_mm"),
        ({"strip": Strip(width_mm=10)}, cell_type(diameter_mm=18.4, length_mm=65.2, form_factor="18650"),
         "9.2 mm is the most on this cell", "caution", "strip.width_mm"),
        ({"fittings": Fittings(end_sheet_mm=0)}, cell_type(), "No sheet over its faces: put", "over a limit",
         "fittings.end_sheet_mm"),
        ({"fittings": Fittings(shrink_mm=0)}, cell_type(), "No sleeve: put", "over a limit", "fittings.shrink_mm"),
        ({"fittings": Fittings(shrink_mm=0, end_sheet_mm=0)}, cell_type(), "No sheet over its faces and no sleeve",
         "over a limit", "fittings.end_sheet_mm"),
        ({"balance": BalanceLead(fitted=False)}, cell_type(), "No balance lead on 4 in series", "over a limit",
         "balance.fitted"),
        ({"strip": Strip(thickness_mm=0.3)}, cell_type(), "does not weld nickel of 0.3 mm through", "caution",
         "strip.thickness_mm"),
        ({"strip": COPPER}, cell_type(), "does not hold bare copper to a can", "over a limit", "welder"),
        ({"strip": COPPER, "joint": Joint.SOLDERED}, cell_type(), "Copper of 0.3 mm draws the heat", "caution",
         "strip.thickness_mm"),
        ({"strip": Strip(underlay="copper strip", underlay_thickness_mm=0.5), "joint": Joint.SOLDERED}, cell_type(),
         "Copper of 0.5 mm draws the heat", "caution", "strip.underlay_thickness_mm"),
        ({}, pouch(), "burns through a pouch's tabs", "over a limit", "joint"),
        ({"joint": Joint.SPRING_HOLDER}, pouch(), "Springs press on a pouch", "over a limit", "joint"),
        ({"joint": Joint.SOLDERED}, pouch(), "never on its face", "caution", "joint"),
    ],
)  # fmt: skip
def test_what_is_not_fit_to_be_built_is_told(
    recipe: dict[str, object], cell: CellType, words: str, severity: str, field: str
) -> None:
    found = told(complete(cell=cell, **recipe), words)
    assert found is not None
    assert (str(found.severity), found.field) == (severity, f"design.packs.0.recipe.{field}")


@pytest.mark.parametrize(
    ("recipe", "cell", "words"),
    [
        ({"strip": Strip(width_mm=10)}, cell_type(), "insulating ring"),
        ({"strip": Strip(thickness_mm=0.3), "welder": Welder.STRONG}, cell_type(), "welder"),
        ({"strip": COPPER, "welder": Welder.STRONG}, cell_type(), "welder"),
        ({"strip": Strip(thickness_mm=0.2, layers=3)}, cell_type(), "welder"),
        ({"strip": Strip(metal="copper", thickness_mm=0.1), "joint": Joint.SOLDERED}, cell_type(), "draws the heat"),
        ({"balance": BalanceLead(fitted=False), "series_count": 1}, cell_type(), "balance lead"),
        ({"fittings": Fittings(shrink_mm=0, end_sheet_mm=0), "series_count": 2}, whole_pack(), "No sheet"),
    ],
)
def test_what_is_fit_is_not_scolded(recipe: dict[str, object], cell: CellType, words: str) -> None:
    assert told(complete(cell=cell, **recipe), words) is None


def test_groups_of_another_age_or_charge_are_told() -> None:
    aged = PackState(groups=(UnlikeGroup(group=3, capacity_percent=74), UnlikeGroup(group=1, capacity_percent=74)))
    found = told(complete(state=aged), "less capacity than the others")
    assert found is not None
    assert found.sentence.startswith("Groups 1 and 3 have")
    uneven = PackState(groups=(UnlikeGroup(group=2, start_charge_percent=90),))
    assert told(complete(state=uneven), "between 90 and 100 % of charge: balance them") is not None
    alike = PackState(groups=(UnlikeGroup(group=2, capacity_percent=98, start_charge_percent=99),))
    assert told(complete(state=alike), "balance them") is None
    assert told(complete(state=alike), "less capacity") is None


# Advice at the bench


def advice(design: CompleteDesign) -> str:
    return " ".join(one.sentence for one in joining_advice(build_pack(design.pack.recipe, design.pack.cell)))


def test_joining_is_advised_with_the_numbers_of_the_cell_at_hand() -> None:
    """0.6 V through twice the ohmic resistance of a cell."""
    amps = 0.6 / (2 * electrical(cell_type())["r0_ohm"])
    assert f"0.6 V apart drive {amps:.0f} A through each other" in advice(complete())
    assert "drive" not in advice(complete(parallel_count=1))
    assert "insulating ring on every positive end before any strip" in advice(complete())
    assert "ring" not in advice(complete(cell=pouch()))
    assert "pull one test joint" in advice(complete(strip=Strip(layers=2)))
    assert "pull one test joint" not in advice(complete(strip=Strip(layers=1)))
    assert "flow in two seconds, stop" in advice(complete(joint=Joint.SOLDERED))
    assert advice(complete(cell=whole_pack(), series_count=2)).startswith("A pack bought whole is not opened")


# Fuses


def test_every_auxiliary_is_told_a_fuse_that_its_flight_does_not_open() -> None:
    design = complete_sample("dunlin-extended")
    bare = design.with_pack(recipe=design.pack.recipe.changed(leads=design.pack.recipe.leads.changed(fuse_a=None)))
    found = answer(bare)
    sentence = fuse_sentences(found)[0]
    assert "Give the auxiliary a fuse of its own at its positive end:" in sentence
    amps = float(sentence.split("end: ")[1].split(" A")[0])
    fused = bare.with_pack(recipe=bare.pack.recipe.changed(leads=bare.pack.recipe.leads.changed(fuse_a=amps)))
    link = next(one for one in answer(fused).links if "fuse" in one.name)
    assert 0.4 < link.worst_share <= 0.92, "clear of opening, and not much too large"
    assert fuse_sentences(answer(fused))[0].startswith(f"Auxiliary has a fuse of {amps:g} A.")
    large = bare.with_pack(recipe=bare.pack.recipe.changed(leads=bare.pack.recipe.leads.changed(fuse_a=100)))
    assert f"; {amps:g} A are enough" in fuse_sentences(answer(large))[0]
    assert "opens it only after a while" in fuse_sentences(answer(large))[0]
    assert fuse_sentences(answer(complete())) == []


def test_packs_of_two_equals_are_each_told_theirs() -> None:
    both = beside(complete(flown=mission(cruise())), (cell_type(id="other"), {}))
    assert len(fuse_sentences(answer(both))) == 2


# Throttle that is held


def test_a_held_throttle_spares_what_bursts_take() -> None:
    free, held = (answer(complete(conditions=Conditions(throttle_percent=share))) for share in (100, 70))
    assert held.currents.punch_a < 0.6 * free.currents.punch_a
    assert held.late_punch.thrust_margin < 0.75 * free.late_punch.thrust_margin
    assert held.duration_s == pytest.approx(free.duration_s), "nothing in level flight is held back"
    assert held.currents.cruise_a == pytest.approx(free.currents.cruise_a)


def test_findings_name_their_severity() -> None:
    assert told(complete(balance=BalanceLead(fitted=False)), "No balance lead").severity is Severity.OVER  # type: ignore[union-attr]


def test_the_list_of_rules_is_made_from_the_code() -> None:
    """``script/make-judgement`` writes it."""
    assert judgement.FILE.read_text(encoding="utf-8") == judgement.text()
