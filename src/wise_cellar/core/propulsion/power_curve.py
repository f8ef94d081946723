"""Power a craft needs against its take-off mass and against its airspeed: the pictures of the Craft station."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Conditions, Craft
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Floats
from wise_cellar.core.physics.wing import SAFE_OVER_STALL
from wise_cellar.core.propulsion.carrier import WingPropulsion, propulsion


@dataclass(frozen=True)
class PowerCurve:
    """Bus power, W, in hover and at one airspeed, over take-off masses in grams; shape ``(masses,)``.

    A wing holds its slow, safe speed in place of the hover, and is not a number where the airspeed would stall it.
    """

    mass_g: Floats
    hover_w: Floats
    cruise_w: Floats
    airspeed_m_s: float


def power_against_mass(
    craft: Craft, conditions: Conditions, airspeed_m_s: float, masses_g: Floats, factor: float, bus_v: float = np.nan
) -> PowerCurve:
    """Power, W, over ``masses_g`` in the given air, other loads included, shaft power times ``factor``, on a bus of
    ``bus_v``.

    Source: :func:`propulsion`, at each mass in level flight. Not modelled: a pack of that mass.
    """
    drive = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor, bus_v)
    loads = craft.load_w
    weight = masses_g * 1e-3 * GRAVITY_M_S2
    level = np.zeros_like(weight)
    wing = drive if isinstance(drive, WingPropulsion) else None
    held = wing.holding_m_s(weight) if wing else np.full_like(weight, conditions.wind_m_s)
    hover, _ = drive.power(weight, held, level)
    cruise, _ = drive.power(weight, np.full_like(weight, airspeed_m_s), level)
    if wing:
        cruise = np.where(wing.stall_m_s(weight) > airspeed_m_s, np.nan, cruise)
    return PowerCurve(masses_g, hover + loads, cruise + loads, airspeed_m_s)


@dataclass(frozen=True)
class SpeedCurve:
    """Bus power, W, over airspeeds in level flight, shape ``(speeds,)``, and the two speeds worth knowing."""

    airspeed_m_s: Floats
    power_w: Floats
    longest_m_s: float
    """Least power: the longest in the air."""
    furthest_m_s: float
    """Least energy a metre, in still air: the furthest."""
    stall_m_s: float
    """Where the curve of a wing begins; 0 of rotors."""

    def power_at(self, airspeed_m_s: float) -> float:
        """Power at a speed, W."""
        return float(np.interp(airspeed_m_s, self.airspeed_m_s, self.power_w))

    def km_for(self, energy_wh: float, airspeed_m_s: float) -> float:
        """Kilometres through still air that an energy lasts for at a speed."""
        return 3.6 * energy_wh * airspeed_m_s / self.power_at(airspeed_m_s)


SPEEDS, FASTEST_M_S = 241, 60.0
FASTEST_POWER, FASTEST_POWER_OF_WING = 2.5, 6.0
"""The curve ends where level flight takes this many times the hover's power, or the least power of a wing."""


def power_against_airspeed(
    craft: Craft, conditions: Conditions, takeoff_mass_g: float, factor: float, bus_v: float = np.nan
) -> SpeedCurve:  # fmt: skip
    """Power, W, in level flight from hover, or stall, to where it has grown far beyond it; other loads included.

    Longest in the air where P is least, furthest where P/v is. Source: :func:`propulsion`; the margin over the stall is
    our estimate. Not modelled: wind, as the speed is through the air.
    """
    drive = propulsion(craft, conditions.altitude_m, conditions.air_temperature_c, factor, bus_v)
    loads = craft.load_w

    def power(speeds: Floats) -> Floats:
        weight = np.full_like(speeds, takeoff_mass_g * 1e-3 * GRAVITY_M_S2)
        return drive.power(weight, speeds, np.zeros_like(speeds))[0] + loads

    weight = np.array([takeoff_mass_g * 1e-3 * GRAVITY_M_S2])
    stall = float(drive.stall_m_s(weight)[0]) if isinstance(drive, WingPropulsion) else 0.0
    wide = np.linspace(stall, max(FASTEST_M_S, 3 * stall), SPEEDS)
    most = FASTEST_POWER_OF_WING * power(wide).min() if stall else FASTEST_POWER * power(wide[:1])[0]
    beyond = np.flatnonzero(power(wide) > most)
    fastest = wide[beyond[0]] if len(beyond) else wide[-1]
    speeds = np.linspace(stall, fastest, SPEEDS)
    watts = power(speeds)
    # A wing is flown with some margin over its stall.
    safe = speeds >= max(SAFE_OVER_STALL * stall, 1e-6)
    longest = speeds[safe][np.argmin(watts[safe])] if stall else speeds[np.argmin(watts)]
    furthest = speeds[safe][np.argmin(watts[safe] / speeds[safe])]
    return SpeedCurve(speeds, watts, float(longest), float(furthest), stall)
