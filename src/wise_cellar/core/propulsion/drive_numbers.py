"""The numbers of motor and propeller that a flight uses: as written down, by default, or made up from a hover."""

from __future__ import annotations

import math
from dataclasses import dataclass

from wise_cellar.core.documents import Craft, DocumentError, HoverTest
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K
from wise_cellar.core.physics.atmosphere import air_density
from wise_cellar.core.physics.rotor import (
    COAXIAL_AREA,
    default_figure_of_merit,
    default_thrust_coefficient,
    disc_area_m2,
    hover_power_w,
    power_coefficient,
    static_figure_of_merit,
)

HOVER_MOTOR_EFFICIENCY, COPPER_SHARE = 0.80, 2 / 3
"""Of a motor in a hover, and what of its losses is in the winding: estimates, where a hover is all that is known."""
BEST_MERIT = 0.90


@dataclass(frozen=True)
class DriveNumbers:
    """Of one motor and its propeller, SI."""

    figure_of_merit: float
    thrust_coefficient: float
    power_coefficient: float
    kv_rev_s_v: float
    winding_ohm: float
    no_load_a: float


def drive_numbers(craft: Craft) -> DriveNumbers:
    """The numbers of ``craft``; raises :class:`DocumentError` when its hover test cannot be.

    Source: what is given or was fitted to a stand, else our defaults by diameter, pitch and blades.
    """
    if craft.hover_test is not None:
        return from_hover(craft, craft.hover_test)
    rotors, motor = craft.rotors, craft.motor
    thrust = _thrust_coefficient(craft)
    merit = rotors.figure_of_merit
    if merit is None and rotors.thrust_coefficient is not None and rotors.power_coefficient is not None:
        merit = static_figure_of_merit(thrust, rotors.power_coefficient)
    merit = merit or default_figure_of_merit(rotors.diameter_mm * 1e-3)
    power = rotors.power_coefficient or power_coefficient(thrust, merit)
    return DriveNumbers(merit, thrust, power, motor.kv_rpm_per_v / 60, motor.resistance_mohm * 1e-3,
                        motor.no_load_current_a)  # fmt: skip


def from_hover(craft: Craft, test: HoverTest) -> DriveNumbers:
    """A motor and a propeller that hover as the test did: at its mass they draw its amps at its throttle.

    The propeller turns as its pitch and blades suggest; the motor is taken to be 80 % efficient there, two thirds of
    its loss in the winding. So full throttle is an estimate, and the hover is not. Source: FM = W·v_h/P_shaft and
    E = V − I·R at the hover; both shares are our estimates.
    """
    rotors, count = craft.rotors, craft.rotors.count
    density = float(air_density(test.altitude_m, test.air_temperature_c + ZERO_CELSIUS_K))
    diameter, weight = rotors.diameter_mm * 1e-3, test.takeoff_mass_g * 1e-3 * GRAVITY_M_S2
    motors_w = (test.voltage_v * test.current_a - craft.load_w) * craft.esc.efficiency
    area = float(disc_area_m2(count, diameter)) * (COAXIAL_AREA / 2 if rotors.coaxial else 1.0)
    ideal = float(hover_power_w(weight, density, area, 1.0))
    if motors_w * HOVER_MOTOR_EFFICIENCY * BEST_MERIT < ideal:
        least = ideal / HOVER_MOTOR_EFFICIENCY / BEST_MERIT / craft.esc.efficiency + craft.load_w
        raise DocumentError(
            f"The hover test drew {test.voltage_v * test.current_a:.0f} W; {test.takeoff_mass_g:.0f} g on propellers of"
            f" {rotors.diameter_mm:.0f} mm cannot hover on less than {least:.0f} W. Check its mass, volts and amps.",
            "hover_test.current_a",
        )
    merit = ideal / (motors_w * HOVER_MOTOR_EFFICIENCY)
    thrust = _thrust_coefficient(craft)
    speed = math.sqrt(weight / count / (thrust * density * diameter**4))
    volts = test.throttle_percent / 100 * test.voltage_v
    amps = motors_w / count / volts
    lost_v = COPPER_SHARE * (1 - HOVER_MOTOR_EFFICIENCY) * volts
    back_v = volts - lost_v
    # The shaft takes its power at the back-EMF; what is left of the current turns the motor alone.
    shaft_a = HOVER_MOTOR_EFFICIENCY * motors_w / count / back_v
    return DriveNumbers(
        merit, thrust, power_coefficient(thrust, merit), speed / back_v, lost_v / amps, max(amps - shaft_a, 0.0)
    )


def _thrust_coefficient(craft: Craft) -> float:
    rotors = craft.rotors
    return rotors.thrust_coefficient or default_thrust_coefficient(rotors.pitch_mm / rotors.diameter_mm, rotors.blades)
