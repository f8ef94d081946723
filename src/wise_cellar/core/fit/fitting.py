"""Fit of the cell model by least squares.

The start: at each charge drawn the voltage is nearly linear in the current, so the slowest curve, lifted by current
times resistance, is the open-circuit voltage, and two rates give the resistance. Then everything is fitted together:
corrections to the open-circuit voltage at knots, resistance at knots (its logarithm), lag, RC pair, and the two
activation energies where the curves differ in temperature. Voltages under 3 V are weighted down, as they fall steeply
and hang on the last per cent of charge. Values that the curves leave open are drawn loosely to the defaults for the
class.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from wise_cellar.core.cells import LAG_ACTIVATION, LAG_DEFAULTS, R1_SHARE, RESISTANCE_ACTIVATION, TAU1_S
from wise_cellar.core.documents import DocumentError, FittedModel, KineticClass
from wise_cellar.core.fit.curve import DischargeCurve
from wise_cellar.core.fit.simulation import ModelParameters, interpolate_rows, simulate
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats

OCV_KNOTS = np.array([0, 0.01, 0.02, 0.035, 0.05, 0.075, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 1.0])
RESISTANCE_KNOTS = np.array([0, 0.03, 0.08, 0.15, 0.3, 0.5, 0.7, 0.85, 0.95, 1.0])
BASE_POINTS = 301
POINTS_A_CURVE = 300
LOW_V, LOW_WEIGHT = 3.0, 0.3
NOISE_V = 2e-3
CORRECTION_V = 0.03
ROUGHNESS = 0.5
"""Spread expected of the logarithm of resistance from knot to knot."""
OPEN_SPREAD = 0.7
"""Spread, in logarithm, within which lag and RC pair are drawn to the defaults."""
ENERGY_SPREAD_J_MOL = 15e3
TEMPERATURE_SPREAD_K = 10.0
"""The curves must differ by this much in temperature before activation energies are fitted."""
SLOWEST_RATE = 0.25
"""Above this share of capacity an hour the slowest curve no longer tells the capacity."""


@dataclass(frozen=True)
class CellFit:
    """A fitted model, and how each curve is met: root mean square in volts by the curve's name."""

    model: FittedModel
    residual_v: dict[str, float]


def fit_cell(curves: Sequence[DischargeCurve], kinetics: KineticClass, *, capacity_mah: float | None = None) -> CellFit:
    """Model of a cell from two or more discharges at different rates, each from full and rested.

    Capacity is that of the slowest full discharge, or ``capacity_mah`` where even that one is fast. Raises
    :class:`DocumentError` when the curves cannot carry a fit.
    """
    if len(curves) < 2:
        raise DocumentError("A fit needs discharges at two rates or more; add a slower or a faster one.")
    slowest = min((c for c in curves if c.constant), key=lambda c: float(c.current_a.max()), default=None)
    if slowest is None:
        raise DocumentError("A fit needs at least one discharge at constant current; all of these switch.")
    fastest = max(float(c.current_a.max()) for c in curves)
    if fastest < 1.5 * float(slowest.current_a.max()):
        raise DocumentError(
            f"All curves are near {float(slowest.current_a.max()):.1f} A; add one at 1.5 times that current or more."
        )
    drawn = float(slowest.charge_c[-1])
    rate = float(slowest.current_a.max()) / (drawn / 3600)
    if capacity_mah is None and rate > SLOWEST_RATE:
        raise DocumentError(
            f"The slowest curve, {slowest.name}, takes {1 / rate:.1f} h; give the capacity, or a curve of 4 h or more."
        )
    problem = _Problem(curves, slowest, kinetics, capacity_mah * 3.6 if capacity_mah is not None else drawn)
    return problem.solve()


class _Problem:
    """The least-squares problem over one vector x of parameters."""

    def __init__(
        self, curves: Sequence[DischargeCurve], slowest: DischargeCurve, kinetics: KineticClass, charge_c: float
    ) -> None:
        self.whole = curves
        self.curves = [curve.thinned(POINTS_A_CURVE) for curve in curves]
        self.charge_c = charge_c
        self.base_soc = np.linspace(0.0, 1.0, BASE_POINTS)
        resistance = self._first_resistance(slowest)
        soc = 1.0 - slowest.charge_c / charge_c
        lifted = slowest.voltage_v + slowest.current_a * resistance
        self.base_v = np.interp(self.base_soc, soc[::-1], lifted[::-1])
        temperatures = [float(np.median(c.temperature_k)) for c in curves]
        self.thermal = max(temperatures) - min(temperatures) >= TEMPERATURE_SPREAD_K
        lag_hours, lag_tau = LAG_DEFAULTS[kinetics]
        energies = [RESISTANCE_ACTIVATION, LAG_ACTIVATION]
        self.open = np.log([lag_hours * 3600, lag_tau, R1_SHARE * resistance, TAU1_S])
        self.start = np.concatenate(
            [np.zeros(len(OCV_KNOTS)), np.full(len(RESISTANCE_KNOTS), np.log(resistance)), self.open, energies]
        )
        self.energies = np.array(energies)

    def _first_resistance(self, slowest: DischargeCurve) -> float:
        """From the drop between the slowest and the fastest curve in the first half of the charge."""
        fastest = max(self.whole, key=lambda c: float(c.current_a.max()))
        at = np.linspace(0.1, 0.5, 20) * self.charge_c
        slow_v = np.interp(at, slowest.charge_c, slowest.voltage_v)
        fast_v = np.interp(at, fastest.charge_c, fastest.voltage_v)
        change = np.interp(at, fastest.charge_c, fastest.current_a) - float(slowest.current_a.mean())
        usable = np.abs(change) > 0.2 * float(slowest.current_a.max())
        return float(np.clip(np.median(((slow_v - fast_v) / np.where(usable, change, 1.0))[usable]), 5e-4, 0.5))

    def parameters(self, x: Floats) -> ModelParameters:
        """Parameter sets from vectors of shape ``(sets, unknowns)``."""
        ocv_count, r_count = len(OCV_KNOTS), len(RESISTANCE_KNOTS)
        correction, log_r, rest = np.split(x, [ocv_count, ocv_count + r_count], axis=1)
        at = np.broadcast_to(self.base_soc, (len(x), BASE_POINTS))
        gain, tau, r1, tau1 = np.exp(rest[:, :4]).T
        return ModelParameters(
            charge_c=self.charge_c,
            ocv_soc=self.base_soc,
            ocv_v=self.base_v + interpolate_rows(OCV_KNOTS, correction, at),
            resistance_soc=RESISTANCE_KNOTS,
            resistance_ohm=np.exp(log_r),
            r1_ohm=r1,
            tau1_s=tau1,
            lag_gain_s=gain,
            lag_tau_s=tau,
            resistance_activation_j_mol=rest[:, 4],
            lag_activation_j_mol=rest[:, 5],
        )

    def residuals(self, x: Floats) -> Floats:
        """Weighted differences and the loose priors, shape ``(sets, residuals)``."""
        model = self.parameters(x)
        parts = []
        for curve in self.curves:
            weight = np.where(curve.voltage_v < LOW_V, LOW_WEIGHT, 1.0) * np.sqrt(100.0 / len(curve.time_s))
            parts.append((simulate(model, curve) - curve.voltage_v) * weight / NOISE_V)
        ocv_count, r_count = len(OCV_KNOTS), len(RESISTANCE_KNOTS)
        parts.append(x[:, :ocv_count] / CORRECTION_V)
        parts.append(np.diff(x[:, ocv_count : ocv_count + r_count], axis=1) / ROUGHNESS)
        parts.append((x[:, -6:-2] - self.open) / OPEN_SPREAD)
        parts.append((x[:, -2:] - self.energies) / ENERGY_SPREAD_J_MOL)
        return np.concatenate(parts, axis=1)

    def solve(self) -> CellFit:
        """Run the fit."""
        scale = np.ones(len(self.start))
        scale[-2:] = 1e4
        free = np.ones(len(self.start), bool)
        free[-2:] = self.thermal

        def whole(reduced: Floats) -> Floats:
            x = self.start.copy()
            x[free] = reduced
            return x

        def residuals(reduced: Floats) -> Floats:
            return np.asarray(self.residuals(whole(reduced)[None])[0])

        def jacobian(reduced: Floats) -> Floats:
            steps = 1e-5 * scale[free]
            points = np.tile(whole(reduced), (len(reduced) + 1, 1))
            points[1:, free] += np.diag(steps)
            values = self.residuals(points)
            return np.asarray(((values[1:] - values[0]) / steps[:, None]).T)

        found = least_squares(residuals, self.start[free], jacobian, x_scale=scale[free], max_nfev=60, xtol=1e-6)
        return self._result(whole(found.x))

    def _result(self, x: Floats) -> CellFit:
        model = self.parameters(x[None])
        errors = {c.name: float(np.sqrt(np.mean((simulate(model, c)[0] - c.voltage_v) ** 2))) for c in self.whole}
        temperatures = np.concatenate([c.temperature_k for c in self.whole]) - ZERO_CELSIUS_K
        every = slice(None, None, 3)
        # Dense, so that the monotone cubic of the flight follows the straight pieces that were fitted.
        dense = np.union1d(RESISTANCE_KNOTS, np.linspace(0.0, 1.0, 41))
        fitted = FittedModel(
            capacity_mah=self.charge_c / 3.6,
            ocv_soc=tuple(model.ocv_soc[every].tolist()),
            ocv_v=tuple(model.ocv_v[0][every].tolist()),
            resistance_soc=tuple(dense.tolist()),
            resistance_mohm=tuple((1e3 * np.interp(dense, RESISTANCE_KNOTS, model.resistance_ohm[0])).tolist()),
            r1_mohm=1e3 * float(model.r1_ohm[0]),
            tau1_s=float(model.tau1_s[0]),
            lag_gain_s=float(model.lag_gain_s[0]),
            lag_tau_s=float(model.lag_tau_s[0]),
            resistance_activation_j_mol=float(model.resistance_activation_j_mol[0]),
            lag_activation_j_mol=float(model.lag_activation_j_mol[0]),
            residual_mv=1e3 * float(np.sqrt(np.mean(np.square(list(errors.values()))))),
            highest_current_a=max(float(c.current_a.max()) for c in self.whole),
            coldest_c=float(temperatures.min()),
            warmest_c=float(temperatures.max()),
        )
        return CellFit(fitted, errors)
