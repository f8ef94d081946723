"""From documents to an answer: lowering, the integrator, the end of the flight, the words for it."""

from wise_cellar.core.flight.answer import answer
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces
from wise_cellar.core.flight.calibration import CalibrationResult, Reading, calibrate
from wise_cellar.core.flight.drive_numbers import DriveNumbers, drive_numbers
from wise_cellar.core.flight.ending import EndReason
from wise_cellar.core.flight.explain import Asked, as_text, explain
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.landing import (
    AlarmCard,
    AlarmValue,
    PolicyOutcome,
    alarm_card,
    alarm_values,
    card_lines,
    card_values,
    policies,
)
from wise_cellar.core.flight.lowering import lower, lower_one
from wise_cellar.core.flight.power_curve import PowerCurve, SpeedCurve, power_against_airspeed, power_against_mass
from wise_cellar.core.flight.result import Answer, Finding, PackAnswer, PunchAnswer, Series, Severity
from wise_cellar.core.flight.spread import Bands, Doubts, Driver, Spread, spread
from wise_cellar.core.flight.stand import StandCurves, StandFit, StandResidual, fitted_craft, residual, stand_curves
from wise_cellar.core.flight.stopping import UnwantedError, while_wanted
from wise_cellar.core.flight.wing_flight import WingFigures, wing_figures

__all__ = [
    "AlarmCard",
    "AlarmValue",
    "Answer",
    "Asked",
    "Bands",
    "CalibrationResult",
    "Doubts",
    "DriveNumbers",
    "Driver",
    "EndReason",
    "Ending",
    "Finding",
    "FlightBatch",
    "FlightTraces",
    "PackAnswer",
    "PolicyOutcome",
    "PowerCurve",
    "PunchAnswer",
    "Reading",
    "Series",
    "Severity",
    "SpeedCurve",
    "Spread",
    "StandCurves",
    "StandFit",
    "StandResidual",
    "UnwantedError",
    "WingFigures",
    "alarm_card",
    "alarm_values",
    "answer",
    "as_text",
    "calibrate",
    "card_lines",
    "card_values",
    "drive_numbers",
    "explain",
    "fitted_craft",
    "fly",
    "lower",
    "lower_one",
    "policies",
    "power_against_airspeed",
    "power_against_mass",
    "residual",
    "spread",
    "stand_curves",
    "while_wanted",
    "wing_figures",
]
