"""Cells: the shelf, what each cell is worth at this craft's load, and the sheet of the present one."""

from wise_cellar.ui.stations.cells.station import CellsStation

__all__ = ["CellsStation"]
