"""Packs: where cells and strips lie, what they weigh, resist and stand."""

from __future__ import annotations

import math
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import cell_type, complete, craft, whole_pack
from wise_cellar.core.documents import (
    Arrangement,
    Bay,
    CellType,
    ConnectorClass,
    Joint,
    Leads,
    PackRecipe,
    Strip,
    StripMetal,
)
from wise_cellar.core.flight import answer
from wise_cellar.core.pack import Face, PackBuild, arrange, build_pack, chain
from wise_cellar.core.pack.ledger import CONNECTORS, JOINT_OHM

CELL = cell_type()


def recipe(series: int, parallel: int, **changes: object) -> PackRecipe:
    return PackRecipe(series_count=series, parallel_count=parallel, **changes)


def ohms(build: PackBuild, name: str) -> float:
    return next(entry.ohm for entry in build.resistances if entry.name == name)


def grams(build: PackBuild, name: str) -> float:
    return next(entry.mass_g for entry in build.masses if entry.name == name)


packs = st.builds(
    recipe, st.integers(1, 20), st.integers(1, 12), arrangement=st.sampled_from(list(Arrangement)),
    joint=st.sampled_from(list(Joint)),
)  # fmt: skip


@given(packs)
def test_cells_never_overlap_and_lie_inside_the_pack(pack: PackRecipe) -> None:
    layout = arrange(pack, CELL)
    assert len(layout.cells) == pack.series_count * pack.parallel_count
    for one, other in combinations(layout.cells, 2):
        apart = math.hypot(one.x_mm - other.x_mm, one.y_mm - other.y_mm)
        assert apart >= CELL.diameter_mm - 1e-9
    radius = CELL.diameter_mm / 2
    for cell in layout.cells:
        assert radius - 1e-9 <= cell.x_mm <= layout.length_mm - radius
        assert radius - 1e-9 <= cell.y_mm <= layout.width_mm - radius


@given(packs)
def test_every_node_lies_on_one_face_and_touches_the_right_ends(pack: PackRecipe) -> None:
    """Node n joins the positive ends of group n − 1 to the negative ends of group n."""
    layout = arrange(pack, CELL)
    at = {(round(c.x_mm, 6), round(c.y_mm, 6)): c for c in layout.cells}
    for strip in layout.strips:
        for point in (strip.start_mm, strip.end_mm):
            cell = at[round(point[0], 6), round(point[1], 6)]
            positive_here = cell.positive_up == (strip.face is Face.TOP)
            assert cell.group == (strip.node - 1 if positive_here else strip.node)


@given(packs)
def test_series_links_join_neighbours(pack: PackRecipe) -> None:
    """No strip between groups is longer than the pitch to a neighbour."""
    layout = arrange(pack, CELL)
    links = [strip for strip in layout.strips if strip.between_groups]
    expected = (pack.series_count - 1 - layout.folds) * pack.parallel_count + layout.folds
    assert len(links) == expected
    for strip in links:
        assert strip.length_mm <= 1.01 * (CELL.diameter_mm + 0.4) + (0.51 * CELL.diameter_mm if layout.folds else 0)


def test_shape_of_common_packs() -> None:
    square = arrange(recipe(4, 3), CELL)
    assert (square.bands, square.folds) == (1, 0)
    assert square.length_mm == pytest.approx(3 * 21.6 + 21.2 + 1.2)
    assert square.width_mm == pytest.approx(2 * 21.6 + 21.2 + 1.2)
    assert square.height_mm == pytest.approx(70.2 + 2 * (0.6 + 0.2))
    brick = arrange(recipe(4, 1), CELL)
    assert (brick.bands, brick.folds) == (2, 1), "four cells stand two by two"
    staggered = arrange(recipe(6, 2, arrangement=Arrangement.STAGGERED), CELL)
    assert staggered.length_mm < arrange(recipe(6, 2), CELL).length_mm
    alone = arrange(recipe(1, 1), CELL)
    assert not alone.strips


def test_the_bay_guides_the_folding() -> None:
    """6S 1P stands 3 × 2 by itself; a narrow tray asks for one row."""
    assert arrange(recipe(6, 1), CELL).bands > 1
    tray = Bay(length_mm=140, width_mm=24, height_mm=80)
    in_tray = arrange(recipe(6, 1), CELL, tray)
    assert in_tray.bands == 1
    assert in_tray.fits(tray)


def test_a_pack_fits_either_way_round() -> None:
    layout = arrange(recipe(4, 3), CELL)
    assert layout.fits(Bay(length_mm=90, width_mm=70, height_mm=75))
    assert layout.fits(Bay(length_mm=70, width_mm=90, height_mm=75))
    assert not layout.fits(Bay(length_mm=80, width_mm=80, height_mm=75))
    assert not layout.fits(Bay(length_mm=90, width_mm=70, height_mm=70))


def test_leads_leave_from_the_terminals() -> None:
    even, odd = arrange(recipe(4, 3), CELL), arrange(recipe(3, 2), CELL)
    assert even.negative_face is even.positive_face is Face.TOP
    assert (odd.negative_face, odd.positive_face) == (Face.TOP, Face.UNDERSIDE)


def test_mass_ledger_by_hand() -> None:
    """4S 3P of 70 g cells with 8 × 0.2 mm nickel in two layers: strips.

    Bars: 8 of 43.2 mm, links: 9 of 21.6 mm, each 8 mm longer for its tails: 8·51.2 + 9·29.6 = 676 mm of
    8·0.4·8.9e-3 = 0.02848 g/mm.
    """
    build = build_pack(recipe(4, 3, strip=Strip(layers=2), leads=Leads(gauge_awg=12, length_mm=160)), CELL)
    assert grams(build, "12 cells") == 840
    assert grams(build, "Strips") == pytest.approx(676 * 0.02848, rel=1e-6)
    assert grams(build, "Leads") == pytest.approx(2 * 0.160 * 43.30, rel=1e-3)
    assert grams(build, "Connector") == CONNECTORS[ConnectorClass.A60].mass_g
    assert build.mass_g == pytest.approx(sum(entry.mass_g for entry in build.masses))
    assert 880 < build.mass_g < 900


def test_resistance_ledger_by_hand() -> None:
    """4S 3P, one layer of 8 × 0.2 mm nickel, pitch 21.6 mm: a segment is 6.99e-8·0.0216/1.6e-6 = 0.9437 mΩ.

    Three links of three strips: 0.9437. Two end bars taken off in the middle, one cell on each arm:
    R·(1² + 1²)/3² = 0.2097.
    """
    build = build_pack(recipe(4, 3, strip=Strip(layers=1), leads=Leads(gauge_awg=12, length_mm=160)), CELL)
    assert ohms(build, "Strips") * 1e3 == pytest.approx(3 * 0.94365 / 3 + 2 * 0.94365 * 2 / 9, rel=1e-4)
    assert ohms(build, "Joints") == pytest.approx(2 * 4 * 0.2e-3 / 3)
    assert ohms(build, "Leads") * 1e3 == pytest.approx(2 * 0.160 * 5.2104, rel=1e-3)
    assert ohms(build, "Connector") == pytest.approx(2 * 0.5e-3)
    assert build.wiring_ohm == pytest.approx(sum(entry.ohm for entry in build.resistances))


def test_more_metal_resists_less_and_weighs_more() -> None:
    thin, thick = (build_pack(recipe(4, 3, strip=Strip(layers=n)), CELL) for n in (1, 3))
    assert ohms(thick, "Strips") == pytest.approx(ohms(thin, "Strips") / 3)
    assert grams(thick, "Strips") == pytest.approx(3 * grams(thin, "Strips"))
    steel = build_pack(recipe(4, 3, strip=Strip(metal=StripMetal.PLATED_STEEL)), CELL)
    assert ohms(steel, "Strips") > 2 * ohms(thin, "Strips")


def test_a_fold_carries_everything_on_one_bar() -> None:
    """2 × 2 of 4S 1P: one of three links is a fold; with one cell a group it is as good as any other."""
    folded = build_pack(recipe(4, 1), CELL)
    segment = folded.strip.resistance_ohm()
    assert ohms(folded, "Strips") == pytest.approx(3 * segment)
    wide = build_pack(recipe(12, 4), CELL)
    assert wide.layout.folds == 1
    assert any(link.name == "Strip at the fold" for link in chain(wide, craft(), 10, 20, 3))


def test_spring_holders_weigh_and_resist() -> None:
    welded, held = (build_pack(recipe(2, 1, joint=joint), CELL) for joint in (Joint.SPOT_WELD, Joint.SPRING_HOLDER))
    assert ohms(held, "Joints") == pytest.approx(2 * 2 * JOINT_OHM[Joint.SPRING_HOLDER])
    assert ohms(held, "Joints") > 50 * ohms(welded, "Joints")
    assert held.mass_g > welded.mass_g + 20


def test_energy_is_capacity_times_mean_rest_voltage() -> None:
    build = build_pack(recipe(4, 3), CELL)
    assert build.energy_wh == pytest.approx(12 * 4.5 * 3.7, rel=0.03)


def test_every_ledger_line_names_a_field() -> None:
    from tests.builders import complete
    from wise_cellar.core.documents import value_at

    design = complete()
    build = build_pack(design.design.recipe, design.cell_type)
    fields = [e.field for e in build.masses] + [e.field for e in build.resistances]
    fields += [link.field for link in chain(build, design.craft, 20, 80, 4)]
    for field in fields:
        assert value_at(design, field) is not None


def link_of(name: str, cruise: float, punch: float, pack: PackRecipe | None = None, seconds: float = 4.0):  # type: ignore[no-untyped-def]
    build = build_pack(pack or recipe(4, 3, leads=Leads(gauge_awg=12, connector=ConnectorClass.A90)), CELL)
    return next(link for link in chain(build, craft(), cruise, punch, seconds) if link.name.startswith(name))


def test_rated_links_are_current_over_rating() -> None:
    cell = link_of("Cell", 24, 120)
    assert (cell.cruise_a, cell.punch_a) == (8, 40)
    assert cell.cruise_share == pytest.approx(8 / 35)
    assert cell.punch_share == pytest.approx(40 / 60), "the pulse rating holds at a punch"
    assert link_of("ESC", 24, 120).punch_share == pytest.approx(30 / 40)
    assert link_of("Connector", 24, 120).punch_share == pytest.approx(120 / 90)


def test_a_short_punch_is_allowed_more_on_metal() -> None:
    short, long = link_of("Lead", 20, 80, seconds=2), link_of("Lead", 20, 80, seconds=60)
    assert short.punch_limit_a > long.punch_limit_a > short.cruise_limit_a
    assert short.punch_share < long.punch_share


def test_a_link_that_cruise_alone_overheats_allows_no_punch() -> None:
    lead = link_of("Lead", 60, 120, seconds=1)
    assert lead.cruise_share > 1
    assert lead.punch_limit_a == 0
    assert lead.punch_share > 1
    assert math.isfinite(lead.punch_share)


def test_the_strip_to_the_lead_carries_the_longer_arm() -> None:
    assert link_of("Strip to the lead", 30, 90).cruise_a == pytest.approx(10)
    four = recipe(4, 4, leads=Leads(gauge_awg=12))
    assert link_of("Strip to the lead", 40, 90, four).cruise_a == pytest.approx(20), "two of four cells on one side"


# Pouches, and packs bought whole


def pouch(**changes: object) -> CellType:
    values = {"form_factor": "pouch", "diameter_mm": None, "width_mm": 43, "thickness_mm": 8.4, "length_mm": 132,
              "mass_g": 108}  # fmt: skip
    return cell_type(**(values | changes))


def test_pouches_make_one_stack_with_tabs_at_one_end() -> None:
    """8 pouches of 8.4 mm with 0.4 mm between them and 0.6 mm of wrap: 71.2 mm."""
    layout = build_pack(PackRecipe(series_count=4, parallel_count=2), pouch()).layout
    assert layout.length_mm == pytest.approx(8 * 8.4 + 7 * 0.4 + 1.2)
    assert layout.width_mm == pytest.approx(44.2)
    assert {strip.face for strip in layout.strips} == {Face.TOP}
    assert layout.folds == 3, "each link carries the whole current"
    assert [cell.group for cell in layout.cells] == [0, 0, 1, 1, 2, 2, 3, 3]


def test_a_stack_may_lie_on_any_side() -> None:
    layout = build_pack(PackRecipe(series_count=4, parallel_count=2), pouch()).layout
    assert layout.fits(Bay(length_mm=150, width_mm=50, height_mm=75))
    assert layout.fits(Bay(length_mm=50, width_mm=75, height_mm=150))
    assert not layout.fits(Bay(length_mm=150, width_mm=50, height_mm=60))
    assert layout.spare_mm(Bay(length_mm=150, width_mm=50, height_mm=75)) == pytest.approx(75 - 71.2)


def test_one_pack_bought_whole_is_its_own_mass_and_its_plug() -> None:
    build = build_pack(PackRecipe(series_count=2, parallel_count=1), whole_pack())
    assert build.mass_g == 95
    assert build.units == 1
    assert [entry.name for entry in build.resistances] == ["Connector"]
    assert build.layout.strips == ()
    assert build.energy_wh == pytest.approx(2 * 1.9 * 3.86, rel=0.01)


def test_several_packs_need_an_adaptor() -> None:
    build = build_pack(PackRecipe(series_count=4, parallel_count=3), whole_pack())
    assert build.units == 6
    names = {entry.name: entry.mass_g for entry in build.masses}
    assert names["6 packs"] == 6 * 95
    assert "Adaptor leads" in names
    assert len(build.layout.cells) == 6


def test_a_series_count_that_no_whole_packs_make_is_over_a_limit_and_still_flies() -> None:
    found = answer(complete(cell=whole_pack(), series_count=5, parallel_count=1))
    assert found.duration_s > 0
    said = [f.sentence for f in found.findings if f.field == "design.recipe.series_count"]
    assert any("bought whole with 2 cells in series; 5S cannot be made of it, 4S or 6S can" in s for s in said)
    assert not [f for f in answer(complete(cell=whole_pack(), series_count=4)).findings if "bought whole" in f.sentence]


def test_the_chain_of_a_whole_pack_has_no_strips() -> None:
    one = answer(complete(cell=whole_pack(), series_count=2, parallel_count=1))
    assert [link.name.split(",")[0] for link in one.links] == ["Cell", "Connector", "ESC", "Motor"]
    several = answer(complete(cell=whole_pack(), series_count=2, parallel_count=2))
    assert [link.name.split(",")[0] for link in several.links] == ["Cell", "Lead", "Connector", "ESC", "Motor"]
