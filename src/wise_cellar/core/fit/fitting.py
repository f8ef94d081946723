"""Fit of the cell model by least squares, from whatever discharges were given.

The start: resistance from the fast steps of a current, or from the sheet; then at each point the open-circuit voltage
is the voltage lifted by resistance and polarisation, at the charge of the lagging surface. Then everything is fitted
together: corrections to the open-circuit voltage at knots, what R₀ differs by from the shape of its class at a few
knots (in its logarithm), lag, RC pair, the exchange current where steps of two currents tell it, and the two activation
energies where the runs began at different temperatures. Voltages under 3 V are weighted down, as they fall steeply and
hang on the last per cent of charge. Values that the curves leave open are drawn to the sheet or to the defaults for the
class, and the model says which those are: constant currents cannot part R₀ from the lag, so without a fast step the ten
seconds' resistance is held at the sheet's.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import OptimizeResult, least_squares

from wise_cellar.core.cells import (
    LAG_ACTIVATION,
    LAG_DEFAULTS,
    R1_SHARE,
    RESISTANCE_ACTIVATION,
    TAU1_S,
    half_charge_slope,
    heat_capacity_j_k,
    resistance_mohm,
    resting_curve,
)
from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.curves.simulation import ModelParameters, interpolate_rows, lag_and_polarisation, simulate
from wise_cellar.core.documents import CellType, CurveResidual, DocumentError, FittedModel
from wise_cellar.core.fit.heat import HeatFit, fit_heat
from wise_cellar.core.fit.steps import fast_steps
from wise_cellar.core.fit.told import Told, slowest
from wise_cellar.core.flight import ask
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.cell import (
    GAS_CONSTANT,
    REFERENCE_K,
    default_resistance_shape,
    lagging_current,
    step_ohm,
)
from wise_cellar.core.units import TOLD, format_number, format_significant, format_volts

OCV_KNOTS = np.array([0, 0.01, 0.02, 0.035, 0.05, 0.075, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 1.0])
RESISTANCE_KNOTS = np.array([0.0, 0.1, 0.25, 0.5, 1.0])
"""Few, and none between half charge and full: there R₀ has no wiggle of its own."""
BASE_POINTS = 301
DENSE_POINTS = 151
POINTS_A_CURVE = 300
MOST_POINTS, AVERAGED_POINTS = 3000, 1200
LOW_V, LOW_WEIGHT = 3.0, 0.3
NOISE_V = 2e-3
CORRECTION_V = 0.03
ROUGHNESS = 0.1
"""Spread expected, in logarithm, of R₀ over the shape of its class from knot to knot."""
OPEN_SPREAD = 0.7
"""Spread, in logarithm, within which lag, RC pair and exchange current are drawn to the defaults."""
ANCHOR_SPREAD, STEP_SPREAD = 0.02, 0.05
"""Spread, in logarithm, of the ten seconds' resistance about the anchor, and of each fast step about its reading."""
PULSE_S = 10.0
TRANSFER_V = 2 * GAS_CONSTANT * REFERENCE_K / 96485.0
"""2RT/F: volts of overpotential for each e-fold of current, far over the exchange current."""
EXCHANGE_RATE, MOST_TRANSFER = 0.5, 0.95
"""Exchange current where steps leave it open, in times the capacity an hour; charge transfer's most of R₀."""
LAG_TAU_S, RC_TAU_S, SLOW_LAG = (10.0, 1500.0), (2.0, 150.0), 3.0
"""Bounds of both time constants, so that each keeps its part; how much slower and deeper the second start's lag is."""
ENERGY_SPREAD_J_MOL = 15e3
LEAST_ENERGY_J_MOL, MOST_ENERGY_J_MOL = 5e3, 60e3
"""Activation energies that lithium-ion cells have."""
FULL_WITHIN_V = 0.25
"""A curve that begins further than this under the full voltage, sag apart, began part-charged."""
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
    Resistance follows from the fast steps of a current, else from the sheet or from three specimens on the bench. The
    order of the curves changes nothing. Raises :class:`DocumentError` when a curve cannot carry a fit.
    """
    if not curves:
        raise DocumentError("There is no discharge to fit; import or trace one first.")
    sheet = cell.changed(fitted=None)
    lift = sheet.resistance_mohm * 1e-3
    for curve in curves:
        first = float(curve.voltage_v[0] + curve.current_a[0] * lift)
        if first < cell.max_voltage_v - FULL_WITHIN_V:
            raise DocumentError(
                f"{curve.name} begins at {format_volts(curve.voltage_v[0])} under"
                f" {format_significant(curve.current_a[0], 2)} A, not full"
                f" ({format_volts(cell.max_voltage_v, TOLD)}); a fit needs discharges from a full cell."
            )
    given = {curve.name: place for place, curve in enumerate(curves)}
    ready = [curve.clean.running.steadied for curve in curves]
    ready.sort(key=lambda curve: (curve.sustained_a, float(curve.charge_c[-1]), curve.name))
    fit = _Problem(ready, sheet, capacity_mah).solve()
    return CellFit(fit.model, tuple(sorted(fit.residual_v, key=lambda one: given[one[0]])))


class _Problem:
    """The least-squares problem over one vector x of parameters: corrections to the open-circuit voltage, logarithms of
    R₀ over its shape, of κ, τ_w, R₁, τ₁ and I₀, and both activation energies."""

    def __init__(self, curves: Sequence[DischargeCurve], cell: CellType, capacity_mah: float | None) -> None:
        self.cell = cell
        thinned = [curve.thinned(POINTS_A_CURVE) for curve in curves]
        # A log whose current never rests keeps nearly all its points; its means serve as well and are far quicker.
        self.curves = [c if len(c.time_s) <= MOST_POINTS else c.averaged(AVERAGED_POINTS) for c in thinned]
        self.steps = [fast_steps(curve) for curve in self.curves]
        self.told = Told(curves, self.steps, cell, capacity_mah)
        self.charge_c = self.told.charge_c
        self.lag_exponent = LAG_EXPONENT if self.told.lag else 0.0
        self.anchor_ohm = 1e-3 * resistance_mohm(cell)
        resistance = self.anchor_ohm / (1 + 0.5 * R1_SHARE)
        if self.told.stepped:
            resistance = float(np.median(np.concatenate([steps.ohm for steps in self.steps])))
        lag_hours, lag_tau = LAG_DEFAULTS[cell.kinetic_class]
        exchange = EXCHANGE_RATE * self.charge_c / 3600
        self.open = np.log([lag_hours * 3600, lag_tau, R1_SHARE * resistance, TAU1_S, exchange])
        self.energies = np.array([RESISTANCE_ACTIVATION, LAG_ACTIVATION])
        self.slope_v = half_charge_slope(cell)
        self.base_soc = np.linspace(0.0, 1.0, BASE_POINTS)
        shape = default_resistance_shape().values
        self.base_shape = np.interp(self.base_soc, np.linspace(0.0, 1.0, len(shape)), shape)
        self.base_v = np.zeros(BASE_POINTS)
        level = np.full(len(RESISTANCE_KNOTS), np.log(resistance))
        self.start = np.concatenate([np.zeros(len(OCV_KNOTS)), level, self.open, self.energies])
        self.base_v = self._lifted()

    def _lifted(self) -> Floats:
        """Open-circuit voltage on the base points: the slowest curve lifted to rest, else the family's."""
        source = slowest(self.curves)
        model = self.parameters(self.start[None])
        lag, polarisation = lag_and_polarisation(model, source)
        soc = 1.0 - source.charge_c / self.charge_c
        inner = np.interp(soc, self.base_soc, model.resistance_ohm[0])
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

    def parameters(self, x: Floats) -> ModelParameters:
        """Parameter sets from vectors of shape ``(sets, unknowns)``."""
        ocv_count, r_count = len(OCV_KNOTS), len(RESISTANCE_KNOTS)
        correction, log_r, rest = np.split(x, [ocv_count, ocv_count + r_count], axis=1)
        at = np.broadcast_to(self.base_soc, (len(x), BASE_POINTS))
        gain, tau, r1, tau1, exchange = np.exp(rest[:, :5]).T
        resistance = self.base_shape * np.exp(interpolate_rows(RESISTANCE_KNOTS, log_r, at))
        one_hour_a = self.charge_c / 3600
        half = resistance[:, BASE_POINTS // 2]
        share = TRANSFER_V * np.arcsinh(one_hour_a / exchange) / (one_hour_a * half)
        return ModelParameters(
            charge_c=np.full(len(x), self.charge_c),
            ocv_soc=self.base_soc,
            ocv_v=self.base_v + interpolate_rows(OCV_KNOTS, correction, at),
            resistance_soc=self.base_soc,
            resistance_ohm=resistance,
            r1_ohm=r1,
            tau1_s=tau1,
            lag_gain_s=gain,
            lag_tau_s=tau,
            lag_exponent=self.lag_exponent,
            lag_reference_a=self.told.fastest_a,
            transfer_share=np.minimum(share, MOST_TRANSFER) if self.told.saturates else np.zeros(len(x)),
            exchange_a=exchange,
            resistance_activation_j_mol=rest[:, 5],
            lag_activation_j_mol=rest[:, 6],
        )

    def ten_seconds_ohm(self, model: ModelParameters) -> Floats:
        """What a pulse of ten seconds reads at half charge, 25 °C and the one-hour current, shape ``(sets,)``."""
        one_hour_a = model.charge_c / 3600
        growth = lagging_current(one_hour_a, model.lag_exponent, model.lag_reference_a) / one_hour_a
        lag_ohm = model.lag_gain_s * growth / model.charge_c * self.slope_v
        inner = model.resistance_ohm[:, BASE_POINTS // 2]
        return step_ohm(PULSE_S, inner, (model.r1_ohm, model.tau1_s), (lag_ohm, model.lag_tau_s))

    def residuals(self, x: Floats) -> Floats:
        """Weighted differences and the loose priors, shape ``(sets, residuals)``."""
        ask()
        model = self.parameters(x)
        parts = []
        for curve, steps in zip(self.curves, self.steps, strict=True):
            volts = simulate(model, curve)
            weight = np.where(curve.voltage_v < LOW_V, LOW_WEIGHT, 1.0) * np.sqrt(100.0 / len(curve.time_s))
            parts.append((volts - curve.voltage_v) * weight / NOISE_V)
            if steps.told:
                count = np.sqrt(max(len(steps.ohm) / 10.0, 1.0))
                parts.append((steps.of(volts, curve) / steps.ohm - 1) / STEP_SPREAD / count)
        ocv_count, r_count = len(OCV_KNOTS), len(RESISTANCE_KNOTS)
        parts.append(x[:, :ocv_count] / CORRECTION_V)
        parts.append(np.diff(x[:, ocv_count : ocv_count + r_count], axis=1) / ROUGHNESS)
        if not self.told.stepped:
            parts.append(np.log(self.ten_seconds_ohm(model) / self.anchor_ohm)[:, None] / ANCHOR_SPREAD)
        parts.append((x[:, -7:-2] - self.open) / OPEN_SPREAD)
        parts.append((x[:, -2:] - self.energies) / ENERGY_SPREAD_J_MOL)
        return np.concatenate(parts, axis=1)

    def solve(self) -> CellFit:
        """Run the fit."""
        scale = np.ones(len(self.start))
        scale[-2:] = 1e4
        free = np.ones(len(self.start), bool)
        free[-2:] = self.told.warmth
        free[-3] = self.told.saturates
        free[-7:-5] = self.told.lag

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
        least[-6], most[-6] = np.log(LAG_TAU_S)
        least[-4], most[-4] = np.log(RC_TAU_S)

        def found_from(start: Floats) -> OptimizeResult:
            return least_squares(
                residuals, start[free], jacobian, bounds=(least[free], most[free]), x_scale=scale[free], max_nfev=60,
                xtol=1e-6,
            )  # fmt: skip

        # A lag that is soon over and one that takes long are two valleys: the deeper counts.
        slow = self.start.copy()
        slow[-7:-5] += np.log(SLOW_LAG)
        x = whole(min((found_from(start) for start in (self.start, slow)), key=lambda found: float(found.cost)).x)
        held = (x[-2:] <= 1.01 * LEAST_ENERGY_J_MOL) | (x[-2:] >= 0.99 * MOST_ENERGY_J_MOL)
        beyond = []
        if self.told.warmth and held.any():
            beyond.append(
                "The runs at other temperatures ask for an activation energy outside of what cells have (5 to"
                f" 60 kJ/mol): {format_number(x[-2:][held][0] / 1000, 0)} is flown. Expect more doubt away from"
                " their temperatures."
            )
        return self._result(x, beyond)

    def _result(self, x: Floats, beyond: Sequence[str]) -> CellFit:
        model = self.parameters(x[None])
        errors = tuple(
            (c.name, float(np.sqrt(np.mean((simulate(model, c)[0] - c.voltage_v) ** 2)))) for c in self.told.curves
        )
        coldest_c, warmest_c = self.told.warmths_c
        # Dense, so that the monotone cubic of the flight follows what was fitted.
        dense = np.linspace(0.0, 1.0, DENSE_POINTS)
        heat = fit_heat(model, self.told.curves)
        by_mass = heat_capacity_j_k(self.cell)
        if heat is not None and not by_mass / DOUBTFUL_HEAT < heat.heat_capacity_j_k < by_mass * DOUBTFUL_HEAT:
            heat = None
        values = {
            "capacity_mah": self.charge_c / 3.6,
            "ocv_soc": tuple(model.ocv_soc.tolist()),
            # A cell at rest never stands lower for having more charge.
            "ocv_v": tuple(np.maximum.accumulate(model.ocv_v[0]).tolist()),
            "resistance_soc": tuple(dense.tolist()),
            "resistance_mohm": tuple((1e3 * np.interp(dense, self.base_soc, model.resistance_ohm[0])).tolist()),
            "r1_mohm": 1e3 * float(model.r1_ohm[0]),
            "tau1_s": float(model.tau1_s[0]),
            "lag_gain_s": float(model.lag_gain_s[0]),
            "lag_tau_s": float(model.lag_tau_s[0]),
            "lag_exponent": self.lag_exponent,
            "lag_reference_a": self.told.fastest_a,
            "transfer_share": float(model.transfer_share[0]),
            "exchange_a": float(model.exchange_a[0]),
            "resistance_activation_j_mol": float(model.resistance_activation_j_mol[0]),
            "lag_activation_j_mol": float(model.lag_activation_j_mol[0]),
            "heat_capacity_j_k": heat.heat_capacity_j_k if heat is not None else None,
            "residual_mv": 1e3 * float(np.sqrt(np.mean(np.square([error for _, error in errors])))),
            "highest_current_a": self.told.fastest_a,
            "coldest_c": coldest_c,
            "warmest_c": warmest_c,
            "lowest_soc": self.told.lowest_soc,
            "burst_a": float(f"{max(curve.burst_a for curve in self.told.curves):.6g}"),
            "capacity_given": self.told.capacity_open,
            "resistance_given": not self.told.stepped,
            "lag_given": not self.told.lag,
            "lifted_from_a": float(f"{slowest(self.curves).sustained_a:.6g}"),
            "warmth_told": self.told.warmth,
            "curves": tuple(CurveResidual(name=name, residual_mv=1e3 * error) for name, error in errors),
            "remarks": (*self.told.remarks(), *beyond, _heat_words(heat)),
        }
        try:
            fitted = FittedModel.from_data(values)
        except DocumentError as error:
            raise DocumentError(
                f"No one cell could have made these discharges ({str(error).rstrip('.')}): check columns and units, or"
                " leave one of them out."
            ) from error
        return CellFit(fitted, errors)


def _heat_words(heat: HeatFit | None) -> str:
    if heat is None:
        return "The logged temperatures do not tell the heat capacity: it is taken from the mass."
    return (
        f"Heat capacity {format_number(heat.heat_capacity_j_k, 0)} J/K, from the temperatures of"
        f" {', '.join(heat.names)}; that bench took {format_number(1e3 * heat.cooling_w_k, 0)} mW for each"
        " kelvin above the air."
    )


def _binned(at: Floats, values: Floats, width: float) -> tuple[Floats, Floats]:
    """Medians of ``values`` in bins of ``at``, rising, and never falling with it."""
    bins = np.round(at / width).astype(int)
    found = np.unique(bins)
    middle = np.array([np.median(at[bins == b]) for b in found])
    median = np.array([np.median(values[bins == b]) for b in found])
    return middle, np.maximum.accumulate(median)
