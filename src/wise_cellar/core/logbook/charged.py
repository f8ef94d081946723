"""A charge as it was logged: what went in, and the volts of the groups before and after."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.documents import DocumentError, PackCharge
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_volts

ENDS_S = 20.0
"""So much of either end is looked at, and no more than a few rows."""
FEW = 3
LEAST_RISE = 1.01
"""Of volts, from the first to the last."""


def charge_in(log: FlightLog, day: Day, name: str) -> PackCharge:
    """What a log of a charge tells, whichever way its current counts. Raises :class:`DocumentError` where it is none.

    The charge is the counter's, which is exact, else the sum of amps.
    """
    first, last = _ends(log)
    volts = [float(np.median(log.volts[rows])) for rows in (first, last)]
    if volts[1] < LEAST_RISE * volts[0]:
        raise DocumentError(
            f"{name} is no charge: its volts go from {format_volts(volts[0])} to {format_volts(volts[1])}; they rise in"
            " one."
        )
    counted = np.abs(log.charge_mah[np.isfinite(log.charge_mah)])
    put_in = float(counted.max()) if counted.size and counted.max() > 0 else abs(log.drawn_mah())
    groups = [tuple(np.round(np.median(log.groups_v[rows], axis=0), 4).tolist()) for rows in (first, last)]
    return PackCharge(
        day=day, charge_mah=round(put_in, 1), before_v=groups[0], after_v=groups[1], note=f"as {name} has it"
    )


def _ends(log: FlightLog) -> tuple[Floats, Floats]:
    rows = np.arange(len(log))
    first = rows[log.time_s <= log.time_s[0] + ENDS_S][:FEW]
    last = rows[log.time_s >= log.time_s[-1] - ENDS_S][-FEW:]
    return first, last
