"""Heat capacity of a cell, and how its bench cooled it, from logged temperatures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.curves.simulation import ModelParameters, interpolate_rows
from wise_cellar.core.physics.arrays import Floats

LEAST_RISE_K = 3.0


@dataclass(frozen=True)
class HeatFit:
    """Heat capacity in J/K, heat given to the air in W/K on that bench, and the curves they rest on."""

    heat_capacity_j_k: float
    cooling_w_k: float
    names: tuple[str, ...]


def fit_heat(model: ModelParameters, curves: Sequence[DischargeCurve]) -> HeatFit | None:
    """From C·(T − T₀) + G·∫(T − T_air)dt = ∫I·(OCV(z) − V)dt, linear in C and G; the air is at the first temperature.

    ``None`` where no curve warmed by 3 K, or where the temperatures contradict the heat.
    """
    warmed = [c for c in curves if float(np.ptp(c.temperature_k)) >= LEAST_RISE_K]
    if not warmed:
        return None
    rows, heats = [], []
    for curve in warmed:
        rise = curve.temperature_k - curve.temperature_k[0]
        soc = 1.0 - curve.charge_c / model.charge_c[0]
        resting = interpolate_rows(model.ocv_soc, model.ocv_v[:1], soc[None])[0]
        rows.append(np.column_stack([rise, _integral(curve.time_s, rise)]))
        heats.append(_integral(curve.time_s, curve.current_a * (resting - curve.voltage_v)))
    found, *_ = np.linalg.lstsq(np.concatenate(rows), np.concatenate(heats), rcond=None)
    if found[0] <= 0 or found[1] < 0:
        return None
    return HeatFit(float(found[0]), float(found[1]), tuple(c.name for c in warmed))


def _integral(time: Floats, values: Floats) -> Floats:
    return np.concatenate([np.zeros(1), np.cumsum(0.5 * (values[1:] + values[:-1]) * np.diff(time))])
