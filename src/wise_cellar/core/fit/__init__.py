"""A cell model from discharge curves, a drive from a thrust stand.

Not imported at the start of the application: it brings scipy with it.
"""

from wise_cellar.core.fit.fitting import CellFit, fit_cell
from wise_cellar.core.fit.stand import fit_stand

__all__ = ["CellFit", "fit_cell", "fit_stand"]
