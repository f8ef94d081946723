"""Flights of which everything is known, made by the product's own integrator with truths that it is not told, and then
measured as a craft would: for tests of what is learned, and for the spring of the sample world."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.documents import CompleteDesign, FlightEntry
from wise_cellar.core.documents.provenance import Moment
from wise_cellar.core.logbook.noted import COULOMBIC, flown_on, with_shares
from wise_cellar.core.physics.arrays import Bools, Floats
from wise_cellar.core.propulsion.steps import StepArrays

GROUND_S = 45.0
REST_S = 70.0
QUANTITIES = ("volts", "amps", "charge", "temperature", "throttle", "airspeed", "altitude")


@dataclass(frozen=True)
class Truth:
    """What a flight really was, over what its design says."""

    power: float = 1.0
    capacity: float = 1.0
    resistance: float = 1.0
    amps_scale: float = 1.0
    amps_offset_a: float = 0.0
    volts_offset_v: float = 0.0


@dataclass(frozen=True)
class Made:
    """One flight: how it truly was, and what was noted and logged of it."""

    answered: Answer
    entry: FlightEntry
    rows: Floats
    """(rows, 1 + quantities) As recorded, a row a second."""


def true_flight(complete: CompleteDesign, truth: Truth) -> Answer:
    """The flight as it was, until its landing rule."""
    state = with_shares(complete.pack.state, truth.capacity, truth.resistance)
    flies = complete.changed(mission=flown_on(complete.mission)).with_pack(state=state)
    return answer(flies, power_share=truth.power)


def made(
    complete: CompleteDesign, truth: Truth, seed: int, name: str, flown_at: Moment, early_s: float = 0.0
) -> Made:  # fmt: skip
    """A flight of a design in the weather and with the pack that it has; landed ``early_s`` before its rule calls."""
    random = np.random.default_rng(seed)
    answered = true_flight(complete, truth)
    if early_s:
        series = answered.series
        used = float(np.interp(answered.duration_s - early_s, series.time_s, series.charge_used_mah))
        percent = 100 * used / complete.pack.label_mah
        rule = complete.design.landing.changed(basis="charge used", charge_percent=percent)
        answered = true_flight(complete.with_design(landing=rule), truth)
    series, count = answered.series, complete.pack.recipe.series_count
    ends_s = answered.duration_s
    at_s = np.arange(0.0, GROUND_S + ends_s + REST_S) - GROUND_S
    volts, amps, flies = _seen(answered, at_s, ends_s, complete.craft.load_w / count)
    told_a = truth.amps_scale * amps + truth.amps_offset_a + 0.05 * random.standard_normal(len(at_s))
    told_v = count * volts + truth.volts_offset_v + 0.008 * random.standard_normal(len(at_s))
    airspeed, climb = _moves(complete, answered, at_s, flies)
    throttle = np.where(flies, np.interp(at_s, series.time_s, series.throttle), 0.0)
    rows = np.stack([
        at_s + GROUND_S, np.round(told_v, 2), np.round(told_a, 1), np.round(np.cumsum(told_a) / 3.6),
        np.round(np.interp(at_s, series.time_s, series.temperature_c), 1), np.round(100 * throttle),
        np.round(np.maximum(airspeed + 0.3 * random.standard_normal(len(at_s)) * flies, 0.0), 1),
        np.round(np.cumsum(climb) + 0.2 * random.standard_normal(len(at_s)), 1),
    ], axis=1)  # fmt: skip
    drawn = float(np.trapezoid(amps, at_s)) / 3.6
    state = complete.pack.state
    missing = (1 - state.start_charge_percent / 100) * complete.pack.label_mah
    rest_v = sum(len(group.members) * group.hour_v for group in answered.packs[0].groups)
    weather = complete.design.conditions
    entry = FlightEntry(
        id=name.lower().replace(" ", "-").replace(",", ""), name=name, flown_at=flown_at,
        design_id=complete.design.id, duration_min=round(ends_s / 60 + 0.1 * float(random.standard_normal()), 1),
        returned_mah=round((drawn + missing) / COULOMBIC * (1 + 0.004 * float(random.standard_normal()))),
        landing_v=round(count * float(np.interp(ends_s, series.time_s, series.loaded_v))
                        + 0.02 * count * float(random.standard_normal()), 1),
        resting_v=round(rest_v + 0.005 * count * float(random.standard_normal()), 2),
        start_charge_percent=state.start_charge_percent, air_temperature_c=weather.air_temperature_c,
        wind_m_s=weather.wind_m_s,
    )  # fmt: skip
    return Made(answered, entry, rows)


def _moves(complete: CompleteDesign, answered: Answer, at_s: Floats, flies: Bools) -> tuple[Floats, Floats]:
    """Airspeed and climb, m/s, at each moment."""
    steps = StepArrays.of(flown_on(complete.mission), complete.design.conditions)
    blocks = range(int(steps.block.max()) + 1)
    seconds = np.minimum(steps.seconds, 1e6)
    of = [np.array([np.average(values[steps.block == block], weights=seconds[steps.block == block])
                    for block in blocks]) for values in (steps.airspeed_m_s, steps.climb_m_s)]  # fmt: skip
    series = answered.series
    place = np.clip(np.searchsorted(series.time_s, at_s), 0, len(series.time_s) - 1)
    block = np.minimum(series.block[place], len(blocks) - 1)
    return np.where(flies, of[0][block], 0.0), np.where(flies, of[1][block], 0.0)


def _seen(answered: Answer, at_s: Floats, ends_s: float, idle_w: float) -> tuple[Floats, Floats, Bools]:
    """Volts a cell and amps at each moment from take-off, and whether it flies then; ``idle_w``: of a cell in
    series."""
    series = answered.series
    flies = (at_s >= 0) & (at_s < ends_s)
    loaded = np.interp(at_s, series.time_s, series.loaded_v)
    after = np.interp(at_s - ends_s, *answered.rebound)
    volts = np.where(at_s < 0, series.resting_v[0], np.where(flies, loaded, after))
    amps = np.where(flies, np.interp(at_s, series.time_s, series.pack_a), idle_w / volts)
    return volts, amps, flies
