"""One factor on shaft power, from flights that were made and readings that were taken."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import (
    Block,
    BlockKind,
    Conditions,
    Craft,
    DocumentError,
    KnownFlight,
    Manner,
    Mission,
)
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Floats
from wise_cellar.core.physics.cell import constant_power_current
from wise_cellar.core.physics.motor import throttle_current_a
from wise_cellar.core.physics.ocv import ocv_curve
from wise_cellar.core.propulsion.carrier import propulsion
from wise_cellar.core.propulsion.steps import MINUTE_S, StepArrays

PLAUSIBLE = (0.6, 1.6)
LEAST_FACTOR, MOST_FACTOR = 1e-3, 100.0
LEAST_OHM = 1e-12
HALF = 0.5
"""Of the capacity: how far down a battery is taken to be on its mean where only a current was read."""
LEAST_SCATTER = 0.01
"""Two flights that agree by chance are not known better than this."""
HUBER = 1.345
"""Deviations beyond this many times the scatter count less, by Huber's rule."""


@dataclass(frozen=True)
class Reading:
    """One known flight: the power it drew, what was predicted without a factor, and the factor that joins them."""

    name: str
    place: int
    """In the craft's list."""
    used: bool
    takeoff_mass_g: float
    airspeed_m_s: float
    measured_w: float
    predicted_w: float
    factor: float
    weight: float
    """In the common factor: 1, less for one that disagrees with the rest, 0 where it is only compared."""


@dataclass(frozen=True)
class CalibrationResult:
    """The common factor, how far the readings scatter about it, and the readings."""

    factor: float
    scatter: float | None
    """Standard deviation of a reading's factor, as a share; none where one reading is all there is."""
    readings: tuple[Reading, ...]

    @property
    def plausible(self) -> bool:
        """Whether the factor is one that ordinary losses explain."""
        return PLAUSIBLE[0] <= self.factor <= PLAUSIBLE[1]

    @property
    def count(self) -> int:
        """Readings that count."""
        return sum(reading.used for reading in self.readings)


def calibrate(craft: Craft) -> CalibrationResult | None:
    """Factor on shaft power that best explains the known flights of ``craft``; ``None`` where none counts.

    One flight is met exactly; of several the factors are averaged robustly, in their logarithms, so that one that was
    flown or written down differently does not carry the rest.

    Source: Huber, *Robust Estimation of a Location Parameter* (Ann. Math. Statist. 35, 1964), k = 1.345; the scale from
    the median absolute deviation. Raises :class:`DocumentError` when a flight drew less
    than idling motors and the other loads.
    """
    factors = [_factor(craft, flight, place) for place, flight in enumerate(craft.known_flights)]
    used = [place for place, flight in enumerate(craft.known_flights) if flight.used]
    if not used:
        return None
    logs = np.log([factors[place][2] for place in used])
    centre, scatter, weights = _robust_mean(logs)
    by_place = dict(zip(used, weights.tolist(), strict=True))
    readings = tuple(
        Reading(
            flight.name or f"flight {place + 1}", place, flight.used, flight.takeoff_mass_g, flight.airspeed_m_s,
            *factors[place], by_place.get(place, 0.0),
        )
        for place, flight in enumerate(craft.known_flights)
    )  # fmt: skip
    return CalibrationResult(math.exp(centre), scatter, readings)


def _factor(craft: Craft, flight: KnownFlight, place: int) -> tuple[float, float, float]:
    """Measured power, power predicted at a factor of 1, and the factor, as the flight was flown."""
    steps = StepArrays.of(_as_mission(flight), _weather(flight))
    share = steps.seconds / steps.seconds.sum()
    weight = np.array([flight.takeoff_mass_g * 1e-3 * GRAVITY_M_S2])

    def drawn(factor: float) -> tuple[Floats, Floats]:
        """Amps and watts of every step."""
        carrier = propulsion(craft, flight.altitude_m, flight.air_temperature_c, factor)
        watts = (carrier.step_power(weight, steps)[0] + craft.load_w) * np.ones(len(share))
        steady = float(watts[~steps.punch].mean())
        volts, ohm = _source(flight, steady)
        amps, _ = constant_power_current(np.full(len(share), volts), np.full(len(share), ohm), watts)
        slip = np.broadcast_to(carrier.slip_rev_s(weight, steps), watts.shape)
        emf, behind, loads = (np.full(1, value) for value in (volts, ohm, craft.load_w))
        full = throttle_current_a(carrier.drive, np.ones(1), emf, behind, loads, slip)
        amps = np.where(steps.punch, full, amps)
        return amps, amps * (volts - ohm * amps)

    def over(logarithm: float) -> float:
        return float((share * drawn(math.exp(logarithm))[0]).sum()) - flight.mean_a

    idle_w, once_w = (float((share * drawn(factor)[1]).sum()) for factor in (LEAST_FACTOR, 1.0))
    least, most = math.log(LEAST_FACTOR), math.log(MOST_FACTOR)
    measured_w = flight.mean_a * _mean_v(flight, idle_w)
    if over(least) >= 0:
        field = "mean_current_a" if flight.mean_current_a is not None else "charge_used_mah"
        raise DocumentError(
            f"The known flight drew {measured_w:.0f} W on average, but {craft.name}'s idling motors and other loads"
            f" alone draw {idle_w:.0f} W. Check its charge, current, voltage and minutes.",
            f"known_flights.{place}.{field}",
        )
    factor = MOST_FACTOR if over(most) <= 0 else math.exp(root(over, least, most))
    return flight.mean_a * _mean_v(flight, once_w * factor), once_w, factor


def root(value: Callable[[float], float], low: float, high: float) -> float:
    """Where a rising function passes 0 between two points, to 1e-12 (Illinois method).

    Source: Dowell & Jarratt, *A modified regula falsi method* (BIT 11, 1971).
    """
    at_low, at_high = value(low), value(high)
    for _ in range(60):
        middle = high - at_high * (high - low) / (at_high - at_low)
        there = value(middle)
        if abs(there) < 1e-12 or high - low < 1e-12:
            return middle
        if there > 0:
            at_low, high, at_high = (at_low / 2 if at_high > 0 else at_low), middle, there
        else:
            at_high, low, at_low = at_high / 2, middle, there
    return 0.5 * (low + high)


def _as_mission(flight: KnownFlight) -> Mission:
    """The known flight as a minute of it."""
    hovering = flight.manner is Manner.HOVER or (flight.manner is Manner.LEVEL and flight.airspeed_m_s == 0)
    kind = BlockKind.HOVER if hovering else BlockKind.CRUISE
    if flight.manner is Manner.MANUAL:
        kind = BlockKind.MANUAL
    block = Block(
        kind=kind, duration_s=MINUTE_S, airspeed_m_s=flight.airspeed_m_s,
        climb_m_s=flight.climb_m_s if flight.manner is Manner.CLIMB else 0.0, liveliness=flight.liveliness,
        full_throttle_s=flight.full_throttle_s,
    )  # fmt: skip
    return Mission(id="known", name="known", blocks=(block,))


def _weather(flight: KnownFlight) -> Conditions:
    return Conditions(
        air_temperature_c=flight.air_temperature_c, altitude_m=flight.altitude_m, wind_m_s=flight.wind_m_s,
        gust_m_s=flight.gust_m_s,
    )  # fmt: skip


def _source(flight: KnownFlight, steady_w: float) -> tuple[float, float]:
    """What the battery was on the mean of the flight: volts without load, and ohms behind them.

    Where the battery is not told, the mean under load and none: bursts then see no sag.
    """
    rest_v, then_v = _rest_v(flight)
    if rest_v is None or then_v is None:
        assert flight.mean_voltage_v is not None
        return flight.mean_voltage_v, LEAST_OHM
    if flight.mean_voltage_v is not None:
        return rest_v, max((rest_v - flight.mean_voltage_v) / flight.mean_a, LEAST_OHM)
    assert flight.read_voltage_v is not None
    return rest_v, max((then_v - flight.read_voltage_v) * flight.read_voltage_v / steady_w, LEAST_OHM)


def _rest_v(flight: KnownFlight) -> tuple[float | None, float | None]:
    """Resting volts of the battery on the mean of the flight, and when its volts were read."""
    if flight.battery_series is None or flight.battery_mah is None:
        return None, None
    values = ocv_curve(flight.battery_family.value).values
    soc = np.linspace(0.0, 1.0, len(values))
    used = flight.charge_used_mah or (flight.mean_a * (flight.duration_min or 0.0) / 60 * 1000)
    used = used or flight.read_charge_mah or HALF * flight.battery_mah
    read = used if flight.read_charge_mah is None else flight.read_charge_mah
    end, then = (max(1 - charge / flight.battery_mah, 0.0) for charge in (used, read))
    mean = float(np.interp(np.linspace(end, 1.0, 101), soc, values).mean())
    return flight.battery_series * mean, flight.battery_series * float(np.interp(then, soc, values))


def _mean_v(flight: KnownFlight, steady_w: float) -> float:
    """Mean volts under load: as given, or as the reading and the battery tell."""
    if flight.mean_voltage_v is not None:
        return flight.mean_voltage_v
    volts, ohm = _source(flight, steady_w)
    return volts - ohm * flight.mean_a


def _robust_mean(values: Floats) -> tuple[float, float | None, Floats]:
    """Huber's estimate of location, its scatter, and the weights (Huber 1964; scale from the median deviation)."""
    if len(values) == 1:
        return float(values[0]), None, np.ones(1)
    centre, weights = float(np.median(values)), np.ones(len(values))
    scale = max(1.4826 * float(np.median(np.abs(values - centre))), LEAST_SCATTER)
    for _ in range(20):
        away = np.abs(values - centre)
        weights = np.minimum(1.0, HUBER * scale / np.maximum(away, 1e-12))
        centre = float(np.sum(weights * values) / np.sum(weights))
    spread = float(np.sum((weights * (values - centre)) ** 2)) / max(float(np.sum(weights)) - 1.0, 0.5)
    return centre, max(math.sqrt(spread), LEAST_SCATTER), weights
