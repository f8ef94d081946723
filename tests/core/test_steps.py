"""Steps of building: their order, what is bare at each, and the volts to expect against a circuit solved apart."""

from __future__ import annotations

from collections import Counter
from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from tests.builders import cell_type, whole_pack
from wise_cellar.core.build.making import Making, making_of, recipe_to_keep, with_reading
from wise_cellar.core.build.materials import materials
from wise_cellar.core.build.steps import Bench, Step, judge_reading, sides_of, write_steps
from wise_cellar.core.build.steps.expected import group_rests, segments, settled_v
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.documents import BuiltPack, DocumentError, NumberedCell, PackRecipe, PackRepair, replaced
from wise_cellar.core.pack import Face, build_pack
from wise_cellar.core.pack.layout import node_of

CELL = cell_type()
POUCH = cell_type(
    form_factor="pouch", diameter_mm=None, width_mm=43, thickness_mm=8.4, length_mm=132, kinetic_class="polymer pouch",
    ocv_family="pouch_nmc",
)  # fmt: skip
PACKS: list[dict[str, Any]] = [
    {"series_count": 4, "parallel_count": 3},
    {"series_count": 3, "parallel_count": 2},
    {"series_count": 2, "parallel_count": 1},
    {"series_count": 1, "parallel_count": 3},
    {"series_count": 6, "parallel_count": 2, "joint": "soldered"},
    {"series_count": 4, "parallel_count": 2, "tiers": 2},
    {"series_count": 4, "parallel_count": 2, "arrangement": "staggered rows"},
    {"series_count": 4, "parallel_count": 2, "arrangement": "end-to-end sticks"},
    {"series_count": 13, "parallel_count": 4, "strip.layers": 2},
]


def recipe(changes: dict[str, Any]) -> PackRecipe:
    made = PackRecipe()
    for path, value in changes.items():
        made = replaced(made, path, value)
    return made


def numbered(series: int, parallel: int, seed: int = 3, spread: float = 0.004) -> list[list[NumberedCell]]:
    random = np.random.default_rng(seed)
    return [
        [
            NumberedCell(
                id=f"{group}-{place}", number=1 + group * parallel + place, cell_type_id=CELL.id,
                rested_v=round(3.5 + spread * float(random.standard_normal()), 4),
                capacity_mah=round(4400 + 40 * float(random.standard_normal())), dcir_mohm=15.0,
            )
            for place in range(parallel)
        ]
        for group in range(series)
    ]  # fmt: skip


def making(changes: dict[str, Any], seed: int = 3) -> Making:
    made = recipe(changes)
    build = build_pack(made, CELL)
    return Making(Bench.of(build, numbered(made.series_count, made.parallel_count, seed)))


def faces(steps: tuple[Step, ...]) -> list[Step]:
    return [step for step in steps if step.key.startswith("face")]


@pytest.mark.parametrize("changes", PACKS)
def test_every_joint_is_made_once_with_all_other_faces_covered(changes: dict[str, Any]) -> None:
    made = making(changes)
    series = made.bench.build.recipe.series_count
    joined: set[int] = set()
    for step in faces(made.steps):
        assert step.scene.joined == joined, "what was done before stays done"
        assert len(step.scene.open) == 1
        assert not step.scene.joining & joined
        assert step.scene.joining
        joined |= step.scene.joining
    assert joined == set(range(series + 1))
    keys = [step.key for step in made.steps]
    assert len(set(keys)) == len(keys)
    order = ["number", "rings", "lay", "plug", "lead-negative", "lead-positive", "taps", "insulate", "label"]
    assert [key for key in keys if key in order] == order
    assert keys[-2:] == ["first-charge", "measure"]


@pytest.mark.parametrize("changes", PACKS)
def test_the_whole_voltage_is_bare_as_late_as_can_be(changes: dict[str, Any]) -> None:
    build = making(changes).bench.build
    series = build.recipe.series_count
    ends = [len({0, series} & nodes) for nodes in sides_of(build.layout).values()]
    if build.layout.tiers == 1:
        assert ends == sorted(ends)
    else:
        inner = list(sides_of(build.layout))[:2]
        assert set(inner) == {(0, Face.TOP), (1, Face.UNDERSIDE)}


def probed(made: Making, joined: set[int], minus: tuple[int, bool], plus: tuple[int, bool]) -> float:
    """Volts between an end of a cell of one group and one of another, by nodal analysis of what is joined.

    Each cell is a source behind 15 mΩ, each node that is joined one piece of metal; written apart from the product.
    """
    groups, layout = made.bench.groups, made.bench.build.layout
    left = [list(group) for group in groups]
    ends: list[tuple[Any, Any, float]] = []
    first: dict[tuple[int, bool], Any] = {}
    for place, cell in enumerate(layout.cells):
        volts = left[cell.group].pop(0).rested_v
        names: list[Any] = []
        for positive in (False, True):
            node = node_of(cell, positive)
            name: Any = ("node", node) if node in joined else ("end", place, positive)
            names.append(name)
            first.setdefault((cell.group, positive), name)
        ends.append((names[0], names[1], float(volts or 0)))
    index = {name: number for number, name in enumerate(dict.fromkeys(n for one in ends for n in one[:2]))}
    laplacian, source = np.zeros((len(index), len(index))), np.zeros(len(index))
    for low, high, volts in ends:
        a, b, siemens = index[low], index[high], 1 / 0.015
        laplacian[[a, b], [a, b]] += siemens
        laplacian[a, b] -= siemens
        laplacian[b, a] -= siemens
        source[b] += siemens * volts
        source[a] -= siemens * volts
    potential = np.linalg.lstsq(laplacian, source, rcond=None)[0]
    return float(potential[index[first[plus]]] - potential[index[first[minus]]])


@pytest.mark.parametrize("changes", [one for one in PACKS if one.get("arrangement") != "end-to-end sticks"])
def test_the_volts_of_every_face_are_those_of_the_circuit(changes: dict[str, Any]) -> None:
    made = making(changes)
    for step in faces(made.steps):
        joined = set(step.scene.joined | step.scene.joining)
        for one in step.expected:
            _, *numbers = one.key.split("-")
            low, high = int(numbers[0]) - 1, int(numbers[-1]) - 1
            assert one.volts == pytest.approx(probed(made, joined, (low, False), (high, True)), abs=one.within_v)


def test_a_cell_far_from_its_lot_says_nothing_of_those_not_read() -> None:
    lot = [
        NumberedCell(id=f"x{n}", number=n, cell_type_id=CELL.id, arrival_v=3.51 + 0.001 * (n % 5)) for n in range(1, 30)
    ]
    wild = NumberedCell(id="low", number=99, cell_type_id=CELL.id, arrival_v=1.48)
    rests = group_rests(CELL, (), 4, [*lot, wild])
    assert rests[0].volts == pytest.approx(3.512, abs=0.001)
    assert rests[0].within_v < 0.02


def test_pins_plug_and_standing_cells_read_what_the_groups_rest_at() -> None:
    made = making({"series_count": 4, "parallel_count": 3})
    rests = [rest.volts for rest in made.bench.rests]
    by = {step.key: step for step in made.steps}
    assert [one.volts for one in by["taps"].expected] == pytest.approx(np.cumsum(rests))
    assert by["lead-positive"].expected[0].volts == pytest.approx(sum(rests))
    assert by["lead-negative"].expected[0].volts == 0
    signs = [np.sign(one.volts) for one in by["lay"].expected]
    up = {cell.group: cell.positive_up for cell in made.bench.build.layout.cells}
    assert signs == [1 if up[group] else -1 for group in range(4)]
    assert by["first-charge"].expected[-1].volts == pytest.approx(16.8)


@given(st.lists(st.floats(-0.015, 0.015), min_size=2, max_size=6), st.integers(0, 99))
def test_cells_side_by_side_come_to_rest_where_no_charge_flows(apart: list[float], seed: int) -> None:
    curve = resting_curve(CELL)
    grid = np.linspace(0.0, 1.0, len(curve.values))
    volts = [3.55 + each for each in apart]
    held = 4000 + 600 * np.random.default_rng(seed).random(len(volts))
    given_up = [np.interp(v, curve.values, grid) for v in volts]

    def left_over(level: float) -> float:
        return float(np.sum(held * (np.interp(level, curve.values, grid) - given_up)))

    exact = brentq(left_over, min(volts) - 1e-6, max(volts) + 1e-6)
    assert settled_v(volts, list(held)) == pytest.approx(exact, abs=0.002)


@given(st.integers(1, 20), st.sets(st.integers(0, 20)))
def test_every_group_is_in_one_run_of_joined_groups(series: int, joined: set[int]) -> None:
    runs = segments(series, joined)
    assert [group for first, last in runs for group in range(first, last + 1)] == list(range(series))
    for _, last in runs[:-1]:
        assert last + 1 not in joined


@pytest.mark.parametrize("changes", PACKS)
def test_the_pieces_of_all_faces_are_those_of_the_list(changes: dict[str, Any]) -> None:
    made = making(changes)
    wanted = next((one for one in materials(made.bench.build) if "strip" in one.name), None)
    cut: Counter[str] = Counter()
    for step in faces(made.steps):
        for words in step.pieces:
            for piece in words.split(": ")[1].split(", "):
                count, length = piece.split(" × ")
                cut[length] += int(count)
    listed: Counter[str] = Counter()
    if wanted is not None:
        for piece in wanted.cut_words.split(", "):
            count, length = piece.split(" × ")
            listed[length] += int(count)
    assert cut == listed


def test_each_way_of_joining_has_steps_of_its_own() -> None:
    def keys(build: Any) -> list[str]:
        return [step.key for step in write_steps(Bench.of(build, ()))]

    springs = keys(build_pack(recipe({"series_count": 2, "joint": "held by springs"}), CELL))
    assert springs.index("holder") < springs.index("insert"), "wires first, cells last"
    assert not any(key.startswith("face") for key in springs)
    single = write_steps(Bench.of(build_pack(recipe({"series_count": 1, "joint": "held by springs"}), CELL), ()))
    insert = next(step for step in single if step.key == "insert")
    assert insert.title == "Put the cell in"
    assert "reads backwards" in insert.do[1]
    side_by_side = build_pack(recipe({"series_count": 2, "parallel_count": 2, "joint": "held by springs"}), CELL)
    insert = next(step for step in write_steps(Bench.of(side_by_side, ())) if step.key == "insert")
    assert "short circuit through its fellows" in insert.do[1]
    soldered = keys(build_pack(recipe({"joint": "soldered"}), CELL))
    assert soldered.index("lay") < soldered.index("tin") < soldered.index("face-0-underside")
    bought = keys(build_pack(recipe({"series_count": 2}), whole_pack()))
    assert bought == ["look", "lead-negative", "lead-positive", "label", "first-charge", "measure"]
    two = keys(build_pack(recipe({"series_count": 2, "parallel_count": 2}), whole_pack()))
    assert "adaptor" in two
    assert "rings" not in keys(build_pack(recipe({"series_count": 2, "parallel_count": 1}), POUCH))
    bare = keys(build_pack(recipe({"balance.fitted": False, "fittings.shrink_mm": 0}), CELL))
    assert "taps" not in bare
    assert "wrap" not in bare


def test_cautions_stand_where_the_risk_is() -> None:
    for step in making({"series_count": 4, "parallel_count": 3, "joint": "soldered"}).steps:
        assert bool(step.scene.open) == any("Cover the face you are not working on" in words for words in step.told)
        if step.key.startswith("face") or step.key == "tin":
            assert "two seconds" in step.heat
    apart = numbered(2, 2)
    apart[1][0] = apart[1][0].changed(rested_v=3.60)
    number = write_steps(Bench.of(build_pack(recipe({"series_count": 2, "parallel_count": 2}), CELL), apart))[0]
    assert any("Cells 4 and 3 of group 2 rest" in words and "before they are joined" in words for words in number.told)


def test_the_wrap_is_cut_as_the_ledger_weighs_it() -> None:
    made = making({"series_count": 4, "parallel_count": 3})
    flat, long = made.bench.build.sleeve
    wrap = next(step for step in made.steps if step.key == "wrap")
    assert f"Cut {long:.0f} mm of sleeve that lies {flat:.0f} mm flat" in wrap.do[0]
    over = (0.9 * long - max(made.bench.build.layout.length_mm, made.bench.build.layout.height_mm)) / 2
    assert f"reaches {over:.0f} mm over each end" in wrap.do[1]


def said(key: str, of: str, volts: float) -> tuple[bool, str]:
    made = making({"series_count": 4, "parallel_count": 3})
    step = next(step for step in made.steps if step.key == key)
    one = next(one for one in step.expected if one.key == of)
    judged = judge_reading(made.steps, step, one, volts, made.bench.rests)
    return judged.fine, f"{judged.sentence} {judged.advice}"


@pytest.mark.parametrize(("key", "of", "volts", "words"), [
    ("lay", "group-1", 3.50, "stands upside down"),
    ("lay", "group-2", -3.42, "stands upside down"),
    ("face-0-underside", "groups-1-2", 0.003, "reads nothing"),
    ("face-0-underside", "groups-1-2", 3.5, "One group less"),
    ("face-0-underside", "groups-1-2", 6.80, "from the 6.999 V"),
    ("face-0-top", "groups-1-4", 7.0, "one group lies the wrong way round"),
    ("face-0-top", "groups-1-4", 10.5, "One group less"),
    ("taps", "pin-3", 3.5, "should be read elsewhere: wire 2"),
    ("taps", "pin-2", -3.5, "reads backwards"),
    ("lead-negative", "plug", 14.0, "should be nothing here yet"),
    ("lead-positive", "plug", -14.0, "leads are reversed"),
    ("lead-positive", "plug", 16.8, "another stage: it is right after “First charge”"),
    ("first-charge", "plug", 14.0, "another stage: it is right before"),
    ("face-0-top", "groups-1-4", 31.7, "Nothing that usually goes wrong"),
])  # fmt: skip
def test_a_reading_that_is_wrong_names_its_likely_cause(key: str, of: str, volts: float, words: str) -> None:
    fine, sentence = said(key, of, volts)
    assert not fine
    assert words in sentence


def test_a_reading_within_what_its_cells_say_is_fine() -> None:
    made = making({"series_count": 4, "parallel_count": 3})
    for step in made.steps:
        for one in step.expected:
            for volts in (one.volts - 0.9 * one.within_v, one.volts + 0.9 * one.within_v):
                assert judge_reading(made.steps, step, one, volts, made.bench.rests).fine


def begun(changes: dict[str, Any]) -> tuple[BuiltPack, list[NumberedCell]]:
    made = recipe(changes)
    groups = numbered(made.series_count, made.parallel_count)
    pack = BuiltPack(
        id="p", name="Whimbrel 9", cell_type_id=CELL.id, recipe=recipe_to_keep(build_pack(made, CELL)),
        groups=[[cell.number for cell in group] for group in groups], begun_on=date(2026, 3, 1),
    )  # fmt: skip
    return pack, [cell for group in groups for cell in group]


def test_what_was_read_of_the_groups_is_expected_from_then_on() -> None:
    pack, cells = begun({"series_count": 4, "parallel_count": 3})
    before = making_of(pack, CELL, cells)
    lay = next(step for step in before.steps if step.key == "lay")
    for one in lay.expected:
        pack = with_reading(pack, "lay", one.key, one.volts + (0.006 if one.volts > 0 else -0.006))
    after = making_of(pack, CELL, cells)
    assert next(step for step in after.steps if step.key == "lay").expected == lay.expected
    plug = [next(s for s in one.steps if s.key == "lead-positive").expected[0].volts for one in (before, after)]
    assert plug[1] == pytest.approx(plug[0] + 0.024, abs=1e-9)
    wild = making_of(with_reading(pack, "lay", "group-1", 2.0), CELL, cells)
    third = next(s for s in wild.steps if s.key == "taps").expected[0].volts
    assert third == pytest.approx(before.bench.rests[0].volts), "a wrong reading is no ground to go by"


def test_volts_in_millivolts_are_refused_and_nothing_is_lost() -> None:
    pack, _ = begun({"series_count": 2, "parallel_count": 1})
    pack = with_reading(pack, "lay", "group-1", 3.51)
    with pytest.raises(DocumentError, match="3512 V is no voltage of this pack; millivolts are written 3512 mV"):
        with_reading(pack, "lay", "group-2", 3512)
    assert [reading.volts for reading in pack.record("lay").readings] == [3.51]
    assert with_reading(pack, "lay", "group-1", None).record("lay").readings == ()


def test_a_swapped_pair_of_wires_is_diagnosed_from_the_readings_of_its_step() -> None:
    pack, cells = begun({"series_count": 4, "parallel_count": 3})
    made = making_of(pack, CELL, cells)
    taps = next(step for step in made.steps if step.key == "taps")
    volts = [one.volts for one in taps.expected]
    volts[1], volts[2] = volts[2], volts[1]
    for one, value in zip(taps.expected, volts, strict=True):
        pack = with_reading(pack, "taps", one.key, value)
    made = making_of(pack, CELL, cells)
    told = made.together(next(step for step in made.steps if step.key == "taps"))
    assert "Wires 3 and 4 are swapped" in told[0]
    assert "Do not connect a charger" in " ".join(told)


def test_groups_of_a_pack_bought_whole_are_held_against_each_other() -> None:
    pack = BuiltPack(id="p", name="Dunlin 9", cell_type_id="pack", recipe=recipe({"series_count": 2}),
                     begun_on=date(2026, 3, 1))  # fmt: skip
    for key, volts in (("group-1", 3.80), ("group-2", 3.71)):
        pack = with_reading(pack, "look", key, volts)
    made = making_of(pack, whole_pack(), [])
    look = made.steps[0]
    assert all(judged.fine for judged in made.judged(look).values()), "each may be what it is"
    assert "Groups are 90 mV apart, group 2 the lowest" in made.together(look)[0]


def test_a_repair_parts_one_group_and_joins_it_again() -> None:
    pack, cells = begun({"series_count": 4, "parallel_count": 3})
    coming = [NumberedCell(id=f"n{n}", number=n, cell_type_id=CELL.id, rested_v=3.61) for n in (51, 52, 53)]
    repair = PackRepair(group=2, taken_out=pack.groups[1], put_in=(51, 52, 53), begun_on=date(2026, 4, 1))
    pack = pack.changed(finished_on=date(2026, 3, 2), repairs=(repair,))
    for place in range(4):
        pack = with_reading(pack, "repair-low", f"group-{place + 1}", 3.55)
    made = making_of(pack, CELL, [*cells, *coming])
    assert all(step.key.startswith("repair-") for step in made.steps)
    by = {step.key.removeprefix("repair-"): step for step in made.steps}
    assert [one.volts for one in by["level"].expected] == pytest.approx([3.55] * 3), "to its fellows' volts"
    assert by["in"].scene.joining == {1, 2}
    assert by["in"].scene.joined == {0, 3, 4}
    assert by["in"].expected[-1].volts == pytest.approx(14.2)
    assert made.numbers[1] == (51, 52, 53)
