"""Flights as arrays in SI: the batch, the power balance, the integrator, full throttle. No document is known here."""

from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.stopping import UnwantedError, ask, while_wanted

__all__ = ["Ending", "FlightBatch", "FlightTraces", "UnwantedError", "ask", "fly", "while_wanted"]
