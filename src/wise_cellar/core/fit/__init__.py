"""A cell model from discharge curves. Not imported at the start of the application: it brings scipy with it."""

from wise_cellar.core.fit.fitting import CellFit, fit_cell

__all__ = ["CellFit", "fit_cell"]
