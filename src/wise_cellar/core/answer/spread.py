"""The range of the answer: the same design flown many times with what is not known for certain varied.

Not varied: the air.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from wise_cellar.core.answer.doubts import (
    DRIVE_CALIBRATED,
    MASS_WEIGHED,
    OF_CELL,
    OF_FLIGHT,
    STYLE_LEARNED,
    Doubts,
    by_minutes,
    doubts,
)
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.cells import TENTH_TO_NINETIETH, CellFactors, cell_factors
from wise_cellar.core.documents import MOST_WIND_M_S, CompleteDesign, Craft, LearnedOf
from wise_cellar.core.flight.batch import FlightBatch, FlightTraces, least
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.punch import punch_from
from wise_cellar.core.lowering.designs import LoweredDesign, lower, lower_one, punch_seconds
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.propulsion.steps import StepArrays
from wise_cellar.core.units import format_number, format_significant, format_speed

SAMPLES = 200
SEED = 20260314
WIND_STEP = 0.05
"""m/s, of the slope of power over wind."""
BAND_POINTS = 240


@dataclass(frozen=True)
class Driver:
    """One doubt: what it is, what it does to the minutes, and what would shrink it."""

    name: str
    doubt: str
    """"± 8 %"."""
    because: str
    """What it rests on."""
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


def spread(complete: CompleteDesign, answer: Answer, samples: int = SAMPLES, known: Doubts | None = None) -> Spread:
    """Range of minutes, of late-punch volts and of the traces, from ``samples`` flights in one batch; with other doubts
    than the present ones where they are ``known``."""
    known = known or doubts(complete, answer)
    lowered = lower_one(complete, answer.factor)
    one = lower([lowered])
    normal = _normal(samples)
    ohms = (float(ohm[0, 0, 0]) for ohm in (one.cell.r0_ohm, one.cell.r1_ohm))
    cells = cell_factors(known.cell, np.array([normal[name] for name in OF_CELL]), *ohms)
    factors = _factors(known, normal)
    batch = _varied(lowered, one, factors, cells)
    flown = fly(batch, record=True)
    late = punch_from(
        _resisting(batch, cells.burst / cells.resistance), flown.late_state, punch_seconds(complete),
        np.arange(samples),
    )  # fmt: skip
    return Spread(
        _ends(flown.lasted_s),
        _ends(late.bus_v / batch.series),
        known,
        _drivers(known, normal, flown.lasted_s, complete, answer),
        _bands(batch, flown),
    )


def _normal(samples: int) -> dict[str, Floats]:
    """Standard normal numbers for every input in doubt, held to where a factor still makes sense."""
    random = np.random.default_rng(SEED)
    return {name: np.clip(random.standard_normal(samples), -3.0, 3.0) for name in (*OF_CELL, *OF_FLIGHT)}


def _factors(known: Doubts, normal: dict[str, Floats]) -> dict[str, Floats]:
    """Deviations of what a flight has in doubt, as shares of one; of the wind in m/s."""
    return {name: getattr(known, name) / TENTH_TO_NINETIETH * normal[name] for name in OF_FLIGHT}


def _varied(design: LoweredDesign, one: FlightBatch, factors: dict[str, Floats], cells: CellFactors) -> FlightBatch:
    wide = one.take(np.zeros(len(factors["mass"]), np.intp))
    weight = wide.weight_n * (1 + factors["mass"])
    livelier = 1 + factors["style"][:, None] * design.steps.manual
    motors, motor_v = design.propulsion.step_power(
        weight[:, None], replace(design.steps, ratio=design.steps.ratio * livelier)
    )
    motors = motors + factors["wind_m_s"][:, None] * _power_by_wind(design)
    # What a drive takes more it takes in volts and in amps alike.
    drive = 1 + factors["drive"]
    cell = replace(
        wide.cell,
        charge_c=wide.cell.charge_c * cells.capacity,
        r0_ohm=wide.cell.r0_ohm * cells.resistance,
        r1_ohm=wide.cell.r1_ohm * cells.slow,
        lag_gain_s=wide.cell.lag_gain_s * cells.lag,
        cooling_w_k=wide.cell.cooling_w_k * (1 + factors["cooling"]),
        ocv=wide.cell.ocv.raised(cells.volts),
    )
    return replace(
        wide,
        cell=cell,
        weight_n=weight,
        drive=replace(wide.drive, torque_nm_s2=wide.drive.torque_nm_s2 * drive),
        block_w=np.maximum(motors, 0.0) * drive[:, None] + wide.load_w[:, None],
        block_motor_v=np.where(wide.block_duty > 0, 0.0, motor_v * np.sqrt(drive)[:, None]),
    )


def _resisting(batch: FlightBatch, factor: Floats) -> FlightBatch:
    cell = batch.cell
    return replace(batch, cell=replace(cell, r0_ohm=cell.r0_ohm * factor, r1_ohm=cell.r1_ohm * factor))


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


def _drivers(
    known: Doubts, normal: dict[str, Floats], seconds: Floats, complete: CompleteDesign, answer: Answer
) -> tuple[Driver, ...]:  # fmt: skip
    """Each doubt's own part, by a straight line through all flights: minutes over all deviations at once."""
    names = [name for name in normal if known.half(name) > 0]
    table = np.column_stack([np.ones(len(seconds)), *(normal[name] for name in names)])
    calibrated, rests_on = answer.calibration is not None, _rests_on(known, complete, answer)
    slopes = np.linalg.lstsq(table, seconds, rcond=None)[0][1:]
    found = []
    for name, slope in zip(names, slopes.tolist(), strict=True):
        half, (words, least, measure, path) = known.half(name), _MEASURES[name]
        after = half if least is None or (name == "drive" and calibrated) else min(least, half)
        effect = abs(slope) * TENTH_TO_NINETIETH
        found.append(Driver(words, _told(name, half), rests_on[name], effect, effect * after / half, measure, path))
    return tuple(sorted(found, key=lambda driver: -driver.effect_s))


def _rests_on(known: Doubts, complete: CompleteDesign, answer: Answer) -> dict[str, str]:
    """Why each doubt is as large as it is, in words."""
    cell, craft, fitted = complete.pack.cell, complete.craft, complete.pack.cell.fitted
    weighed = any(pack.complete.recipe.weighed_g is not None for pack in answer.packs)
    lag = "two discharges at different currents" if fitted is not None and not fitted.lag_given else "its class"
    cooled = complete.pack.state.taught(LearnedOf.COOLING)
    volts = "how the fit meets its discharges" if fitted is not None else f"the table for {cell.ocv_family.words}"
    return {
        "capacity": known.cell.capacity_because,
        "resistance": known.cell.resistance_because,
        "lag": lag,
        "volts": "a resting table of its own" if fitted is None and cell.own_ocv is not None else volts,
        "drive": _drive_rests_on(craft, answer),
        "mass": "the pack on the scale, the craft part by part" if weighed else "parts added up",
        "cooling": "what air is about it, an estimate" if cooled is None else cooled.words,
        "wind_m_s": "a forecast",
        "style": "a flight in that manner" if known.style == STYLE_LEARNED else "a guess",
    }


def _drive_rests_on(craft: Craft, answer: Answer) -> str:
    calibration = answer.calibration
    if calibration is not None:
        if calibration.learned is not None:
            return calibration.learned.words
        if calibration.count == 1 and by_minutes(craft):
            return "one known flight of which minutes alone were noted"
        return "one known flight" if calibration.count == 1 else f"the scatter of {calibration.count} known flights"
    if craft.hover_test is not None:
        return "a hover test"
    return "looks, and one efficiency for all speeds" if craft.wing is not None else "estimates for the size"


def _told(name: str, half: float) -> str:
    if name == "wind_m_s":
        return f"± {format_speed(half)}"
    return f"± {format_number(1000 * half, 0)} mV" if name == "volts" else f"± {format_significant(100 * half, 2)} %"


_MEASURES: dict[str, tuple[str, float | None, str, str]] = {
    "capacity": ("capacity", 0.005, "discharge three cells on the bench", "cells.0.bench_results"),
    "resistance": (
        "resistance",
        0.06,
        "fit a log with fast steps of such currents, or measure a 10 s pulse",
        "cells.0.dcir_mohm",
    ),
    "lag": (
        "surface lag",
        0.15,
        "fit two discharges to the cut-off, at different currents",
        "cells.0.dcir_mohm",
    ),
    "volts": ("resting volts", None, "fit a slow discharge", "cells.0.dcir_mohm"),
    "drive": ("drive efficiency", DRIVE_CALIBRATED, "enter one flight with a battery you know", "craft.known_flights"),
    "mass": ("mass", MASS_WEIGHED, "weigh the craft and the pack", "design.packs.0.recipe.weighed_g"),
    "cooling": ("cooling", None, "log the pack's temperature in flight", "design.packs.0.cooling"),
    "wind_m_s": ("wind", None, "fly on a calmer day", "design.conditions.wind_m_s"),
    "style": ("how it is flown", STYLE_LEARNED, "enter a flight in that manner", "craft.known_flights"),
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
