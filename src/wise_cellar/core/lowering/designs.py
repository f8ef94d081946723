"""Lowering: complete designs in people's units become one batch of SI arrays. The only place units change."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from wise_cellar.core.cells import nominal_cell_v
from wise_cellar.core.documents import (
    Block,
    BlockKind,
    CompleteDesign,
    Conditions,
    LandingClass,
    Mission,
)
from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.lowering.landing import landing_arrays
from wise_cellar.core.lowering.packs import LoweredPack, PackColumns, pack_arrays, stacked
from wise_cellar.core.pack import PackBuild, build_pack
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Floats
from wise_cellar.core.physics.motor import Drive
from wise_cellar.core.propulsion.carrier import Propulsion, propulsion
from wise_cellar.core.propulsion.steps import StepArrays

DEFAULT_PUNCH_S, LONGEST_PUNCH_S = 3.0, 10.0


@dataclass(frozen=True)
class LoweredDesign:
    """One design on its way to the batch, and what the answer needs of it besides."""

    complete: CompleteDesign
    packs: tuple[LoweredPack, ...]
    """First the recipe's, then those beside it."""
    takeoff_mass_g: float
    propulsion: Propulsion
    factor: float
    steps: StepArrays

    @property
    def build(self) -> PackBuild:
        """The recipe's pack."""
        return self.packs[0].build

    @property
    def weight_n(self) -> float:
        """At take-off."""
        return self.takeoff_mass_g * 1e-3 * GRAVITY_M_S2

    @property
    def cruising_m_s(self) -> float:
        """Airspeed of that step."""
        return float(self.propulsion.airspeed_m_s(np.array([self.weight_n]), self.steps)[self.steps.cruising])

    @property
    def hover(self) -> StepArrays:
        """A hover in the design's wind and gusts."""
        return hover_steps(self.complete.design.conditions)


def lower_one(complete: CompleteDesign, factor: float) -> LoweredDesign:
    """Packs, mass and propulsion of one design."""
    craft, conditions = complete.craft, complete.design.conditions
    packs = lower_packs(complete)
    drive = propulsion(
        craft, conditions.altitude_m, conditions.air_temperature_c, factor, nominal_bus_v(complete)
    )  # fmt: skip
    takeoff = complete.dry_mass_g + sum(pack.build.mass_g for pack in packs) + conditions.payload_g
    return LoweredDesign(complete, packs, takeoff, drive, factor, StepArrays.of(complete.mission, conditions))


def nominal_bus_v(complete: CompleteDesign) -> float:
    """Volts that the controllers work from on the mean of a flight."""
    return complete.pack.recipe.series_count * nominal_cell_v(complete.pack.cell)


def lower_packs(complete: CompleteDesign) -> tuple[LoweredPack, ...]:
    """Every pack on the bus; the bay guides the folding of the recipe's only."""
    return tuple(
        LoweredPack(pack, build_pack(pack.recipe, pack.cell, complete.bay if place == 0 else None))
        for place, pack in enumerate(complete.packs)
    )


def lower(designs: Sequence[LoweredDesign]) -> FlightBatch:
    """One batch of the given designs, in their order; those with fewer packs than others have some that are not
    there."""
    packs = _side_by_side(designs)
    return FlightBatch(
        drive=_joined([d.propulsion.drive for d in designs]),
        series=_each(d.build.recipe.series_count for d in designs),
        weight_n=_each(d.weight_n for d in designs),
        load_w=_each(d.complete.craft.load_w for d in designs),
        most_duty=_each(d.complete.design.conditions.most_duty for d in designs),
        brown_out_v=_each(brown_out_v(d.complete) for d in designs),
        **packs,
        **_landing(designs, packs),
        **_blocks(designs),
    )


def _side_by_side(designs: Sequence[LoweredDesign]) -> dict[str, Any]:
    """What belongs to a pack, by its names in :class:`FlightBatch`."""
    places = []
    for place in range(max(len(design.packs) for design in designs)):
        there = np.array([place < len(design.packs) for design in designs])
        row = [design.packs[place] if place < len(design.packs) else design.packs[0] for design in designs]
        columns = PackColumns.of(row)
        places.append(pack_arrays(replace(columns, parallel=columns.parallel * there)))
    return stacked(places)


def hover_steps(conditions: Conditions) -> StepArrays:
    """A hover in the given wind and gusts, as a mission of one step; a wing loiters instead."""
    return StepArrays.of(Mission(id="hover", name="hover", blocks=(Block(kind=BlockKind.HOVER),)), conditions)


def punch_seconds(complete: CompleteDesign) -> float:
    """Length of the burst that the answer asks about: the mission's longest punch up to 10 s, else 3 s."""
    lengths = [b.duration_s for b in complete.mission.blocks if b.kind is BlockKind.PUNCH and b.duration_s]
    return min(max(lengths, default=DEFAULT_PUNCH_S), LONGEST_PUNCH_S)


def _blocks(designs: Sequence[LoweredDesign]) -> dict[str, Any]:
    """The arrays of the steps, shape ``(flights, steps)``; a shorter mission is padded with steps of no length."""
    count = max(len(d.steps.seconds) for d in designs)
    found = [
        step_arrays(
            d.propulsion, d.steps, np.array([d.weight_n]), d.complete.craft.load_w,
            np.array([float(d.build.recipe.parallel_count)]),
        )
        for d in designs
    ]  # fmt: skip

    def padded(name: str, values: Any) -> Any:
        missing = count - values.shape[1] if name.startswith("block_") else 0
        return np.pad(values, [(0, 0), (0, missing)]) if missing else values

    return {name: np.concatenate([padded(name, one[name]) for one in found]) for name in found[0]}


def step_arrays(
    carrier: Propulsion, steps: StepArrays, weight_n: Floats, load_w: float, parallel: Floats
) -> dict[str, Any]:  # fmt: skip
    """What the steps of one mission ask of one craft at weights of shape ``(flights,)``, its first pack of so many
    cells in parallel, by their names in :class:`FlightBatch`."""
    weights, cruising = weight_n[:, None], steps.cruising
    motors, motor_v = carrier.step_power(weights, steps)
    slip = carrier.slip_rev_s(weights, steps)
    airspeed = np.broadcast_to(carrier.airspeed_m_s(weights, steps), motors.shape)[:, cruising]

    def alike(values: Any) -> Any:
        return np.broadcast_to(values, motors.shape)

    return {
        "block_s": alike(steps.seconds), "block_w": np.where(steps.watts > 0, steps.watts, motors + load_w),
        "block_motor_v": np.where(steps.duty > 0, 0.0, motor_v), "block_cell_a": steps.amps / parallel[:, None],
        "block_duty": alike(steps.duty), "block_punch": alike(steps.punch), "block_landing": alike(steps.landing),
        "block_ground": alike(steps.ground), "block_slip": slip, "cruising_slip": slip[:, cruising],
        "thrust_wanted_n": carrier.thrust_wanted_n(weight_n, airspeed),
    }  # fmt: skip


def _landing(designs: Sequence[LoweredDesign], packs: dict[str, Any]) -> dict[str, Any]:
    """The landing rule of each design."""
    shape = len(packs["parallel"]), len(designs)
    own, label_mah = np.zeros(shape, bool), np.zeros(shape)
    for row, design in enumerate(designs):
        for place, pack in enumerate(design.complete.packs):
            own[place, row], label_mah[place, row] = pack.own, pack.label_mah
    kinds = {
        kind: np.array([any(cell.landing_class is kind for cell in design.complete.cells) for design in designs])
        for kind in LandingClass
    }
    rules = [design.complete.design.landing for design in designs]
    return landing_arrays(rules, np.arange(len(designs)), kinds, own, label_mah, packs)


def brown_out_v(complete: CompleteDesign) -> float:
    """The highest minimum input of the craft's loads; minus infinity where none has one, or where a pack is run on the
    bench with no craft behind it."""
    if complete.mission.on_a_load:
        return -math.inf
    needs = [load.least_bus_v for load in complete.craft.loads if load.least_bus_v > 0]
    return max(needs, default=-math.inf)


def _joined(drives: Sequence[Drive]) -> Drive:
    return Drive(*(np.concatenate([getattr(d, name) for d in drives]) for name in Drive.__dataclass_fields__))


def _each(values: Iterable[float]) -> Floats:
    return np.array([float(value) for value in values])
