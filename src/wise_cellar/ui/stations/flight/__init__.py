"""Flight: the mission over time, with what the pack and the craft do under it."""

from wise_cellar.ui.stations.flight.station import FlightStation

__all__ = ["FlightStation"]
