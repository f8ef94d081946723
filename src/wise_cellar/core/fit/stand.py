"""Motor and propeller from a thrust stand's table, by least squares."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.optimize import least_squares

from wise_cellar.core.documents import Craft, DocumentError, ThrustStand
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.propulsion.drive_numbers import DriveNumbers, drive_numbers
from wise_cellar.core.propulsion.stand import StandFit, predicted, residual, stand_controller
from wise_cellar.core.units import format_mm, format_number

WORST = 0.25


def fit_stand(craft: Craft, stand: ThrustStand) -> StandFit:
    """Ct, Cp, winding resistance and no-load current of one motor, its speed constant as written down.

    The whole model is fitted: throttle as duty on the row's volts gives speed, thrust and current. Relative
    deviations count alike. Raises :class:`DocumentError` when no motor explains the table.
    """
    start = drive_numbers(craft.changed(hover_test=None))
    diameter, controller = craft.rotors.diameter_mm * 1e-3, stand_controller(craft, stand)
    read = [
        np.array([point.thrust_g for point in stand.points]),
        np.array([point.current_a for point in stand.points]),
    ]
    turning = np.array([point.speed_rpm is not None for point in stand.points])
    speeds = np.array([point.speed_rpm or 1.0 for point in stand.points])

    def numbers(values: Floats) -> DriveNumbers:
        thrust, power, ohm, idle = np.exp(values).tolist()
        return replace(
            start, thrust_coefficient=thrust, power_coefficient=power, winding_ohm=ohm, no_load_a=idle
        )  # fmt: skip

    def deviations(values: Floats) -> Floats:
        curves = predicted(numbers(values), diameter, *controller, stand)
        return np.concatenate(
            [curves.thrust_g / read[0] - 1, curves.current_a / read[1] - 1, (curves.speed_rpm / speeds - 1)[turning]]
        )

    guess = (start.thrust_coefficient, start.power_coefficient, start.winding_ohm, max(start.no_load_a, 0.02))
    bounds = (np.log([0.01, 0.003, 1e-4, 1e-3]), np.log([0.4, 0.3, 5.0, 20.0]))
    first = np.clip(np.log(guess), bounds[0] + 1e-6, bounds[1] - 1e-6)
    found = least_squares(deviations, first, bounds=bounds, x_scale=0.3)
    thrust, power, ohm, idle = np.exp(found.x).tolist()
    left = residual(predicted(numbers(found.x), diameter, *controller, stand), stand)
    at_bound = bool(np.any(np.abs(found.x[:3] - bounds[0][:3]) < 0.01) or np.any(np.abs(found.x - bounds[1]) < 0.01))
    if at_bound or max(left.thrust, left.current) > WORST:
        raise DocumentError(
            f"No motor of {format_number(craft.motor.kv_rpm_per_v, 0)} rpm/V with a propeller of"
            f" {format_mm(craft.rotors.diameter_mm)} explains {stand.name}: thrust is off by"
            f" {format_number(100 * left.thrust, 0)} %, current by {format_number(100 * left.current, 0)} %."
            " Check speed constant, diameter and the table's units.",
            "motor.kv_rpm_per_v",
        )
    return StandFit(thrust, power, 1e3 * ohm, idle, left)
