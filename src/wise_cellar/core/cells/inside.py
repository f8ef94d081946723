"""How much warmer the inside of a cell is than the model's one temperature for all of it."""

from __future__ import annotations

from wise_cellar.core.cells.model import electrical, heat_capacity_j_k
from wise_cellar.core.documents import CellType
from wise_cellar.core.physics.conductor import Heating

ACROSS_W_M_K = 1.0
VENTING_C = 75.0
"""Inside, from which on a cell is near to venting: an estimate; films inside begin to give way at 80 to 120 °C."""
FIRST_ROOT = 5.78
"""Square of the first root of J₀: the slowest way in which a cylinder evens out across."""


def inside_heating(cell: CellType) -> Heating:
    """Of one cell: what its middle is over its mean for each squared ampere, and how quickly.

    q·L²/(3k), q = I²R/V, L the radius, of a pouch half of its thickness, k = 1 W/(m K) across; τ = L²·C/(V·λ²·k).
    Source: the heat equation of a cylinder heated throughout, q·L²/(8k′) over its mean (Incropera & DeWitt, ch. 3),
    with k′ = 0.375 W/(m K), between the 0.2 and 1 that wound cells are measured at. Not modelled: resistance that is
    not that at half charge and 25 °C, a hole in the middle, ends that cool.
    """
    values = electrical(cell)
    count = cell.cells_in_series
    half_m = 1e-3 * (cell.diameter_mm if cell.diameter_mm is not None else cell.thickness_mm or 0.0) / 2
    volume_m3 = 1e-3 * cell.volume_l / count
    rise = (values["r0_ohm"] + values["r1_ohm"]) / volume_m3 * half_m**2 / (3 * ACROSS_W_M_K)
    exact = 3 * ACROSS_W_M_K / 8
    return Heating(rise, half_m**2 * heat_capacity_j_k(cell) / (volume_m3 * FIRST_ROOT * exact))
