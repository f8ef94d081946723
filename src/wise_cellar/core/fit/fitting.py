"""Fit of the cell model by least squares, from whatever discharges were given.

The start: resistance from two rates, from the steps of a pulse test, or from the sheet; then at each point the
open-circuit voltage is the voltage lifted by resistance and polarisation, at the charge of the lagging surface. Then
everything is fitted together: corrections to the open-circuit voltage at knots, resistance at knots (its logarithm),
lag, RC pair, and the two activation energies where the curves differ in temperature. Voltages under 3 V are weighted
down, as they fall steeply and hang on the last per cent of charge. Values that the curves leave open are drawn to the
sheet or to the defaults for the class, and the model says which those are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from wise_cellar.core.cells import (
    LAG_ACTIVATION,
    LAG_DEFAULTS,
    R1_SHARE,
    RESISTANCE_ACTIVATION,
    TAU1_S,
    electrical,
    heat_capacity_j_k,
    resting_curve,
)
from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.curves.simulation import ModelParameters, interpolate_rows, lag_and_polarisation, simulate
from wise_cellar.core.documents import CellType, CurveResidual, DocumentError, FittedModel
from wise_cellar.core.fit.heat import HeatFit, fit_heat
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import default_resistance_shape

OCV_KNOTS = np.array([0, 0.01, 0.02, 0.035, 0.05, 0.075, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 1.0])
RESISTANCE_KNOTS = np.array([0, 0.03, 0.08, 0.15, 0.3, 0.5, 0.7, 0.85, 0.95, 1.0])
BASE_POINTS = 301
POINTS_A_CURVE = 300
MOST_POINTS, AVERAGED_POINTS = 3000, 1200
LOW_V, LOW_WEIGHT = 3.0, 0.3
NOISE_V = 2e-3
CORRECTION_V = 0.03
ROUGHNESS = 0.25
"""Spread expected of the logarithm of resistance from knot to knot."""
OPEN_SPREAD = 0.7
"""Spread, in logarithm, within which lag and RC pair are drawn to the defaults."""
ENERGY_SPREAD_J_MOL = 15e3
LEAST_ENERGY_J_MOL, MOST_ENERGY_J_MOL = 5e3, 60e3
"""Activation energies that lithium-ion cells have."""
MOST_OVER = 1.02
"""How far the charge drawn may pass the capacity that is given."""
START_S = 60.0
TEMPERATURE_SPREAD_K = 10.0
"""The curves must differ by this much in temperature before activation energies are fitted."""
SLOWEST_RATE = 0.25
"""Above this share of capacity an hour the slowest curve no longer tells the capacity."""
SECOND_RATE = 1.5
"""Currents that differ by this factor tell the resistance."""
SHEET_SPREAD = 0.1
"""Spread, in logarithm, of resistance about the sheet's, where no curve tells it."""
FULL_WITHIN_V = 0.25
"""A curve that begins further than this under the full voltage, sag apart, began part-charged."""
REACHES_CUT_OFF_V = 0.1
LAG_EXPONENT = 1.25
"""The lag of a fitted cell grows as the current to the power 1 + this, up to the highest current fitted. Chosen on runs
that no fit had seen (docs/architecture.md): a lag in proportion to current took 22 % too little out at half the current
of the one cold curve that was fitted."""
DOUBTFUL_HEAT = 1.7
"""A heat capacity that differs from the mass by this factor is not believed."""


@dataclass(frozen=True)
class CellFit:
    """A fitted model, and how each curve is met: its name and the root mean square in volts."""

    model: FittedModel
    residual_v: tuple[tuple[str, float], ...]


def fit_cell(curves: Sequence[DischargeCurve], cell: CellType, *, capacity_mah: float | None = None) -> CellFit:
    """Model of a cell from discharges that each began full and rested; the cell's sheet fills what they leave open.

    Capacity is ``capacity_mah``, else that of a discharge of four hours or more to the cut-off, else the sheet's.
    Resistance follows from two rates or from pulses, else from the sheet. Raises :class:`DocumentError` when a curve
    cannot carry a fit.
    """
    if not curves:
        raise DocumentError("There is no discharge to fit; import or trace one first.")
    sheet = cell.changed(fitted=None)
    lift = sheet.resistance_mohm * 1e-3
    for curve in curves:
        first = float(curve.voltage_v[0] + curve.current_a[0] * lift)
        if first < cell.max_voltage_v - FULL_WITHIN_V:
            raise DocumentError(
                f"{curve.name} begins at {curve.voltage_v[0]:.2f} V under {curve.current_a[0]:.2g} A, not full"
                f" ({cell.max_voltage_v:g} V); a fit needs discharges from a full cell."
            )
    return _Problem([curve.clean.running.steadied for curve in curves], sheet, capacity_mah).solve()


class _Problem:
    """The least-squares problem over one vector x of parameters."""

    def __init__(self, curves: Sequence[DischargeCurve], cell: CellType, capacity_mah: float | None) -> None:
        self.whole, self.cell = curves, cell
        thinned = [curve.thinned(POINTS_A_CURVE) for curve in curves]
        # A log whose current never rests keeps nearly all its points; its means serve as well and are far quicker.
        self.curves = [c if len(c.time_s) <= MOST_POINTS else c.averaged(AVERAGED_POINTS) for c in thinned]
        self.remarks: list[str] = []
        self.capacity_given = False
        self.fastest_a = float(f"{max(curve.sustained_a for curve in curves):.6g}")
        self.charge_c = self._capacity_c(capacity_mah)
        resistance, self.rates_told = self._first_resistance()
        shape = default_resistance_shape().values
        at_knots = np.interp(RESISTANCE_KNOTS, np.linspace(0.0, 1.0, len(shape)), shape)
        self.sheet_log_r = np.log(resistance * at_knots)
        # Self-heating is no test of temperature: what counts is where a run began.
        temperatures = [_start_k(c) for c in curves]
        self.thermal = max(temperatures) - min(temperatures) >= TEMPERATURE_SPREAD_K
        lag_hours, lag_tau = LAG_DEFAULTS[cell.kinetic_class]
        energies = [RESISTANCE_ACTIVATION, LAG_ACTIVATION]
        self.open = np.log([lag_hours * 3600, lag_tau, R1_SHARE * resistance, TAU1_S])
        self.energies = np.array(energies)
        start_r = np.full(len(RESISTANCE_KNOTS), np.log(resistance)) if self.rates_told else self.sheet_log_r
        self.base_soc = np.linspace(0.0, 1.0, BASE_POINTS)
        self.base_v = np.zeros(BASE_POINTS)
        self.start = np.concatenate([np.zeros(len(OCV_KNOTS)), start_r, self.open, energies])
        self.lowest_soc = max(0.0, 1.0 - max(float(c.charge_c[-1]) for c in curves) / self.charge_c)
        self.base_v = self._lifted()
        self._say_what_is_open(temperatures)

    def _capacity_c(self, given_mah: float | None) -> float:
        """Coulombs: as given, as drawn slowly to the cut-off, or the sheet's."""
        if given_mah is not None:
            most = max(self.whole, key=lambda c: float(c.charge_c[-1]))
            if float(most.charge_c[-1]) > 3.6 * given_mah * MOST_OVER:
                raise DocumentError(
                    f"{given_mah:.0f} mAh are given, but {most.name} drew {float(most.charge_c[-1]) / 3.6:.0f} mAh:"
                    " give its true capacity, or leave it to the discharges."
                )
            return 3.6 * given_mah
        slow = [
            c for c in self.whole
            if c.constant and float(c.voltage_v.min()) <= self.cell.min_voltage_v + REACHES_CUT_OFF_V
            and c.sustained_a / (float(c.charge_c[-1]) / 3600) <= SLOWEST_RATE
        ]  # fmt: skip
        if slow:
            return float(min(slow, key=lambda c: c.sustained_a).charge_c[-1])
        self.capacity_given = True
        self.remarks.append(
            "No discharge is slow and complete enough to tell the capacity (four hours or more, to the cut-off): the"
            " sheet's is used."
        )
        return max(3.6 * self.cell.capacity_mah, 1.005 * max(float(c.charge_c[-1]) for c in self.whole))

    def _first_resistance(self) -> tuple[float, bool]:
        """Ohms at 25 °C from two rates, or from the steps of pulses, else of the sheet; and whether the curves told."""
        constant = sorted((c for c in self.whole if c.constant), key=lambda c: c.sustained_a)
        if len(constant) > 1 and constant[-1].sustained_a >= SECOND_RATE * constant[0].sustained_a:
            slow, fast = constant[0], constant[-1]
            end = min(0.5 * self.charge_c, float(slow.charge_c[-1]), float(fast.charge_c[-1]))
            at = np.linspace(0.2 * end, end, 20)
            drop = np.interp(at, slow.charge_c, slow.voltage_v) - np.interp(at, fast.charge_c, fast.voltage_v)
            change = np.interp(at, fast.charge_c, fast.current_a) - float(slow.current_a.mean())
            return float(np.clip(np.median(drop / change), 5e-4, 0.5)), True
        steps = np.concatenate([_step_resistances(c) for c in self.whole])
        if steps.size:
            return float(np.clip(np.median(steps), 5e-4, 0.5)), True
        self.remarks.append(
            "All discharges run near one current, so they do not tell the resistance apart from the voltage: the"
            " sheet's resistance is used."
        )
        return electrical(self.cell)["r0_ohm"], False

    def _lifted(self) -> Floats:
        """Open-circuit voltage on the base points: the slowest curve lifted to rest, else the family's."""
        source = min(self.curves, key=lambda c: (not c.constant, c.sustained_a, -float(c.charge_c[-1])))
        model = self.parameters(self.start[None])
        lag, polarisation = lag_and_polarisation(model, source)
        soc = 1.0 - source.charge_c / self.charge_c
        inner = np.interp(soc, RESISTANCE_KNOTS, np.exp(self.start[len(OCV_KNOTS) : -4 - len(self.energies)]))
        at, volts = soc - lag[0], source.voltage_v + polarisation[0] + source.current_a * inner
        at, volts = _binned(at, volts, 0.002 if source.constant else 0.01)
        table = resting_curve(self.cell).values
        family = np.interp(self.base_soc, np.linspace(0.0, 1.0, len(table)), table)
        low = float(max(at[0], 0.0))
        joined = np.interp(self.base_soc, at, volts)
        below = family + (float(np.interp(low, at, volts)) - float(np.interp(low, self.base_soc, family)))
        beyond = self.base_soc > at[-1]
        joined[beyond] = volts[-1] + family[beyond] - float(np.interp(at[-1], self.base_soc, family))
        return np.maximum(np.where(self.base_soc < low, below, joined), 0.5)

    def _say_what_is_open(self, temperatures: Sequence[float]) -> None:
        if self.lowest_soc > 0.03:
            self.remarks.append(
                f"No discharge goes below {100 * self.lowest_soc:.0f} % of the charge: there the family's voltage table"
                " stands."
            )
        if not self.thermal:
            self.remarks.append(
                f"All discharges are near {min(temperatures) - ZERO_CELSIUS_K:.0f} °C: how the cell behaves in the cold"
                " is an estimate for its class."
            )

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
            lag_exponent=LAG_EXPONENT,
            lag_reference_a=self.fastest_a,
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
        log_r = x[:, ocv_count : ocv_count + r_count]
        if self.rates_told:
            parts.append(np.diff(log_r, axis=1) / ROUGHNESS)
        else:
            parts.append((log_r - self.sheet_log_r) / SHEET_SPREAD)
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

        least, most = np.full((2, len(self.start)), np.inf) * np.array([[-1.0], [1.0]])
        least[-2:], most[-2:] = LEAST_ENERGY_J_MOL, MOST_ENERGY_J_MOL
        found = least_squares(
            residuals, self.start[free], jacobian, bounds=(least[free], most[free]), x_scale=scale[free], max_nfev=60,
            xtol=1e-6,
        )  # fmt: skip
        x = whole(found.x)
        held = (x[-2:] <= 1.01 * LEAST_ENERGY_J_MOL) | (x[-2:] >= 0.99 * MOST_ENERGY_J_MOL)
        if self.thermal and held.any():
            self.remarks.append(
                "The runs at other temperatures ask for an activation energy outside of what cells have (5 to 60"
                f" kJ/mol): {x[-2:][held][0] / 1000:.0f} is flown. Expect more doubt away from their temperatures."
            )
        return self._result(x)

    def _result(self, x: Floats) -> CellFit:
        model = self.parameters(x[None])
        errors = tuple(
            (c.name, float(np.sqrt(np.mean((simulate(model, c)[0] - c.voltage_v) ** 2)))) for c in self.whole
        )
        temperatures = np.concatenate([c.temperature_k for c in self.whole]) - ZERO_CELSIUS_K
        # Dense, so that the monotone cubic of the flight follows the straight pieces that were fitted.
        dense = np.unique(np.round(np.concatenate([RESISTANCE_KNOTS, np.linspace(0.0, 1.0, 161)]), 6))
        heat = fit_heat(model, self.whole)
        by_mass = heat_capacity_j_k(self.cell)
        if heat is not None and not by_mass / DOUBTFUL_HEAT < heat.heat_capacity_j_k < by_mass * DOUBTFUL_HEAT:
            heat = None
        values = {
            "capacity_mah": self.charge_c / 3.6,
            "ocv_soc": tuple(model.ocv_soc.tolist()),
            "ocv_v": tuple(model.ocv_v[0].tolist()),
            "resistance_soc": tuple(dense.tolist()),
            "resistance_mohm": tuple((1e3 * np.interp(dense, RESISTANCE_KNOTS, model.resistance_ohm[0])).tolist()),
            "r1_mohm": 1e3 * float(model.r1_ohm[0]),
            "tau1_s": float(model.tau1_s[0]),
            "lag_gain_s": float(model.lag_gain_s[0]),
            "lag_tau_s": float(model.lag_tau_s[0]),
            "lag_exponent": LAG_EXPONENT,
            "lag_reference_a": self.fastest_a,
            "resistance_activation_j_mol": float(model.resistance_activation_j_mol[0]),
            "lag_activation_j_mol": float(model.lag_activation_j_mol[0]),
            "heat_capacity_j_k": heat.heat_capacity_j_k if heat is not None else None,
            "residual_mv": 1e3 * float(np.sqrt(np.mean(np.square([error for _, error in errors])))),
            "highest_current_a": self.fastest_a,
            "coldest_c": float(temperatures.min()),
            "warmest_c": float(temperatures.max()),
            "lowest_soc": self.lowest_soc,
            "capacity_given": self.capacity_given,
            "curves": tuple(CurveResidual(name=name, residual_mv=1e3 * error) for name, error in errors),
            "remarks": (*self.remarks, _heat_words(heat)),
        }
        try:
            fitted = FittedModel.from_data(values)
        except DocumentError as error:
            raise DocumentError(
                f"No one cell could have made these discharges ({str(error).rstrip('.')}): check columns and units, or"
                " leave one of them out."
            ) from error
        return CellFit(fitted, errors)


def _start_k(curve: DischargeCurve) -> float:
    """Temperature in the first minute, K."""
    return float(curve.temperature_k[curve.time_s <= curve.time_s[0] + START_S].mean())


def _heat_words(heat: HeatFit | None) -> str:
    if heat is None:
        return "The logged temperatures do not tell the heat capacity: it is taken from the mass."
    return (
        f"Heat capacity {heat.heat_capacity_j_k:.0f} J/K, from the temperatures of {', '.join(heat.names)}; that bench"
        f" took {1e3 * heat.cooling_w_k:.0f} mW for each kelvin above the air."
    )


def _step_resistances(curve: DischargeCurve) -> Floats:
    """Ohms at every switch of the current: the fall of voltage over the rise of current, across one interval."""
    most = float(curve.current_a.max())
    change, fall = np.diff(curve.current_a), -np.diff(curve.voltage_v)
    quick = (np.abs(change) > 0.2 * most) & (np.diff(curve.time_s) <= 5.0)
    return np.asarray((fall[quick] / change[quick])[fall[quick] * change[quick] > 0])


def _binned(at: Floats, values: Floats, width: float) -> tuple[Floats, Floats]:
    """Medians of ``values`` in bins of ``at``, rising, and never falling with it."""
    bins = np.round(at / width).astype(int)
    found = np.unique(bins)
    middle = np.array([np.median(at[bins == b]) for b in found])
    median = np.array([np.median(values[bins == b]) for b in found])
    return middle, np.maximum.accumulate(median)
