"""The range of the answer: the same design flown many times with what is not known for certain varied.

Each ``±`` of :class:`Doubts` is the 10th to the 90th percentile of a normal spread. Not varied: wind, air, how the
pilot flies.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.cells import TENTH_TO_NINETIETH, measured
from wise_cellar.core.documents import CellType, CompleteDesign, SourceKind
from wise_cellar.core.flight.batch import FlightBatch
from wise_cellar.core.flight.findings import outside_fit
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.lowering import LoweredDesign, lower, lower_one, punch_seconds
from wise_cellar.core.flight.punch import punch_from
from wise_cellar.core.flight.result import Answer
from wise_cellar.core.physics.arrays import Floats

SAMPLES = 200
SEED = 20260314
CAPACITY = {SourceKind.MEASURED: 0.01, SourceKind.MAKERS_SHEET: 0.02, SourceKind.ESTIMATE: 0.05}
RESISTANCE = {SourceKind.MEASURED: 0.08, SourceKind.MAKERS_SHEET: 0.15, SourceKind.ESTIMATE: 0.25}
FROM_AC, FITTED_CAPACITY, FITTED_RESISTANCE = 0.25, 0.02, 0.06
DRIVE, DRIVE_CALIBRATED, MASS = 0.08, 0.03, 0.01
OUTSIDE_FIT = 2.0
LEAST_SPECIMENS = 3


@dataclass(frozen=True)
class Doubts:
    """How far each input may be off, as a share of one, and why for the two that a cell type governs."""

    capacity: float
    resistance: float
    drive: float
    mass: float
    capacity_because: str
    resistance_because: str

    @property
    def words(self) -> str:
        """Every share and what it rests on, in a sentence."""
        return (
            f"capacity ± {100 * self.capacity:.1f} % ({self.capacity_because}), resistance ±"
            f" {100 * self.resistance:.0f} % ({self.resistance_because}), drive ± {100 * self.drive:.0f} %, mass ±"
            f" {100 * self.mass:.0f} %"
        )


@dataclass(frozen=True)
class Spread:
    """10th and 90th percentile of what a design does."""

    duration_s: tuple[float, float]
    late_punch_v: tuple[float, float]
    doubts: Doubts


def doubts(complete: CompleteDesign, answer: Answer) -> Doubts:
    """What the sources of the cell's values, its bench results and its fit leave in doubt."""
    cell = complete.cell_type
    capacity, why_capacity = _capacity_doubt(cell)
    resistance, why_resistance = _resistance_doubt(cell)
    outside = outside_fit(complete, answer)
    if outside:
        capacity, resistance = OUTSIDE_FIT * capacity, OUTSIDE_FIT * resistance
        why_capacity, why_resistance = f"{why_capacity}, flown outside it", f"{why_resistance}, flown outside it"
    drive = DRIVE_CALIBRATED if answer.calibration is not None else DRIVE
    return Doubts(capacity, resistance, drive, MASS, why_capacity, why_resistance)


def spread(complete: CompleteDesign, answer: Answer, samples: int = SAMPLES) -> Spread:
    """Range of minutes and of late-punch volts, from ``samples`` flights in one batch."""
    known = doubts(complete, answer)
    lowered = lower_one(complete, answer.factor)
    batch = _varied(lowered, lower([lowered]), known, samples)
    flown = fly(batch)
    late = punch_from(batch, flown.late_state, punch_seconds(complete), np.arange(samples))
    return Spread(_ends(flown.airborne_s), _ends(late.bus_v / batch.series), known)


def _varied(design: LoweredDesign, one: FlightBatch, known: Doubts, samples: int) -> FlightBatch:
    random = np.random.default_rng(SEED)

    def factors(share: float) -> Floats:
        # Held to where a factor still makes sense; never reached by the shares above.
        return np.clip(1.0 + share / TENTH_TO_NINETIETH * random.standard_normal(samples), 0.2, 1.8)

    capacity, resistance, drive, mass = (
        factors(share) for share in (known.capacity, known.resistance, known.drive, known.mass)
    )
    wide = one.take(np.zeros(samples, np.intp))
    weight = wide.weight_n * mass
    motors, motor_v = design.propulsion.step_power(weight[:, None], design.steps)
    return replace(
        wide,
        cell=replace(
            wide.cell,
            charge_c=wide.cell.charge_c * capacity,
            r0_ohm=wide.cell.r0_ohm * resistance,
            r1_ohm=wide.cell.r1_ohm * resistance,
        ),
        weight_n=weight,
        block_w=motors * drive[:, None] + wide.load_w[:, None],
        block_motor_v=np.where(wide.block_duty > 0, 0.0, motor_v),
    )


def _ends(values: Floats) -> tuple[float, float]:
    low, high = np.percentile(values, (10, 90))
    return float(low), float(high)


def _capacity_doubt(cell: CellType) -> tuple[float, str]:
    specimens = measured(cell.bench_results, "capacity_mah")
    if specimens is not None and specimens.count >= LEAST_SPECIMENS:
        return max(specimens.spread, 0.005), f"{specimens.count} specimens measured"
    if cell.fitted is not None and not cell.fitted.capacity_given:
        return FITTED_CAPACITY, "fitted"
    kind = cell.source_of("capacity_mah")[0]
    return CAPACITY[kind], str(kind)


def _resistance_doubt(cell: CellType) -> tuple[float, str]:
    specimens = measured(cell.bench_results, "dcir_mohm")
    if specimens is not None and specimens.count >= LEAST_SPECIMENS:
        return max(specimens.spread, 0.02), f"{specimens.count} specimens measured"
    if cell.fitted is not None:
        return FITTED_RESISTANCE, "fitted"
    if cell.dcir_mohm is None:
        return FROM_AC, "from an AC reading"
    kind = cell.source_of("dcir_mohm")[0]
    return RESISTANCE[kind], str(kind)
