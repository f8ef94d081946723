"""A thrust stand's table held against a motor and its propeller."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Craft, ThrustStand
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.atmosphere import air_density
from wise_cellar.core.physics.motor import Drive, controller_efficiency, full_throttle, speed_on_rev_s
from wise_cellar.core.propulsion.drive_numbers import PART_THROTTLE_LOSS, DriveNumbers, drive_numbers, full_efficiency


@dataclass(frozen=True)
class StandCurves:
    """Thrust, g, bus current, A, and speed, rpm, of one motor; shape ``(rows,)``."""

    thrust_g: Floats
    current_a: Floats
    speed_rpm: Floats


@dataclass(frozen=True)
class StandResidual:
    """Root mean square of what is predicted over what was read, less one; speed only where it was read."""

    thrust: float
    current: float
    speed: float | None


def predicted(
    numbers: DriveNumbers, diameter_m: float, efficiency: float, loss: float, stand: ThrustStand
) -> StandCurves:  # fmt: skip
    """What a motor with ``numbers`` would do in the rows of ``stand``, throttle taken for duty; all ``(rows,)``.

    T = Ct·ρ·n²·D⁴ at the speed at which the motor turns it (`physics/motor.py`), I_supply = duty·I_motor. Source: the
    model of the flight itself. Not modelled: inflow, the stand in the wash, and a throttle curve of the ESC.
    """
    density = float(air_density(stand.altitude_m, stand.air_temperature_c + ZERO_CELSIUS_K))
    duty = np.array([point.throttle_percent / 100 for point in stand.points])
    volts = np.array([point.voltage_v for point in stand.points])

    def each(value: float) -> Floats:
        return np.full(len(duty), value)

    kept = controller_efficiency(each(efficiency), each(loss), duty)
    drive = Drive(
        each(1.0), each(numbers.kv_rev_s_v), each(numbers.winding_ohm), each(numbers.no_load_a), kept, each(loss),
        each(numbers.thrust_coefficient * density * diameter_m**4),
        each(numbers.power_coefficient * density * diameter_m**5 / (2 * np.pi)),
    )  # fmt: skip
    none = np.zeros(len(duty))
    current, _ = full_throttle(drive, duty * volts, none, none)
    speed = speed_on_rev_s(drive, duty * volts)
    thrust = drive.thrust_n_s2 * speed**2
    return StandCurves(thrust / GRAVITY_M_S2 * 1000, duty * current, 60 * speed)


def stand_curves(craft: Craft, stand: ThrustStand) -> StandCurves:
    """What the craft's own motor and propeller would do on the stand.

    Source: :func:`predicted`, of the craft's :func:`drive_numbers`.
    """
    return predicted(drive_numbers(craft), craft.rotors.diameter_mm * 1e-3, *stand_controller(craft, stand), stand)


def stand_controller(craft: Craft, stand: ThrustStand) -> tuple[float, float]:
    """What the craft's controller keeps at full duty on the stand's volts, and loses towards none.

    Source: as given, else our estimates (`carrier.py`).
    """
    volts = float(np.mean([point.voltage_v for point in stand.points]))
    return float(full_efficiency(craft, volts)), PART_THROTTLE_LOSS[craft.esc.freewheeling]


def residual(curves: StandCurves, stand: ThrustStand) -> StandResidual:
    """How far the prediction is from the table: √(mean of (predicted/read − 1)²) of each quantity that was read.

    Source: our choice; every row counts alike.
    """

    def off(values: Floats, read: list[float | None]) -> float | None:
        pairs = [(value, by) for value, by in zip(values.tolist(), read, strict=True) if by is not None]
        return float(np.sqrt(np.mean([(value / by - 1) ** 2 for value, by in pairs]))) if pairs else None

    thrust = off(curves.thrust_g, [point.thrust_g for point in stand.points])
    current = off(curves.current_a, [point.current_a for point in stand.points])
    assert thrust is not None
    assert current is not None
    return StandResidual(thrust, current, off(curves.speed_rpm, [point.speed_rpm for point in stand.points]))


@dataclass(frozen=True)
class StandFit:
    """Four values that explain a table, and what they leave unexplained."""

    thrust_coefficient: float
    power_coefficient: float
    resistance_mohm: float
    no_load_current_a: float
    residual: StandResidual


def fitted_craft(craft: Craft, stand: ThrustStand, fit: StandFit) -> Craft:
    """The craft with the fitted values, the table kept beside them; a hover test, which would govern, is dropped.

    Source: the fit's own numbers, rounded beyond what a stand can tell.
    """
    rotors = craft.rotors.changed(
        thrust_coefficient=round(fit.thrust_coefficient, 5), power_coefficient=round(fit.power_coefficient, 5)
    )
    motor = craft.motor.changed(
        resistance_mohm=round(fit.resistance_mohm, 2), no_load_current_a=round(fit.no_load_current_a, 3)
    )
    return craft.changed(rotors=rotors, motor=motor, stand=stand, hover_test=None)
