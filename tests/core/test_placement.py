"""Where packs go: other arrangements, the user's own placement, bays with things in them, the balance point."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import cell_type, complete, craft, whole_pack
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import (
    Arrangement,
    Balance,
    Bay,
    DocumentError,
    KeepOut,
    OwnPlace,
    PackRecipe,
    Spacer,
    Strip,
    replaced,
)
from wise_cellar.core.pack import (
    RunKind,
    alternatives,
    arrange,
    balance_of,
    build_pack,
    is_free,
    largest_that_fits,
    placed_as,
    shape_of,
    stow,
)

CELL = cell_type()
SHAPE = shape_of(CELL)


def own(*places: tuple[int, int, int, bool], series: int = 2, parallel: int = 2) -> PackRecipe:
    return PackRecipe(
        series_count=series, parallel_count=parallel, arrangement=Arrangement.OWN,
        own_places=tuple(OwnPlace(x=x, y=y, group=group, positive_up=up) for x, y, group, up in places),
    )  # fmt: skip


SQUARE_2S2P = ((0, 0, 0, False), (0, 2, 0, False), (2, 0, 1, True), (2, 2, 1, True))


# Layers and sticks


def test_two_layers_meet_face_to_face() -> None:
    """6S 2P in two layers: half the plan, twice the height, and node 3 is folded between the two."""
    flat, stacked = (arrange(PackRecipe(series_count=6, parallel_count=2, tiers=n, bands=1), SHAPE) for n in (1, 2))
    assert stacked.length_mm == pytest.approx(2 * 21.6 + 21.2 + 0.3)
    assert flat.length_mm == pytest.approx(5 * 21.6 + 21.2 + 0.3)
    assert stacked.height_mm == pytest.approx(2 * 70.2 + 4 * 0.6 + 0.3)
    hinges = [run for run in stacked.strips if stacked.cells[run.start.cell].tier != stacked.cells[run.end.cell].tier]
    assert {run.node for run in hinges} == {3}
    assert len(hinges) == 2
    for run in hinges:
        assert run.start_mm == run.end_mm, "one above the other"


def test_sticks_lie_end_to_end() -> None:
    """4S 2P as sticks of four: four cells long, two wide, one high."""
    layout = arrange(PackRecipe(series_count=4, parallel_count=2, arrangement=Arrangement.STICKS, bands=1), SHAPE)
    assert layout.lying
    assert layout.length_mm == pytest.approx(4 * 70.2 + 3 * 0.9 + 2 * 0.6 + 0.3)
    assert layout.width_mm == pytest.approx(21.6 + 21.2 + 0.3)
    assert layout.height_mm == pytest.approx(21.2 + 0.3)
    for run in layout.strips:
        if run.kind is RunKind.LINK:
            one, other = (layout.cells[end.cell] for end in (run.start, run.end))
            assert one.y_mm == other.y_mm, "within a stick"


def test_frames_move_cells_apart_and_weigh() -> None:
    glued, framed = (
        build_pack(PackRecipe(series_count=4, parallel_count=2).model_copy(
            update={"fittings": PackRecipe().fittings.model_copy(update={"spacer": spacer})}), CELL)
        for spacer in Spacer
    )  # fmt: skip
    assert framed.layout.pitch_mm == pytest.approx(glued.layout.pitch_mm + 0.6)
    assert framed.mass_g - glued.mass_g == pytest.approx(8 * 1.6, abs=0.6)


# Own placement


def test_an_own_placement_that_repeats_square_rows_is_the_same_pack() -> None:
    mine = build_pack(own(*SQUARE_2S2P), CELL)
    theirs = build_pack(PackRecipe(series_count=2, parallel_count=2, bands=1), CELL)
    assert mine.layout.cells == theirs.layout.cells
    assert mine.wiring_ohm == pytest.approx(theirs.wiring_ohm, rel=1e-9)
    assert mine.interconnect is not None
    assert theirs.interconnect is not None
    assert mine.interconnect.cell_a == pytest.approx(theirs.interconnect.cell_a)


@given(st.integers(1, 8), st.integers(1, 5), st.sampled_from([Arrangement.SQUARE, Arrangement.STAGGERED]))
def test_going_on_by_hand_starts_from_where_the_cells_stand(series: int, parallel: int, kind: Arrangement) -> None:
    recipe = PackRecipe(series_count=series, parallel_count=parallel, arrangement=kind)
    layout = arrange(recipe, SHAPE)
    places = placed_as(layout, kind is Arrangement.STAGGERED)
    by_hand = recipe.model_copy(update={"arrangement": Arrangement.OWN, "own_places": places})
    PackRecipe.from_data(by_hand.model_dump())
    found = arrange(by_hand, SHAPE)
    assert [cell.group for cell in found.cells] == [cell.group for cell in layout.cells]
    assert not found.unplaced
    assert all(run.kind is not RunKind.WIRE for run in found.strips)


def test_a_cell_on_another_is_refused() -> None:
    with pytest.raises(DocumentError, match="Cells 1 and 2 would stand in each other"):
        PackRecipe.from_data(own((0, 0, 0, False), (9, 9, 0, False)).model_dump() | {
            "own_places": [{"x": 0, "y": 0, "group": 0, "positive_up": False},
                           {"x": 1, "y": 1, "group": 0, "positive_up": False}]})  # fmt: skip
    assert is_free(2, 0, [(0, 0)])
    assert not is_free(1, 1, [(0, 0)])


def test_cells_that_no_strip_reaches_are_bridged_by_a_wire_and_told() -> None:
    """The second cell of group 2 stands two pitches off: both of its nodes need a wire, 2·21.6·√2 mm and more."""
    recipe = own((0, 0, 0, False), (0, 2, 0, False), (2, 0, 1, True), (6, 4, 1, True))
    layout = arrange(recipe, SHAPE)
    wires = [run for run in layout.strips if run.kind is RunKind.WIRE]
    assert {run.node for run in wires} == {1, 2}
    assert all(run.length_mm == pytest.approx(math.hypot(2, 2) * 21.6 + 20) for run in wires)
    design = complete(cell=CELL, series_count=2, parallel_count=2)
    found = answer(design.with_pack(recipe=recipe))
    said = [f.sentence for f in found.findings if f.field == "design.packs.0.recipe.arrangement"]
    assert any("Link 1: no strip reaches between cells 3 and 4 of group 2" in s for s in said)
    assert any(link.name.startswith("Bridging wire") for link in found.links)


def test_a_cell_turned_over_leaves_its_group() -> None:
    turned = own((0, 0, 0, False), (0, 2, 0, True), (2, 0, 1, True), (2, 2, 1, True))
    wires = [run for run in arrange(turned, SHAPE).strips if run.kind is RunKind.WIRE]
    assert {run.node for run in wires} == {0, 1}
    assert all(run.length_mm > CELL.length_mm for run in wires), "round the side of a cell"


def test_a_cell_more_finds_a_place_and_a_cell_less_leaves_one() -> None:
    recipe = own(*SQUARE_2S2P)
    more = arrange(recipe.model_copy(update={"parallel_count": 3}), SHAPE)
    assert (len(more.cells), more.unplaced) == (6, 2)
    assert all(math.dist((a.x_mm, a.y_mm), (b.x_mm, b.y_mm)) > 21 for a in more.cells for b in more.cells if a is not b)
    assert more.cells[:2] == arrange(recipe, SHAPE).cells[:2] or more.unplaced
    fewer = arrange(recipe.model_copy(update={"parallel_count": 1}), SHAPE)
    assert (len(fewer.cells), fewer.unplaced) == (2, 0)
    longer = arrange(recipe.model_copy(update={"series_count": 3}), SHAPE)
    assert {cell.positive_up for cell in longer.cells if cell.group == 2} == {False}, "turned against its neighbour"


def test_another_cell_type_in_one_pack_is_refused() -> None:
    with pytest.raises(DocumentError, match="A pack is built of one cell type"):
        PackRecipe.from_data({"cell_types": ["fell-21-45p", "tarn-18-29p"]})


# Strips that cannot be


def findings_of(recipe: PackRecipe, field: str) -> list[str]:
    design = complete(cell=CELL)
    found = answer(design.with_pack(recipe=recipe))
    return [f.sentence for f in found.findings if f.field == field]


def test_a_strip_that_reaches_the_next_cell_is_over_a_limit() -> None:
    said = findings_of(PackRecipe(series_count=4, parallel_count=2, strip=Strip(width_mm=25)),
                       "design.packs.0.recipe.strip.width_mm")  # fmt: skip
    assert any("25 mm wide covers a cell end of 21.2 mm" in s and "19 mm is the most" in s for s in said)


def test_pieces_that_are_too_short_do_not_reach() -> None:
    """Three cells in a row: two pitches and one strip's width, 51 mm."""
    short = PackRecipe(series_count=4, parallel_count=3, strip=Strip(piece_mm=40))
    assert any("is 51 mm; yours are 40 mm" in s for s in findings_of(short, "design.packs.0.recipe.strip.piece_mm"))
    enough = PackRecipe(series_count=4, parallel_count=3, strip=Strip(piece_mm=60))
    assert not findings_of(enough, "design.packs.0.recipe.strip.piece_mm")


# Room

sizes = st.floats(10, 300)


@given(st.integers(1, 6), st.integers(1, 4), sizes, sizes, sizes, st.floats(-80, 80), st.lists(
    st.builds(KeepOut, x_mm=st.floats(0, 200), y_mm=st.floats(0, 150), length_mm=st.floats(5, 120),
              width_mm=st.floats(5, 120)), max_size=3))  # fmt: skip
@settings(deadline=None)
def test_a_stowed_pack_is_inside_the_bay_and_clear_of_what_is_kept_free(
    series: int, parallel: int, length: float, width: float, height: float, shift: float, kept: list[KeepOut]
) -> None:
    bay = Bay(length_mm=length, width_mm=width, height_mm=height, keep_outs=tuple(kept))
    found = stow(arrange(PackRecipe(series_count=series, parallel_count=parallel), SHAPE), bay, shift)
    if found is None:
        return
    along, across, up = found.size_mm
    assert -1e-9 <= found.x_mm <= length - along + 1e-9
    assert -1e-9 <= found.y_mm <= width - across + 1e-9
    assert up <= height
    for keep in kept:
        apart_x = found.x_mm + along <= keep.x_mm + 1e-9 or keep.x_mm + keep.length_mm <= found.x_mm + 1e-9
        apart_y = found.y_mm + across <= keep.y_mm + 1e-9 or keep.y_mm + keep.width_mm <= found.y_mm + 1e-9
        assert apart_x or apart_y


def test_an_antenna_moves_the_pack_and_a_larger_one_leaves_no_room() -> None:
    layout = arrange(PackRecipe(series_count=4, parallel_count=3), SHAPE)
    bay = Bay(length_mm=150, width_mm=75, height_mm=80)
    middle = stow(layout, bay)
    assert middle is not None
    assert middle.centre_mm(bay) == pytest.approx(0)
    antenna = bay.model_copy(update={"keep_outs": (KeepOut(x_mm=100, y_mm=0, length_mm=50, width_mm=75),)})
    moved = stow(layout, antenna)
    assert moved is not None
    assert moved.x_mm + moved.size_mm[0] == pytest.approx(100), "against it"
    large = bay.model_copy(update={"keep_outs": (KeepOut(x_mm=60, y_mm=0, length_mm=40, width_mm=75),)})
    assert stow(layout, large) is None
    design = complete(cell=CELL, carrier=craft(bay=large), series_count=4, parallel_count=3)
    said = [f.sentence for f in answer(design).findings if f.field.startswith("craft.bay")]
    assert any("only over what must stay free: antenna" in s for s in said)


def test_a_pack_can_be_moved_as_far_as_the_bay_goes() -> None:
    layout = arrange(PackRecipe(series_count=4, parallel_count=3), SHAPE)
    bay = Bay(length_mm=150, width_mm=75, height_mm=80)
    ahead = stow(layout, bay, 10)
    assert ahead is not None
    assert ahead.centre_mm(bay) == pytest.approx(10)
    far = stow(layout, bay, 500)
    assert far is not None
    assert far.x_mm + far.size_mm[0] == pytest.approx(150)


# Balance


def test_balance_point_by_hand() -> None:
    """1 150 g at −6 mm and a pack of P g at +20 mm: (1150·(−6) + P·20)/(1150 + P); wanted 0, ballast at −100 mm."""
    heavy = craft(balance=Balance(dry_mm=-6, bay_mm=20, wanted_mm=0, tolerance_mm=3, ballast_at_mm=-100))
    build = build_pack(PackRecipe(series_count=4, parallel_count=1, bands=1), CELL)
    point = balance_of(complete(cell=CELL, carrier=heavy, parallel_count=1), build)
    assert point is not None
    after = (1150 * -6 + build.mass_g * 20) / (1150 + build.mass_g)
    assert (point.before_mm, point.after_mm) == (-6, pytest.approx(after))
    assert point.shift_mm == pytest.approx(after + 6)
    balanced = (1150 * -6 + build.mass_g * 20 + point.ballast_g * -100) / (1150 + build.mass_g + point.ballast_g)
    assert balanced == pytest.approx(0, abs=1e-9), "with that ballast it balances"
    assert not point.within or abs(after) <= 3


def test_moving_the_pack_moves_the_balance_point_and_being_off_is_told() -> None:
    flying = craft(balance=Balance(tolerance_mm=5), bay=Bay(length_mm=300, width_mm=100, height_mm=100))
    design = complete(cell=CELL, carrier=flying, series_count=4, parallel_count=3)
    assert not [f for f in answer(design).findings if "balances" in f.sentence]
    ahead = replaced(design, "design.packs.0.recipe.fittings.shift_mm", 40)
    said = [f for f in answer(ahead).findings if f.field == "design.packs.0.recipe.fittings.shift_mm"]
    build = answer(ahead).build
    expected = build.mass_g * 40 / (1150 + build.mass_g)
    assert f"balances {expected:.0f} mm ahead of where it should" in said[0].sentence


# Alternatives


def test_alternatives_are_ranked_by_fit_then_strip() -> None:
    flying = craft(bay=Bay(length_mm=150, width_mm=75, height_mm=80))
    found = alternatives(complete(cell=CELL, carrier=flying))
    assert [way.fits for way in found] == sorted((way.fits for way in found), reverse=True)
    fitting = [way.strip_mm for way in found if way.fits]
    assert fitting == sorted(fitting)
    assert {way.recipe.arrangement for way in found} >= {Arrangement.SQUARE, Arrangement.STICKS}
    for way in found:
        again = arrange(way.recipe, SHAPE)
        assert again.cells == way.layout.cells, "taking it gives what was offered"
        assert way.fits == (stow(again, flying.bay) is not None)  # type: ignore[arg-type]


def test_where_nothing_fits_the_largest_pack_that_does_is_named() -> None:
    small = complete(cell=CELL, carrier=craft(bay=Bay(length_mm=100, width_mm=45, height_mm=75)))
    assert not any(way.fits for way in alternatives(small))
    best = largest_that_fits(small)
    assert best is not None
    assert (best.recipe.series_count, best.recipe.parallel_count) == (4, 2)
    assert best.fits
    tiny = craft(bay=Bay(length_mm=15, width_mm=15, height_mm=15))
    assert largest_that_fits(complete(cell=CELL, carrier=tiny)) is None


def test_packs_that_lie_one_way_offer_no_others() -> None:
    assert alternatives(complete(cell=whole_pack(), series_count=2)) == ()


def test_the_centre_of_mass_of_cells_placed_by_hand_is_not_the_middle_of_the_pack() -> None:
    """Three cells in a corner: by half a pitch of 21.6 mm, their mean is a sixth of it off the middle both ways."""
    corner = own((0, 0, 0, False), (2, 0, 1, True), (0, 2, 2, False), series=3, parallel=1)
    xs, ys = zip(*((cell.x_mm, cell.y_mm) for cell in arrange(corner, SHAPE).cells), strict=True)
    pitch = max(xs) - min(xs)
    assert pitch == max(ys) - min(ys) == pytest.approx(21.6)
    assert arrange(corner, SHAPE).middle_mm == pytest.approx((-pitch / 6, -pitch / 6))


def test_a_pack_lies_against_what_must_stay_free_on_either_side() -> None:
    layout = arrange(PackRecipe(series_count=4, parallel_count=3), SHAPE)
    bay = Bay(length_mm=200, width_mm=75, height_mm=80)
    for name, x, starts in (("rear", 0, lambda stowed: stowed.x_mm), ("front", 140, lambda stowed: None)):
        kept = bay.changed(keep_outs=(KeepOut(name=name, x_mm=x, y_mm=0, length_mm=60, width_mm=75),))
        stowed = stow(layout, kept, 200 if name == "front" else -200)
        assert stowed is not None
        end = starts(stowed) if name == "rear" else stowed.x_mm + stowed.size_mm[0]
        assert end == pytest.approx(60 if name == "rear" else 140)


def test_of_ways_that_fit_those_that_balance_come_first() -> None:
    flying = craft(
        bay=Bay(length_mm=250, width_mm=150, height_mm=160), balance=Balance(tolerance_mm=1, ballast_at_mm=100)
    )
    design = replaced(complete(cell=CELL, carrier=flying), "design.packs.0.recipe.fittings.shift_mm", 25)
    found = [way for way in alternatives(design) if way.fits]
    within = [way.balance.within for way in found if way.balance is not None]
    assert len(within) == len(found)
    assert within == sorted(within, reverse=True)


def test_sheets_lie_on_the_ends_of_sticks() -> None:
    """Cells that lie end to end have their poles on the two small sides."""
    sticks = build_pack(PackRecipe(series_count=2, parallel_count=3, arrangement=Arrangement.STICKS), CELL)
    sheet = next(entry.mass_g for entry in sticks.masses if entry.name == "End insulation")
    assert sticks.layout.lying
    assert sheet == pytest.approx(2 * sticks.layout.width_mm * sticks.layout.height_mm * 0.4e-3)
