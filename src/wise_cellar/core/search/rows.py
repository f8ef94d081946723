"""Rows of a space lowered as arrays: packs, leads, weights, landing rules and steps of thousands of designs at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from wise_cellar.core.cells import resistance_shape, resting_curve
from wise_cellar.core.documents import CellType, CompleteDesign, LandingBasis
from wise_cellar.core.flight import FlightBatch
from wise_cellar.core.lowering.designs import (
    COOLING_W_M2_K,
    LoweredPack,
    brown_out_v,
    cell_values,
    counting,
    curve_bank,
    lower_packs,
    packs_of,
    stacked,
    step_arrays,
)
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats, Ints
from wise_cellar.core.physics.cell import CellParameters, CellState
from wise_cellar.core.physics.motor import Drive
from wise_cellar.core.propulsion.carrier import Propulsion, propulsion
from wise_cellar.core.propulsion.steps import StepArrays
from wise_cellar.core.search.packs import LeadTable, PackTable, lead_table, pack_table
from wise_cellar.core.search.space import Places, Space


@dataclass(frozen=True)
class LoweredRows:
    """Rows of a space on their way to a batch: their places along the axes, packs, leads, and what carries them."""

    space: Space
    place: Places
    packs: PackTable
    leads: LeadTable
    carrier: Propulsion
    beside: tuple[LoweredPack, ...]

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
        beside = sum(pack.build.mass_g for pack in self.beside)
        return self.complete.dry_mass_g + self.pack_g + beside + self.complete.design.conditions.payload_g

    def of_cells(self, value: Callable[[CellType], float]) -> Floats:
        """A value of the cell type of every row."""
        return np.array([float(value(cell)) for cell in self.space.cells])[self.place.cells]


def lower_rows(space: Space, rows: Ints, factor: float) -> LoweredRows:
    """Packs and propulsion of some rows; ``factor`` is the craft's calibration."""
    place = space.places(rows)
    table, which = pack_table(space, place)
    packs = table.take(which)
    craft, conditions = space.complete.craft, space.complete.design.conditions
    carrier = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor)
    beside = lower_packs(space.complete)[1:]
    return LoweredRows(space, place, packs, lead_table(space, place, packs.units), carrier, beside)


def batch_of(rows: LoweredRows) -> FlightBatch:
    """The rows ready to be flown; packs beside the recipe's are alike in all of them."""
    space, place, complete = rows.space, rows.place, rows.complete
    conditions, count = complete.design.conditions, len(place.cells)
    series, parallel = np.array(space.series, float)[place.series], np.array(space.parallel, float)[place.parallel]
    pack = complete.pack
    values = [cell_values(pack, cell) for cell in space.cells]
    cells = {name: np.array([value[name] for value in values])[place.cells] for name in values[0]}
    share = rows.packs.outer_m2 / (series * parallel)
    soc = np.full(count, pack.state.start_charge_percent / 100)
    weight = rows.takeoff_g * 1e-3 * GRAVITY_M_S2
    searched = {
        "cell": CellParameters(
            **cells,
            cooling_w_k=COOLING_W_M2_K[pack.of.cooling] * share,
            ocv=curve_bank([resting_curve(cell) for cell in space.cells]).take(place.cells),
            shape=curve_bank([resistance_shape(cell) for cell in space.cells]).take(place.cells),
        ),
        "start": CellState(soc, np.zeros(count), np.zeros(count), np.full(count, pack.temperature_c + ZERO_CELSIUS_K)),
        "parallel": parallel,
        "wiring_ohm": rows.packs.wiring_ohm + rows.leads.ohm,
        "cut_off_v": rows.of_cells(lambda cell: cell.min_voltage_v),
    }
    packs = stacked([searched, *(packs_of([pack] * count) for pack in rows.beside)])
    return FlightBatch(
        drive=Drive(*(np.repeat(getattr(rows.carrier.drive, f.name), count) for f in fields(Drive))),
        series=series,
        weight_n=weight,
        load_w=np.full(count, complete.craft.load_w),
        brown_out_v=np.full(count, brown_out_v(complete.craft)),
        **packs,
        **_landing(rows, packs),
        **step_arrays(rows.carrier, StepArrays.of(complete.mission, conditions), weight, complete.craft.load_w),
    )


def _landing(rows: LoweredRows, packs: dict[str, Any]) -> dict[str, Any]:
    """The landing rule of every row, by volts, by rest or by charge; the others never call."""
    space, place = rows.space, rows.place
    rule, count = space.complete.design.landing, len(place.cells)
    loaded, rest, used_c = np.full((3, count), -np.inf)
    if rule.basis is LandingBasis.LOADED:
        thresholds = np.array([[_with(space, cell, n).landing_voltage_v for n in range(len(space.policies))]
                               for cell in space.cells])  # fmt: skip
        loaded = thresholds[place.cells, place.policies]
    elif rule.basis is LandingBasis.RESTING:
        rest = np.full(count, rule.resting_voltage_v)
    else:
        # The label of the recipe's pack counts in proportion to its cells in parallel, on top of the others'.
        one, two = ([_charge_mah(space, cell, n) for cell in space.cells] for n in (1, 2))
        each = np.array(two) - np.array(one)
        parallel = np.array(space.parallel, float)[place.parallel]
        used_c = 3.6 * (np.array(one)[place.cells] + (parallel - 1) * each[place.cells])
    hold = np.full(count, rule.hold_s if rule.basis is LandingBasis.LOADED else 0.0)
    parallel, held = np.atleast_2d(packs["parallel"]), np.atleast_2d(packs["cell"].charge_c)
    counted = np.array(space.complete.counted, float)[:, None]
    return {
        "landing_v": loaded, "landing_hold_s": hold, "landing_rest_v": rest,
        **counting(counted * parallel * held, np.atleast_2d(packs["start"].soc), used_c),
    }  # fmt: skip


def _charge_mah(space: Space, cell: CellType, parallel: int) -> float:
    """At what charge the landing rule calls for so many cells in parallel."""
    recipe = space.complete.pack.recipe.changed(parallel_count=parallel)
    return space.complete.with_pack(cell, recipe=recipe).landing_charge_mah or 0.0


def _with(space: Space, cell: CellType, policy: int) -> CompleteDesign:
    landing = space.complete.design.landing.changed(policy=space.policies[policy])
    return space.complete.with_pack(cell).with_design(landing=landing)
