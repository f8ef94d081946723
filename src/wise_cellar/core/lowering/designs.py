"""Lowering: complete designs in people's units become one batch of SI arrays. The only place units change."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from wise_cellar.core.cells import electrical, heat_capacity_j_k, resistance_shape, resting_curve
from wise_cellar.core.documents import (
    Block,
    BlockKind,
    CellType,
    CompleteDesign,
    CompletePack,
    Conditions,
    Cooling,
    Craft,
    LandingBasis,
    Mission,
)
from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.pack import PackBuild, build_pack
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import CellParameters, CellState
from wise_cellar.core.physics.curve_bank import Curve, CurveBank
from wise_cellar.core.physics.motor import Drive
from wise_cellar.core.propulsion.carrier import Propulsion, propulsion
from wise_cellar.core.propulsion.steps import StepArrays

COOLING_W_M2_K = {Cooling.WASH: 35.0, Cooling.SLEEVED: 20.0, Cooling.CLOSED: 8.0}
DEFAULT_PUNCH_S, LONGEST_PUNCH_S = 3.0, 10.0


@dataclass(frozen=True)
class LoweredPack:
    """One of the packs on the bus, worked out."""

    complete: CompletePack
    build: PackBuild

    def hottest_c(self, mean_k: float) -> float:
        """The cell that carries most, where the mean cell reached ``mean_k``.

        It warms with the square of its share: an upper bound, as shares even out in flight.
        """
        air = self.complete.air_temperature_c
        return air + (mean_k - ZERO_CELSIUS_K - air) * self.build.worst_share**2


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
    drive = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor)
    takeoff = complete.dry_mass_g + sum(pack.build.mass_g for pack in packs) + conditions.payload_g
    return LoweredDesign(complete, packs, takeoff, drive, factor, StepArrays.of(complete.mission, conditions))


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
        brown_out_v=_each(brown_out_v(d.complete.craft) for d in designs),
        **packs,
        **_landing(designs, packs),
        **_blocks(designs),
    )


def _side_by_side(designs: Sequence[LoweredDesign]) -> dict[str, Any]:
    """What belongs to a pack, by its names in :class:`FlightBatch`."""
    count = max(len(design.packs) for design in designs)
    rows = [[design.packs[branch] if branch < len(design.packs) else None for design in designs]
            for branch in range(count)]  # fmt: skip
    found = [packs_of([pack or design.packs[0] for pack, design in zip(row, designs, strict=True)]) for row in rows]
    for row, values in zip(rows, found, strict=True):
        there = np.array([pack is not None for pack in row])
        values["parallel"] = values["parallel"] * there
        values["cut_off_v"] = np.where(there, values["cut_off_v"], -np.inf)
    return stacked(found)


def packs_of(packs: Sequence[LoweredPack]) -> dict[str, Any]:
    """One pack of each flight, by the names in :class:`FlightBatch`."""
    cells = [_cell(pack) for pack in packs]
    count = len(packs)
    return {
        "cell": CellParameters(
            **{name: np.array([c[name] for c in cells]) for name in cells[0]},
            ocv=curve_bank([resting_curve(pack.complete.cell) for pack in packs]),
            shape=curve_bank([resistance_shape(pack.complete.cell) for pack in packs]),
        ),
        "start": CellState(
            _each(pack.complete.state.start_charge_percent / 100 for pack in packs),
            np.zeros(count),
            np.zeros(count),
            _each(pack.complete.temperature_c + ZERO_CELSIUS_K for pack in packs),
        ),
        "parallel": _each(pack.build.recipe.parallel_count for pack in packs),
        "wiring_ohm": _each(pack.build.wiring_ohm for pack in packs),
        "cut_off_v": _each(pack.complete.cell.min_voltage_v for pack in packs),
    }


def stacked(packs: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """Packs side by side on the axis of branches; one alone goes without it."""
    if len(packs) == 1:
        return packs[0]
    found: dict[str, Any] = {}
    for name, first in packs[0].items():
        values = [pack[name] for pack in packs]
        if isinstance(first, np.ndarray):
            found[name] = np.array(values)
            continue
        parts = {part.name: [getattr(value, part.name) for value in values] for part in fields(first)}
        found[name] = type(first)(**{
            part: CurveBank.side_by_side(of) if isinstance(of[0], CurveBank) else np.array(of)
            for part, of in parts.items()
        })  # fmt: skip
    return found


def hover_steps(conditions: Conditions) -> StepArrays:
    """A hover in the given wind and gusts, as a mission of one step; a wing loiters instead."""
    return StepArrays.of(Mission(id="hover", name="hover", blocks=(Block(kind=BlockKind.HOVER),)), conditions)


def punch_seconds(complete: CompleteDesign) -> float:
    """Length of the burst that the answer asks about: the mission's longest punch up to 10 s, else 3 s."""
    lengths = [b.duration_s for b in complete.mission.blocks if b.kind is BlockKind.PUNCH and b.duration_s]
    return min(max(lengths, default=DEFAULT_PUNCH_S), LONGEST_PUNCH_S)


def _cell(pack: LoweredPack) -> dict[str, Any]:
    """Parameters of one cell by their names in :class:`CellParameters`."""
    recipe = pack.build.recipe
    share = pack.build.outer_area_m2 / (recipe.series_count * recipe.parallel_count)
    values = cell_values(pack.complete, pack.complete.cell)
    return {**values, "cooling_w_k": COOLING_W_M2_K[pack.complete.of.cooling] * share}


def cell_values(pack: CompletePack, cell: CellType) -> dict[str, float]:
    """Parameters of a cell in a pack of its age and air, by their names in :class:`CellParameters`, cooling aside."""
    values = electrical(cell)
    values["charge_c"] *= pack.state.capacity_percent / 100
    for name in ("r0_ohm", "r1_ohm"):
        values[name] *= pack.state.resistance_percent / 100
    return {
        **values,
        "heat_capacity_j_k": heat_capacity_j_k(cell),
        "air_k": pack.air_temperature_c + ZERO_CELSIUS_K,
    }


def curve_bank(curves: Sequence[Curve]) -> CurveBank:
    """A bank in which flights that share a curve share its place."""
    places: dict[int, int] = {}
    distinct: list[Curve] = []
    for curve in curves:
        if id(curve) not in places:
            places[id(curve)] = len(distinct)
            distinct.append(curve)
    return CurveBank(distinct, np.array([places[id(curve)] for curve in curves], np.intp))


def _blocks(designs: Sequence[LoweredDesign]) -> dict[str, Any]:
    """The arrays of the steps, shape ``(flights, steps)``; a shorter mission is padded with steps of no length."""
    count = max(len(d.steps.seconds) for d in designs)
    found = [step_arrays(d.propulsion, d.steps, np.array([d.weight_n]), d.complete.craft.load_w) for d in designs]

    def padded(values: Any) -> Any:
        return np.pad(values, [(0, 0), (0, count - values.shape[1])]) if values.ndim > 1 else values

    return {name: np.concatenate([padded(one[name]) for one in found]) for name in found[0]}


def step_arrays(carrier: Propulsion, steps: StepArrays, weight_n: Floats, load_w: float) -> dict[str, Any]:
    """What the steps of one mission ask of one craft at weights of shape ``(flights,)``, by their names in
    :class:`FlightBatch`."""
    weights, cruising = weight_n[:, None], steps.cruising
    motors, motor_v = carrier.step_power(weights, steps)
    slip = carrier.slip_rev_s(weights, steps)
    airspeed = np.broadcast_to(carrier.airspeed_m_s(weights, steps), motors.shape)[:, cruising]

    def alike(values: Any) -> Any:
        return np.broadcast_to(values, motors.shape)

    return {
        "block_s": alike(steps.seconds), "block_w": motors + load_w,
        "block_motor_v": np.where(steps.duty > 0, 0.0, motor_v), "block_cell_a": np.zeros_like(motors),
        "block_duty": alike(steps.duty), "block_punch": alike(steps.punch), "block_landing": alike(steps.landing),
        "block_ground": alike(steps.ground), "block_slip": slip, "cruising_slip": slip[:, cruising],
        "thrust_wanted_n": carrier.thrust_wanted_n(weight_n, airspeed),
    }  # fmt: skip


def _landing(designs: Sequence[LoweredDesign], packs: dict[str, Any]) -> dict[str, Any]:
    """The landing rule of each design: by one of three measures, the others never calling."""
    loaded, rest, used_c = np.full((3, len(designs)), -np.inf)
    hold = np.zeros(len(designs))
    parallel = np.atleast_2d(packs["parallel"])
    whose = np.zeros_like(parallel)
    for row, design in enumerate(designs):
        complete, rule = design.complete, design.complete.design.landing
        whose[: len(design.packs), row] = complete.counted
        if rule.basis is LandingBasis.LOADED:
            loaded[row], hold[row] = complete.landing_voltage_v, rule.hold_s
        elif rule.basis is LandingBasis.RESTING:
            rest[row] = rule.resting_voltage_v
        elif complete.landing_charge_mah is not None:
            used_c[row] = 3.6 * complete.landing_charge_mah
    held_c = whose * parallel * np.atleast_2d(packs["cell"].charge_c)
    return {
        "landing_v": loaded,
        "landing_hold_s": hold,
        "landing_rest_v": rest,
        **counting(held_c, np.atleast_2d(packs["start"].soc), used_c),
    }


def counting(held_c: Floats, start_soc: Floats, used_c: Floats) -> dict[str, Floats]:
    """``counted`` and ``landing_soc`` where the rule calls once ``used_c`` of the charge is gone that the counted packs
    hold when full, ``held_c`` of shape ``(branches, flights)``; minus infinity where it goes by something else."""
    whole = held_c.sum(axis=0)
    counted = held_c / whole
    calls = np.isfinite(used_c)
    left = (counted * start_soc).sum(axis=0) - np.where(calls, used_c, 0.0) / whole
    return {
        "counted": counted if len(counted) > 1 else counted[0],
        "landing_soc": np.where(calls, left, -np.inf),
    }


def brown_out_v(craft: Craft) -> float:
    """The highest minimum input of the loads; minus infinity where none has one."""
    needs = [load.least_bus_v for load in craft.loads if load.least_bus_v > 0]
    return max(needs, default=-math.inf)


def _joined(drives: Sequence[Drive]) -> Drive:
    return Drive(*(np.concatenate([getattr(d, name) for d in drives]) for name in Drive.__dataclass_fields__))


def _each(values: Iterable[float]) -> Floats:
    return np.array([float(value) for value in values])
