"""One factor on shaft power, from flights that were made and readings that were taken."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Craft, DocumentError, KnownFlight
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Floats
from wise_cellar.core.propulsion.carrier import propulsion

PLAUSIBLE = (0.6, 1.6)
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
    """Measured power, power predicted at a factor of 1, and the factor, for level flight at the flight's speed."""
    measured = flight.mean_power_w
    weight = np.array([flight.takeoff_mass_g * 1e-3 * GRAVITY_M_S2])
    speed, level = np.array([flight.airspeed_m_s]), np.zeros(1)

    def power(factor: float) -> float:
        drive = propulsion(craft, flight.altitude_m, flight.air_temperature_c, factor)
        return float(drive.power(weight, speed, level)[0][0]) + craft.load_w

    # Motor current is linear in torque and motor voltage in current: power is a quadratic in the factor.
    idle, once, twice = power(0.0), power(1.0), power(2.0)
    curvature = 0.5 * (twice - 2 * once + idle)
    slope = once - idle - curvature
    if measured <= idle:
        field = "mean_current_a" if flight.mean_current_a is not None else "charge_used_mah"
        raise DocumentError(
            f"The known flight drew {measured:.0f} W on average, but {craft.name}'s idling motors and other loads alone"
            f" draw {idle:.0f} W. Check its charge, current, voltage and minutes.",
            f"known_flights.{place}.{field}",
        )
    above = measured - idle
    return measured, once, 2 * above / (slope + math.sqrt(slope**2 + 4 * curvature * above))


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
