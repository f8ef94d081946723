"""One simulated cell, stepped by the product's own law with parameters of its own."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.cells import electrical, heat_capacity_j_k, resistance_shape, resting_curve
from wise_cellar.core.documents import CellType
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K
from wise_cellar.core.physics.cell import CellParameters, CellState, advance, electromotive_v, resistance_ohm
from wise_cellar.core.physics.curve_bank import CurveBank

COOLING_W_K = 0.09
"""Of one cell that stands free: about 20 W/(m² K) over a 21700's surface."""
LONGEST_STEP_S = 5.0


class SimulatedCell:
    """A cell of a type, ``charge`` full, whose capacity and resistance are the type's times factors that nobody
    tells."""

    def __init__(
        self, cell_type: CellType, *, capacity: float = 1.0, resistance: float = 1.0, charge: float = 1.0,
        air_c: float = 23.0,
    ) -> None:  # fmt: skip
        values = electrical(cell_type)
        values["charge_c"] *= capacity
        for name in ("r0_ohm", "r1_ohm"):
            values[name] *= resistance
        kelvin = air_c + ZERO_CELSIUS_K
        arrays = {name: np.full((1, 1, 1), value) for name, value in values.items()}
        index = np.zeros((1, 1, 1), np.intp)
        self._cell = CellParameters(
            **arrays, heat_capacity_j_k=np.full((1, 1, 1), heat_capacity_j_k(cell_type)),
            cooling_w_k=np.full((1, 1, 1), COOLING_W_K), air_k=np.full((1, 1, 1), kelvin),
            ocv=CurveBank([resting_curve(cell_type)], index), shape=CurveBank([resistance_shape(cell_type)], index),
        )  # fmt: skip
        one = np.ones((1, 1, 1))
        self._state = CellState(charge * one, 0 * one, 0 * one, kelvin * one)
        self.given_mah = 0.0
        self.capacity_mah = values["charge_c"] / 3.6
        self.r0_mohm = 1e3 * values["r0_ohm"]

    @property
    def charge(self) -> float:
        """State of charge."""
        return float(self._state.soc[0, 0, 0])

    @property
    def celsius(self) -> float:
        """Its temperature."""
        return float(self._state.temperature_k[0, 0, 0]) - ZERO_CELSIUS_K

    def volts(self, amps: float) -> float:
        """At its ends, under a discharge current."""
        emf = float(electromotive_v(self._cell, self._state)[0, 0, 0])
        return emf - amps * float(resistance_ohm(self._cell, self._state)[0, 0, 0])

    def run(self, seconds: float, amps: float) -> None:
        """Let it give a current for a time."""
        while seconds > 1e-9:
            step = min(seconds, LONGEST_STEP_S)
            seconds -= step
            current, time = np.full((1, 1, 1), amps), np.full((1, 1, 1), step)
            volts = float(electromotive_v(self._cell, self._state)[0, 0, 0])
            heat = np.full((1, 1, 1), amps * (volts - self.volts(amps)))
            self._state = advance(
                self._cell, self._state, time, current, current, heat, heat, self._state.temperature_k
            )
            self.given_mah += amps * step / 3.6
