"""Fast steps of a current: all that tells the resistance which acts at once from what follows slowly."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.physics.arrays import Floats, Ints

FAST_S, STEP_SHARE = 2.0, 0.2
"""A step is fast where two samples so near each other differ by this share of the greatest current."""
TWO_CURRENTS = 1.5
"""Middle currents of steps that differ by this factor tell how the resistance falls with current."""
LEAST_OHM, MOST_OHM = 1e-4, 1.0
"""What a step of a cell shows; beyond it current and voltage were not read together."""


@dataclass(frozen=True)
class FastSteps:
    """Switches of a curve's current: each between a point and the next, and the ohms that it shows."""

    before: Ints
    ohm: Floats
    middle_a: Floats
    """Mean of the currents before and after."""

    @property
    def told(self) -> bool:
        """Whether there is any."""
        return len(self.before) > 0

    def of(self, volts: Floats, curve: DischargeCurve) -> Floats:
        """Ohms of the same steps in other volts of that curve, of shape ``(sets, points)``."""
        rise = curve.current_a[self.before + 1] - curve.current_a[self.before]
        return np.asarray((volts[:, self.before] - volts[:, self.before + 1]) / rise)


def fast_steps(curve: DischargeCurve) -> FastSteps:
    """Fall of voltage over rise of current at every fast switch.

    Source: the instantaneous part of a current step (Plett, *Battery Management Systems* vol. 1, 2015, section 2.9).
    Not modelled: what relaxes within the interval itself, which the fit's own simulation has as well.
    """
    rise, fall = np.diff(curve.current_a), -np.diff(curve.voltage_v)
    quick = (np.abs(rise) > STEP_SHARE * float(curve.current_a.max())) & (np.diff(curve.time_s) <= FAST_S)
    ohm = np.where(quick, fall, 0.0) / np.where(quick, rise, 1.0)
    before = np.flatnonzero(quick & (ohm > LEAST_OHM) & (ohm < MOST_OHM))
    middle = 0.5 * (curve.current_a[before] + curve.current_a[before + 1])
    return FastSteps(before, ohm[before], middle)


def of_two_currents(middle_a: Floats) -> bool:
    """Whether steps about such currents tell how the resistance falls with current."""
    return bool(middle_a.size) and float(middle_a.max()) >= TWO_CURRENTS * float(middle_a.min())
