"""Packs that were built for the survey: one half built out of the tray, three finished at different times."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime, timedelta

import numpy as np

from wise_cellar.core.build.finished import cells_mohm, resting_at
from wise_cellar.core.build.making import Making, making_of, recipe_to_keep
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    Document,
    NumberedCell,
    PackCheck,
    PackRecipe,
    StepReading,
    StepRecord,
)
from wise_cellar.core.pack import build_pack
from wise_cellar.demo.sample_tray import readings_of

HALF_BUILT_ID, OLD_PACK_ID = "whimbrel-2", "whimbrel-1"
HALF_BUILT = ((5, 13, 18), (1, 3, 28), (15, 17, 36), (2, 20, 31))
"""Numbers in the tray of forty, as they were matched."""
STEPS_DONE = 5
LOOSE = 6
"""Cells that were bought with the old pack's and are in none."""


def sample_packs(
    types: Mapping[str, CellType], recipes: Mapping[str, PackRecipe], tray: Sequence[NumberedCell]
) -> tuple[Document, ...]:
    """The packs and the cells of the finished ones; ``recipes`` by the identifier of the design that they are for."""
    old = _lot(types["fell-21-50e"], 12 + LOOSE, date(2025, 4, 2), seed=2150)
    wing = _lot(types["fell-21-49e"], 8, date(2025, 9, 28), seed=2149)
    scout = _lot(types["tarn-18-29p"], 2, date(2026, 2, 1), seed=1829)
    return (
        *old, *wing, *scout,
        _half_built(types["fell-21-45p"], recipes["whimbrel-transect"], tray),
        _finished(
            "Whimbrel 1", types["fell-21-50e"], recipes["whimbrel-energy"], old[:12], date(2025, 4, 12),
            heavier_g=9.5, aged=[(date(2026, 3, 20), 9900.0, (0.925, 0.931, 0.874, 0.928), 1.17)],
        ),
        _finished(
            "Turnstone 1", types["fell-21-49e"], recipes["turnstone-shoreline"], wing, date(2025, 10, 5),
            heavier_g=5.0, aged=[(date(2026, 3, 6), 6200.0, (0.972, 0.97, 0.974, 0.971), 1.05)],
        ),
        _finished(
            "Dunlin 1", types["tarn-18-29p"], recipes["dunlin-scout"], scout, date(2026, 2, 8), heavier_g=1.1, aged=[]
        ),
    )  # fmt: skip


def _lot(cell_type: CellType, count: int, day: date, seed: int) -> tuple[NumberedCell, ...]:
    """Sound cells of one lot, as they were read when they arrived and a week later."""
    random = np.random.default_rng(seed)
    return tuple(
        NumberedCell(
            id=f"{cell_type.id}-{number:02d}", number=number, cell_type_id=cell_type.id, sample=True, arrived_on=day,
            rested_on=day + timedelta(days=7), **readings_of(cell_type, random),
        )
        for number in range(1, count + 1)
    )  # fmt: skip


def _begun(
    identifier: str, name: str, cell_type: CellType, recipe: PackRecipe, groups: Sequence[Sequence[int]], day: date
) -> BuiltPack:
    kept = recipe_to_keep(build_pack(recipe, cell_type))
    return BuiltPack(
        id=identifier, name=name, sample=True, cell_type_id=cell_type.id, recipe=kept,
        groups=tuple(tuple(group) for group in groups), begun_on=day,
    )  # fmt: skip


def _recorded(made: Making, count: int, start: datetime) -> tuple[StepRecord, ...]:
    """The first steps done one after the other, each reading a few millivolts from what it should be."""
    random = np.random.default_rng(made.bench.build.recipe.series_count)
    records = []
    for place, step in enumerate(made.steps[:count]):
        readings = tuple(
            StepReading(of=one.key, volts=round(one.volts + 0.3 * one.within_v * float(random.uniform(-1, 1)), 3))
            for one in step.expected
        )
        records.append(StepRecord(key=step.key, at=start + timedelta(minutes=35 * place), readings=readings))
    return tuple(records)


def _half_built(cell_type: CellType, recipe: PackRecipe, tray: Sequence[NumberedCell]) -> BuiltPack:
    pack = _begun(HALF_BUILT_ID, "Whimbrel 2", cell_type, recipe, HALF_BUILT, date(2026, 3, 14))
    made = making_of(pack, cell_type, tray)
    return pack.changed(steps=_recorded(made, STEPS_DONE, datetime(2026, 3, 14, 9, 30)))


def _finished(
    name: str, cell_type: CellType, recipe: PackRecipe, cells: Sequence[NumberedCell], day: date, *, heavier_g: float,
    aged: Sequence[tuple[date, float, tuple[float, ...], float]],
) -> BuiltPack:  # fmt: skip
    """A pack of a lot's cells in their order; ``aged``: day, charge used since full, what each group holds of new, and
    its cells' resistance over that of new."""
    parallel = recipe.parallel_count
    numbers = [cell.number for cell in cells]
    groups = [numbers[start : start + parallel] for start in range(0, len(numbers), parallel)]
    identifier = name.lower().replace(" ", "-")
    pack = _begun(identifier, name, cell_type, recipe, groups, day - timedelta(days=1))
    made = making_of(pack, cell_type, cells)
    build = made.bench.build
    wiring = 1e3 * build.wiring_ohm

    def resists(factor: float) -> float:
        return round(wiring + factor * cells_mohm(pack.recipe, cell_type, 22.0), 1)

    series = recipe.series_count
    full = tuple(round(resting_at(cell_type, 0.995 - 0.001 * (place % 3)), 3) for place in range(series))
    checks = [PackCheck(day=day, group_v=full, resistance_mohm=resists(1.02), temperature_c=22)]
    held = parallel * cell_type.capacity_mah
    for when, used, shares, factor in aged:
        volts = tuple(round(resting_at(cell_type, 1 - used / (held * share)), 3) for share in shares)
        checks.append(
            PackCheck(day=when, group_v=volts, used_mah=used, resistance_mohm=resists(factor), temperature_c=22)
        )
    return pack.changed(
        finished_on=day, steps=_recorded(made, len(made.steps), datetime(day.year, day.month, day.day, 9)),
        checks=tuple(checks), recipe=pack.recipe.changed(weighed_g=round(build.parts_g + heavier_g, 1)),
        notes="Sample data: invented.",
    )  # fmt: skip
