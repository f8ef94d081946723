"""A cell model from discharge curves. Not imported at the start of the application: it brings scipy with it."""

from wise_cellar.core.fit.fitting import CellFit, fit_cell
from wise_cellar.core.fit.simulation import ModelParameters, simulate

__all__ = ["CellFit", "ModelParameters", "fit_cell", "simulate"]
