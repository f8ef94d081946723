"""Documents: validated, frozen, changed by path, refused with a sentence."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import LANDING, PUNCH, cell_type, complete, craft, cruise
from wise_cellar.core.documents import (
    Block,
    CompleteDesign,
    DocumentError,
    KineticClass,
    LandingClass,
    LandingPolicy,
    LandingRule,
    Leads,
    Mission,
    PackRecipe,
    Part,
    Strip,
    field_info,
    parse_counts,
    replaced,
    value_at,
)


def test_dry_mass_is_the_sum_of_the_parts() -> None:
    assert craft(parts=(Part(name="a", mass_g=12.5), Part(name="b", mass_g=30))).dry_mass_g == 42.5


def test_documents_are_frozen_and_equal_by_content() -> None:
    assert complete() == complete()
    assert hash(complete()) == hash(complete())
    with pytest.raises(ValueError, match="frozen"):
        PackRecipe().series_count = 5  # type: ignore[misc]


@given(
    st.builds(
        PackRecipe,
        series_count=st.integers(1, 20),
        parallel_count=st.integers(1, 12),
        strip=st.builds(Strip, width_mm=st.floats(1, 60), thickness_mm=st.floats(0.03, 3), layers=st.integers(1, 6)),
        leads=st.builds(Leads, gauge_awg=st.integers(0, 30), length_mm=st.floats(5, 2000)),
    )
)
def test_json_round_trip_keeps_every_value(recipe: PackRecipe) -> None:
    assert PackRecipe.from_json(recipe.to_json()) == recipe


def test_a_field_is_read_and_replaced_by_its_path() -> None:
    before = complete()
    after = replaced(before, "craft.parts.1.mass_g", 500)
    assert value_at(after, "craft.parts.1.mass_g") == 500
    assert value_at(before, "craft.parts.1.mass_g") == 450, "the given document is untouched"
    assert after.design == before.design
    with pytest.raises(KeyError):
        value_at(before, "craft.parts.9.mass_g")


def test_a_list_is_replaced_whole() -> None:
    after = replaced(complete(), "craft.parts", (Part(name="all", mass_g=1000),))
    assert after.craft.dry_mass_g == 1000


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        ("design.packs.0.recipe.parallel_count", 41,
         "Cells in parallel must be at most 40; 41 is not."),
        ("design.packs.0.recipe.parallel_count", 2.5,
         "Cells in parallel must be a whole number; “2.5” is not."),
        ("craft.motor.kv_rpm_per_v", -920,
         "Motor speed constant must be at least 50\u00a0rpm/V;"
         " −920\u00a0rpm/V is not."),
        ("craft.parts.0.mass_g", -1,
         "Part mass (parts, row 1) must be at least 0\u00a0g; −1\u00a0g is not."),
        ("design.packs.0.recipe.joint", "glued",
         "Joint must be 'spot-welded', 'soldered' or 'held by springs'; “glued” is not."),
        ("craft.name", "  ", "Name must be some text; “” is not."),
        ("craft.parts", (), None),
        ("design.conditions.air_temperature_c", float("nan"), None),
    ],
)  # fmt: skip
def test_a_bad_change_is_refused_with_field_and_what_would_be_right(path: str, value: object, says: str | None) -> None:
    with pytest.raises(DocumentError) as refusal:
        replaced(complete(), path, value)
    assert refusal.value.path == path
    if says:
        assert str(refusal.value) == says


def test_a_pulse_rating_under_the_continuous_one_is_refused() -> None:
    with pytest.raises(DocumentError, match=r"Pulse current \(20 A\) of Fell 21-45P must be at least its continuous"):
        cell_type(pulse_current_a=20)


def test_missions_are_in_an_order_that_can_be_flown() -> None:
    def refused(*blocks: Block) -> str:
        data = {"id": "m", "name": "Transect", "blocks": [b.model_dump() for b in blocks]}
        with pytest.raises(DocumentError) as refusal:
            Mission.from_data(data)
        return str(refusal.value)

    assert "Block 2 (cruise) of mission Transect comes after a landing block" in refused(LANDING, cruise(60))
    assert "Block 1 (punch) of mission Transect needs a duration" in refused(Block(kind="punch"))
    assert "Block 2 (punch) of mission Transect is never flown, because block 1 (cruise)" in refused(cruise(), PUNCH)
    assert Mission(id="m", name="m", blocks=(cruise(60), PUNCH, cruise(), LANDING))


def test_a_wrong_file_is_named_by_line_or_field() -> None:
    with pytest.raises(DocumentError, match=r"not JSON: .* at line 1, column 2"):
        PackRecipe.from_json("{")
    body = json.loads(complete().to_json())
    body["craft"]["rotors"]["colour"] = "red"
    with pytest.raises(DocumentError, match=r"“colour” is not a field of “rotors” of a complete design"):
        CompleteDesign.from_data(body)
    del body["craft"]["rotors"]["colour"]
    del body["craft"]["motor"]["kv_rpm_per_v"]
    with pytest.raises(DocumentError, match=r"Motor speed constant is missing from “motor” of a complete design"):
        CompleteDesign.from_data(body)


def test_field_information_for_forms() -> None:
    gauge = field_info(CompleteDesign, "design.packs.0.recipe.leads.gauge_awg")
    assert (gauge.title, gauge.unit.symbol, gauge.minimum, gauge.maximum) == ("lead gauge", "AWG", 0, 30)
    assert gauge.whole
    assert not gauge.optional
    merit = field_info(CompleteDesign, "craft.rotors.figure_of_merit")
    assert merit.optional
    assert not merit.whole
    mass = field_info(CompleteDesign, "craft.parts.0.mass_g")
    assert mass.title == "part mass"
    bay = field_info(CompleteDesign, "craft.bay.length_mm")
    assert (bay.title, bay.minimum) == ("bay length", 0)
    with pytest.raises(KeyError):
        field_info(CompleteDesign, "craft.wings")


def test_every_field_that_a_form_may_show_has_words() -> None:
    for model in (PackRecipe, Strip, Leads, Mission, Block, LandingRule):
        for name, field in model.model_fields.items():
            nested = hasattr(field.annotation, "model_fields")
            assert nested or field.title, f"{model.__name__}.{name} has no title"


def test_landing_thresholds_by_family() -> None:
    rule = LandingRule(policy=LandingPolicy.GENTLE)
    assert [rule.threshold_v(kind) for kind in LandingClass] == [3.3, 3.7, 3.0]
    assert LandingRule(policy="own", own_voltage_v=3.15).threshold_v(LandingClass.POLYMER) == 3.15
    assert (rule.reserve, LandingRule(policy="own").reserve, LandingRule(basis="volts at rest").reserve) == (
        0.25, None, None,
    )  # fmt: skip
    pouch = cell_type(kinetic_class=KineticClass.POLYMER_POUCH)
    assert complete(cell=pouch).landing_voltage_v == 3.6
    assert complete(cell=pouch.changed(ocv_family="lfp")).landing_voltage_v == 2.8
    assert complete().landing_voltage_v == 3.0


def test_designs_and_craft_of_version_1_are_read() -> None:
    """Version 1 of a recipe knew series, parallel, arrangement, joint, strip and leads; its answers stay what they
    were."""
    old = complete(welds=4).model_dump(mode="json")
    (pack,) = old["design"].pop("packs")
    old["design"] |= {"recipe": pack["recipe"], "cell_type_id": pack["cell_type_id"]}
    (old["cell_type"],) = old.pop("cells")
    for part in ("design", "craft"):
        old[part]["schema_version"] = 1
    for added in (
        "tiers",
        "bands",
        "own_places",
        "welds",
        "joint_mohm",
        "more_layers",
        "balance",
        "fittings",
        "weighed_g",
    ):
        del old["design"]["recipe"][added]
    del old["craft"]["balance"], old["craft"]["alarm_names"]
    for added in ("exit", "adaptors"):
        del old["design"]["recipe"]["leads"][added]
    read = CompleteDesign.from_data(old)
    assert read == complete(welds=4)
    assert (read.design.schema_version, read.craft.schema_version) == (6, 5)


def test_what_is_named_and_not_there_is_quoted_no_longer_than_a_sentence_may_be() -> None:
    design = complete()
    data = design.model_dump(mode="json")
    data["design"]["packs"][0]["cell_type_id"] = "p" * 80
    data["cells"][0]["id"] = "q" * 80
    with pytest.raises(DocumentError) as refused:
        CompleteDesign.from_data(data)
    assert len(str(refused.value)) < 160
    assert "is made of a cell type “ppp" in str(refused.value)
    with pytest.raises(ValueError, match="is no range of cells in series") as counts:
        parse_counts("x" * 500, "cells in series", 1, 20)
    assert len(str(counts.value)) < 200
