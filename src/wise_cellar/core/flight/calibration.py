"""One factor on shaft power, from a flight that was made."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

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
    and air. Raises :class:`DocumentError` when the flight drew less than the other loads alone.
    """
    flight = craft.known_flight
    if flight is None:
        return None
    measured = flight.mean_voltage_v * flight.charge_used_mah * 1e-3 / (flight.duration_min / 60)
    loads = sum(load.power_w for load in craft.loads)
    weight = np.array([flight.takeoff_mass_g * 1e-3 * GRAVITY_M_S2])
    speed, level = np.array([flight.airspeed_m_s]), np.zeros(1)

    def power(factor: float) -> float:
        drive = propulsion(craft, flight.altitude_m, flight.air_temperature_c, factor)
        return float(drive.power(weight, speed, level)[0][0]) + loads

    low, high = 0.02, 20.0
    if not power(low) < measured < power(high):
        raise DocumentError(
            f"The known flight drew {measured:.0f} W on average, which no factor on this craft's power explains:"
            f" between {power(low):.0f} and {power(high):.0f} W would. Check its charge, voltage and minutes.",
            "known_flight.charge_used_mah",
        )
    factor = float(brentq(lambda f: power(f) - measured, low, high, xtol=1e-9))
    return CalibrationResult(measured, power(1.0), factor)
