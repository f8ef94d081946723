"""The cell model of :mod:`wise_cellar.core.physics.cell` driven by a logged current, for many parameter sets at once.

Here the current and the temperature are known from the log, so nothing is solved: charge is an integral, surface lag
and polarisation are first-order filters, exact over each interval. The leading axis is the parameter set, which makes
one call give a whole Jacobian.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.cells import electrical, resistance_shape, resting_curve
from wise_cellar.core.curves.curve import DischargeCurve
from wise_cellar.core.documents import CellType, FittedModel
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.cell import arrhenius, lagging_current, saturation
from wise_cellar.core.physics.ocv import LEAST_SLOPE_BELOW_EMPTY


@dataclass(frozen=True)
class ModelParameters:
    """Parameter sets, leading axis ``(sets,)``; the tables have shape ``(sets, knots)`` over shared knots."""

    charge_c: Floats
    """``(sets,)``"""
    ocv_soc: Floats
    ocv_v: Floats
    resistance_soc: Floats
    resistance_ohm: Floats
    """R₀ at 25 °C."""
    r1_ohm: Floats
    tau1_s: Floats
    lag_gain_s: Floats
    lag_tau_s: Floats
    lag_exponent: float
    lag_reference_a: float
    transfer_share: Floats
    exchange_a: Floats
    resistance_activation_j_mol: Floats
    lag_activation_j_mol: Floats

    @classmethod
    def of(cls, model: FittedModel) -> ModelParameters:
        """The one set of a fitted model."""

        def one(value: float) -> Floats:
            return np.array([value])

        return cls(
            charge_c=one(3.6 * model.capacity_mah),
            ocv_soc=np.array(model.ocv_soc),
            ocv_v=np.array([model.ocv_v]),
            resistance_soc=np.array(model.resistance_soc),
            resistance_ohm=1e-3 * np.array([model.resistance_mohm]),
            r1_ohm=one(1e-3 * model.r1_mohm),
            tau1_s=one(model.tau1_s),
            lag_gain_s=one(model.lag_gain_s),
            lag_tau_s=one(model.lag_tau_s),
            lag_exponent=model.lag_exponent,
            lag_reference_a=model.lag_reference_a,
            transfer_share=one(model.transfer_share),
            exchange_a=one(model.exchange_a),
            resistance_activation_j_mol=one(model.resistance_activation_j_mol),
            lag_activation_j_mol=one(model.lag_activation_j_mol),
        )

    @classmethod
    def of_cell(cls, cell: CellType) -> ModelParameters:
        """The one set that flights of a cell type use: as fitted, else by its sheet."""
        law, resting, shape = electrical(cell), resting_curve(cell).values, resistance_shape(cell).values
        soc = np.linspace(0.0, 1.0, len(resting))
        shared = ("r0_ohm", "lag_exponent", "lag_reference_a")
        rest = {name: np.array([value]) for name, value in law.items() if name not in shared}
        return cls(
            ocv_soc=soc, ocv_v=resting[None], resistance_soc=soc,
            resistance_ohm=law["r0_ohm"] * shape[None], lag_exponent=law["lag_exponent"],
            lag_reference_a=law["lag_reference_a"], **rest,
        )  # fmt: skip


def simulate(model: ModelParameters, curve: DischargeCurve, start: float = 1.0) -> Floats:
    """Voltage at every point of the log, shape ``(sets, points)``, from a rested ``start``, a state of charge."""
    soc = start - curve.charge_c / model.charge_c[:, None]
    lag, polarisation = lag_and_polarisation(model, curve)
    surface = soc - lag
    last_slope = (model.ocv_v[:, 1] - model.ocv_v[:, 0]) / (model.ocv_soc[1] - model.ocv_soc[0])
    below = np.minimum(surface, 0.0) * np.maximum(last_slope, LEAST_SLOPE_BELOW_EMPTY)[:, None]
    rest = interpolate_rows(model.ocv_soc, model.ocv_v, np.maximum(surface, 0.0)) + below
    inner = interpolate_rows(model.resistance_soc, model.resistance_ohm, soc)
    inner = inner * arrhenius(model.resistance_activation_j_mol[:, None], curve.temperature_k)
    one_hour_a = model.charge_c[:, None] / 3600
    inner = inner * saturation(curve.current_a, one_hour_a, model.transfer_share[:, None], model.exchange_a[:, None])
    return np.asarray(rest - polarisation - curve.current_a * inner)


def lag_and_polarisation(model: ModelParameters, curve: DischargeCurve) -> tuple[Floats, Floats]:
    """Surface lag, share of one, and polarisation, volts, at every point; shapes ``(sets, points)``."""
    step, current = np.diff(curve.time_s), curve.interval_current_a
    middle = 0.5 * (curve.temperature_k[:-1] + curve.temperature_k[1:])
    slow = arrhenius(model.lag_activation_j_mol[:, None], middle)
    stiff = arrhenius(model.resistance_activation_j_mol[:, None], middle)
    drawn = lagging_current(current, model.lag_exponent, model.lag_reference_a)
    lag_gain = model.lag_gain_s[:, None] * slow / model.charge_c[:, None] * drawn
    # Both in one pass: what takes time is how often it steps, not over how many rows.
    targets = np.concatenate([lag_gain, model.r1_ohm[:, None] * stiff * current])
    slowness = (model.lag_tau_s[:, None] * slow, np.broadcast_to(model.tau1_s[:, None], lag_gain.shape))
    both = _filtered(targets, np.exp(-step / np.concatenate(slowness)))
    return both[: len(lag_gain)], both[len(lag_gain) :]


def interpolate_rows(knots: Floats, tables: Floats, at: Floats) -> Floats:
    """Straight interpolation of each row of ``tables`` at the same row of ``at``, held beyond the ends."""
    inside = np.clip(at, knots[0], knots[-1])
    place = np.clip(np.searchsorted(knots, inside, side="right") - 1, 0, len(knots) - 2)
    share = (inside - knots[place]) / (knots[place + 1] - knots[place])
    rows = np.arange(len(tables))[:, None]
    return np.asarray(tables[rows, place] * (1 - share) + tables[rows, place + 1] * share)


def _filtered(target: Floats, decay: Floats) -> Floats:
    """y' = (target − y)/τ from y = 0, exact for a target held over each interval; shape ``(sets, points)``.

    A step hangs on the one before it. So that few steps are taken over much rather than many over little, intervals are
    cut into stretches that are stepped beside each other from 0, and then joined one to the next.
    """
    sets, intervals = target.shape
    length = max(math.isqrt(intervals), 1)
    stretches = -(-intervals // length)

    def in_stretches(values: Floats, beyond: float) -> Floats:
        """(length, sets, stretches)"""
        whole = np.full((sets, stretches * length), beyond)
        whole[:, :intervals] = values
        return np.ascontiguousarray(np.moveaxis(whole.reshape(sets, stretches, length), 2, 0))

    values, kept = in_stretches(target * (1.0 - decay), 0.0), in_stretches(decay, 1.0)
    for place in range(1, length):
        values[place] += kept[place] * values[place - 1]
        kept[place] *= kept[place - 1]
    begins = np.zeros((sets, stretches))
    for stretch in range(1, stretches):
        begins[:, stretch] = begins[:, stretch - 1] * kept[-1, :, stretch - 1] + values[-1, :, stretch - 1]
    values += kept * begins
    joined = np.moveaxis(values, 0, 2).reshape(sets, stretches * length)[:, :intervals]
    return np.concatenate([np.zeros((sets, 1)), joined], axis=1)
