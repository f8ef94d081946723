"""Open-circuit voltage by chemistry family, from the tables shipped in ``data/ocv``.

Sources stand in ``data/ocv/README.md``: physics-based simulations from published parameter sets, and
rounded class values for hobby polymer cells. They are package data; nothing of the user's is read here.
"""

from __future__ import annotations

from functools import cache
from importlib import resources

import numpy as np

from wise_cellar.core.physics.curve_bank import SocCurve

# Volts per unit of state of charge by which the voltage falls once the electrode surface is empty. The tables
# end at 10 to 50 V near empty; a real cell collapses at least this fast.
LEAST_SLOPE_BELOW_EMPTY = 25.0


@cache
def ocv_curve(family: str) -> SocCurve:
    """Open-circuit volts over state of charge of the family; raises ``FileNotFoundError`` for a name that is no family.

    Source: ``data/ocv/README.md``. Not modelled: hysteresis, temperature (some 0.1 mV/K).
    """
    table = resources.files("wise_cellar").joinpath("data", "ocv", f"{family}.csv")
    rows = np.loadtxt(table.read_text(encoding="utf-8").splitlines(), delimiter=",", skiprows=1)
    return SocCurve.from_points(rows[:, 0], rows[:, 1], least_slope_below=LEAST_SLOPE_BELOW_EMPTY)
