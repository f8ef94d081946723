"""Cell types compared at the present craft's load, in the same S × P."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import CellType, CompleteDesign
from wise_cellar.core.flight import Ending, fly, lower, lower_one
from wise_cellar.core.flight.lowering import LoweredDesign, punch_seconds
from wise_cellar.core.flight.punch import punch_from
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats


@dataclass(frozen=True)
class ShelfRow:
    """One cell type in the present design."""

    cell: CellType
    duration_s: float
    usable_wh: float
    """Energy given at the craft's side of the connector until the flight ended."""
    used_share: float
    """Charge given over the label's."""
    late_punch_v: float
    """Volts a cell, as the craft sees them, at the end of a burst begun when the landing rule calls."""
    hottest_c: float
    rating_share: float
    """Current of one cell over its rating, at cruise or in a first burst, whichever is worse."""
    usable_wh_kg: float
    """Usable energy over the mass of the pack."""
    price_per_minute: float | None
    """Price of all cells over the minutes of one flight; none where no price is given."""
    ending: Ending


@dataclass(frozen=True)
class Discharge:
    """A cell at a held power from the present start, arrays of shape ``(points,)``."""

    cell: CellType
    charge_ah: Floats
    voltage_v: Floats


def _with(complete: CompleteDesign, cell: CellType) -> CompleteDesign:
    design = complete.design.model_copy(update={"cell_type_id": cell.id})
    return complete.model_copy(update={"design": design, "cell_type": cell})


def _lowered(complete: CompleteDesign, cells: Sequence[CellType], factor: float) -> list[LoweredDesign]:
    return [lower_one(_with(complete, cell), factor) for cell in cells]


def shelf_at_load(complete: CompleteDesign, cells: Sequence[CellType], factor: float) -> list[ShelfRow]:
    """Rows of all ``cells``, each flown in place of the present one; ``factor`` is the craft's calibration."""
    lowered = _lowered(complete, cells, factor)
    batch = lower(lowered)
    flown = fly(batch)
    late = punch_from(batch, flown.late_state, punch_seconds(complete), np.arange(len(cells)))
    first = punch_from(batch, batch.start, punch_seconds(complete), np.arange(len(cells)))
    rows = []
    for place, (cell, design) in enumerate(zip(cells, lowered, strict=True)):
        minutes = float(flown.end_s[place]) / 60
        usable = float(flown.energy_j[place]) / 3600
        count = design.build.recipe.series_count * design.build.recipe.parallel_count
        rows.append(
            ShelfRow(
                cell=cell,
                duration_s=60 * minutes,
                usable_wh=usable,
                used_share=float(flown.charge_c[place]) / (3.6 * cell.capacity_mah),
                late_punch_v=float(late.bus_v[place] / batch.series[place]),
                hottest_c=float(flown.hottest_k[place]) - ZERO_CELSIUS_K,
                rating_share=max(
                    float(flown.cruise_current_a[place]) / cell.limit_current_a,
                    float(first.current_a[place]) / cell.limit_for(punch_seconds(complete)),
                ),
                usable_wh_kg=1000 * usable / design.build.mass_g,
                price_per_minute=cell.price * count / minutes if cell.price is not None and minutes > 0 else None,
                ending=Ending(int(flown.ending[place])),
            )
        )
    return rows


def discharge_at_load(
    complete: CompleteDesign, cells: Sequence[CellType], factor: float, power_w: float
) -> list[Discharge]:
    """Each of ``cells`` giving ``power_w`` from the pack, held, until its own minimum voltage.

    The same integrator with one endless block and no limit but the cell's.
    """
    batch = lower(_lowered(complete, cells, factor))
    traces = fly(batch.one_block(np.inf, np.full(len(cells), power_w)), record=True).trace
    found = []
    for place, (cell, trace) in enumerate(zip(cells, traces, strict=True)):
        drawn = (batch.start.soc[place] - trace.state.soc) * batch.cell.charge_c[place] / 3600
        found.append(Discharge(cell, drawn, trace.cell_v))
    return found
