"""What a current sensor tells, and what flowed: its scale from the charge put back, its offset on the ground.

With what is drawn on the ground known, i₀ = P/V of the loads that always run, two things are told: told₀ = s·i₀ + o,
and ∫told = s·Q + o·T with Q the charge that came back, less what charging loses. So s = (∫told − told₀·T)/(Q − i₀·T).
Source: PHYSICS.md, "Learning from a recording"; not modelled: a sensor whose scale changes with its warmth.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.units import format_amps, format_number

COULOMBIC = 0.995
"""Of what a charger puts in so much stays."""
RETURNED_DOUBT = 0.004
"""Of the charger's own count, one standard deviation: an estimate."""
LEAST_GROUND_ROWS = 5
WITHIN_A = 0.4
"""Of the middle of what is told on the ground: more is something that was switched on."""
SLIGHT_A = 0.05
LEAST_SCALE, MOST_SCALE = 0.7, 1.4


@dataclass(frozen=True)
class AmpsSensor:
    """It tells ``scale`` times what flows, and ``offset_a`` more."""

    scale: float
    offset_a: float
    scale_doubt: float
    """One standard deviation, share of one."""

    def words(self) -> str:
        """What it tells, in a sentence."""
        if abs(self.scale - 1) < 2 * self.scale_doubt and abs(self.offset_a) < SLIGHT_A:
            return f"The current sensor is right within its doubt (± {format_number(100 * self.scale_doubt, 1)} %)."
        high = "more" if self.scale > 1 else "less"
        return (
            f"The current sensor tells {format_number(100 * abs(self.scale - 1), 1)} % {high} than flows, and"
            f" {format_amps(self.offset_a, 2)} when nothing does (± {format_number(100 * self.scale_doubt, 1)} %)."
        )


def amps_sensor(log: FlightLog, returned_mah: float, ground_w: float, ground: tuple[float, float] | None) -> AmpsSensor:
    """The sensor of a whole log, from power-up to the end, after which the charger put back ``returned_mah``.

    ``ground_w`` is what runs on the ground, ``ground`` when it stood there; none: its offset is taken as nought. Raises
    :class:`DocumentError` where the two charges cannot be of one flight.
    """
    flowed_c = 3.6 * returned_mah * COULOMBIC
    lasted_s = float(log.time_s[-1])
    told_c = 3.6 * log.drawn_mah()
    offset, idle_a, told_a = 0.0, 0.0, 0.0
    still = log.between(*ground) if ground is not None else None
    if still is not None and len(still) >= LEAST_GROUND_ROWS:
        near = np.abs(still.amps - np.median(still.amps)) < WITHIN_A
        told_a = float(still.amps[near].mean())
        idle_a = ground_w / float(still.volts[near].mean())
    scale = (told_c - told_a * lasted_s) / (flowed_c - idle_a * lasted_s)
    if not LEAST_SCALE < scale < MOST_SCALE:
        raise DocumentError(
            f"The sensor counted {format_number(told_c / 3.6, 0)} mAh and the charger put back"
            f" {format_number(returned_mah, 0)}: they are hardly of one flight. Did it start full?"
        )
    if idle_a:
        offset = told_a - scale * idle_a
    return AmpsSensor(scale, offset, RETURNED_DOUBT * flowed_c / max(flowed_c - idle_a * lasted_s, 1.0))


def put_right(log: FlightLog, sensor: AmpsSensor) -> FlightLog:
    """The log with the amps that flowed."""
    return replace(log, amps=(log.amps - sensor.offset_a) / sensor.scale)
