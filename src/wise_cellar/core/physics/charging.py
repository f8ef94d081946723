"""What a lithium-ion cell may be charged with at its warmth, whoever charges it: a charger, or another pack."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.physics.arrays import FloatOrArray, Floats

FROST_C, COOL_C, HOT_C = 0.0, 10.0, 45.0
COLD_PLACE_C = 5.0
"""Under it nobody should begin: what lies there is soon under 0 °C."""
COOL_RATE = 1 / 5
"""Of the one-hour current, from frost to cool."""


def chargeable_a(limit_a: FloatOrArray, one_hour_a: FloatOrArray, celsius: FloatOrArray) -> Floats:
    """Most current that may flow into a cell, A: none under 0 °C or over 45 °C, at most a fifth of the one-hour current
    to 10 °C, else ``limit_a``.

    ``limit_a`` what it may take when it is warm, ``one_hour_a`` what empties it in an hour, A; arrays that broadcast.

    Source: lithium plates graphite instead of entering it the colder and the faster it is charged (Waldmann et al.,
    *J. Power Sources* 384 (2018) 107); the steps at 0, 10 and 45 °C are our estimates for cells whose sheet says no
    more. Not modelled: sheets that allow less, or more.
    """
    cool = np.where(np.asarray(celsius) < COOL_C, np.minimum(limit_a, COOL_RATE * np.asarray(one_hour_a)), limit_a)
    able = (np.asarray(celsius) >= FROST_C) & (np.asarray(celsius) <= HOT_C)
    return np.where(able, cool, 0.0)
