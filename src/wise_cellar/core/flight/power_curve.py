"""Power a craft needs against its take-off mass: the picture of the Craft station."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Conditions, Craft
from wise_cellar.core.flight.lowering import propulsion
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Floats


@dataclass(frozen=True)
class PowerCurve:
    """Bus power, W, in hover and at one airspeed, over take-off masses in grams; shape ``(masses,)``."""

    mass_g: Floats
    hover_w: Floats
    cruise_w: Floats
    airspeed_m_s: float


def power_against_mass(
    craft: Craft, conditions: Conditions, airspeed_m_s: float, masses_g: Floats, factor: float
) -> PowerCurve:
    """Power over ``masses_g`` in the given air, other loads included, shaft power times ``factor``."""
    drive = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor)
    loads = sum(load.power_w for load in craft.loads)
    weight = masses_g * 1e-3 * GRAVITY_M_S2
    level = np.zeros_like(weight)
    hover, _ = drive.power(weight, np.full_like(weight, conditions.wind_m_s), level)
    cruise, _ = drive.power(weight, np.full_like(weight, airspeed_m_s), level)
    return PowerCurve(masses_g, hover + loads, cruise + loads, airspeed_m_s)
