"""What current a design may ask of a cell: the least of what is claimed or trusted and of what its resistance lets
through."""

from __future__ import annotations

from wise_cellar.core.cells.claims import IMPOSSIBLE_SAG_V, LARGE_SAG_V
from wise_cellar.core.cells.specimens import measured
from wise_cellar.core.documents import CellType

USUAL_BURST_S = 10.0
"""How long a pulse current is taken to be allowed where its sheet does not say."""


def _ohm(cell: CellType) -> float:
    """DC resistance: the greater of the sheet's and the bench's median."""
    bench = measured(cell.bench_results, "dcir_mohm")
    return 1e-3 * max(cell.resistance_mohm, bench.median if bench is not None else 0.0)


def lasting_limit_a(cell: CellType) -> float:
    """For good, A: the least of the current that is trusted, else claimed, and of 0.6 V over the DC resistance.

    Source: the sheet; a cell that loses 0.6 V to itself is warm and under its useful volts (our estimate), so that a
    rating which cannot be is never relied on. Not modelled: cold, age, how it is cooled (the flight is).
    """
    return min(cell.trusted_current_a or cell.rated_current_a, LARGE_SAG_V / _ohm(cell))


def burst_s(cell: CellType) -> float:
    """How long a burst over the lasting limit may be, s: as its sheet says, else 10."""
    return cell.pulse_s or USUAL_BURST_S


def burst_limit_a(cell: CellType, seconds: float) -> float:
    """For a burst of ``seconds``, A: the pulse current where it is claimed for as long, no more than 1.2 V over the DC
    resistance; else the lasting limit."""
    lasting = lasting_limit_a(cell)
    if cell.pulse_current_a is None or seconds > burst_s(cell):
        return lasting
    return max(min(cell.pulse_current_a, IMPOSSIBLE_SAG_V / _ohm(cell)), lasting)


def limit_field(cell: CellType) -> str:
    """The field that governs the lasting limit."""
    rated = cell.trusted_current_a or cell.rated_current_a
    if LARGE_SAG_V / _ohm(cell) < rated:
        return "cell.dcir_mohm" if cell.dcir_mohm is not None else "cell.ac_resistance_mohm"
    if cell.trusted_current_a is not None:
        return "cell.trusted_current_a"
    return "cell.continuous_current_a" if cell.continuous_current_a is not None else "cell.c_rating"
