"""Cell types compared at the present craft's load."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.cells import Use, Verdict, beyond, burst_limit_a, capacity_mah, lasting_limit_a, sheet_verdict
from wise_cellar.core.documents import MOST_PARALLEL, CellType, CompleteDesign, PackState
from wise_cellar.core.flight import Ending, FlightBatch, FlightTraces, fly
from wise_cellar.core.flight.punch import PunchOutcome, punch_from
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.lowering.designs import punch_seconds
from wise_cellar.core.lowering.packs import hottest_c
from wise_cellar.core.lowering.rows import LoweredRows, batch_of, lower_rows
from wise_cellar.core.lowering.space import Places, Space
from wise_cellar.core.pack import as_parts, build_pack
from wise_cellar.core.pack.rating import cell_share
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats

LINE_POINTS = 48


class Footing(StrEnum):
    """On what footing cell types are compared."""

    SAME_COUNT = "same S × P"
    SAME_MASS = "nearest pack mass"


@dataclass(frozen=True)
class ShelfRow:
    """One cell type in the present design."""

    cell: CellType
    parallel_count: int
    pack_mass_g: float
    duration_s: float
    usable_wh: float
    """Energy that this pack gave at the craft's side of the connector until the flight ended."""
    used_share: float
    """Charge given over the label's."""
    loaded_v: float
    """Mean volts a cell under load over the flight, as the craft sees them."""
    late_punch_v: float
    """Volts a cell, as the craft sees them, at the end of a burst begun when the landing rule calls."""
    hottest_c: float
    rating_share: float
    """Current of one cell over its limit, at cruise or in a first burst, whichever is worse."""
    usable_wh_kg: float
    """Usable energy over the mass of the pack."""
    price_per_minute: float | None
    """Price of all cells over the minutes of one flight; none where no price is given."""
    beyond_fit: bool
    """Whether the flight goes beyond what the cell's fit rests on, in current, burst or warmth."""
    ending: Ending
    verdict: Verdict
    """The worst of what its sheet claims."""
    line_charge: Floats
    """Charge drawn at the present amps a cell, share of the greatest on the shelf's label, shape ``(points,)``."""
    line_v: Floats
    """Volts of the cell along it."""


@dataclass(frozen=True)
class Discharge:
    """A cell giving a held current from the present start, arrays of shape ``(points,)``."""

    cell: CellType
    current_a: float
    charge_ah: Floats
    energy_wh: Floats
    voltage_v: Floats
    temperature_c: Floats


def with_cell(complete: CompleteDesign, cell: CellType, parallel_count: int | None = None) -> CompleteDesign:
    """The design with another cell type, and another number in parallel where given."""
    recipe = complete.pack.recipe
    if parallel_count is not None:
        recipe = recipe.changed(parallel_count=parallel_count)
    return complete.with_pack(cell, recipe=recipe)


def parallel_at_mass(complete: CompleteDesign, cell: CellType, pack_mass_g: float) -> int:
    """The number in parallel whose pack comes nearest to ``pack_mass_g``, from 1 to 12."""
    recipe, bay = complete.pack.recipe, complete.bay

    def mass(parallel: int) -> float:
        return build_pack(recipe.changed(parallel_count=parallel), cell, bay).mass_g

    count = min(max(round(pack_mass_g * cell.cells_in_series / (recipe.series_count * cell.mass_g)), 1), MOST_PARALLEL)
    best = mass(count)
    while True:
        step = 1 if best < pack_mass_g else -1
        if not 1 <= count + step <= MOST_PARALLEL:
            return count
        beyond = mass(count + step)
        if abs(beyond - pack_mass_g) >= abs(best - pack_mass_g):
            return count
        count, best = count + step, beyond


def mean_cell_current_a(complete: CompleteDesign, charge_used_mah: float, duration_s: float) -> float:
    """Mean current of one cell over a flight that used ``charge_used_mah`` of the pack, A."""
    return 3.6 * charge_used_mah / max(duration_s, 1e-9) / complete.pack.recipe.parallel_count


def shelf_at_load(
    complete: CompleteDesign, cells: Sequence[CellType], factor: float, cell_current_a: float,
    footing: Footing = Footing.SAME_COUNT,
) -> list[ShelfRow]:  # fmt: skip
    """Rows of all ``cells``, each flown in place of the present one.

    ``factor`` is the craft's calibration; the small lines are drawn at ``cell_current_a``.
    """
    complete = as_parts(complete)
    present = build_pack(complete.pack.recipe, complete.pack.cell, complete.bay).mass_g
    same, own = footing is Footing.SAME_COUNT, complete.pack.recipe
    counts = [own.parallel_count if same else parallel_at_mass(complete, cell, present) for cell in cells]
    space = Space.around(complete, parallel=sorted(set(counts)), cells=cells)
    place = Places.of(parallel=[space.parallel.index(count) for count in counts], cells=range(len(cells)))
    lowered = lower_rows(space, place.rows(space), factor)
    batch = batch_of(lowered)
    flown = fly(batch)
    late = punch_from(batch, flown.late_state, punch_seconds(complete), np.arange(len(cells)))
    first = punch_from(batch, batch.start, punch_seconds(complete), np.arange(len(cells)))
    return _rows(lowered, batch, flown, (first, late), _held(batch, cells, cell_current_a))


def _rows(
    lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces, bursts: tuple[PunchOutcome, PunchOutcome],
    lines: Sequence[Discharge],
) -> list[ShelfRow]:  # fmt: skip
    """A row a cell type; ``bursts`` are the first and a late one."""
    complete, cells, (first, late) = lowered.complete, lowered.space.cells, bursts
    widest = max(capacity_mah(cell) for cell in cells) / 1000
    worst_share = lowered.packs.worst_share
    shares = cell_share(
        worst_share, flown.cruise_current_a[0, 0], first.current_a[0, 0], flown.held_current_a[0, 0],
        np.array([lasting_limit_a(cell) for cell in cells]),
        np.array([burst_limit_a(cell, punch_seconds(complete)) for cell in cells]),
    )  # fmt: skip
    warmest_c = hottest_c(flown.hottest_k[0].max(axis=0), complete.pack.air_temperature_c, worst_share)
    coldest_c = flown.coldest_k[0].min(axis=0) - ZERO_CELSIUS_K
    lasting_a, burst_a = flown.cruise_current_a[0, 0] * worst_share, first.current_a[0, 0] * worst_share
    used = np.stack([lasting_a, np.maximum(lasting_a, burst_a), coldest_c, warmest_c], axis=1)
    usable_wh, pack_g = flown.energy_j[0, 0] / 3600, lowered.pack_g
    given_c = flown.charge_c[0, 0] * batch.parallel[0, 0] * batch.series
    rows = []
    for at, cell in enumerate(cells):
        seconds, usable, given = float(flown.lasted_s[at]), float(usable_wh[at]), float(given_c[at])
        cost = cell.price * float(lowered.packs.units[at]) if cell.price is not None and seconds > 0 else None
        rows.append(
            ShelfRow(
                cell=cell,
                parallel_count=int(batch.parallel[0, 0, at]),
                pack_mass_g=float(pack_g[at]),
                duration_s=seconds,
                usable_wh=usable,
                used_share=float(flown.charge_c[0, 0, at]) / (3.6 * cell.capacity_mah),
                loaded_v=3600 * usable / given if given > 0 else math.nan,
                late_punch_v=float(late.bus_v[at] / batch.series[at]),
                hottest_c=float(warmest_c[at]),
                rating_share=float(shares[at]),
                usable_wh_kg=1000 * usable / float(pack_g[at]),
                price_per_minute=60 * cost / seconds if cost is not None else None,
                beyond_fit=cell.fitted is not None and beyond(cell, Use(*used[at].tolist())).outside,
                ending=Ending(int(flown.ending[at])),
                verdict=sheet_verdict(cell),
                line_charge=_thin(lines[at].charge_ah) / widest,
                line_v=_thin(lines[at].voltage_v),
            )
        )
    return rows


def discharge_at_current(
    complete: CompleteDesign, cells: Sequence[CellType], factor: float, cell_current_a: float
) -> list[Discharge]:
    """Each of ``cells`` giving ``cell_current_a``, held, from the present start to its own minimum voltage.

    The same integrator with one endless block and no limit but the cell's; cooled as a cell of the present pack is,
    which is alone on its bus.
    """
    return _held(lower([lower_one(with_cell(complete, cell), factor) for cell in cells]), cells, cell_current_a)


def bench_discharge(complete: CompleteDesign, cell_current_a: float, air_c: float) -> Discharge:
    """The design's cell type, new, full and as warm as the air of the room, ``air_c`` in °C, giving a held current to
    its own minimum voltage; cooled as in the pack."""
    fresh = as_parts(complete).with_pack(state=PackState(temperature_c=air_c))
    fresh = fresh.with_design(conditions=fresh.design.conditions.changed(air_temperature_c=air_c))
    return discharge_at_current(fresh, [fresh.pack.cell], 1.0, cell_current_a)[0]


def _held(batch: FlightBatch, cells: Sequence[CellType], cell_current_a: float) -> list[Discharge]:
    batch = batch.of_pack(0)
    traces = fly(batch.one_block(np.inf, cell_current_a=np.full(len(cells), cell_current_a)), record=True).trace
    found = []
    for place, (cell, trace) in enumerate(zip(cells, traces, strict=True)):
        drawn = (batch.start.soc[0, 0, place] - trace.state.soc[0, 0]) * batch.cell.charge_c[0, 0, place] / 3600
        cell_v = trace.cell_v[0, 0]
        middle = 0.5 * (cell_v[1:] + cell_v[:-1])
        energy = np.concatenate([np.zeros(1), np.cumsum(middle * np.diff(drawn))])
        celsius = trace.state.temperature_k[0, 0] - ZERO_CELSIUS_K
        found.append(Discharge(cell, cell_current_a, drawn, energy, cell_v, celsius))
    return found


def _thin(values: Floats) -> Floats:
    if len(values) <= LINE_POINTS:
        return values
    return np.asarray(values[np.linspace(0, len(values) - 1, LINE_POINTS).round().astype(int)])
