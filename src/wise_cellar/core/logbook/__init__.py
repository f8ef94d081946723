"""What was flown, held against what was expected: logs cut into phases, sensors put right, what a flight teaches."""

from wise_cellar.core.logbook.flight_log import FlightLog, log_of_figures, log_of_rows, log_of_series, rows_of
from wise_cellar.core.logbook.phases import Phase, PhaseKind, flights_in, phases_of
from wise_cellar.core.logbook.reflown import FlownFlight, Noted, as_it_was_flown, flown_flight, mission_of
from wise_cellar.core.logbook.sensors import AmpsSensor, amps_sensor, put_right

__all__ = [
    "AmpsSensor",
    "FlightLog",
    "FlownFlight",
    "Noted",
    "Phase",
    "PhaseKind",
    "amps_sensor",
    "as_it_was_flown",
    "flights_in",
    "flown_flight",
    "log_of_figures",
    "log_of_rows",
    "log_of_series",
    "mission_of",
    "phases_of",
    "put_right",
    "rows_of",
]
