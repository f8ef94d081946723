"""The answer to one design: five answers, the chain, the traces, and what to be careful about."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from wise_cellar.core.cells import half_charge_slope
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces, Trace
from wise_cellar.core.flight.calibration import calibrate
from wise_cellar.core.flight.ending import EndReason, end_reason
from wise_cellar.core.flight.findings import findings
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.lowering import LoweredDesign, lower, lower_one, punch_seconds
from wise_cellar.core.flight.punch import PunchOutcome, punch_from
from wise_cellar.core.flight.result import Answer, PunchAnswer, Series
from wise_cellar.core.pack import PackCurrents, chain
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Ints
from wise_cellar.core.physics.cell import CellState, pulse_resistance_ohm


def answer(complete: CompleteDesign) -> Answer:
    """Fly one complete design and answer for it.

    Raises :class:`~wise_cellar.core.documents.DocumentError` when the craft's known flight cannot be explained.
    """
    calibration = calibrate(complete.craft)
    lowered = lower_one(complete, calibration.factor if calibration else 1.0)
    batch = lower([lowered])
    flown = fly(batch, record=True)
    trace = flown.trace[0]
    seconds = punch_seconds(complete)
    standing = np.zeros(2 + len(trace.time_s), bool)
    standing[0] = True  # the first burst of a wing is its launch
    punches = punch_from(batch, _with_ends(batch, flown, trace), seconds, standing=standing)
    early, late = _punch(batch, punches, 0), _punch(batch, punches, 1)
    parallel = complete.design.recipe.parallel_count
    peak = max(early.amps_a_cell, float(flown.punch_current_a[0]))
    currents = PackCurrents(float(flown.cruise_current_a[0]) * parallel, peak * parallel, seconds)
    reason = end_reason(complete, flown)
    charge_left = float(flown.end_state.soc[0])
    series = _series(batch, trace, punches, lowered.steps.block)
    result = Answer(
        duration_s=float(flown.airborne_s[0]),
        takeoff_mass_g=lowered.takeoff_mass_g,
        early_punch=early,
        late_punch=late,
        currents=currents,
        links=chain(lowered.build, complete.craft, currents),
        reason=reason,
        margin_until_s=_margin_until_s(series, complete.design.landing.least_margin),
        cruising_m_s=lowered.cruising_m_s,
        landing_call_s=float(flown.landing_call_s[0]),
        charge_left=charge_left,
        resting_v=float(batch.cell.ocv(flown.end_state.soc)[0]),
        hottest_c=lowered.hottest_c(float(flown.hottest_k[0])),
        mean_power_w=float(flown.energy_j[0]) / max(float(flown.end_s[0]), 1e-9),
        energy_used_wh=float(flown.energy_j[0]) / 3600,
        series=series,
        build=lowered.build,
        cell_dcir_ohm=float(pulse_resistance_ohm(batch.cell, np.array([half_charge_slope(complete.cell_type)]))[0]),
        calibration=calibration,
        findings=(),
        duration_field=_duration_field(reason),
        mass_field=_mass_field(lowered),
        punch_field="design.cell_type_id",
    )
    return replace(result, findings=findings(complete, result))


def _with_ends(batch: FlightBatch, flown: FlightTraces, trace: Trace) -> CellState:
    """Start, landing call, then every recorded point."""
    return CellState(
        *(
            np.concatenate([getattr(batch.start, name), getattr(flown.late_state, name), getattr(trace.state, name)])
            for name in CellState.__dataclass_fields__
        )
    )


def _punch(batch: FlightBatch, outcome: PunchOutcome, row: int) -> PunchAnswer:
    return PunchAnswer(
        float(outcome.bus_v[row] / batch.series[0]),
        float(outcome.cell_v[row]),
        float(outcome.bus_v[row]),
        float(outcome.current_a[row]),
        float(outcome.thrust_margin[row]),
        float(outcome.thrust_margin[row] * batch.thrust_wanted_n[0]),
    )


def _series(batch: FlightBatch, trace: Trace, punches: PunchOutcome, blocks: Ints) -> Series:
    series, parallel = float(batch.series[0]), float(batch.parallel[0])
    motor_v = batch.block_motor_v[0][trace.block]
    held = batch.block_duty[0][trace.block]
    throttle = np.where(held > 0, held, motor_v / np.maximum(trace.bus_v, 1e-6))
    used = (float(batch.start.soc[0]) - trace.state.soc) * float(batch.cell.charge_c[0]) / 3.6 * parallel
    return Series(
        time_s=trace.time_s,
        loaded_v=trace.bus_v / series,
        resting_v=batch.cell.ocv.take(np.zeros(len(trace.time_s), np.intp))(trace.state.soc),
        punch_v=punches.bus_v[2:] / series,
        pack_a=trace.current_a * parallel,
        throttle=throttle,
        temperature_c=trace.state.temperature_k - ZERO_CELSIUS_K,
        charge_used_mah=used,
        thrust_margin=punches.thrust_margin[2:],
        punch_a=punches.current_a[2:],
        block=blocks[trace.block],
    )


def _margin_until_s(series: Series, wanted: float) -> float:
    """The last moment of the flight at which a burst still gives the margin."""
    enough = np.flatnonzero(series.thrust_margin >= wanted)
    if not len(enough):
        return 0.0
    last = int(enough[-1])
    if last + 1 >= len(series.time_s):
        return float(series.time_s[last])
    there, gone = series.thrust_margin[last], series.thrust_margin[last + 1]
    share = (there - wanted) / (there - gone)
    return float(series.time_s[last] + share * (series.time_s[last + 1] - series.time_s[last]))


def _duration_field(reason: EndReason) -> str:
    """Minutes are governed by what ended them, or by the charge on board."""
    by_charge = reason.ending in (Ending.RESERVE_REACHED, Ending.CELL_CUT_OFF)
    return "design.recipe.parallel_count" if by_charge else reason.field


def _mass_field(lowered: LoweredDesign) -> str:
    heavier_pack = lowered.build.mass_g > lowered.complete.craft.dry_mass_g
    return "design.recipe.parallel_count" if heavier_pack else "craft.parts"
