"""Packs: where cells and strips lie, what they weigh, resist and stand."""

from __future__ import annotations

import math
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import cell_type, complete, craft, whole_pack
from wise_cellar.core.answer import answer
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
    Underlay,
)
from wise_cellar.core.pack import (
    Face,
    Link,
    PackBuild,
    PackCurrents,
    RunKind,
    arrange,
    build_pack,
    craft_links,
    pack_links,
    shape_of,
    spare_mm,
    stow,
)
from wise_cellar.core.pack.ledger import CONNECTORS

CELL = cell_type()
SHAPE = shape_of(CELL)


def recipe(series: int, parallel: int, **changes: object) -> PackRecipe:
    return PackRecipe(series_count=series, parallel_count=parallel, **changes)


def ohms(build: PackBuild, name: str) -> float:
    return next(entry.ohm for entry in build.resistances if entry.name == name)


def grams(build: PackBuild, name: str) -> float:
    return next(entry.mass_g for entry in build.masses if entry.name == name)


packs = st.builds(
    recipe, st.integers(1, 20), st.integers(1, 12), arrangement=st.sampled_from(list(Arrangement)),
    joint=st.sampled_from(list(Joint)), tiers=st.integers(1, 2), bands=st.none() | st.integers(1, 5),
)  # fmt: skip


@given(packs)
def test_cells_never_overlap_and_lie_inside_the_pack(pack: PackRecipe) -> None:
    layout = arrange(pack, SHAPE)
    assert len(layout.cells) == pack.series_count * pack.parallel_count
    long, deep = layout.body_mm
    for one, other in combinations(layout.cells, 2):
        if one.tier != other.tier:
            continue
        if layout.lying:
            assert abs(one.x_mm - other.x_mm) >= long - 1e-9 or abs(one.y_mm - other.y_mm) >= deep - 1e-9
        else:
            assert math.hypot(one.x_mm - other.x_mm, one.y_mm - other.y_mm) >= CELL.diameter_mm - 1e-9
    for cell in layout.cells:
        assert long / 2 - 1e-9 <= cell.x_mm <= layout.length_mm - long / 2
        assert deep / 2 - 1e-9 <= cell.y_mm <= layout.width_mm - deep / 2
    least = CELL.length_mm if not layout.lying else CELL.diameter_mm
    assert layout.height_mm >= layout.tiers * least


@given(packs)
def test_every_node_lies_on_one_face_and_touches_the_right_ends(pack: PackRecipe) -> None:
    """Node n joins the positive ends of group n − 1 to the negative ends of group n."""
    layout = arrange(pack, SHAPE)
    for strip in layout.strips:
        for end in (strip.start, strip.end):
            assert layout.cells[end.cell].group == (strip.node - 1 if end.positive else strip.node)
        tiers = {layout.cells[end.cell].tier for end in (strip.start, strip.end)}
        faces = {layout.face_of(end)[1] for end in (strip.start, strip.end)}
        assert len(faces) == len(tiers) or layout.lying, "one face, or the two that face each other"
        assert strip.length_mm > 0


@given(packs)
def test_every_node_is_in_one_piece(pack: PackRecipe) -> None:
    """Walking along the strips of a node from one of its cell ends reaches all of them."""
    layout = arrange(pack, SHAPE)
    for node in range(pack.series_count + 1):
        runs = [(run.start, run.end) for run in layout.strips if run.node == node]
        ends = {end for run in runs for end in run}
        inner = 0 < node < pack.series_count
        assert len(ends) == pack.parallel_count * (2 if inner else 1) or (pack.parallel_count == 1 and not inner)
        reached = set(list(ends)[:1])
        for _ in ends:
            reached |= {b for a, b in runs if a in reached} | {a for a, b in runs if b in reached}
        assert reached == ends


@given(packs)
def test_series_links_join_neighbours(pack: PackRecipe) -> None:
    """No strip between groups is longer than the pitch to a neighbour, and none needs a wire."""
    layout = arrange(pack, SHAPE)
    for strip in layout.strips:
        assert strip.kind is not RunKind.WIRE
        if strip.between_groups:
            assert strip.length_mm <= 1.01 * layout.pitch_mm + (0.51 * CELL.diameter_mm if layout.bands > 1 else 0)


def test_shape_of_common_packs() -> None:
    square = arrange(recipe(4, 3), SHAPE)
    assert square.bands == 1
    assert square.length_mm == pytest.approx(3 * 21.6 + 21.2 + 2 * 0.15)
    assert square.width_mm == pytest.approx(2 * 21.6 + 21.2 + 2 * 0.15)
    assert square.height_mm == pytest.approx(70.2 + 2 * (0.4 + 0.2) + 2 * 0.15)
    brick = arrange(recipe(4, 1), SHAPE)
    assert brick.bands == 2, "four cells stand two by two"
    staggered = arrange(recipe(6, 2, arrangement=Arrangement.STAGGERED), SHAPE)
    assert staggered.length_mm < arrange(recipe(6, 2), SHAPE).length_mm
    alone = arrange(recipe(1, 1), SHAPE)
    assert not alone.strips


def test_the_bay_guides_the_folding() -> None:
    """6S 1P stands 3 × 2 by itself; a narrow tray asks for one row."""
    assert arrange(recipe(6, 1), SHAPE).bands > 1
    tray = Bay(length_mm=140, width_mm=24, height_mm=80)
    in_tray = arrange(recipe(6, 1), SHAPE, tray)
    assert in_tray.bands == 1
    assert stow(in_tray, tray)


def test_a_pack_fits_either_way_round() -> None:
    layout = arrange(recipe(4, 3), SHAPE)
    assert stow(layout, Bay(length_mm=90, width_mm=70, height_mm=75))
    assert stow(layout, Bay(length_mm=70, width_mm=90, height_mm=75))
    assert stow(layout, Bay(length_mm=80, width_mm=80, height_mm=75)) is None
    assert stow(layout, Bay(length_mm=90, width_mm=70, height_mm=70)) is None


def test_leads_leave_from_the_terminals() -> None:
    even, odd = arrange(recipe(4, 3), SHAPE), arrange(recipe(3, 2), SHAPE)
    for layout, last in ((even, Face.TOP), (odd, Face.UNDERSIDE)):
        assert layout.negative is not None
        assert layout.positive is not None
        assert layout.face_of(layout.negative) == (0, Face.TOP)
        assert layout.face_of(layout.positive) == (0, last)
        assert (layout.cells[layout.negative.cell].group, layout.negative.positive) == (0, False)
        assert layout.cells[layout.positive.cell].group == max(cell.group for cell in layout.cells)


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
    R·(1² + 1²)/3² = 0.2097. Cells far from the lead carry a little less, which takes off some hundredths.
    """
    build = build_pack(recipe(4, 3, strip=Strip(layers=1), leads=Leads(gauge_awg=12, length_mm=160)), CELL)
    assert ohms(build, "Strips") * 1e3 == pytest.approx(3 * 0.94365 / 3 + 2 * 0.94365 * 2 / 9, rel=0.02)
    assert ohms(build, "Joints") == pytest.approx(2 * 4 * 0.2e-3 / 3, rel=2e-3)
    assert ohms(build, "Leads") * 1e3 == pytest.approx(2 * 0.160 * 5.2104, rel=1e-3)
    assert ohms(build, "Connector") == pytest.approx(2 * 0.5e-3)
    assert build.wiring_ohm == pytest.approx(sum(entry.ohm for entry in build.resistances))


def test_more_metal_resists_less_and_weighs_more() -> None:
    thin, thick = (build_pack(recipe(4, 3, strip=Strip(layers=n)), CELL) for n in (1, 3))
    assert ohms(thick, "Strips") == pytest.approx(ohms(thin, "Strips") / 3, rel=0.02)
    assert grams(thick, "Strips") == pytest.approx(3 * grams(thin, "Strips"))
    steel = build_pack(recipe(4, 3, strip=Strip(metal=StripMetal.PLATED_STEEL)), CELL)
    assert ohms(steel, "Strips") > 2 * ohms(thin, "Strips")


def test_a_fold_carries_everything_on_one_bar() -> None:
    """2 × 2 of 4S 1P: one of three links is a fold; with one cell a group it is as good as any other."""
    folded = build_pack(recipe(4, 1), CELL)
    assert folded.interconnect is not None
    assert ohms(folded, "Strips") == pytest.approx(3 * folded.interconnect.conductors[0].resistance_ohm())
    wide = build_pack(recipe(12, 4), CELL)
    assert wide.layout.bands == 2
    worst = next(link for link in links(wide, 10, 20, 3) if link.name.startswith("Strip"))
    assert worst.name == "Strip 6–7", "at the fold"
    assert worst.cruise_a == pytest.approx(10), "one strip carries the whole pack"


def test_spring_holders_weigh_and_resist() -> None:
    """Two contacts of 15 mΩ a cell, two cells in series: 60 mΩ."""
    welded, held = (build_pack(recipe(2, 1, joint=joint), CELL) for joint in (Joint.SPOT_WELD, Joint.SPRING_HOLDER))
    assert ohms(held, "Joints") == pytest.approx(60e-3)
    assert ohms(held, "Joints") > 50 * ohms(welded, "Joints")
    assert held.mass_g > welded.mass_g + 20


def test_energy_is_capacity_times_mean_rest_voltage() -> None:
    build = build_pack(recipe(4, 3), CELL)
    assert build.energy_wh == pytest.approx(12 * 4.5 * 3.7, rel=0.03)


def test_every_ledger_line_names_a_field() -> None:
    from tests.builders import complete
    from wise_cellar.core.documents import value_at

    design = complete()
    build = build_pack(design.pack.recipe, design.pack.cell)
    fields = [e.field for e in build.masses] + [e.field for e in build.resistances]
    currents = PackCurrents(20, 80, 4)
    fields += [link.field for link in pack_links(build, currents)]
    paths = [design.pack.path(field) for field in fields]
    for path in paths + [link.field for link in craft_links(craft(), currents)]:
        assert value_at(design, path) is not None


def links(build: PackBuild, cruise: float, punch: float, seconds: float) -> tuple[Link, ...]:
    currents = PackCurrents(cruise, punch, seconds)
    return (*pack_links(build, currents), *craft_links(craft(), currents))


def link_of(name: str, cruise: float, punch: float, pack: PackRecipe | None = None, seconds: float = 4.0) -> Link:
    build = build_pack(pack or recipe(4, 3, leads=Leads(gauge_awg=12, connector=ConnectorClass.A90)), CELL)
    return next(link for link in links(build, cruise, punch, seconds) if link.name.startswith(name))


def test_rated_links_are_current_over_rating() -> None:
    cell = link_of("Cell", 24, 120, recipe(4, 1))
    assert (cell.cruise_a, cell.punch_a) == (pytest.approx(24), pytest.approx(120))
    assert cell.cruise_share == pytest.approx(24 / 35)
    assert cell.punch_share == pytest.approx(120 / 60), "the pulse rating holds at a punch"
    assert link_of("ESC", 24, 120).punch_share == pytest.approx(30 / 40)


def test_the_cell_of_the_chain_is_the_one_that_carries_most() -> None:
    build = build_pack(recipe(4, 3), CELL)
    assert build.interconnect is not None
    most = float(build.interconnect.shares.max())
    assert 1.0 < most < 1.1
    assert link_of("Cell", 24, 120).cruise_a == pytest.approx(8 * most)
    group = link_of("Group of 3", 24, 120)
    assert group.punch_share == pytest.approx(link_of("Cell", 24, 120).punch_share)
    low, high = (round(100 * float(f()) / 3) for f in (build.interconnect.shares.min, build.interconnect.shares.max))
    assert group.words == f"shares {low} … {high} %"


def test_a_connector_is_rated_for_good_and_allows_a_burst_for_some_seconds() -> None:
    connector = link_of("Connector", 24, 120)
    assert connector.cruise_limit_a == pytest.approx(72), "0.8 of its class"
    assert connector.punch_limit_a == pytest.approx(135), "1.5 times its class"
    assert connector.allowed_s is not None
    assert 4 < connector.allowed_s < 60
    assert link_of("Connector", 24, 70).allowed_s == math.inf
    assert link_of("Connector", 24, 136).allowed_s == 0, "not for a moment"


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


def test_the_bus_carries_the_longer_arm_to_the_lead() -> None:
    assert link_of("Bus", 30, 90).cruise_a == pytest.approx(10, rel=0.03), "the far cells carry a little less"
    four = recipe(4, 4, leads=Leads(gauge_awg=12))
    assert link_of("Bus", 40, 90, four).cruise_a == pytest.approx(20, rel=0.07), "two of four cells on one side"


# Pouches, and packs bought whole


def pouch(**changes: object) -> CellType:
    values = {"form_factor": "pouch", "diameter_mm": None, "width_mm": 43, "thickness_mm": 8.4, "length_mm": 132,
              "mass_g": 108}  # fmt: skip
    return cell_type(**(values | changes))


def test_pouches_make_one_stack_with_tabs_at_one_end() -> None:
    """8 pouches of 8.4 mm with 0.4 mm between them, end sheets and sleeve of 0.4 + 0.15 mm on both sides: 71.1 mm."""
    layout = build_pack(PackRecipe(series_count=4, parallel_count=2), pouch()).layout
    assert layout.length_mm == pytest.approx(8 * 8.4 + 7 * 0.4 + 1.1)
    assert layout.width_mm == pytest.approx(44.1)
    assert {strip.face for strip in layout.strips} == {Face.TOP}
    links = [strip for strip in layout.strips if strip.between_groups]
    assert [strip.node for strip in links] == [1, 2, 3], "each link carries the whole current"
    assert [cell.group for cell in layout.cells] == [0, 0, 1, 1, 2, 2, 3, 3]


def test_a_stack_may_lie_on_any_side() -> None:
    layout = build_pack(PackRecipe(series_count=4, parallel_count=2), pouch()).layout
    assert stow(layout, Bay(length_mm=150, width_mm=50, height_mm=75))
    assert stow(layout, Bay(length_mm=50, width_mm=75, height_mm=150))
    assert stow(layout, Bay(length_mm=150, width_mm=50, height_mm=60)) is None
    assert spare_mm(layout, Bay(length_mm=150, width_mm=50, height_mm=75)) == pytest.approx(75 - 71.1)


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
    said = [f.sentence for f in found.findings if f.field == "design.packs.0.recipe.series_count"]
    assert any("bought whole with 2 cells in series; 5S cannot be made of it, 4S or 6S can" in s for s in said)
    assert not [f for f in answer(complete(cell=whole_pack(), series_count=4)).findings if "bought whole" in f.sentence]


def test_the_chain_of_a_whole_pack_has_no_strips() -> None:
    one = answer(complete(cell=whole_pack(), series_count=2, parallel_count=1))
    assert [link.name.split(",")[0] for link in one.links] == ["Cell", "Connector", "ESC", "Motor"]
    several = answer(complete(cell=whole_pack(), series_count=2, parallel_count=2))
    assert [link.name.split(",")[0] for link in several.links] == ["Cell", "Lead", "Connector", "ESC", "Motor"]


# Leads, balance lead, wrap


def test_insulation_shrink_and_balance_by_hand() -> None:
    """4S 3P lies 86.3 × 64.7 × 71.7 mm. Sleeve: half the girth of the two lesser sides with 5 % slack, past both ends:
    1.05·(64.7 + 71.7) = 143.2 by 86.3 + 64.7 = 151.0 mm. Shrink: 2·143.2·151·0.15·1.35e-3 = 8.76 g. End sheets:
    2·86.3·64.7·0.4·1e-3 = 4.47 g. Balance: five wires of 24 AWG, 120 + 43.15 mm, and five pins of 0.25 g.
    """
    build = build_pack(recipe(4, 3), CELL)
    flat, long = build.sleeve
    assert (flat, long) == (pytest.approx(143.2, abs=0.05), pytest.approx(151.0, abs=0.05))
    assert grams(build, "Heat-shrink") == pytest.approx(2 * flat * long * 0.15 * 1350e-6, rel=1e-6)
    assert grams(build, "End insulation") == pytest.approx(2 * 86.3 * 64.7 * 0.4e-3, rel=1e-3)
    copper = 8960 * math.pi * (0.511e-3) ** 2 / 4 * 1.15
    silicone = 1250 * math.pi * ((0.511e-3 + 2 * 0.31667e-3) ** 2 - (0.511e-3) ** 2) / 4
    wires = 5 * (1e3 * (copper + silicone) * 0.16315 + 0.25)
    assert grams(build, "Balance lead") == pytest.approx(wires, rel=2e-3)


def test_what_is_left_out_weighs_nothing_and_what_is_added_weighs() -> None:
    bare = recipe(4, 3).model_copy(
        update={
            "balance": recipe(4, 3).balance.model_copy(update={"fitted": False}),
            "fittings": recipe(4, 3).fittings.model_copy(update={"shrink_mm": 0, "end_sheet_mm": 0}),
        }
    )
    names = {entry.name for entry in build_pack(bare, CELL).masses}
    assert names == {"12 cells", "Strips", "Leads", "Connector"}
    fitted = bare.model_copy(
        update={"fittings": bare.fittings.model_copy(update={"straps": 2, "mount_g": 31, "other_g": 4})}
    )
    assert build_pack(fitted, CELL).mass_g - build_pack(bare, CELL).mass_g == pytest.approx(2 * 6 + 31 + 4)
    soldered = build_pack(bare.model_copy(update={"joint": Joint.SOLDERED}), CELL)
    assert grams(soldered, "Solder") == pytest.approx(24 * 0.15)


def test_an_adaptor_is_one_more_plug_and_some_lead() -> None:
    """Per adaptor: two poles of 0.5 mΩ, and 2 · 80 mm of 14 AWG at 8.2866 mΩ/m."""
    plain, longer = (build_pack(recipe(4, 3, leads=Leads(adaptors=n)), CELL) for n in (0, 2))
    assert ohms(longer, "Adaptors") == pytest.approx(2 * (1.0e-3 + 0.16 * 8.2866e-3), rel=1e-3)
    assert longer.wiring_ohm == pytest.approx(plain.wiring_ohm + ohms(longer, "Adaptors"))
    assert longer.mass_g - plain.mass_g == pytest.approx(grams(longer, "Adaptors"))


def test_welds_share_and_a_measured_joint_stands() -> None:
    four, eight = (build_pack(recipe(4, 3, welds=n), CELL) for n in (4, 8))
    assert ohms(eight, "Joints") == pytest.approx(ohms(four, "Joints") / 2, rel=5e-3)
    measured = build_pack(recipe(4, 3, joint_mohm=1.0), CELL)
    assert ohms(measured, "Joints") == pytest.approx(5 * ohms(four, "Joints"), rel=5e-3)


def test_copper_under_the_strip_by_hand() -> None:
    """6 × 0.2 mm of copper strip under 8 × 0.2 mm nickel: 1.2e-6/1.724e-8 beside 1.6e-6/6.99e-8 S·m; a braid half of
    it."""
    plain, strip, braid = (build_pack(recipe(4, 1, bands=1, strip=Strip(underlay=under)), CELL) for under in Underlay)
    nickel = 1.6e-6 / 6.99e-8
    for build, copper in ((strip, 1.2e-6 / 1.724e-8), (braid, 0.6e-6 / 1.724e-8)):
        assert ohms(build, "Strips") / ohms(plain, "Strips") == pytest.approx(nickel / (nickel + copper))
    assert grams(strip, "Strips") > grams(braid, "Strips") > grams(plain, "Strips")


def test_a_short_circuit_is_full_voltage_over_all_resistance() -> None:
    build = build_pack(recipe(4, 3), CELL)
    assert build.interconnect is not None
    outside = sum(entry.ohm for entry in build.resistances if entry.name in ("Leads", "Connector"))
    assert build.short_circuit_a == pytest.approx(4 * 4.2 / (build.interconnect.ohm + outside), rel=5e-3)
