"""What a craft of some size usually is: values to start from where nobody has told any.

Every number here is our estimate for its class, copied from nobody; what is made from them is marked as an estimate.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.physics.rotor import default_figure_of_merit, default_thrust_coefficient, power_coefficient
from wise_cellar.core.physics.wing import propeller_speed_rev_s, slip_rev_s

PROPELLER_MM = (31.0, 40.0, 65.0, 76.0, 127.0, 178.0, 254.0, 381.0, 560.0, 762.0)
"""Propeller diameters at which the values of this table are known; between them straight lines in the logarithms."""
MASS_A_ROTOR_G = (4.5, 6.5, 15.0, 24.0, 85.0, 135.0, 290.0, 800.0, 1900.0, 3600.0)
"""Mass without a battery over the number of rotors."""
SERIES = (1, 1, 2, 3, 4, 4, 4, 6, 12, 12)
THRUST_OVER_WEIGHT = (3.0, 3.0, 3.2, 3.8, 4.8, 3.8, 2.7, 2.4, 2.2, 2.1)
ELECTRONICS_W = (0.8, 1.0, 2.5, 3.5, 5.0, 7.0, 10.0, 16.0, 22.0, 28.0)
"""All that draws power besides the motors: flight controller, radio, video."""
CRUISE_M_S = (2.0, 2.5, 4.0, 6.0, 10.0, 11.0, 9.0, 8.0, 9.0, 10.0)
THREE_BLADES_TO_MM = 150.0

SPAN_MM = (600.0, 900.0, 1200.0, 1600.0, 2000.0, 2400.0, 3000.0, 4000.0)
WING_MASS_G = (180.0, 420.0, 850.0, 1300.0, 1750.0, 2000.0, 4200.0, 8500.0)
WING_PROPELLER_MM = (127.0, 178.0, 203.0, 254.0, 280.0, 305.0, 381.0, 508.0)
WING_SERIES = (2, 3, 3, 4, 4, 4, 6, 6)
WING_ELECTRONICS_W = (3.0, 5.0, 6.0, 7.0, 8.0, 8.0, 12.0, 16.0)
WING_THRUST_OVER_WEIGHT = 0.4
"""At cruise, enough for a climb."""
ASPECT, GLIDER_ASPECT = 8.0, 15.0
CRUISE_OVER_STALL = 1.45

TYPICAL_MM, TYPICAL_SPAN_MM = 127.0, 1600.0
"""Where nothing at all is told."""
NOMINAL_CELL_V, LOADED = 3.6, 0.80
"""Of a cell, and what of a battery's volts is left for a motor at full throttle."""
DRIVE_EFFICIENCY = 0.72
"""From battery to propeller, for currents."""
AIR_KG_M3 = 1.2


def _between(x: float, xs: tuple[float, ...], ys: tuple[float, ...]) -> float:
    """Straight in both logarithms; beyond its ends by the slope of the last stretch."""
    log_x, log_xs, log_ys = math.log(x), np.log(xs), np.log(ys)
    place = int(np.clip(np.searchsorted(log_xs, log_x), 1, len(xs) - 1))
    share = (log_x - log_xs[place - 1]) / (log_xs[place] - log_xs[place - 1])
    return float(math.exp(log_ys[place - 1] + share * (log_ys[place] - log_ys[place - 1])))


def _nearest(x: float, xs: tuple[float, ...], values: tuple[int, ...]) -> int:
    return values[int(np.argmin(np.abs(np.log(xs) - math.log(x))))]


def rotor_mass_g(propeller_mm: float) -> float:
    """Mass without a battery over the number of rotors, g, usual for a propeller, mm. Source: our estimate."""
    return _between(propeller_mm, PROPELLER_MM, MASS_A_ROTOR_G)


def propeller_of_mass_mm(mass_a_rotor_g: float) -> float:
    """Propeller, mm, usual for a mass without battery over the number of rotors, g. Source: our estimate."""
    return min(max(_between(mass_a_rotor_g, MASS_A_ROTOR_G, PROPELLER_MM), 25.0), 1200.0)


def rotor_series(propeller_mm: float) -> int:
    """Cells in series. Source: our estimate."""
    return _nearest(propeller_mm, PROPELLER_MM, SERIES)


def rotor_thrust(propeller_mm: float) -> float:
    """Full thrust over the weight at take-off. Source: our estimate."""
    return _between(propeller_mm, PROPELLER_MM, THRUST_OVER_WEIGHT)


def rotor_electronics_w(propeller_mm: float) -> float:
    """What draws power besides the motors, W. Source: our estimate."""
    return _between(propeller_mm, PROPELLER_MM, ELECTRONICS_W)


def rotor_cruise_m_s(propeller_mm: float) -> float:
    """Usual airspeed, m/s. Source: our estimate."""
    return _between(propeller_mm, PROPELLER_MM, CRUISE_M_S)


def wing_mass_g(span_mm: float) -> float:
    """Mass of a winged craft without a battery, g, by its span, mm. Source: our estimate."""
    return _between(span_mm, SPAN_MM, WING_MASS_G)


def span_of_mass_mm(mass_g: float) -> float:
    """Span, mm, usual for a mass without battery, g. Source: our estimate."""
    return min(max(_between(mass_g, WING_MASS_G, SPAN_MM), 300.0), 8000.0)


def wing_propeller_mm(span_mm: float) -> float:
    """Propeller of a wing, mm, by its span, mm. Source: our estimate."""
    return min(max(_between(span_mm, SPAN_MM, WING_PROPELLER_MM), 60.0), 900.0)


def wing_series(span_mm: float) -> int:
    """Cells in series. Source: our estimate."""
    return _nearest(span_mm, SPAN_MM, WING_SERIES)


def wing_electronics_w(span_mm: float) -> float:
    """What draws power besides the motor, W. Source: our estimate."""
    return _between(span_mm, SPAN_MM, WING_ELECTRONICS_W)


@dataclass(frozen=True)
class DriveSize:
    """A motor and a controller that turn a propeller to a thrust."""

    kv_rpm_per_v: float
    motor_a: float
    esc_a: float
    esc_v: float
    full_a: float
    """Of one motor at full throttle."""


def drive_for(
    thrust_n: float, propeller_mm: float, pitch_mm: float, blades: int, series: int, airspeed_m_s: float = 0.0
) -> DriveSize:
    """What turns a propeller to ``thrust_n`` at full throttle on so many cells in series.

    n turns a second, of which T = Ct·ρ·D⁴·(n² − u·n) with u the slip, need a speed constant of 60·n/(0.80·V); the shaft
    takes Cp·ρ·n³·D⁵. Limits leave a third of room. Source: the definitions of Ct and Cp, the slip of `physics/wing.py`;
    the shares are our estimates.
    """
    diameter, volts = propeller_mm * 1e-3, series * NOMINAL_CELL_V
    thrust_coefficient = default_thrust_coefficient(pitch_mm / propeller_mm, blades)
    power = power_coefficient(thrust_coefficient, default_figure_of_merit(diameter))
    slip = np.asarray(slip_rev_s(airspeed_m_s, pitch_mm * 1e-3))
    per_turns = np.asarray(thrust_coefficient * AIR_KG_M3 * diameter**4)
    turns = float(propeller_speed_rev_s(np.asarray(thrust_n), per_turns, slip))
    amps = power * AIR_KG_M3 * turns**3 * diameter**5 / (DRIVE_EFFICIENCY * LOADED * volts)
    kv = min(max(rounded(60 * turns / (LOADED * volts)), 60.0), 29000.0)
    motor = max(rounded(1.35 * amps), 1.0)
    return DriveSize(kv, min(motor, 480.0), min(max(rounded(1.2 * motor), 2.0), 490.0), min(5.0 * series, 118.0), amps)


def weight_n(mass_g: float) -> float:
    """Of a mass, N."""
    return mass_g * 1e-3 * GRAVITY_M_S2


def rounded(value: float) -> float:
    """To two digits: more would claim to be known."""
    return float(f"{value:.2g}")
