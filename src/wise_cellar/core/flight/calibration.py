"""One factor on shaft power, from a flight that was made."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Craft, DocumentError
from wise_cellar.core.flight.lowering import propulsion
from wise_cellar.core.physics.arrays import GRAVITY_M_S2

PLAUSIBLE = (0.6, 1.6)


@dataclass(frozen=True)
class CalibrationResult:
    """What a known flight says: mean power drawn, the power predicted before, and the factor that joins them."""

    measured_w: float
    predicted_w: float
    factor: float

    @property
    def plausible(self) -> bool:
        """Whether the factor is one that ordinary losses explain."""
        return PLAUSIBLE[0] <= self.factor <= PLAUSIBLE[1]


def calibrate(craft: Craft) -> CalibrationResult | None:
    """Factor on shaft power that makes the known flight of ``craft`` come true; ``None`` where it has none.

    Mean bus power is mean volts × charge ÷ time. It is compared with level flight at the flight's airspeed, mass
    and air. Raises :class:`DocumentError` when the flight drew less than idling motors and the other loads.
    """
    flight = craft.known_flight
    if flight is None:
        return None
    measured = flight.mean_voltage_v * flight.charge_used_mah * 1e-3 / (flight.duration_min / 60)
    loads = craft.load_w
    weight = np.array([flight.takeoff_mass_g * 1e-3 * GRAVITY_M_S2])
    speed, level = np.array([flight.airspeed_m_s]), np.zeros(1)

    def power(factor: float) -> float:
        drive = propulsion(craft, flight.altitude_m, flight.air_temperature_c, factor)
        return float(drive.power(weight, speed, level)[0][0]) + loads

    # Motor current is linear in torque and motor voltage in current: power is a quadratic in the factor.
    idle, once, twice = power(0.0), power(1.0), power(2.0)
    curvature = 0.5 * (twice - 2 * once + idle)
    slope = once - idle - curvature
    if measured <= idle:
        raise DocumentError(
            f"The known flight drew {measured:.0f} W on average, but {craft.name}'s idling motors and other loads alone"
            f" draw {idle:.0f} W. Check its charge, voltage and minutes.",
            "known_flight.charge_used_mah",
        )
    above = measured - idle
    factor = 2 * above / (slope + math.sqrt(slope**2 + 4 * curvature * above))
    return CalibrationResult(measured, once, factor)
