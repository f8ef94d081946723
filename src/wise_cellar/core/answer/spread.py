"""The range of the answer: the same design flown many times with what is not known for certain varied.

Each ``±`` of :class:`Doubts` is the 10th to the 90th percentile of a normal spread. Not varied: air, and how the pilot
flies.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from wise_cellar.core.answer.findings.fit_range import outside_fit
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.cells import TENTH_TO_NINETIETH, believed
from wise_cellar.core.documents import MOST_WIND_M_S, CellType, CompleteDesign, Craft, SourceKind
from wise_cellar.core.flight.batch import FlightBatch, FlightTraces, least
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.punch import punch_from
from wise_cellar.core.lowering.designs import LoweredDesign, lower, lower_one, punch_seconds
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.propulsion.steps import StepArrays

SAMPLES = 200
SEED = 20260314
CAPACITY = {SourceKind.MEASURED: 0.01, SourceKind.MAKERS_SHEET: 0.02, SourceKind.ESTIMATE: 0.05}
RESISTANCE = {SourceKind.MEASURED: 0.08, SourceKind.MAKERS_SHEET: 0.15, SourceKind.ESTIMATE: 0.25}
FROM_AC, FITTED_CAPACITY, FITTED_RESISTANCE = 0.25, 0.02, 0.06
DRIVE_CALIBRATED, COOLING = 0.03, 0.40
DRIVE_MM, DRIVE = (80.0, 130.0, 250.0), (0.25, 0.15, 0.10)
"""Of a drive of which nothing was measured, by the diameter of its propellers, straight between: small ones differ
most, and their motors with them. Estimates for the class."""
MASS, MASS_WEIGHED = 0.01, 0.003
WING_DRIVE = 0.15
"""Of a wing without a known cruise: drag and efficiency of the drive are both estimates."""
WIND, WIND_STEP = 0.3, 0.05
"""A forecast's wind is right to ± 30 %, and half of the gusts; the step, m/s, of the slope of power over wind."""
BAND_POINTS = 240
OUTSIDE_FIT = 2.0


@dataclass(frozen=True)
class Doubts:
    """How far each input may be off, as a share of one, and why for the two that a cell type governs."""

    capacity: float
    resistance: float
    drive: float
    mass: float
    cooling: float
    wind_m_s: float
    """Metres a second; 0 in still air."""
    capacity_because: str
    resistance_because: str

    @property
    def words(self) -> str:
        """Every doubt and what it rests on, in a sentence."""
        wind = f", wind ± {self.wind_m_s:.1f} m/s" if self.wind_m_s else ""
        return (
            f"capacity ± {100 * self.capacity:.1f} % ({self.capacity_because}), resistance ±"
            f" {100 * self.resistance:.0f} % ({self.resistance_because}), drive ± {100 * self.drive:.0f} %, mass ±"
            f" {100 * self.mass:.2g} %, cooling ± {100 * self.cooling:.0f} %{wind}"
        )


@dataclass(frozen=True)
class Driver:
    """One doubt: what it is, what it does to the minutes, and what would shrink it."""

    name: str
    doubt: str
    """"± 8 %"."""
    effect_s: float
    """Half of what it alone spreads the minutes by, 10th to 90th percentile."""
    measured_s: float
    """The same once it is measured; equal where there is nothing to measure."""
    measure: str
    """What to do, and where."""
    field: str


@dataclass(frozen=True)
class Bands:
    """10th and 90th percentile of the traces, arrays of shape ``(2, points)`` over ``time_s``.

    Taken over the flights that are still in the air, as long as a tenth of them are.
    """

    time_s: Floats
    loaded_v: Floats
    pack_a: Floats
    throttle: Floats
    temperature_c: Floats


@dataclass(frozen=True)
class Spread:
    """10th and 90th percentile of what a design does, and what drives them, the strongest first."""

    duration_s: tuple[float, float]
    late_punch_v: tuple[float, float]
    doubts: Doubts
    drivers: tuple[Driver, ...]
    bands: Bands = field(compare=False)

    @property
    def best_measurement(self) -> Driver | None:
        """The doubt that a measurement would shrink most; none where nothing is worth measuring."""
        best = max(self.drivers, key=lambda driver: driver.effect_s - driver.measured_s)
        return best if best.effect_s - best.measured_s >= 1.0 else None


def doubts(complete: CompleteDesign, answer: Answer) -> Doubts:
    """What the sources of the cell's values, its bench results, its fit and the weather leave in doubt."""
    cell, conditions = complete.pack.cell, complete.design.conditions
    capacity, why_capacity = _capacity_doubt(cell)
    resistance, why_resistance = _resistance_doubt(cell)
    outside = outside_fit(complete, answer)
    if outside:
        capacity, resistance = OUTSIDE_FIT * capacity, OUTSIDE_FIT * resistance
        why_capacity, why_resistance = f"{why_capacity}, flown outside it", f"{why_resistance}, flown outside it"
    drive = _drive_doubt(complete.craft, answer)
    # In still air nothing hangs on the wind, whatever the gusts swing by.
    wind = WIND * conditions.wind_m_s + conditions.gust_m_s / 2 if conditions.wind_m_s else 0.0
    return Doubts(
        capacity, resistance, drive, _mass_doubt(complete, answer), COOLING, wind, why_capacity, why_resistance
    )


def spread(complete: CompleteDesign, answer: Answer, samples: int = SAMPLES) -> Spread:
    """Range of minutes, of late-punch volts and of the traces, from ``samples`` flights in one batch."""
    known = doubts(complete, answer)
    lowered = lower_one(complete, answer.factor)
    factors = _factors(known, samples)
    batch = _varied(lowered, lower([lowered]), factors)
    flown = fly(batch, record=True)
    late = punch_from(batch, flown.late_state, punch_seconds(complete), np.arange(samples))
    return Spread(
        _ends(flown.airborne_s),
        _ends(late.bus_v / batch.series),
        known,
        _drivers(known, factors, flown.airborne_s, calibrated=answer.calibration is not None),
        _bands(batch, flown),
    )


def _factors(known: Doubts, samples: int) -> dict[str, Floats]:
    """Normal deviations of every input in doubt, as shares; of the wind in m/s."""
    random = np.random.default_rng(SEED)

    def deviations(half: float) -> Floats:
        # Held to where a factor still makes sense; never reached by the shares above.
        return np.clip(half / TENTH_TO_NINETIETH * random.standard_normal(samples), -0.8, 0.8)

    shares = {name: deviations(getattr(known, name)) for name in ("capacity", "resistance", "drive", "mass", "cooling")}
    return shares | {"wind_m_s": known.wind_m_s / TENTH_TO_NINETIETH * random.standard_normal(samples)}


def _varied(design: LoweredDesign, one: FlightBatch, factors: dict[str, Floats]) -> FlightBatch:
    wide = one.take(np.zeros(len(factors["mass"]), np.intp))
    weight = wide.weight_n * (1 + factors["mass"])
    motors, motor_v = design.propulsion.step_power(weight[:, None], design.steps)
    motors = motors + factors["wind_m_s"][:, None] * _power_by_wind(design)
    # What a drive takes more it takes in volts and in amps alike.
    resistance, drive = 1 + factors["resistance"], 1 + factors["drive"]
    return replace(
        wide,
        cell=replace(
            wide.cell,
            charge_c=wide.cell.charge_c * (1 + factors["capacity"]),
            r0_ohm=wide.cell.r0_ohm * resistance,
            r1_ohm=wide.cell.r1_ohm * resistance,
            cooling_w_k=wide.cell.cooling_w_k * (1 + factors["cooling"]),
        ),
        weight_n=weight,
        drive=replace(wide.drive, torque_nm_s2=wide.drive.torque_nm_s2 * drive),
        block_w=np.maximum(motors, 0.0) * drive[:, None] + wide.load_w[:, None],
        block_motor_v=np.where(wide.block_duty > 0, 0.0, motor_v * np.sqrt(drive)[:, None]),
    )


def _power_by_wind(design: LoweredDesign) -> Floats:
    """What a metre a second more of wind costs every step, W: the slope between a little less and a little more."""
    conditions, mission = design.complete.design.conditions, design.complete.mission
    if not conditions.wind_m_s:
        return np.zeros(len(design.steps.seconds))
    weight = np.array([design.takeoff_mass_g * 1e-3 * GRAVITY_M_S2])
    winds = max(conditions.wind_m_s - WIND_STEP, 0.0), min(conditions.wind_m_s + WIND_STEP, MOST_WIND_M_S)
    less, more = (
        design.propulsion.step_power(weight, StepArrays.of(mission, conditions.changed(wind_m_s=wind)))[0]
        for wind in winds
    )
    return np.asarray((more - less) / (winds[1] - winds[0]))


def _drivers(known: Doubts, factors: dict[str, Floats], seconds: Floats, *, calibrated: bool) -> tuple[Driver, ...]:
    """Each doubt's own part, by a straight line through all flights: minutes over all deviations at once."""
    names = [name for name in factors if factors[name].any()]
    table = np.column_stack([np.ones(len(seconds)), *(factors[name] for name in names)])
    slopes = np.linalg.lstsq(table, seconds, rcond=None)[0][1:]
    found = []
    for name, slope in zip(names, slopes.tolist(), strict=True):
        half, (words, least, measure, path) = getattr(known, name), _MEASURES[name]
        after = half if least is None or (name == "drive" and calibrated) else min(least, half)
        told = f"± {half:.1f} m/s" if name == "wind_m_s" else f"± {100 * half:.3g} %"
        found.append(Driver(words, told, abs(slope) * half, abs(slope) * after, measure, path))
    return tuple(sorted(found, key=lambda driver: -driver.effect_s))


_MEASURES: dict[str, tuple[str, float | None, str, str]] = {
    "capacity": ("capacity", 0.005, "discharge three cells on the bench", "cells.0.bench_results"),
    "resistance": (
        "resistance",
        0.06,
        "fit it to its discharges, or measure a 10 s pulse",
        "cells.0.dcir_mohm",
    ),
    "drive": ("drive efficiency", DRIVE_CALIBRATED, "enter one flight with a battery you know", "craft.known_flights"),
    "mass": ("mass", MASS_WEIGHED, "weigh the craft and the pack", "design.packs.0.recipe.weighed_g"),
    "cooling": ("cooling", None, "log the pack's temperature in flight", "design.packs.0.cooling"),
    "wind_m_s": ("wind", None, "fly on a calmer day", "design.conditions.wind_m_s"),
}
"""In words; the doubt that is left once measured, none where nothing here takes a measurement; how; and the field."""


def _bands(batch: FlightBatch, flown: FlightTraces) -> Bands:
    """Traces laid on one clock, from take-off to when nine flights of ten have ended."""
    clock = np.linspace(0.0, float(np.percentile(flown.end_s, 90)), BAND_POINTS)
    rows: dict[str, list[Floats]] = {"loaded_v": [], "pack_a": [], "throttle": [], "temperature_c": []}
    for place, trace in enumerate(flown.trace):
        ended = clock > flown.end_s[place]
        held, motor_v = batch.block_duty[place][trace.block], batch.block_motor_v[place][trace.block]
        for name, values in (
            ("loaded_v", trace.bus_v / batch.series[place]),
            ("pack_a", trace.bus_a),
            ("throttle", np.where(held > 0, held, motor_v / np.maximum(trace.bus_v, 1e-6))),
            ("temperature_c", -least(-trace.state.temperature_k) - ZERO_CELSIUS_K),
        ):
            rows[name].append(np.where(ended, np.nan, np.interp(clock, trace.time_s, values)))
    return Bands(clock, *(percentiles(np.array(rows[name])) for name in rows))


def percentiles(values: Floats) -> Floats:
    """10th and 90th percentile of each column, those that are not a number aside; shape ``(2, columns)``.

    As numpy's ``nanpercentile``, which takes the columns one by one.
    """
    ordered = np.sort(values, axis=0)  # what is not a number goes last
    last = np.isfinite(values).sum(axis=0) - 1
    columns = np.arange(values.shape[1])
    found = []
    for share in (0.1, 0.9):
        place = share * last
        below = np.floor(place).astype(np.intp)
        above = np.minimum(below + 1, last)
        low = ordered[below, columns]
        found.append(low + (place - below) * (ordered[above, columns] - low))
    return np.array(found)


def _ends(values: Floats) -> tuple[float, float]:
    low, high = np.percentile(values, (10, 90))
    return float(low), float(high)


def _mass_doubt(complete: CompleteDesign, answer: Answer) -> float:
    """Of what takes off: of packs that were weighed less, each by its share."""
    whole = answer.takeoff_mass_g
    weighed = sum(pack.build.mass_g for pack in answer.packs if pack.complete.recipe.weighed_g is not None)
    return MASS + (MASS_WEIGHED - MASS) * weighed / whole if whole > 0 else MASS


def _drive_doubt(craft: Craft, answer: Answer) -> float:
    """Estimate, one flight, or the scatter of several."""
    if answer.calibration is None:
        measured_hover = craft.hover_test is not None
        by_size = float(np.interp(craft.rotors.diameter_mm, DRIVE_MM, DRIVE))
        return DRIVE_CALIBRATED if measured_hover else by_size if craft.wing is None else WING_DRIVE
    scatter = answer.calibration.scatter
    return DRIVE_CALIBRATED if scatter is None else TENTH_TO_NINETIETH * scatter


def _capacity_doubt(cell: CellType) -> tuple[float, str]:
    specimens = believed(cell, "capacity_mah")
    if specimens is not None:
        return max(specimens.spread, 0.005), f"{specimens.count} specimens measured"
    if cell.fitted is not None and not cell.fitted.capacity_given:
        return FITTED_CAPACITY, "fitted"
    kind = cell.source_of("capacity_mah")[0]
    return CAPACITY[kind], str(kind)


def _resistance_doubt(cell: CellType) -> tuple[float, str]:
    if cell.fitted is not None:
        return FITTED_RESISTANCE, "fitted"
    specimens = believed(cell, "dcir_mohm")
    if specimens is not None:
        return max(specimens.spread, 0.02), f"{specimens.count} specimens measured"
    if cell.dcir_mohm is None:
        return FROM_AC, "from an AC reading"
    kind = cell.source_of("dcir_mohm")[0]
    return RESISTANCE[kind], str(kind)
