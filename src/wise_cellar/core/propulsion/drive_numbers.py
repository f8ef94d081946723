"""The numbers of motor and propeller that a flight uses: as written down, by default, or made up from a hover."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Around, Craft, DocumentError, Freewheeling, HoverTest, Rotors
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, FloatOrArray, Floats
from wise_cellar.core.physics.atmosphere import air_density
from wise_cellar.core.physics.motor import controller_efficiency
from wise_cellar.core.physics.rotor import (
    COAXIAL_AREA,
    DUCTED_AREA,
    default_figure_of_merit,
    default_thrust_coefficient,
    disc_area_m2,
    hover_power_w,
    power_coefficient,
    static_figure_of_merit,
)
from wise_cellar.core.units import format_grams, format_mm, format_watts

HOVER_MOTOR_EFFICIENCY, COPPER_SHARE = 0.80, 2 / 3
"""Of a motor in a hover, and what of its losses is in the winding: estimates, where a hover is all that is known."""
BEST_MERIT = 0.90
AIR_KG_M3 = 1.2


FULL_EFFICIENCY, ONE_CELL_EFFICIENCY, ONE_CELL_V = 0.95, 0.90, 4.6
"""Of a controller at full duty, and of one that works from a single cell, told by its volts: estimates."""
PART_THROTTLE_LOSS = {Freewheeling.SYNCHRONOUS: 0.12, Freewheeling.PLAIN: 0.24}
"""What it loses of that towards no duty: estimates."""


def full_efficiency(craft: Craft, bus_v: FloatOrArray) -> Floats:
    """Of a controller at full duty, as given, else by whether it works from one cell.

    Source: our estimates for the class.
    """
    by_cells = np.where(np.asarray(bus_v) < ONE_CELL_V, ONE_CELL_EFFICIENCY, FULL_EFFICIENCY)
    return np.asarray(by_cells if craft.esc.efficiency is None else np.full_like(by_cells, craft.esc.efficiency))


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
    ohm, idle = motor.resistance_mohm, motor.no_load_current_a
    if ohm is None or idle is None:
        default_ohm, default_idle = motor_by_size(craft, thrust, merit)
        ohm, idle = default_ohm * 1e3 if ohm is None else ohm, default_idle if idle is None else idle
    return DriveNumbers(merit, thrust, power, motor.kv_rpm_per_v / 60, ohm * 1e-3, idle)


MOTOR_G, MOTOR_EFFICIENCY = (5.0, 20.0, 60.0), (0.56, 0.70, 0.80)
"""Of a motor in a hover by its mass, straight between in its logarithm: 50 to 62 % under 10 g, 65 to 75 % to 30 g, 75
to 85 % above; estimates for the class."""
MOTOR_OF_PROPELLER_MM, MOTOR_OF_PROPELLER_G = (31.0, 65.0, 130.0, 254.0, 400.0), (1.5, 6.0, 30.0, 60.0, 150.0)
"""Mass of a motor where it is not told, by the propeller that it turns: estimates."""
DRIVE_MM, DRIVE = (80.0, 130.0, 250.0), (0.25, 0.15, 0.10)
"""Doubt of a drive of which nothing was measured, by the diameter of its propellers, straight between: small ones
differ most, and their motors with them. Estimates for the class."""
HOVER_OVER_DRY = 1.4
"""What a craft weighs with a battery over what it weighs without."""


def area_share(rotors: Rotors) -> float:
    """Discs that the rotors are worth, over their number: less of a coaxial pair, more in ducts.

    Source: :data:`COAXIAL_AREA` and :data:`DUCTED_AREA` of `physics/rotor.py`.
    """
    paired = COAXIAL_AREA / 2 if rotors.coaxial else 1.0
    return paired * (DUCTED_AREA if rotors.around is Around.DUCT else 1.0)


def drive_doubt_by_size(craft: Craft) -> float:
    """10th to 90th percentile of the efficiency of a drive of which nothing was measured, ± as a share.

    Source: our estimates for the class.
    """
    return float(np.interp(craft.rotors.diameter_mm, DRIVE_MM, DRIVE))


def motor_efficiency(craft: Craft) -> float:
    """Of a motor in a hover, where it is not told, as a share, by its mass, else by its propeller.

    Source: our estimate for the class: small motors have thin wire and much iron for their power.
    """
    return float(np.interp(np.log(motor_mass_g(craft)), np.log(MOTOR_G), MOTOR_EFFICIENCY))


def motor_mass_g(craft: Craft) -> float:
    """Of one motor, g, as told, else by its propeller.

    Source: our estimate for the class.
    """
    by_propeller = float(np.interp(craft.rotors.diameter_mm, MOTOR_OF_PROPELLER_MM, MOTOR_OF_PROPELLER_G))
    return craft.motor.mass_g or by_propeller


def motor_by_size(craft: Craft, thrust_coefficient: float, merit: float) -> tuple[float, float]:
    """Winding resistance, ohms, and no-load current, A, of a motor that is as efficient in a hover as its size is.

    Two thirds of what it loses is in the winding. Source: Drela, *First-Order DC Electric Motor Model* (2007), solved
    for both at the hover of the craft with a usual battery, in air of 1.2 kg/m³; the efficiency is our estimate.
    """
    rotors = craft.rotors
    diameter, weight = rotors.diameter_mm * 1e-3, HOVER_OVER_DRY * craft.dry_mass_g * 1e-3 * GRAVITY_M_S2
    each = weight / rotors.count
    area = float(disc_area_m2(1, diameter))
    shaft_w = float(hover_power_w(each, AIR_KG_M3, area, merit))
    speed = math.sqrt(each / (thrust_coefficient * AIR_KG_M3 * diameter**4))
    back_v = speed / (craft.motor.kv_rpm_per_v / 60)
    lost_w = shaft_w * (1 / motor_efficiency(craft) - 1)
    idle = (1 - COPPER_SHARE) * lost_w / back_v
    return COPPER_SHARE * lost_w / (shaft_w / back_v + idle) ** 2, idle


def from_hover(craft: Craft, test: HoverTest) -> DriveNumbers:
    """A motor and a propeller that hover as the test did: at its mass they draw its amps at its throttle.

    The propeller turns as its pitch and blades suggest; the motor is taken to be 80 % efficient there, two thirds of
    its loss in the winding. So full throttle is an estimate, and the hover is not. Source: FM = W·v_h/P_shaft and
    E = V − I·R at the hover; both shares are our estimates.
    """
    rotors, count = craft.rotors, craft.rotors.count
    density = float(air_density(test.altitude_m, test.air_temperature_c + ZERO_CELSIUS_K))
    diameter, weight = rotors.diameter_mm * 1e-3, test.takeoff_mass_g * 1e-3 * GRAVITY_M_S2
    duty = test.throttle_percent / 100
    full, loss = float(full_efficiency(craft, test.voltage_v)), PART_THROTTLE_LOSS[craft.esc.freewheeling]
    kept = float(controller_efficiency(np.array(full), np.array(loss), np.array(duty)))
    motors_w = (test.voltage_v * test.current_a - craft.load_w) * kept
    area = float(disc_area_m2(count, diameter)) * area_share(rotors)
    ideal = float(hover_power_w(weight, density, area, 1.0))
    if motors_w * HOVER_MOTOR_EFFICIENCY * BEST_MERIT < ideal:
        least = ideal / HOVER_MOTOR_EFFICIENCY / BEST_MERIT / kept + craft.load_w
        raise DocumentError(
            f"The hover test drew {format_watts(test.voltage_v * test.current_a)};"
            f" {format_grams(test.takeoff_mass_g)} on propellers of {format_mm(rotors.diameter_mm)} cannot hover"
            f" on less than {format_watts(least)}. Check its mass, volts and amps.",
            "hover_test.current_a",
        )
    merit = ideal / (motors_w * HOVER_MOTOR_EFFICIENCY)
    thrust = _thrust_coefficient(craft)
    speed = math.sqrt(weight / count / (thrust * density * diameter**4))
    volts = duty * test.voltage_v
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
