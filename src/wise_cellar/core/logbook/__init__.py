"""What was flown, held against what was expected: logs cut into phases, sensors put right, what a flight teaches."""

from wise_cellar.core.logbook.flight_log import FlightLog, log_of_figures, log_of_rows
from wise_cellar.core.logbook.phases import Phase, PhaseKind, flights_in, phases_of
from wise_cellar.core.logbook.sensors import AmpsSensor, amps_sensor, put_right

__all__ = [
    "AmpsSensor",
    "FlightLog",
    "Phase",
    "PhaseKind",
    "amps_sensor",
    "flights_in",
    "log_of_figures",
    "log_of_rows",
    "phases_of",
    "put_right",
]
