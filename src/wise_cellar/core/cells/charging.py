"""What one cell may be charged to, and with."""

from __future__ import annotations

from wise_cellar.core.cells.specimens import measured
from wise_cellar.core.documents import CellType, OcvFamily
from wise_cellar.core.physics.charging import chargeable_a

FULL_V = {OcvFamily.LFP: 3.65, OcvFamily.HIGH_VOLTAGE_POLYMER: 4.35}
FULL_V_ELSE = 4.20
"""Volts at which a cell of a family is full."""
WITHIN_V = 0.010
NO_RATING_RATE = 1 / 2
"""Of the one-hour current, where a sheet tells no charge current: an estimate."""


def one_hour_a(cell: CellType) -> float:
    """Current that empties one cell in an hour, A: by the least of its label, its fit and its bench."""
    told = [cell.capacity_mah]
    if cell.fitted is not None:
        told.append(cell.fitted.capacity_mah)
    if (specimens := measured(cell.bench_results, "capacity_mah")) is not None:
        told.append(specimens.median)
    return min(told) / 1000


def charge_limit_a(cell: CellType, celsius: float) -> float:
    """Current that one cell may be charged with where nobody watches each cell, A, at its warmth.

    The smaller of 1C and its charge rating, half of 1C where no rating is given, as far as its warmth allows
    (:func:`~wise_cellar.core.physics.charging.chargeable_a`).
    """
    one_hour = one_hour_a(cell)
    rating = NO_RATING_RATE * one_hour if cell.charge_current_a is None else cell.charge_current_a
    return float(chargeable_a(min(one_hour, rating), one_hour, celsius))


def overfull_words(cell: CellType, family_v: float) -> str:
    """What becomes of a cell that is charged above its family's full voltage."""
    return (
        f"Full at {cell.max_voltage_v:.2f} V, but {cell.ocv_family.words} is full at {family_v:.2f} V: charged so, it"
        " vents. Correct the full voltage or the family."
    )


def overfull_v(cell: CellType) -> float | None:
    """Volts at which its family is full, where its own full voltage is higher; none where it is not, or where its own
    table of resting volts, or its fit, reaches it."""
    family = FULL_V.get(cell.ocv_family, FULL_V_ELSE)
    tables = [cell.own_ocv.ocv_v if cell.own_ocv else (), cell.fitted.ocv_v if cell.fitted else ()]
    reached = max((volts for table in tables for volts in table), default=family)
    return family if cell.max_voltage_v > max(family, reached) + WITHIN_V else None
