"""From documents to an answer: lowering, the integrator, the end of the flight, the words for it."""

from wise_cellar.core.flight.answer import answer
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces
from wise_cellar.core.flight.calibration import CalibrationResult, calibrate
from wise_cellar.core.flight.ending import EndReason
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.landing import AlarmCard, PolicyOutcome, alarm_card, card_lines, card_parameters, policies
from wise_cellar.core.flight.lowering import lower, lower_one
from wise_cellar.core.flight.power_curve import PowerCurve, power_against_mass
from wise_cellar.core.flight.result import Answer, Finding, PunchAnswer, Series, Severity
from wise_cellar.core.flight.spread import Doubts, Spread, spread

__all__ = [
    "AlarmCard",
    "Answer",
    "CalibrationResult",
    "Doubts",
    "EndReason",
    "Ending",
    "Finding",
    "FlightBatch",
    "FlightTraces",
    "PolicyOutcome",
    "PowerCurve",
    "PunchAnswer",
    "Series",
    "Severity",
    "Spread",
    "alarm_card",
    "answer",
    "calibrate",
    "card_lines",
    "card_parameters",
    "fly",
    "lower",
    "lower_one",
    "policies",
    "power_against_mass",
    "spread",
]
