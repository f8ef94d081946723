"""Craft: what it weighs, what drives it, what else draws power, what it was seen to do."""

from wise_cellar.ui.stations.craft.station import CraftStation

__all__ = ["CraftStation"]
