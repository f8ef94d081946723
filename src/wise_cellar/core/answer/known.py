"""A design's own prediction as a known flight, to put one's own figures in place of."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.answer.result import Answer
from wise_cellar.core.cells import capacity_mah
from wise_cellar.core.documents import Block, BlockKind, CompleteDesign, KnownFlight, Manner
from wise_cellar.core.physics.arrays import Bools, Floats

COME_BACK_S = 30.0
"""After a burst: twice the time constant of polarisation where nothing was measured."""


def as_known_flight(complete: CompleteDesign, answer: Answer, *, read_at: float | None = None) -> KnownFlight:
    """The longest block of the predicted flight, as somebody would have written it down who flew it.

    With ``read_at``, a share of that block's time, the volts are those read under load then, or as near as the last
    burst is over and the volts have come back from it, else the mean of all. Entered into the craft, it asks for a
    factor of 1. Source: the answer itself. Not modelled: what was flown before that block.
    """
    series, place = answer.series, answer.series.longest_block
    block, conditions = complete.mission.blocks[place], complete.design.conditions
    rows = np.flatnonzero(series.block == place)
    time, bus_v = series.time_s[rows], series.loaded_v[rows] * complete.pack.recipe.series_count
    seconds = float(time[-1] - time[0])
    drawn = series.charge_used_mah[rows] - series.charge_used_mah[rows[0]]
    pack = complete.pack
    full = len(complete.packs) == 1 and pack.state.start_charge_percent >= 99.5
    reading = {"mean_voltage_v": float(np.trapezoid(bus_v, time) / seconds)}
    if read_at is not None and full:
        at = _quiet_at(series.throttle[rows] >= conditions.most_duty - 1e-9, time, time[0] + read_at * seconds)
        reading = {"read_voltage_v": float(bus_v[at]), "read_charge_mah": float(drawn[at])}
    battery = {
        "battery_series": pack.recipe.series_count,
        "battery_mah": capacity_mah(pack.cell) * pack.state.capacity_percent / 100 * pack.recipe.parallel_count,
        "battery_family": pack.cell.ocv_family,
        "battery_class": pack.cell.kinetic_class,
    }
    manner = _manner(block)
    return KnownFlight.from_data(
        {
            "manner": manner,
            "takeoff_mass_g": answer.takeoff_mass_g,
            "airspeed_m_s": 0.0 if manner is Manner.HOVER else _airspeed(block, answer),
            "climb_m_s": block.climb_m_s if manner is Manner.CLIMB else 0.0,
            "liveliness": block.liveliness,
            "full_throttle_s": _bursts_s(complete, block, series.throttle[rows], time),
            "throttle_percent": block.throttle_percent,
            "wind_m_s": conditions.wind_m_s,
            "gust_m_s": conditions.gust_m_s,
            "duration_min": seconds / 60,
            "charge_used_mah": float(drawn[-1]),
            "air_temperature_c": conditions.air_temperature_c,
            "altitude_m": conditions.altitude_m,
            **reading,
            **(battery if full else {}),
        }
    )


def _quiet_at(bursting: Bools, time: Floats, second: float) -> int:
    """The point nearest to a moment at which no burst is flown and volts have come back from the last; those of bursts
    are another reading."""
    since = time - np.maximum.accumulate(np.where(bursting, time, -np.inf))
    return int(np.argmin(np.where(since < COME_BACK_S, np.inf, np.abs(time - second))))


def _bursts_s(complete: CompleteDesign, block: Block, throttle: Floats, time: Floats) -> float:
    """Seconds of full throttle in a minute, as flown: the last minute may have ended before its burst."""
    if block.kind is not BlockKind.MANUAL or block.full_throttle_s == 0:
        return 0.0
    full = throttle[1:] >= complete.design.conditions.most_duty - 1e-9
    return 60 * float(np.diff(time)[full].sum() / (time[-1] - time[0]))


def _manner(block: Block) -> Manner:
    if block.kind is BlockKind.MANUAL:
        return Manner.MANUAL
    if block.kind is BlockKind.HOVER:
        return Manner.HOVER
    if block.kind is BlockKind.THROTTLE:
        return Manner.BENCH
    return Manner.CLIMB if block.climb_m_s > 0 else Manner.LEVEL


def _airspeed(block: Block, answer: Answer) -> float:
    return block.airspeed_m_s if block.kind is BlockKind.MANUAL else answer.cruising_m_s
