"""Many packs worked out together: cells that share a shape share a layout, and circuits of one layout are solved at
once. What a pack weighs, resists and stands comes from the same functions as that of a single pack."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import lru_cache

import numpy as np

from wise_cellar.core.cells import electrical
from wise_cellar.core.documents import Bay, CellType, Joint, PackRecipe
from wise_cellar.core.lowering.space import Places, Space
from wise_cellar.core.pack import PackLayout, arrange, lying_mm, shape_of, stow
from wise_cellar.core.pack.arrangement import CellShape
from wise_cellar.core.pack.interconnect import solve_alike
from wise_cellar.core.pack.joining import joint_ohm
from wise_cellar.core.pack.ledger import (
    MassEntry,
    body_masses,
    build_layout,
    cell_masses,
    circuit_ohms,
    lead_masses,
    lead_resistances,
)
from wise_cellar.core.pack.rating import CarrierTable
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.conductor import stranded_lead


@dataclass(frozen=True)
class PackTable:
    """Packs of a search, leads aside where they are not named. Shapes ``(packs,)``."""

    mass_g: Floats
    wiring_ohm: Floats
    worst_share: Floats
    outer_m2: Floats
    """Of the whole pack."""
    units: Floats
    """How many are bought."""
    along_mm: Floats
    """As it lies in the bay, else as it is laid out."""
    across_mm: Floats
    up_mm: Floats
    fits: Bools
    carriers: CarrierTable
    """Strips and joints only."""
    longest_piece_mm: Floats

    def take(self, packs: Ints) -> PackTable:
        """Those of some designs."""
        columns = {f.name: getattr(self, f.name) for f in fields(self)}
        carriers = columns.pop("carriers").take(packs)
        return PackTable(**{name: column[packs] for name, column in columns.items()}, carriers=carriers)


def pack_table(space: Space, place: Places) -> tuple[PackTable, Ints]:
    """The different packs among rows of a space, and for every row which it has."""
    shape = space.shape[:4]
    keys = np.ravel_multi_index((place.series, place.parallel, place.cells, place.joints), shape)
    distinct, which = np.unique(keys, return_inverse=True)
    series, parallel, cells, joints = np.unravel_index(distinct, shape)
    groups: dict[tuple[int, int, CellShape], list[int]] = defaultdict(list)
    for pack, (s, p, c) in enumerate(zip(series.tolist(), parallel.tolist(), cells.tolist(), strict=True)):
        groups[s, p, shape_of(space.cells[c])].append(pack)
    table = _empty(len(distinct))
    ohms = _joint_ohms(space)
    for (s, p, _), packs in groups.items():
        many = [(space.cells[cells[pack]], space.joints[joints[pack]]) for pack in packs]
        _fill(table, np.array(packs), space, (space.series[s], space.parallel[p]), many, ohms)
    return table, which


def _joint_ohms(space: Space) -> dict[Joint, float]:
    """One joint of each way of joining, ohms."""
    gauge = space.complete.pack.recipe.leads.gauge_awg
    return {joint: joint_ohm(space.recipe(space.series[0], space.parallel[0], joint, gauge)) for joint in space.joints}


def _empty(count: int) -> PackTable:
    one = [np.zeros(count) for _ in range(9)]
    mass, wiring, worst, outer, units, along, across, up, piece = one
    fits = np.ones(count, bool)
    return PackTable(mass, wiring, worst, outer, units, along, across, up, fits, CarrierTable.none(count), piece)


@lru_cache(maxsize=8192)
def _laid_out(
    recipe: PackRecipe, shape: CellShape, bay: Bay | None
) -> tuple[PackLayout, tuple[float, float, float], bool]:
    """Its layout, what it takes along, across and up, and whether it goes into the bay."""
    layout = arrange(recipe, shape, bay)
    return layout, lying_mm(layout, bay), bay is None or stow(layout, bay) is not None


def _fill(
    table: PackTable,
    packs: Ints,
    space: Space,
    count: tuple[int, int],
    many: list[tuple[CellType, Joint]],
    ohms: dict[Joint, float],
) -> None:
    """Packs of one count and one shape of cell."""
    first = many[0][0]
    recipe = space.recipe(*count, space.joints[0], space.complete.pack.recipe.leads.gauge_awg)
    layout, lying, fits = _laid_out(recipe, shape_of(first), space.complete.bay)
    build = build_layout(recipe, first, layout)
    cells = count[0] * count[1]
    table.outer_m2[packs] = build.outer_area_m2
    table.along_mm[packs], table.across_mm[packs], table.up_mm[packs] = lying
    table.fits[packs] = fits
    table.units[packs] = build.units
    body = _grams(body_masses(build))
    if first.whole_pack:
        table.mass_g[packs] = [_grams(cell_masses(cell, build.units, None)) + body for cell, _ in many]
        table.worst_share[packs] = 1.0
        return
    table.longest_piece_mm[packs] = layout.longest_piece_mm(recipe.strip.width_mm)
    table.mass_g[packs] = [_grams(cell_masses(cell, cells, joint)) + body for cell, joint in many]
    inner = np.array([electrical(cell)["r0_ohm"] for cell, _ in many])
    solved = solve_alike(recipe, layout, inner, np.array([ohms[joint] for _, joint in many]))
    table.wiring_ohm[packs] = sum(ohm for _, ohm, _ in circuit_ohms(solved, count[1]))
    table.worst_share[packs] = count[1] * solved.cell_a.max(axis=1)
    carriers = CarrierTable.none(len(packs))
    carriers.set_strips(layout, count[0], solved.conductors, solved.run_a)
    for joint in {joint for _, joint in many}:
        some = np.flatnonzero([one is joint for _, one in many])
        part = carriers.take(some)
        part.set_joint(recipe.changed(joint=joint), table.worst_share[packs[some]])
        carriers.put(some, part)
    table.carriers.put(packs, carriers)


def _grams(entries: Sequence[MassEntry]) -> float:
    return sum(entry.mass_g for entry in entries)


@dataclass(frozen=True)
class LeadTable:
    """Leads, connector and adaptors of every row, shape ``(rows,)``."""

    mass_g: Floats
    ohm: Floats
    rise_k_a2: Floats
    """Of the leads; 0 of one pack bought whole, whose own leads are not judged."""
    time_s: Floats


def lead_table(space: Space, place: Places, units: Floats) -> LeadTable:
    """The leads of rows of which ``units`` packs are bought."""
    whole = np.array([cell.whole_pack for cell in space.cells])[place.cells]
    keys = np.stack([place.gauges, np.where(whole, units, -1.0)], axis=1)
    distinct, which = np.unique(keys, axis=0, return_inverse=True)
    own = space.complete.pack.recipe.leads
    columns = []
    for gauge, bought in distinct.tolist():
        leads = own.changed(gauge_awg=space.gauges[int(gauge)])
        several = bought if bought >= 0 else None
        heating = stranded_lead(leads.gauge_awg, leads.length_mm * 1e-3).heating
        judged = several is None or several > 1
        columns.append((
            _grams(lead_masses(leads, several)),
            sum(entry.ohm for entry in lead_resistances(leads, several)),
            heating.rise_k_a2 if judged else 0.0,
            heating.time_constant_s,
        ))  # fmt: skip
    return LeadTable(*np.array(columns)[which.ravel()].T)
