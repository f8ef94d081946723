"""A printed chart traced point by point: from pixels of a picture to a discharge."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.curves.curve import DischargeCurve
from wise_cellar.core.documents import ChartAxis, DocumentError, TracedChart, TracedCurve
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.curve_bank import monotone_cubic
from wise_cellar.core.units import counted, format_number, format_significant, format_volts

LEAST_TRACED = 5
DENSE_POINTS = 240


def chart_values(chart: TracedChart, points: tuple[tuple[float, float], ...]) -> Floats:
    """Values (x, y) of points given in pixels, shape ``(points, 2)``.

    The two axes need not be level nor square to each other: a point is taken apart along both. Raises
    :class:`DocumentError` until both axes are marked.
    """
    x, y = _checked(chart.x_axis, "x"), _checked(chart.y_axis, "y")
    along = np.array([np.subtract(x[2], x[0]), np.subtract(y[2], y[0])], float).T
    if abs(float(np.linalg.det(along))) < 1.0:
        raise DocumentError("The marks of the two axes lie on one line; mark the x axis along it and the y axis up it.")
    at = np.array(points, float).reshape(-1, 2)
    parts_x = np.linalg.solve(along, (at - np.array(x[0])).T)[0]
    parts_y = np.linalg.solve(along, (at - np.array(y[0])).T)[1]
    return np.column_stack([x[1] + parts_x * (x[3] - x[1]), y[1] + parts_y * (y[3] - y[1])])


def traced_discharge(chart: TracedChart, curve: TracedCurve) -> DischargeCurve:
    """Discharge along one traced curve, at its held current; raises :class:`DocumentError` with one sentence."""
    if len(curve.points) < LEAST_TRACED:
        raise DocumentError(
            f"{curve.name} has {counted(len(curve.points), 'point')};"
            f" click along the curve for at least {LEAST_TRACED}."
        )
    values = chart_values(chart, curve.points)
    values = values[np.argsort(values[:, 0], kind="stable")]
    charge_ah, volts = values[:, 0] * chart.x_unit.ah, values[:, 1]
    keep = np.concatenate([[True], np.diff(charge_ah) > 1e-9])
    charge_ah, volts = charge_ah[keep], volts[keep]
    if len(charge_ah) < LEAST_TRACED:
        raise DocumentError(f"{curve.name}: too few of its points lie at different charges; click along the curve.")
    wrong = np.flatnonzero((volts < 0.3) | (volts > 5.0))
    if wrong.size:
        raise DocumentError(
            f"{curve.name}: a point lies at {format_volts(volts[wrong[0]])}; check the marks of the y axis."
        )
    if volts[-1] >= volts[0]:
        raise DocumentError(
            f"{curve.name} rises from {format_number(volts[0], 2)} to {format_volts(volts[-1])}; a discharge must fall."
        )
    if charge_ah[0] < -0.05 * charge_ah[-1]:
        raise DocumentError(f"{curve.name}: a point lies left of zero charge; check the marks of the x axis.")
    charge_ah = np.maximum(charge_ah, 0.0) if charge_ah[0] < 0 else charge_ah
    charge_ah[0] = 0.0 if charge_ah[0] < 0.03 * charge_ah[-1] else charge_ah[0]
    if charge_ah[0] > 0:
        raise DocumentError(
            f"{curve.name} begins at {format_number(charge_ah[0], 2)} Ah; trace it from the full cell on."
        )
    dense = np.unique(np.concatenate([np.linspace(0.0, charge_ah[-1], DENSE_POINTS), charge_ah]))
    time = dense * 3600 / curve.current_a
    count = len(dense)
    return DischargeCurve(
        curve.name, time, monotone_cubic(charge_ah, volts, dense), np.full(count, curve.current_a),
        np.full(count, curve.air_temperature_c + ZERO_CELSIUS_K),
    )  # fmt: skip


def _checked(axis: ChartAxis, name: str) -> tuple[tuple[float, float], float, tuple[float, float], float]:
    if axis.first_px is None or axis.second_px is None:
        raise DocumentError(f"Mark two points on the {name} axis first.")
    if axis.first_value == axis.second_value:
        raise DocumentError(
            f"Both marks of the {name} axis have the value {format_significant(axis.first_value)}; they must differ."
        )
    if np.hypot(*np.subtract(axis.first_px, axis.second_px)) < 3:
        raise DocumentError(f"Both marks of the {name} axis lie on one spot; set them far apart.")
    return axis.first_px, axis.first_value, axis.second_px, axis.second_value
