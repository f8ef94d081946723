"""The Compare station: every buildable pack, flown."""

from wise_cellar.ui.stations.compare.station import CompareStation

__all__ = ["CompareStation"]
