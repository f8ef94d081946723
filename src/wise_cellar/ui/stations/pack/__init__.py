"""Pack: what is built, drawn to scale, with what it weighs, resists and stands."""

from wise_cellar.ui.stations.pack.station import PackStation

__all__ = ["PackStation"]
