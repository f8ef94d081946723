"""What a wing makes of a take-off mass: its loading, stall and launch."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer.result import Answer
from wise_cellar.core.documents import CompleteDesign, Wing
from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.propulsion.carrier import WingPropulsion, wing_propulsion


@dataclass(frozen=True)
class WingFigures:
    """Of one craft at one take-off mass, in the design's air."""

    loading_g_dm2: float
    stall_m_s: float
    holding_m_s: float
    """Slowest that is safe and needs little: where no speed is asked for."""
    zero_lift_drag: float
    launch_a: float
    """From the pack, at full throttle before it moves."""
    launch_thrust_share: float
    """Static thrust over weight."""
    climb_m_s: float
    """Of full throttle late in the pack, at the flight's own speed."""


def wing_figures(complete: CompleteDesign, answer: Answer) -> WingFigures | None:
    """Figures of a craft on a wing; none of one on rotors."""
    wing = complete.craft.wing
    if wing is None:
        return None
    carrier, weight = wing_carrier(complete, wing, answer), answer.takeoff_mass_g * 1e-3 * GRAVITY_M_S2
    array = np.array([weight])
    late = answer.late_punch
    drag = late.thrust_n / max(late.thrust_margin, 1e-9)
    return WingFigures(
        loading_g_dm2=answer.takeoff_mass_g / wing.area_dm2,
        stall_m_s=float(carrier.stall_m_s(array)[0]),
        holding_m_s=float(carrier.holding_m_s(array)[0]),
        zero_lift_drag=carrier.polar.zero_lift_drag,
        launch_a=answer.early_punch.bus_a,
        launch_thrust_share=answer.early_punch.thrust_n / weight,
        climb_m_s=(late.thrust_n - drag) * answer.cruising_m_s / weight,
    )


def wing_carrier(complete: CompleteDesign, wing: Wing, answer: Answer) -> WingPropulsion:
    """What carries a craft on this wing, in the design's air."""
    conditions = complete.design.conditions
    return wing_propulsion(complete.craft, wing, conditions.altitude_m, conditions.air_temperature_c, answer.factor)
