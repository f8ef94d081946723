"""The shelf: what every cell type would be worth in the present design, flown in one batch."""

from wise_cellar.core.cells import Claim, Verdict
from wise_cellar.core.shelf.claims import Sustained, claims, sustained
from wise_cellar.core.shelf.shelf import (
    Discharge,
    Footing,
    ShelfRow,
    bench_discharge,
    discharge_at_current,
    mean_cell_current_a,
    parallel_at_mass,
    shelf_at_load,
)

__all__ = [
    "Claim",
    "Discharge",
    "Footing",
    "ShelfRow",
    "Sustained",
    "Verdict",
    "bench_discharge",
    "claims",
    "discharge_at_current",
    "mean_cell_current_a",
    "parallel_at_mass",
    "shelf_at_load",
    "sustained",
]
