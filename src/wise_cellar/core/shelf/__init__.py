"""The shelf: what every cell type would be worth in the present design, flown in one batch."""

from wise_cellar.core.shelf.claims import Sustained, claims, sustained
from wise_cellar.core.shelf.shelf import Discharge, ShelfRow, discharge_at_load, shelf_at_load

__all__ = ["Discharge", "ShelfRow", "Sustained", "claims", "discharge_at_load", "shelf_at_load", "sustained"]
