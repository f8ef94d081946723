"""Built packs: as documents, as they are today, against what was predicted, flown by designs, repaired."""

from __future__ import annotations

from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import cell_type, complete, whole_pack
from wise_cellar.core.answer import answer, spread
from wise_cellar.core.build import Asked, judge, match
from wise_cellar.core.build.finished import cells_mohm, group_capacities, resting_at, state_now
from wise_cellar.core.build.inspection import inspect, one_joint_mohm
from wise_cellar.core.build.label import code_of, label_text
from wise_cellar.core.build.making import Making, making_of, recipe_to_keep, taken, whereabouts
from wise_cellar.core.build.repair import behind, plan_repair, repaired
from wise_cellar.core.build.steps import Bench
from wise_cellar.core.documents import (
    BuiltPack,
    CompleteDesign,
    DocumentError,
    NumberedCell,
    PackCheck,
    PackRepair,
    PackState,
)
from wise_cellar.core.pack import build_pack

CELL = cell_type(price=6.5)
DAY = date(2026, 3, 1)


def cells(count: int, start: int = 1, mah: float = 4450.0, mohm: float = 15.0) -> list[NumberedCell]:
    random = np.random.default_rng(start)
    return [
        NumberedCell(
            id=f"c{number}", number=number, cell_type_id="cell", rested_v=3.52,
            capacity_mah=round(mah * (1 + 0.004 * float(random.standard_normal())), 1),
            dcir_mohm=round(mohm * (1 + 0.01 * float(random.standard_normal())), 2),
        )
        for number in range(start, start + count)
    ]  # fmt: skip


def design(**changes: Any) -> CompleteDesign:
    return complete(series_count=4, parallel_count=3, **changes).changed(cells=(CELL,))


TRAY = cells(12)


def pack(**changes: Any) -> BuiltPack:
    recipe = recipe_to_keep(build_pack(design().pack.recipe, CELL))
    groups = [[1, 2, 3], [4, 5, 6], [7, 8, 9], [10, 11, 12]]
    return BuiltPack.from_data(
        {"id": "whimbrel-9", "name": "Whimbrel 9", "cell_type_id": "cell", "recipe": recipe, "groups": groups,
         "begun_on": DAY, "finished_on": DAY} | changes
    )  # fmt: skip


def read_after(used: float, held: list[float], **more: Any) -> PackCheck:
    volts = [resting_at(CELL, 1 - used / each) for each in held]
    return PackCheck(day=date(2026, 6, 1), group_v=volts, used_mah=used, **more)


def plain(text: str) -> str:
    """With common spaces."""
    return text.replace("\u202f", " ").replace("\u00a0", " ")


# Documents


@pytest.mark.parametrize(("changes", "words"), [
    ({"groups": [[1, 2, 3], [4, 5, 6], [7, 8, 9], [10, 11, 1]]}, "Cell 1 is in Whimbrel 9 twice"),
    ({"groups": [[1, 2, 3], [4, 5, 6], [7, 8, 9]]}, "4 groups of 3 cells each"),
    ({"finished_on": date(2026, 2, 1)}, "before it was begun"),
    ({"checks": [{"day": DAY, "group_v": [4.1, 4.1]}]}, "has 4 groups, and 2 were read"),
    ({"checks": [{"day": DAY, "group_v": [4.1, 4.1, 4.1, 410]}]}, "must be at most 5"),
    ({"steps": [{"key": "lay"}, {"key": "lay"}]}, "Each step of a pack is kept once"),
    ({"name": ""}, "name of the pack"),
    ({"repairs": [{"group": 1, "put_in": [20], "begun_on": DAY}, {"group": 2, "put_in": [21], "begun_on": DAY}]},
     "repaired once at a time"),
])  # fmt: skip
def test_what_cannot_be_of_a_pack_is_refused_in_a_sentence(changes: dict[str, Any], words: str) -> None:
    with pytest.raises(DocumentError) as refused:
        pack(**changes)
    assert words.lower() in str(refused.value).lower()


def test_a_pack_comes_back_from_json_as_it_was() -> None:
    made = pack(
        steps=[{"key": "lay", "at": "2026-03-01T10:20:00", "readings": [{"of": "group-1", "volts": -3.51}],
                "note": "x"}],
        checks=[read_after(9000, [13000, 13000, 12000, 13000])],
        repairs=[{"group": 3, "taken_out": [7, 8, 9], "put_in": [31, 32, 33], "begun_on": DAY, "done_on": DAY}],
    )  # fmt: skip
    assert BuiltPack.from_json(made.to_json()) == made


def test_cells_are_taken_while_a_pack_holds_them() -> None:
    assert set(taken([pack()], "cell")) == set(range(1, 13))
    assert not taken([pack(retired=True)], "cell")
    assert not taken([pack()], "another")
    done = PackRepair(group=1, taken_out=(50, 51, 52), put_in=(1, 2, 3), begun_on=DAY, done_on=DAY)
    where = whereabouts([pack(repairs=[done])], "cell")
    assert (where[1], where[50]) == ("in Whimbrel 9", "out of Whimbrel 9"), "what was worn out goes into no other"
    judged = judge(CELL, cells(1, 50), where)
    assert judged.usable == ()
    open_one = PackRepair(group=1, put_in=(40, 41, 42), begun_on=DAY)
    assert {40, 41, 42} < set(taken([pack(repairs=[open_one])], "cell"))


# Flown by designs


def test_a_design_flies_a_pack_by_name_until_its_recipe_is_another() -> None:
    made = pack()
    flies = design().with_pack(recipe=made.recipe, built=made.as_flown)
    assert flies.pack.name == "Whimbrel 9"
    weighed = flies.with_pack(recipe=made.recipe.changed(weighed_g=940.0))
    assert weighed.pack.name == "Whimbrel 9", "a weighed pack is the same pack"
    other = flies.with_pack(recipe=made.recipe.changed(parallel_count=4))
    assert other.pack.of.flies is None
    assert other.pack.name == "Pack"
    assert other.with_pack(recipe=made.recipe).pack.of.flies is not None, "and is again when it is put back"
    assert flies.with_pack(cell_type(id="tarn")).pack.of.flies is None


def test_the_layout_of_a_pack_does_not_hang_on_the_bay_of_a_craft() -> None:
    asked = design().pack.recipe
    assert asked.bands is None
    kept = pack().recipe
    assert build_pack(kept, CELL).layout == build_pack(asked, CELL).layout
    assert kept.bands == build_pack(asked, CELL).layout.bands


# As it is today


@given(st.lists(st.floats(0.8, 1.0), min_size=4, max_size=4), st.floats(0.5, 0.9))
def test_what_each_group_holds_comes_back_from_charge_used_and_resting_volts(shares: list[float], used: float) -> None:
    held = [13000 * share for share in shares]
    found = group_capacities(CELL, read_after(used * min(held), held))
    assert found is not None
    assert found[0] == pytest.approx(held, rel=1e-6)
    assert np.all(found[1] > 0)


def test_nothing_is_told_of_capacity_from_a_short_flight_or_without_charge() -> None:
    assert group_capacities(CELL, read_after(2000, [13000.0] * 4)) is None
    assert group_capacities(CELL, PackCheck(day=DAY, group_v=(4.1,) * 4)) is None


def test_a_pack_ages_by_what_was_read_of_it() -> None:
    fresh = state_now(pack(), CELL, TRAY)
    assert fresh.capacity_percent == pytest.approx(100 * 4450 / 4500, abs=0.5)
    build = build_pack(pack().recipe, CELL)
    for celsius in (10.0, 25.0, 35.0):
        mohm = 1e3 * build.wiring_ohm + 1.3 * cells_mohm(pack().recipe, CELL, celsius)
        old = pack(checks=[read_after(9000, [12000, 12100, 10900, 12000], resistance_mohm=mohm, temperature_c=celsius)])
        state = state_now(old, CELL, TRAY)
        assert state.resistance_percent == pytest.approx(130, abs=0.2), "whatever the temperature it was read at"
    assert state.capacity_percent == pytest.approx(100 * 11750 / 13500, abs=0.1)
    weak = min(state.groups, key=lambda group: group.capacity_percent)
    assert (weak.group, weak.capacity_percent) == (3, pytest.approx(100 * 10900 / 11750, abs=0.1))
    flown = answer(design().with_pack(state=state))
    assert flown.packs[0].groups.index(flown.packs[0].weakest) == 2
    assert flown.duration_s < answer(design().with_pack(state=fresh)).duration_s


def test_a_pack_that_came_out_of_its_cells_predicts_its_own_readings() -> None:
    """What the model flies with resists what the inspection predicts: sag at the plug under a small load tells it."""
    predicted = inspect(pack(), CELL, TRAY).lines[1].predicted
    build = build_pack(pack().recipe, CELL)
    ohm = [1e3 / sum(1 / (cell.dcir_mohm or 0) for cell in TRAY[start : start + 3]) for start in range(0, 12, 3)]
    assert predicted == pytest.approx(sum(ohm) / 1e3 + 1e3 * build.wiring_ohm, rel=1e-3)


def test_the_range_goes_by_what_was_measured_of_the_pack() -> None:
    assumed = design()
    flown = answer(assumed)
    before = spread(assumed, flown)
    state = state_now(pack(), CELL, TRAY)
    assert state.capacity_measured
    assert state.resistance_measured
    built = assumed.with_pack(state=state)
    after = spread(built, answer(built))
    assert "measured of this pack" in after.doubts.words
    assert after.doubts.cell.capacity < before.doubts.cell.capacity
    assert after.doubts.cell.resistance < before.doubts.cell.resistance
    wide = [high - low for low, high in (before.duration_s, after.duration_s)]
    assert wide[1] < wide[0]
    typed = built.with_pack(state=state.changed(capacity_percent=80.0))
    assert not typed.pack.state.capacity_measured, "what was typed since was not measured"
    unread = [cell.changed(dcir_mohm=None) for cell in TRAY]
    assert not state_now(pack(), CELL, unread).resistance_measured


def test_readings_that_no_pack_could_give_are_refused() -> None:
    wild = pack(checks=[PackCheck(day=DAY, group_v=(3.3,) * 4, used_mah=1500)])
    with pytest.raises(DocumentError, match="was it full before, and is the charge used right"):
        state_now(wild, CELL, TRAY)


# Against what was predicted


def test_the_difference_is_explained_by_the_part_or_the_joint_it_would_take() -> None:
    build = build_pack(pack().recipe, CELL)
    weighed = pack().recipe.changed(weighed_g=round(build.parts_g + 8.0, 1))
    told = inspect(pack(recipe=weighed), CELL, TRAY).sentences
    assert "8.0 g more than its parts. Glue and tape are not counted" in told[0]
    far = inspect(pack(recipe=weighed.changed(weighed_g=build.parts_g + 400)), CELL, TRAY).sentences
    assert "No part is usually so far off" in far[0]
    predicted = inspect(pack(), CELL, TRAY).lines[1].predicted
    slow = inspect(pack(checks=[PackCheck(day=DAY, resistance_mohm=predicted + 2.0)]), CELL, TRAY).sentences
    assert "2.0 mΩ more than predicted. Likeliest: cells" in slow[0]
    assert "One joint alone would have to resist" in slow[1]
    fine = inspect(pack(checks=[PackCheck(day=DAY, resistance_mohm=predicted + 0.2)]), CELL, TRAY).sentences
    assert "is what its cells and its wiring say" in fine[0]
    assert "Nothing was measured of it yet" in inspect(pack(), CELL, TRAY).sentences[0]


def test_one_poor_joint_resists_what_a_group_with_it_lacks() -> None:
    build = build_pack(pack().recipe, CELL)
    for joint in (1.0, 10.0, 200.0):
        branches = [15.0, 15.0, 15.0 + joint]
        extra = 1 / sum(1 / one for one in branches) - 5.0
        assert one_joint_mohm(build, extra) == pytest.approx(joint, rel=1e-9)
    assert one_joint_mohm(build, 15 / 2 - 5 + 0.1) is None, "more than even an open joint costs"
    assert one_joint_mohm(build_pack(build.recipe.changed(parallel_count=1), CELL), 3.0) == 3.0


def test_a_group_that_fell_behind_is_named_with_its_doubt() -> None:
    old = pack(checks=[read_after(9000, [12600, 12650, 11400, 12600])])
    told = plain(" ".join(inspect(old, CELL, TRAY).sentences))
    assert "Group 3 holds 11 400 mAh, 1 217 mAh less than the others" in told
    alike = pack(checks=[read_after(9000, [12600, 12650, 12590, 12600])])
    assert "less than the others" not in " ".join(inspect(alike, CELL, TRAY).sentences)


# Repair


def aged(**changes: Any) -> PackState:
    old = pack(checks=[read_after(9000, [12600, 12650, 11400, 12600])], **changes)
    return state_now(old, CELL, TRAY)


def test_the_group_that_fell_behind_gets_the_cells_most_like_its_fellows() -> None:
    state = aged()
    assert behind(state, 4) == 2
    spare = [*cells(4, 40, mah=4200.0), *cells(4, 60, mah=4480.0)]
    plan = plan_repair(design(), pack(), CELL, state, spare)
    fellows = plan.others_mah / 3
    assert {cell.number for cell in plan.cells} <= {40, 41, 42, 43}, "not the best cells of the tray"
    best = sorted(abs((cell.capacity_mah or 0) - fellows) for cell in spare)[:3]
    assert sorted(abs((cell.capacity_mah or 0) - fellows) for cell in plan.cells) == pytest.approx(best)
    assert plan.then_s > plan.now_s
    assert plan.worth_it
    assert plan.price == pytest.approx(19.5)
    assert plan.then_s == pytest.approx(answer(design().with_pack(recipe=pack().recipe, state=plan.state)).duration_s)
    assert behind(plan.state, 4) is None


def test_a_repair_that_is_not_worth_it_is_told_why() -> None:
    worn = pack(checks=[read_after(7000, [9900, 9950, 9000, 9900])])
    plan = plan_repair(design(), pack(), CELL, state_now(worn, CELL, TRAY), cells(4, 40))
    assert not plan.worth_it
    assert "other groups hold 73 % of new themselves" in plain(plan.sentences()[0])
    little = pack(checks=[read_after(9000, [12600, 12650, 12300, 12600])])
    plan = plan_repair(design(), pack(), CELL, state_now(little, CELL, TRAY), cells(4, 40, mah=4190))
    assert "do not pay for heat" in plan.sentences()[0]


@pytest.mark.parametrize(("state", "spare", "words"), [
    (PackState(), 4, "No group of Whimbrel 9 has fallen behind"),
    (None, 2, "The tray has 2 free cells of Fell 21-45P to use, and a group of Whimbrel 9 takes 3"),
])  # fmt: skip
def test_what_cannot_be_repaired_is_refused_in_a_sentence(state: PackState | None, spare: int, words: str) -> None:
    with pytest.raises(DocumentError, match=words):
        plan_repair(design(), pack(), CELL, state or aged(), cells(spare, 40))


def test_a_pack_bought_whole_is_not_opened() -> None:
    bought = BuiltPack(id="d", name="Dunlin 9", cell_type_id="pack", recipe={"series_count": 2}, begun_on=DAY)
    with pytest.raises(DocumentError, match="bought whole is not opened"):
        plan_repair(design(), bought, whole_pack(), PackState(), [], 0)


def test_after_a_repair_the_group_is_that_of_its_new_cells() -> None:
    old = pack(checks=[read_after(9000, [12600, 12650, 11400, 12600])])
    coming = cells(3, 40, mah=4200)
    repair = PackRepair(group=3, taken_out=(7, 8, 9), put_in=(40, 41, 42), begun_on=date(2026, 6, 2))
    done = repaired(old.changed(repairs=(repair,)), repair, date(2026, 6, 3))
    assert done.groups[2] == (40, 41, 42)
    assert done.repair is None
    assert {7, 8, 9}.isdisjoint(done.numbers)
    state = state_now(done, CELL, [*TRAY, *coming])
    assert behind(state, 4) is None
    third = sum(cell.capacity_mah or 0 for cell in coming)
    mean = (12600 + 12650 + third + 12600) / 4
    assert state.capacity_percent == pytest.approx(100 * mean / 13500, rel=1e-3)
    later = read_after(9000.0, [12500, 12500, 12000, 12500]).changed(day=date(2026, 9, 1))
    read_since = done.changed(checks=(*done.checks, later))
    assert behind(state_now(read_since, CELL, [*TRAY, *coming]), 4) == 2, "a later reading counts again"


# The label


def test_the_label_tells_the_pack_and_the_flight_that_it_makes() -> None:
    flies = design()
    flown = answer(flies)
    own = label_text(Making(Bench.of(flown.build, ())), flies, flown, "2026-06-01")
    assert own.name == flies.design.name
    assert own.code == f"WISE-CELLAR/DESIGN/{flies.design.id.upper()}"
    told = " ".join(own.lines)
    assert "4S 3P of Fell 21-45P" in told
    assert "full 16.8 V, never under 10.0 V" in told
    assert f"most {max(flown.currents.cruise_a, flown.currents.punch_a):.0f} A" in told
    assert "2026-06-01" in told
    made = pack(recipe=pack().recipe.changed(weighed_g=940.0))
    of_pack = label_text(making_of(made, CELL, TRAY), flies, flown, "2026-06-01")
    assert of_pack.code == code_of(made) == "WISE-CELLAR/PACK/WHIMBREL-9"
    assert "land at" in " ".join(of_pack.lines)
    assert "________" not in " ".join(of_pack.lines), "the design flies this recipe"
    assert of_pack.lines[-1] == "2026-03-01, 940 g"
    other = complete(series_count=6, parallel_count=2).changed(cells=(CELL,))
    strange = label_text(making_of(made, CELL, TRAY), other, answer(other), "2026-06-01")
    assert "land at ________" in " ".join(strange.lines), "another pack's flight says nothing of it"


def test_matching_for_a_second_pack_leaves_the_cells_of_the_first() -> None:
    more = [*TRAY, *cells(14, 40)]
    there = taken([pack()], "cell")
    free = [cell for cell in more if cell.number not in there]
    again = match(CELL, free, Asked(4, 3))
    assert {cell.number for group in again.groups for cell in group}.isdisjoint(there)
