"""The Charge station: the charge of one pack, and a day in the field."""

from wise_cellar.ui.stations.charge.station import ChargeStation

__all__ = ["ChargeStation"]
