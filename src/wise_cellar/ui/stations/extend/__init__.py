"""The Extend station: packs that share the craft's bus."""

from wise_cellar.ui.stations.extend.station import ExtendStation

__all__ = ["ExtendStation"]
