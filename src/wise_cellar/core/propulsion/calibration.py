"""One factor on shaft power, from flights that were made and readings that were taken."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np

from wise_cellar.core.documents import Craft, DocumentError, KnownFlight, LearnedOf, LearnedValue
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.propulsion.known import FlownBefore
from wise_cellar.core.units import format_watts

PLAUSIBLE = (0.6, 1.6)
LEAST_FACTOR, MOST_FACTOR = 1e-3, 100.0
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
    learned: LearnedValue | None = None
    """What flights of the logbook taught: then it is the factor, and its doubt the scatter."""

    @property
    def plausible(self) -> bool:
        """Whether the factor is one that ordinary losses explain."""
        return PLAUSIBLE[0] <= self.factor <= PLAUSIBLE[1]

    @property
    def count(self) -> int:
        """Readings that count."""
        return sum(reading.used for reading in self.readings)


@lru_cache(maxsize=64)
def calibrate(craft: Craft) -> CalibrationResult | None:
    """Factor on shaft power that best explains the known flights of ``craft``, or that flights of the logbook taught;
    ``None`` where nothing tells it.

    One flight is met exactly; of several the factors are averaged robustly, in their logarithms, so that one that was
    flown or written down differently does not carry the rest.

    Source: Huber, *Robust Estimation of a Location Parameter* (Ann. Math. Statist. 35, 1964), k = 1.345; the scale from
    the median absolute deviation. Raises :class:`DocumentError` when a flight drew less
    than idling motors and the other loads.
    """
    factors = [_factor(craft, flight, place) for place, flight in enumerate(craft.known_flights)]
    used = [place for place, flight in enumerate(craft.known_flights) if flight.used]
    learned = craft.taught(LearnedOf.POWER)
    if not used:
        return None if learned is None else _as_learned(learned, ())
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
    if learned is not None:
        return _as_learned(learned, readings)
    return CalibrationResult(math.exp(centre), scatter, readings)


def _as_learned(learned: LearnedValue, readings: tuple[Reading, ...]) -> CalibrationResult:
    """Flights of the logbook before known flights: they were held against the same law, phase by phase."""
    return CalibrationResult(learned.value, learned.doubt_percent / 100, readings, learned)


def _factor(craft: Craft, flight: KnownFlight, place: int) -> tuple[float, float, float]:
    """Measured power, power predicted at a factor of 1, and the factor, as the flight was flown."""
    known = FlownBefore(craft, flight)

    @cache
    def over(logarithm: float) -> float:
        return math.log(known.mean_a(math.exp(logarithm)) / flight.mean_a)

    least, most = math.log(LEAST_FACTOR), math.log(MOST_FACTOR)
    if over(least) >= 0:
        field = "mean_current_a" if flight.mean_current_a is not None else "charge_used_mah"
        raise DocumentError(
            f"The known flight drew {format_watts(known.measured_w)} on average, but {craft.name}'s idling"
            f" motors and other loads alone draw {format_watts(known.mean_w(LEAST_FACTOR))}. Check its"
            " charge, current, voltage and minutes.",
            f"known_flights.{place}.{field}",
        )
    factor = MOST_FACTOR if over(most) <= 0 else math.exp(root(over, least, most))
    return known.measured_w, known.mean_w(1.0), factor


def root(value: Callable[[float], float], low: float, high: float) -> float:
    """Where a rising function passes 0 between two points, to 1e-12 (Illinois method); scipy's own would have the first
    answer wait for its import.

    Source: Dowell & Jarratt, *A modified regula falsi method* (BIT 11, 1971).
    """
    other, at_other, last, at_last = low, value(low), high, value(high)
    for _ in range(100):
        if abs(at_last) < 1e-12 or abs(last - other) < 1e-12:
            break
        there = last - at_last * (last - other) / (at_last - at_other)
        at_there = value(there)
        if (at_there > 0) == (at_last > 0):
            at_other /= 2
        else:
            other, at_other = last, at_last
        last, at_last = there, at_there
    return last


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
