"""What carries a craft: the power and throttle it needs, what tells them, and the steps of the mission it flies."""

from wise_cellar.core.propulsion.calibration import CalibrationResult, Reading, calibrate
from wise_cellar.core.propulsion.drive_numbers import DriveNumbers, drive_numbers
from wise_cellar.core.propulsion.handling import Handling, disc_loading_g_dm2, handling
from wise_cellar.core.propulsion.power_curve import (
    PowerCurve,
    SpeedCurve,
    power_against_airspeed,
    power_against_mass,
)
from wise_cellar.core.propulsion.stand import (
    StandCurves,
    StandFit,
    StandResidual,
    fitted_craft,
    residual,
    stand_curves,
)

__all__ = [
    "CalibrationResult",
    "DriveNumbers",
    "Handling",
    "PowerCurve",
    "Reading",
    "SpeedCurve",
    "StandCurves",
    "StandFit",
    "StandResidual",
    "calibrate",
    "disc_loading_g_dm2",
    "drive_numbers",
    "fitted_craft",
    "handling",
    "power_against_airspeed",
    "power_against_mass",
    "residual",
    "stand_curves",
]
