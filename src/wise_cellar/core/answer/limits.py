"""What is over a limit, as findings tell it of one design and as a search judges its rows: one rule each, on arrays."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.documents import CellType, Craft
from wise_cellar.core.flight.batch import Ending
from wise_cellar.core.physics.arrays import Bools, FloatOrArray, Floats, Ints

WIDEST_STRIP = 0.9
"""Of a cell's diameter: beyond it a strip reaches the cell beside, which has the other polarity up."""
WIDEST_ON_POSITIVE_MM, RING_FREE = 10.0, 0.5
AS_PLANNED = (Ending.RESERVE_REACHED, Ending.MISSION_COMPLETE)


def strip_room_mm(cell: CellType) -> float:
    """Width of a cell's end, mm; of a pouch half its width, where one of its tabs stands."""
    return cell.diameter_mm if cell.diameter_mm is not None else (cell.width_mm or 0.0) / 2


def positive_end_mm(cell: CellType) -> float:
    """Widest strip on a positive end, mm, that its insulating ring leaves free: half of the diameter, 10 at most.

    Source: our estimate of rings for the standard sizes.
    """
    return min(WIDEST_ON_POSITIVE_MM, RING_FREE * (cell.diameter_mm or np.inf))


def strip_too_wide(width_mm: float, room_mm: FloatOrArray) -> Bools:
    """Whether a strip reaches the cells beside it, a short circuit."""
    return np.asarray(width_mm > WIDEST_STRIP * room_mm)


def strip_too_short(longest_mm: FloatOrArray, piece_mm: float | None) -> Bools:
    """Whether the longest piece is longer than the strip at hand; never where it comes from a roll."""
    return np.asarray(longest_mm > (np.inf if piece_mm is None else piece_mm))


def of_whole_packs(series: FloatOrArray, cells_in_series: FloatOrArray) -> Bools:
    """Whether so many cells in series can be made of packs bought whole."""
    return np.asarray(series % cells_in_series == 0)


def ends_as_planned(ending: Ints | int) -> Bools:
    """Whether the landing rule or the end of the mission brings it down."""
    return np.isin(ending, AS_PLANNED)


def stopped(craft: Craft, bus_v: Floats) -> Bools:
    """(loads, moments) Which loads of the craft stop at bus volts of shape ``(moments,)``."""
    least = np.array([load.least_bus_v for load in craft.loads])
    return np.asarray(bus_v < least[:, None])


def full_bus_v(series: FloatOrArray, full_v: FloatOrArray) -> Floats:
    """Volts that ESCs and motors see of a full pack."""
    return np.asarray(series * full_v)
