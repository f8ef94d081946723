"""Rows of a space lowered as arrays: packs, leads, weights, landing rules and steps of thousands of designs at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

import numpy as np

from wise_cellar.core.cells import inside_heating, nominal_cell_v
from wise_cellar.core.documents import CellType, CompleteDesign, LandingClass
from wise_cellar.core.flight import FlightBatch
from wise_cellar.core.lowering.designs import brown_out_v, lower_packs, step_arrays
from wise_cellar.core.lowering.landing import landing_arrays
from wise_cellar.core.lowering.pack_table import LeadTable, PackTable, lead_table, pack_table
from wise_cellar.core.lowering.packs import LoweredPack, PackColumns, pack_arrays, stacked
from wise_cellar.core.lowering.space import Places, Space
from wise_cellar.core.pack.rating import Carrier, CarrierTable
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Floats, Ints
from wise_cellar.core.physics.motor import Drive
from wise_cellar.core.propulsion.carrier import Propulsion, propulsion
from wise_cellar.core.propulsion.steps import StepArrays


@dataclass(frozen=True)
class LoweredRows:
    """Rows of a space on their way to a batch: their places along the axes, packs, leads, and what carries them."""

    space: Space
    place: Places
    packs: PackTable
    leads: LeadTable
    carrier: Propulsion
    others: tuple[LoweredPack, ...]

    @property
    def complete(self) -> CompleteDesign:
        """The design around which is searched."""
        return self.space.complete

    @property
    def pack_g(self) -> Floats:
        """Of packs with their leads."""
        return self.packs.mass_g + self.leads.mass_g

    @property
    def takeoff_g(self) -> Floats:
        """With craft, payload and the packs beside."""
        others = sum(pack.build.mass_g for pack in self.others)
        return self.complete.dry_mass_g + self.pack_g + others + self.complete.design.conditions.payload_g

    @cached_property
    def carriers(self) -> CarrierTable:
        """Of every row, all of them."""
        table = self.packs.carriers.take(np.arange(len(self.place.cells)))
        judged = self.leads.rise_k_a2 > 0
        table.share[:, Carrier.LEAD] = judged
        table.rise_k_a2[:, Carrier.LEAD], table.time_s[:, Carrier.LEAD] = self.leads.rise_k_a2, self.leads.time_s
        table.set_outwards(self.complete.pack.recipe)
        inside = [inside_heating(cell) for cell in self.space.cells]
        rise, time_s = np.array([(one.rise_k_a2, one.time_constant_s) for one in inside]).T
        table.share[:, Carrier.INSIDE] = self.packs.worst_share / np.array(self.space.parallel)[self.place.parallel]
        table.rise_k_a2[:, Carrier.INSIDE] = rise[self.place.cells]
        table.time_s[:, Carrier.INSIDE] = time_s[self.place.cells]
        return table

    def of_cells(self, value: Callable[[CellType], float]) -> Floats:
        """A value of the cell type of every row."""
        return np.array([float(value(cell)) for cell in self.space.cells])[self.place.cells]


def lower_rows(space: Space, rows: Ints, factor: float) -> LoweredRows:
    """Packs and propulsion of some rows; ``factor`` is the craft's calibration."""
    place = space.places(rows)
    table, which = pack_table(space, place)
    packs = table.take(which)
    craft, conditions = space.complete.craft, space.complete.design.conditions
    nominal = np.array([nominal_cell_v(cell) for cell in space.cells])[place.cells]
    volts = np.array(space.series, float)[place.series] * nominal
    carrier = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor, volts[:, None])
    others = lower_packs(space.complete)[1:]
    return LoweredRows(space, place, packs, lead_table(space, place, packs.units), carrier, others)


def batch_of(rows: LoweredRows) -> FlightBatch:
    """The rows ready to be flown; packs beside the first are alike in all of them."""
    space, place, complete = rows.space, rows.place, rows.complete
    conditions, count = complete.design.conditions, len(place.cells)
    series, parallel = np.array(space.series, float)[place.series], np.array(space.parallel, float)[place.parallel]
    weight = rows.takeoff_g * 1e-3 * GRAVITY_M_S2
    kinds = [replace(complete.pack, cell=cell) for cell in space.cells]
    wiring = rows.packs.wiring_ohm + rows.leads.ohm
    searched = PackColumns(kinds, place.cells, series, parallel, wiring, rows.packs.outer_m2,
                           rows.packs.worst_share, rows.carriers.time_s)  # fmt: skip
    others = (PackColumns.of([pack]).repeated(count) for pack in rows.others)
    packs = stacked([pack_arrays(columns) for columns in (searched, *others)])
    return FlightBatch(
        drive=Drive(*(np.resize(getattr(rows.carrier.drive, f.name), count) for f in fields(Drive))),
        series=series,
        weight_n=weight,
        load_w=np.full(count, complete.craft.load_w),
        most_duty=np.full(count, conditions.most_duty),
        brown_out_v=np.full(count, brown_out_v(complete)),
        **packs,
        **_landing(rows, packs),
        **step_arrays(
            rows.carrier, StepArrays.of(complete.mission, conditions), weight, complete.craft.load_w, parallel
        ),
    )


def _landing(rows: LoweredRows, packs: dict[str, Any]) -> dict[str, Any]:
    """The landing rule of every row."""
    space, place, others = rows.space, rows.place, rows.complete.packs[1:]
    rules = [space.complete.design.landing.changed(policy=policy) for policy in space.policies]
    beside = {pack.cell.landing_class for pack in others}
    classes = np.array([cell.landing_class for cell in space.cells], object)[place.cells]
    kinds = {kind: (classes == kind) | (kind in beside) for kind in LandingClass}
    label = rows.of_cells(lambda cell: cell.capacity_mah) * np.array(space.parallel)[place.parallel]
    label_mah = np.stack([label, *(np.full(len(label), pack.label_mah) for pack in others)])
    own = np.repeat([[pack.own] for pack in rows.complete.packs], len(label), axis=1)
    return landing_arrays(rules, place.policies, kinds, own, label_mah, packs)
