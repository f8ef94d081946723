"""Simulated cells in series groups, stepped by the product's own law with parameters of their own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from wise_cellar.core.cells import electrical, heat_capacity_j_k, resistance_shape, resting_curve
from wise_cellar.core.cells.charging import charge_lag
from wise_cellar.core.documents import CellType
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import (
    CellParameters,
    CellState,
    advance,
    electromotive_v,
    resistance_ohm,
    step_filters,
)
from wise_cellar.core.physics.curve_bank import CurveBank

COOLING_W_K = 0.09
"""Of one cell that stands free: about 20 W/(m² K) over a 21700's surface."""
LONGEST_STEP_S = 5.0


class SimulatedPack:
    """Groups in series, each of ``parallel`` cells of a type: capacity and resistance are the type's times factors
    that nobody tells: a number a group, as many as there are groups. ``charge`` is each group's state at the start."""

    def __init__(
        self, cell_type: CellType, parallel: int = 1, *, capacity: Sequence[float] | Floats = (1.0,),
        resistance: Sequence[float] | Floats = (1.0,), charge: Sequence[float] | Floats = (1.0,), air_c: float = 23.0,
        charges: bool = False,
    ) -> None:  # fmt: skip
        values = {name: np.full((1, len(capacity), 1), value) for name, value in electrical(cell_type).items()}
        values["charge_c"] = values["charge_c"] * _groups(capacity)
        for name in ("r0_ohm", "r1_ohm"):
            values[name] = values[name] * _groups(resistance)
        like = np.ones((1, len(capacity), 1))
        kelvin = (air_c + ZERO_CELSIUS_K) * like
        index = np.zeros((1, 1, 1), np.intp)
        self._cell = CellParameters(
            **values, heat_capacity_j_k=heat_capacity_j_k(cell_type) * like, cooling_w_k=COOLING_W_K * like,
            air_k=kelvin, ocv=CurveBank([resting_curve(cell_type)], index),
            shape=CurveBank([resistance_shape(cell_type)], index),
        )  # fmt: skip
        if charges:
            gain_s, tau_s = charge_lag(cell_type)
            self._cell = replace(
                self._cell, lag_gain_s=gain_s * like, lag_tau_s=tau_s * like, lag_exponent=np.zeros_like(like)
            )
        self._state = CellState(_groups(charge) * like, 0 * like, 0 * like, kelvin)
        self.parallel, self.given_mah = parallel, 0.0
        self.capacity_mah: Floats = self._cell.charge_c[0, :, 0] * parallel / 3.6
        """(groups,)"""
        self.r0_mohm: Floats = 1e3 * self._cell.r0_ohm[0, :, 0]
        """(groups,) Of one cell."""

    @property
    def series(self) -> int:
        """How many groups."""
        return len(self.capacity_mah)

    @property
    def charge(self) -> Floats:
        """(groups,) State of charge."""
        return self._state.soc[0, :, 0]

    @property
    def celsius(self) -> float:
        """Of the warmest."""
        return float(self._state.temperature_k.max()) - ZERO_CELSIUS_K

    @property
    def emf_v(self) -> Floats:
        """(groups,) What stands behind the resistance."""
        return np.asarray(electromotive_v(self._cell, self._state)[0, :, 0])

    @property
    def ohm(self) -> Floats:
        """(groups,) Resistance of a group of cells."""
        return np.asarray(resistance_ohm(self._cell, self._state)[0, :, 0]) / self.parallel

    def group_v(self, amps: float) -> Floats:
        """(groups,) At their ends, under a discharge current of the pack."""
        return self.emf_v - amps * self.ohm

    def volts(self, amps: float) -> float:
        """Of all groups together."""
        return float(self.group_v(amps).sum())

    def run(self, seconds: float, amps: float, bled_a: Floats | None = None) -> None:
        """Let it give a current for a time, and each group as much more as a balancer takes from it."""
        mine = np.full((1, self.series, 1), amps) + (0.0 if bled_a is None else _groups(bled_a))
        cell_a = mine / self.parallel
        while seconds > 1e-9:
            step = min(seconds, LONGEST_STEP_S)
            seconds -= step
            volts = electromotive_v(self._cell, self._state) - cell_a * resistance_ohm(self._cell, self._state)
            heat = cell_a * (self._cell.ocv(self._state.soc) - volts)
            length = np.full((1, 1, 1), step)
            filters = step_filters(self._cell, length, self._state.temperature_k)
            self._state = advance(self._cell, self._state, length, cell_a, cell_a, heat, heat, filters)
            self.given_mah += amps * step / 3.6


def _groups(values: Sequence[float] | Floats) -> Floats:
    return np.asarray(values, dtype=float)[None, :, None]
