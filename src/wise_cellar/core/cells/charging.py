"""What one cell may be charged to, and with."""

from __future__ import annotations

from wise_cellar.core.cells.specimens import measured
from wise_cellar.core.documents import CellType, KineticClass, OcvFamily
from wise_cellar.core.physics.charging import chargeable_a
from wise_cellar.core.units import format_volts

FULL_V = {OcvFamily.LFP: 3.65, OcvFamily.HIGH_VOLTAGE_POLYMER: 4.35}
FULL_V_ELSE = 4.20
"""Volts at which a cell of a family is full."""
WITHIN_V = 0.010
NO_RATING_RATE = 1 / 2
"""Of the one-hour current, where a sheet tells no charge current: an estimate."""

CHARGE_LAG = {
    KineticClass.ENERGY_CYLINDER: (0.167, 570.0),
    KineticClass.POWER_CYLINDER: (0.040, 400.0),
    KineticClass.POLYMER_POUCH: (0.020, 300.0),
}
"""Lag of the surface behind the bulk while charging, κ in hours and τ in s. Graphite takes lithium up more slowly than
it gives it: the energy cell's are derived from an electrochemical model's charge at C/2 (parameters of Chen et al.,
J. Electrochem. Soc. 167 (2020) 080534), the others scaled by their lag in discharge and rounded: estimates."""
FIT_GAIN, FIT_TIME = 0.5, 1.5
"""Of a fitted cell, whose own slow resistance holds a part of it: less, and slower; from the same charge."""


def charge_lag(cell: CellType) -> tuple[float, float]:
    """Gain κ and time constant τ of the lag while a cell is charged, s, by its class; of a fitted cell half the gain.

    Source: ``CHARGE_LAG``. Not modelled: that it grows in the cold, where the current is cut for plating's sake.
    """
    hours, tau_s = CHARGE_LAG[cell.kinetic_class]
    gain_s = 3600.0 * hours
    return (FIT_GAIN * gain_s, FIT_TIME * tau_s) if cell.fitted is not None else (gain_s, tau_s)


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
        f"Full at {format_volts(cell.max_voltage_v)}, but {cell.ocv_family.words} is full at"
        f" {format_volts(family_v)}: charged so, it vents. Correct the full voltage or the family."
    )


def overfull_v(cell: CellType) -> float | None:
    """Volts at which its family is full, where its own full voltage is higher; none where it is not, or where its own
    table of resting volts, or its fit, reaches it."""
    family = FULL_V.get(cell.ocv_family, FULL_V_ELSE)
    tables = [cell.own_ocv.ocv_v if cell.own_ocv else (), cell.fitted.ocv_v if cell.fitted else ()]
    reached = max((volts for table in tables for volts in table), default=family)
    return family if cell.max_voltage_v > max(family, reached) + WITHIN_V else None
