"""Matching: against every possible choice on small trays, against its bound on large ones, and what it brings."""

from __future__ import annotations

from itertools import combinations
from typing import Any

import numpy as np
import pytest

from tests.builders import LANDING, PUNCH, cell_type, complete, cruise, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.build import (
    Asked,
    Matched,
    as_built,
    as_they_came,
    imbalance,
    in_minutes,
    match,
    state_of,
    worst_order,
)
from wise_cellar.core.build.matching import CAPACITY_ALIKE, SPREAD_ALIKE
from wise_cellar.core.documents import DocumentError, LandingPolicy, LandingRule, NumberedCell, PackState, replaced
from wise_cellar.core.flight import UnwantedError, while_wanted

CELL = cell_type()


def tray(count: int, seed: int = 1, spread: float = 0.015) -> list[NumberedCell]:
    random = np.random.default_rng(seed)
    return [
        NumberedCell(
            id=f"c{place}", number=place + 1, cell_type_id="x",
            capacity_mah=round(CELL.capacity_mah * (1 + spread * random.standard_normal()), 1),
            dcir_mohm=round(CELL.resistance_mohm * (1 + 4 * spread * random.standard_normal()), 2),
        )
        for place in range(count)
    ]  # fmt: skip


def every_choice(cells: list[NumberedCell], groups: int, parallel: int) -> Any:
    """All ways to put cells into groups, as tuples of tuples of places; groups have no order among them."""

    def parts(left: tuple[int, ...], groups: int) -> Any:
        if groups == 0:
            yield ()
            return
        for first in range(len(left) - groups * parallel + 1):
            head, rest = left[first], left[first + 1 :]
            for others in combinations(rest, parallel - 1):
                remaining = tuple(place for place in rest if place not in others)
                for more in parts(remaining, groups - 1):
                    yield ((head, *others), *more)

    yield from parts(tuple(range(len(cells))), groups)


@pytest.mark.parametrize(
    ("count", "series", "parallel", "seed"),
    [(6, 2, 2, 1), (8, 2, 3, 2), (7, 3, 2, 3), (8, 4, 1, 4), (9, 3, 3, 5), (8, 2, 4, 6)],
)
def test_small_trays_are_matched_as_well_as_can_be(count: int, series: int, parallel: int, seed: int) -> None:
    cells = tray(count, seed)
    caps = np.array([cell.capacity_mah for cell in cells])
    flows = 1 / np.array([cell.dcir_mohm for cell in cells])
    flows = flows / flows.mean()
    found = match(CELL, cells, Asked(series, parallel))
    choices = list(every_choice(cells, series, parallel))
    least = np.array([min(caps[list(group)].sum() for group in choice) for choice in choices])
    assert found.proved
    assert found.bound_mah == pytest.approx(least.max(), rel=1e-6)
    assert found.least_mah >= least.max() * (1 - CAPACITY_ALIKE) - 1e-6
    spread = np.array([np.ptp([flows[list(group)].sum() for group in choice]) for choice in choices])
    best = spread[least >= least.max() * (1 - CAPACITY_ALIKE) - 1e-6].min()
    place_of = {cell.number: place for place, cell in enumerate(cells)}
    mine = np.ptp([flows[[place_of[cell.number] for cell in group]].sum() for group in found.groups])
    assert mine <= best + SPREAD_ALIKE * parallel + 1e-6


def numbers(matched: Matched) -> list[int]:
    return [cell.number for group in matched.groups for cell in group]


def test_every_cell_is_in_one_place() -> None:
    found = match(CELL, tray(200), Asked(6, 12))
    assert len(set(numbers(found))) == 72
    assert [len(group) for group in found.groups] == [12] * 6


@pytest.mark.parametrize(
    ("count", "series", "parallel", "packs"), [(200, 6, 12, 1), (40, 4, 3, 1), (40, 4, 3, 3), (130, 10, 4, 3)]
)
def test_large_trays_come_near_their_bound(count: int, series: int, parallel: int, packs: int) -> None:
    cells = tray(count, seed=count)
    found = match(CELL, cells, Asked(series, parallel, packs))
    asked = Asked(series, parallel, packs)
    best = np.sort([cell.capacity_mah for cell in cells])[::-1][: asked.cells].sum() / asked.groups
    assert found.bound_mah <= best + 1e-9
    assert found.gap < 0.003
    assert found.least_mah > as_they_came(CELL, cells, asked).least_mah
    assert found.least_mah > worst_order(CELL, found).least_mah
    assert found.resistance_spread < 0.03


@pytest.mark.parametrize(("count", "series", "parallel"), [(8, 3, 2), (400, 20, 12)])
def test_matching_that_nobody_waits_for_ends(count: int, series: int, parallel: int) -> None:
    left = iter([True])
    with while_wanted(lambda: next(left, False)), pytest.raises(UnwantedError):
        match(CELL, tray(count), Asked(series, parallel))


def test_packs_of_one_tray_are_alike() -> None:
    found = match(CELL, tray(60), Asked(4, 3, 4))
    held = found.capacity_mah.reshape(4, 4)
    assert np.ptp(held.min(axis=1)) < 0.002 * held.mean()
    assert [len(found.pack(place)) for place in range(4)] == [4] * 4


def test_settled_and_forbidden_cells_are_respected() -> None:
    cells = tray(40)
    asked = Asked(4, 3, fixed={7: 2, 8: 2, 33: 0}, forbidden=frozenset({1, 2, 3}))
    found = match(CELL, cells, asked)
    assert {7, 8} <= {cell.number for cell in found.groups[2]}
    assert 33 in {cell.number for cell in found.groups[0]}
    assert not {1, 2, 3} & set(numbers(found))


@pytest.mark.parametrize(("asked", "says"), [
    (Asked(4, 3), "4S 3P asks for 12 cells; 10 of this tray may be used: 2 more are needed"),
    (Asked(2, 2, 3), "2S 2P, 3 times, asks for 12 cells"),
    (Asked(2, 2, fixed={99: 0}), "Cell 99 is fixed in group 1, and is not among the cells to use"),
    (Asked(2, 2, fixed={1: 5}), "Cell 1 is fixed in group 6; there are 2"),
    (Asked(2, 2, fixed={1: 0, 2: 0, 3: 0}), "3 cells are fixed in group 1, which has 2"),
])  # fmt: skip
def test_what_cannot_be_is_a_sentence(asked: Asked, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        match(CELL, tray(10), asked)


def test_cells_without_readings_are_taken_as_their_lot() -> None:
    cells = [*tray(10), NumberedCell(id="n", number=50, cell_type_id="x")]
    assert len(numbers(match(CELL, cells, Asked(2, 2)))) == 4
    assert (
        match(CELL, [NumberedCell(id=str(n), number=n + 1, cell_type_id="x") for n in range(4)], Asked(2, 2)).gap < 1e-9
    )


DESIGN = replaced(
    complete(flown=mission(cruise(300), PUNCH, cruise(), LANDING)), "design.landing",
    LandingRule(policy=LandingPolicy.DEEP),
)  # fmt: skip
"""Flown deep: there the least group tells."""


def of_design(found_cells: list[NumberedCell], order: str = "best") -> Matched:
    recipe = DESIGN.pack.recipe
    asked = Asked(recipe.series_count, recipe.parallel_count)
    found = match(DESIGN.pack.cell, found_cells, asked)
    return found if order == "best" else worst_order(DESIGN.pack.cell, found)


def own_tray(spread: float, seed: int = 2) -> list[NumberedCell]:
    recipe, cell = DESIGN.pack.recipe, DESIGN.pack.cell
    random = np.random.default_rng(seed)
    count = recipe.series_count * recipe.parallel_count
    return [
        NumberedCell(
            id=f"c{place}", number=place + 1, cell_type_id=cell.id,
            capacity_mah=cell.capacity_mah * (1 + spread * random.standard_normal()),
            dcir_mohm=cell.resistance_mohm * (1 + spread * random.standard_normal()),
        )
        for place in range(count)
    ]  # fmt: skip


def test_cells_that_are_all_as_their_type_fly_as_designed() -> None:
    found = of_design(own_tray(0.0))
    state = state_of(DESIGN.pack.cell, found.groups, PackState())
    assert state.groups == ()
    assert (state.capacity_percent, state.resistance_percent) == (100.0, 100.0)
    assert in_minutes(answer(DESIGN), answer(as_built(DESIGN, found))).startswith("It flies as designed")


def test_the_least_group_ends_a_pack_in_the_worst_order_and_matching_brings_minutes() -> None:
    cells = own_tray(0.04)
    best, worst = (answer(as_built(DESIGN, of_design(cells, order))) for order in ("best", "worst"))
    assert best.duration_s > worst.duration_s + 5
    weakest = worst.packs[0].weakest
    least = int(np.argmin(of_design(cells, "worst").capacity_mah))
    assert weakest.members == (least,)


def test_a_group_resists_as_its_cells_side_by_side() -> None:
    cell = DESIGN.pack.cell
    pair = [NumberedCell(id=str(n), number=n, cell_type_id="x", capacity_mah=cell.capacity_mah, dcir_mohm=ohm)
            for n, ohm in ((1, 10.0), (2, 40.0), (3, 16.0), (4, 16.0))]  # fmt: skip
    state = state_of(cell, (tuple(pair[:2]), tuple(pair[2:])), PackState())
    told = 8.0 * 2 / cell.resistance_mohm * 100
    assert state.resistance_percent == pytest.approx(min(max(told, 80), 400), abs=0.01)
    assert state.groups == ()


def test_what_balancing_mends_is_told() -> None:
    cells = own_tray(0.04)
    found = of_design(cells, "worst")
    built = answer(as_built(DESIGN, found))
    told = imbalance(DESIGN.pack.cell, found, built)
    assert told.left_apart == pytest.approx(
        max(g.charge_left for g in built.packs[0].groups) - min(g.charge_left for g in built.packs[0].groups)
    )
    said = " ".join(told.sentences(float(found.capacity_mah.mean())))
    assert "no balancing mends that" in said
    assert "a balanced charge now and then is enough" in said
