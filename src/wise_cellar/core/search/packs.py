"""Many packs worked out together: cells that share a shape share a layout, and circuits of one layout are solved at
once. What a pack weighs, resists and stands comes from the same functions as that of a single pack."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, fields
from functools import lru_cache

import numpy as np

from wise_cellar.core.cells import electrical
from wise_cellar.core.documents import Bay, CellType, Joint, PackRecipe
from wise_cellar.core.pack import PackBuild, PackLayout, RunKind, arrange, shape_of, stow
from wise_cellar.core.pack.arrangement import CellShape
from wise_cellar.core.pack.interconnect import AlikeCircuits, solve_alike
from wise_cellar.core.pack.joining import joint_ohm
from wise_cellar.core.pack.ledger import body_masses, build_layout, joint_masses, lead_masses, lead_resistances
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.conductor import SURFACE_FREE, stranded_lead
from wise_cellar.core.search.space import Places, Space

STRIPS = 3
"""Strips are judged in three sorts: between groups, within inner groups, at the two ends."""


@dataclass(frozen=True)
class PackTable:
    """Packs of a search, leads aside where they are not named. Shapes ``(packs,)``, ``(packs, 3)`` of strips."""

    mass_g: Floats
    wiring_ohm: Floats
    worst_share: Floats
    outer_m2: Floats
    """Of the whole pack."""
    units: Floats
    """How many are bought."""
    length_mm: Floats
    width_mm: Floats
    height_mm: Floats
    fits: Bools
    strip_share: Floats
    """(packs, 3) Share of the pack's current in the strip of each sort that warms most; 0 where there is none."""
    strip_rise_k_a2: Floats
    strip_time_s: Floats
    longest_piece_mm: Floats

    def take(self, packs: Ints) -> PackTable:
        """Those of some designs."""
        return PackTable(*(getattr(self, f.name)[packs] for f in fields(self)))


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
    for (s, p, _), packs in groups.items():
        many = [(space.cells[cells[pack]], space.joints[joints[pack]]) for pack in packs]
        _fill(table, np.array(packs), space, (space.series[s], space.parallel[p]), many)
    return table, which


def _empty(count: int) -> PackTable:
    one = [np.zeros(count) for _ in range(9)]
    share, rise, time = np.zeros((3, count, STRIPS))
    mass, wiring, worst, outer, units, length, width, height, piece = one
    fits = np.ones(count, bool)
    return PackTable(mass, wiring, worst, outer, units, length, width, height, fits, share, rise, time + 1.0, piece)


@lru_cache(maxsize=8192)
def _laid_out(recipe: PackRecipe, shape: CellShape, bay: Bay | None) -> tuple[PackLayout, bool]:
    layout = arrange(recipe, shape, bay)
    return layout, bay is None or stow(layout, bay) is not None


def _fill(
    table: PackTable, packs: Ints, space: Space, count: tuple[int, int], many: list[tuple[CellType, Joint]]
) -> None:
    """Packs of one count and one shape of cell."""
    first = many[0][0]
    recipe = space.recipe(*count, space.joints[0], space.complete.pack.recipe.leads.gauge_awg)
    layout, fits = _laid_out(recipe, shape_of(first), space.complete.bay)
    build = build_layout(recipe, first, layout)
    cells = count[0] * count[1]
    table.outer_m2[packs] = build.outer_area_m2
    table.length_mm[packs], table.width_mm[packs], table.height_mm[packs] = (
        layout.length_mm, layout.width_mm, layout.height_mm,
    )  # fmt: skip
    table.fits[packs] = fits
    table.units[packs] = build.units
    body = sum(entry.mass_g for entry in body_masses(build))
    if first.whole_pack:
        table.mass_g[packs] = [build.units * cell.mass_g + body for cell, _ in many]
        table.worst_share[packs] = 1.0
        return
    table.longest_piece_mm[packs] = layout.longest_piece_mm(recipe.strip.width_mm)
    table.mass_g[packs] = [
        cells * cell.mass_g + sum(entry.mass_g for entry in joint_masses(joint, cell, cells)) + body
        for cell, joint in many
    ]
    inner = np.array([electrical(cell)["r0_ohm"] for cell, _ in many])
    joined = np.array([joint_ohm(space.recipe(*count, joint, recipe.leads.gauge_awg)) for _, joint in many])
    solved = solve_alike(recipe, layout, inner, joined)
    table.wiring_ohm[packs] = solved.joint_ohm + solved.strip_ohm
    if count[1] > 1:
        table.wiring_ohm[packs] += solved.uneven_ohm
    table.worst_share[packs] = count[1] * solved.cell_a.max(axis=1)
    _strips(table, packs, build, solved)


def _strips(table: PackTable, packs: Ints, build: PackBuild, solved: AlikeCircuits) -> None:
    """Of every sort the strip that warms most, as :func:`~wise_cellar.core.pack.chain` finds it for one pack."""
    last = build.recipe.series_count
    heating = [conductor.heating for conductor in solved.conductors]
    sorts: list[list[int]] = [[], [], []]
    for run, strip in enumerate(build.layout.strips):
        inner = 0 < strip.node < last
        sorts[2 if not inner else 0 if strip.kind is RunKind.LINK else 1].append(run)
    for sort, runs in enumerate(sorts):
        if not runs:
            continue
        amps = np.abs(solved.run_a[:, runs])
        rise = np.array([heating[run].rise_k_a2 for run in runs])
        worst = np.argmax(rise * amps**2, axis=1)
        table.strip_share[packs, sort] = amps[np.arange(len(packs)), worst]
        table.strip_rise_k_a2[packs, sort] = rise[worst]
        table.strip_time_s[packs, sort] = np.array([heating[run].time_constant_s for run in runs])[worst]


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
        heating = stranded_lead(leads.gauge_awg, leads.length_mm * 1e-3, SURFACE_FREE).heating
        judged = several is None or several > 1
        columns.append((
            sum(entry.mass_g for entry in lead_masses(leads, several)),
            sum(entry.ohm for entry in lead_resistances(leads, several)),
            heating.rise_k_a2 if judged else 0.0,
            heating.time_constant_s,
        ))  # fmt: skip
    return LeadTable(*np.array(columns)[which.ravel()].T)
