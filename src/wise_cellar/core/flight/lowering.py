"""Lowering: complete designs in people's units become one batch of SI arrays. The only place units change."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from wise_cellar.core.cells import electrical, heat_capacity_j_k, resistance_shape, resting_curve
from wise_cellar.core.documents import (
    Block,
    BlockKind,
    CellType,
    CompleteDesign,
    Conditions,
    Cooling,
    Craft,
    LandingBasis,
    Mission,
)
from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.flight.plan import StepArrays
from wise_cellar.core.flight.propulsion import Propulsion, propulsion
from wise_cellar.core.pack import PackBuild, build_pack
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import CellParameters, CellState
from wise_cellar.core.physics.curve_bank import Curve, CurveBank
from wise_cellar.core.physics.motor import Drive

COOLING_W_M2_K = {Cooling.WASH: 35.0, Cooling.SLEEVED: 20.0, Cooling.CLOSED: 8.0}
DEFAULT_PUNCH_S, LONGEST_PUNCH_S = 3.0, 10.0


@dataclass(frozen=True)
class LoweredDesign:
    """One design on its way to the batch, and what the answer needs of it besides."""

    complete: CompleteDesign
    build: PackBuild
    takeoff_mass_g: float
    propulsion: Propulsion
    factor: float
    steps: StepArrays

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

    def hottest_c(self, mean_k: float) -> float:
        """The cell that carries most, where the mean cell reached ``mean_k``.

        It warms with the square of its share: an upper bound, as shares even out in flight.
        """
        air = self.complete.design.conditions.air_temperature_c
        return air + (mean_k - ZERO_CELSIUS_K - air) * self.build.worst_share**2


def lower_one(complete: CompleteDesign, factor: float) -> LoweredDesign:
    """Pack, mass and propulsion of one design."""
    craft, conditions = complete.craft, complete.design.conditions
    build = build_pack(complete.design.recipe, complete.cell_type, craft.bay)
    drive = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor)
    takeoff = craft.dry_mass_g + build.mass_g + conditions.payload_g
    return LoweredDesign(complete, build, takeoff, drive, factor, StepArrays.of(complete.mission, conditions))


def lower(designs: Sequence[LoweredDesign]) -> FlightBatch:
    """One batch of the given designs, in their order."""
    ocv = curve_bank([resting_curve(d.complete.cell_type) for d in designs])
    shape = curve_bank([resistance_shape(d.complete.cell_type) for d in designs])
    cells = [_cell(d) for d in designs]
    blocks = _blocks(designs)
    start_soc = _each(d.complete.design.conditions.start_charge_percent / 100 for d in designs)
    return FlightBatch(
        cell=CellParameters(**{name: np.array([c[name] for c in cells]) for name in cells[0]}, ocv=ocv, shape=shape),
        start=CellState(
            start_soc,
            np.zeros(len(designs)),
            np.zeros(len(designs)),
            _each(pack_temperature_k(d.complete.design.conditions) for d in designs),
        ),
        drive=_joined([d.propulsion.drive for d in designs]),
        series=_each(d.build.recipe.series_count for d in designs),
        parallel=_each(d.build.recipe.parallel_count for d in designs),
        wiring_ohm=_each(d.build.wiring_ohm for d in designs),
        weight_n=_each(d.weight_n for d in designs),
        load_w=_each(d.complete.craft.load_w for d in designs),
        cut_off_v=_each(d.complete.cell_type.min_voltage_v for d in designs),
        brown_out_v=_each(brown_out_v(d.complete.craft) for d in designs),
        **_landing(designs, start_soc, np.array([c["charge_c"] for c in cells])),
        **blocks,
    )


def hover_steps(conditions: Conditions) -> StepArrays:
    """A hover in the given wind and gusts, as a mission of one step; a wing loiters instead."""
    return StepArrays.of(Mission(id="hover", name="hover", blocks=(Block(kind=BlockKind.HOVER),)), conditions)


def punch_seconds(complete: CompleteDesign) -> float:
    """Length of the burst that the answer asks about: the mission's longest punch up to 10 s, else 3 s."""
    lengths = [b.duration_s for b in complete.mission.blocks if b.kind is BlockKind.PUNCH and b.duration_s]
    return min(max(lengths, default=DEFAULT_PUNCH_S), LONGEST_PUNCH_S)


def _cell(design: LoweredDesign) -> dict[str, Any]:
    """Parameters of one cell by their names in :class:`CellParameters`."""
    conditions, recipe = design.complete.design.conditions, design.build.recipe
    share = design.build.outer_area_m2 / (recipe.series_count * recipe.parallel_count)
    values = cell_values(design.complete.cell_type, conditions)
    return {**values, "cooling_w_k": COOLING_W_M2_K[conditions.cooling] * share}


def cell_values(cell: CellType, conditions: Conditions) -> dict[str, float]:
    """Parameters of a cell of its age in the given air, by their names in :class:`CellParameters`, cooling aside."""
    values = electrical(cell)
    values["charge_c"] *= conditions.capacity_percent / 100
    for name in ("r0_ohm", "r1_ohm"):
        values[name] *= conditions.resistance_percent / 100
    return {
        **values,
        "heat_capacity_j_k": heat_capacity_j_k(cell),
        "air_k": conditions.air_temperature_c + ZERO_CELSIUS_K,
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


def _landing(designs: Sequence[LoweredDesign], start_soc: Floats, charge_c: Floats) -> dict[str, Any]:
    """The landing rule of each design: by one of three measures, the others never calling."""
    loaded, rest, soc = np.full((3, len(designs)), -np.inf)
    hold = np.zeros(len(designs))
    for row, design in enumerate(designs):
        rule, used_mah = design.complete.design.landing, design.complete.landing_charge_mah
        if rule.basis is LandingBasis.LOADED:
            loaded[row], hold[row] = design.complete.landing_voltage_v, rule.hold_s
        elif rule.basis is LandingBasis.RESTING:
            rest[row] = rule.resting_voltage_v
        elif used_mah is not None:
            soc[row] = start_soc[row] - 3.6 * used_mah / design.build.recipe.parallel_count / charge_c[row]
    return {"landing_v": loaded, "landing_hold_s": hold, "landing_rest_v": rest, "landing_soc": soc}


def brown_out_v(craft: Craft) -> float:
    """The highest minimum input of the loads; minus infinity where none has one."""
    needs = [load.least_bus_v for load in craft.loads if load.least_bus_v > 0]
    return max(needs, default=-math.inf)


def pack_temperature_k(conditions: Conditions) -> float:
    """Of the cells at the start."""
    given = conditions.pack_temperature_c
    return (conditions.air_temperature_c if given is None else given) + ZERO_CELSIUS_K


def _joined(drives: Sequence[Drive]) -> Drive:
    return Drive(*(np.concatenate([getattr(d, name) for d in drives]) for name in Drive.__dataclass_fields__))


def _each(values: Iterable[float]) -> Floats:
    return np.array([float(value) for value in values])
