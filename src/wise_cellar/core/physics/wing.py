"""Flight on a wing: a parabolic polar, its stall and turns, and a propeller in the airstream.

Sources: Anderson, *Aircraft Performance and Design* (1999), ch. 5 (drag polar, least power and least drag), ch. 6
(turns); McCormick, *Aerodynamics, Aeronautics and Flight Mechanics* (2nd ed., 1995), ch. 6 (propellers). Not modelled:
trim drag apart from CD₀, the propeller's wash over the wing, Reynolds number, ground effect, thermals.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.physics.arrays import GRAVITY_M_S2, FloatOrArray, Floats

DEFAULT_DRIVE_EFFICIENCY = 0.55
"""Of a model-sized craft, from battery to thrust: an estimate for the class."""
SAFE_OVER_STALL = 1.2
"""Margin over the stall that a craft climbs, circles and approaches with."""
TIGHTEST_TURN = 1.6
"""Least radius of a circle over V_s²/g; at SAFE_OVER_STALL² no speed is left to fly it at."""
ADVANCE_OVER_PITCH = 1.15
"""Advance ratio of no thrust over pitch/diameter: the blade's camber pulls a little beyond its geometric pitch."""
TORQUE_UNLOADING = 0.7
"""Share of the static torque that has gone where thrust has: an estimate; profile drag keeps the rest."""


@dataclass(frozen=True)
class Polar:
    """Wing and drag of one craft, SI."""

    area_m2: float
    aspect_ratio: float
    zero_lift_drag: float
    span_efficiency: float
    greatest_lift: float

    @property
    def induced_factor(self) -> float:
        """k = 1/(π·e·AR): induced drag coefficient over lift coefficient squared."""
        return 1 / (math.pi * self.span_efficiency * self.aspect_ratio)


def drag_n(polar: Polar, density: float, lift_n: FloatOrArray, airspeed_m_s: FloatOrArray) -> FloatOrArray:
    """Drag, N: D = q·S·CD₀ + k·L²/(q·S), q = ½ρV²; newtons and m/s (above 0), arrays that broadcast.

    Source: Anderson, *Aircraft Performance and Design* (1999), section 2.9. Not modelled: drag that rises near the
    stall.
    """
    force = 0.5 * density * airspeed_m_s**2 * polar.area_m2
    return polar.zero_lift_drag * force + polar.induced_factor * lift_n**2 / force


def stall_speed_m_s(polar: Polar, density: float, lift_n: FloatOrArray) -> Floats:
    """Speed of the stall, m/s: V_s = √(2L/(ρ·S·CL_max)); L, N, is the weight in level flight, more in a turn.

    Source: Anderson, *Aircraft Performance and Design* (1999), section 5.9. Not modelled: Reynolds number, the
    propeller's wash.
    """
    return np.asarray(np.sqrt(2 * lift_n / (density * polar.area_m2 * polar.greatest_lift)))


def least_power_speed_m_s(polar: Polar, density: float, weight_n: FloatOrArray) -> Floats:
    """Speed of least D·V, m/s: √(2W/(ρS))·(k/(3·CD₀))^¼, where induced drag is three times the rest.

    Source: Anderson, *Aircraft Performance and Design* (1999), section 5.6.
    """
    of_unit_lift = np.sqrt(2 * weight_n / (density * polar.area_m2))
    return np.asarray(of_unit_lift * (polar.induced_factor / (3 * polar.zero_lift_drag)) ** 0.25)


def load_factor(airspeed_m_s: FloatOrArray, radius_m: FloatOrArray) -> Floats:
    """Lift over weight in a level turn: √(1 + (V²/(g·r))²); m/s and m (may be infinite), arrays that broadcast.

    Source: Anderson, *Aircraft Performance and Design* (1999), section 6.2.
    """
    return np.asarray(np.sqrt(1 + (airspeed_m_s**2 / (GRAVITY_M_S2 * radius_m)) ** 2))


def turning_stall_m_s(level_stall_m_s: FloatOrArray, radius_m: FloatOrArray) -> Floats:
    """Least speed of a level circle: V_s·√n at its own n, V⁴ = V_s⁴·(1 + (V²/(g·r))²).

    With A = V_s²/(g·r), V² = V_s²/√(1 − A²); ``radius_m`` must be more than V_s²/g. Source: the two laws above.
    """
    tightness = level_stall_m_s**2 / (GRAVITY_M_S2 * radius_m)
    return np.asarray(level_stall_m_s * (1 - tightness**2) ** -0.25)


def slip_rev_s(airspeed_m_s: FloatOrArray, pitch_m: float) -> FloatOrArray:
    """Propeller speed at which it no longer pulls, rev/s: V/(J₀·D), J₀ = 1.15·pitch/diameter.

    Source: our estimate from the form of measured thrust coefficients over the advance ratio (McCormick, ch. 6).
    """
    return airspeed_m_s / (ADVANCE_OVER_PITCH * pitch_m)


def propeller_speed_rev_s(thrust_n: Floats, thrust_n_s2: Floats, slip: Floats) -> Floats:
    """n, rev/s, at which T = k_T·(n² − u·n), u the speed of no thrust: (u + √(u² + 4·T/k_T))/2; u = 0 is the static
    law.

    Newtons, N·s², rev/s, arrays that broadcast. Source: a thrust coefficient that falls straight with the advance ratio
    (McCormick, ch. 6).
    """
    return np.asarray(0.5 * (slip + np.sqrt(slip**2 + 4 * thrust_n / thrust_n_s2)))
