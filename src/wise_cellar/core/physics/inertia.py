"""Inertia of a multirotor: motors as points on their arms, the rest as a box, the pack as a box where it lies."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.physics.arrays import Floats


@dataclass(frozen=True)
class Frame:
    """A craft without its pack, SI: motors evenly round a circle, and a box in their middle."""

    arms: int
    rotors: int
    arm_m: float
    motor_kg: float
    """Of one motor with its propeller."""
    rest_kg: float
    box_m: tuple[float, float, float]
    """Of the rest, along, across and up."""


def arm_m(spacing_m: float, arms: int) -> float:
    """From the middle to a motor whose neighbour is ``spacing_m`` away on a regular polygon: a/(2·sin(π/n)).

    Source: geometry of the regular polygon.
    """
    return spacing_m / (2 * math.sin(math.pi / max(arms, 2)))


def box_inertia(mass_kg: Floats, along_m: Floats, across_m: Floats, up_m: Floats) -> Floats:
    """Of an even box about its own middle, kg·m²: about its length (roll), its width (pitch), upright (yaw).

    m·(b² + c²)/12; kg and m of shape ``(packs,)``, the result ``(3, packs)``. Source: Meriam & Kraige, *Engineering
    Mechanics: Dynamics* (7th ed.), table D/4.
    """
    a, b, c = along_m**2, across_m**2, up_m**2
    return np.asarray([mass_kg * (b + c), mass_kg * (a + c), mass_kg * (a + b)]) / 12


TILT = np.array([[1.0], [1.0], [0.0]])
"""What lies above or below the middle counts about roll and pitch, not about yaw."""


def craft_inertia(frame: Frame, pack_kg: Floats, size_m: tuple[Floats, Floats, Floats], above_m: float = 0.0) -> Floats:
    """About roll, pitch and yaw through the common centre of mass, kg·m², ``(3, packs)``.

    ``pack_kg`` and ``size_m`` along, across and up of shape ``(packs,)``, ``above_m`` their middle over the propellers'
    plane. Motors: N·m·L²/2 about roll and pitch, N·m·L² about yaw. Source: Huygens' and Steiner's theorem (Meriam &
    Kraige, appendix B). Not modelled: a pack ahead of the middle, arms' own mass, which counts with the rest.
    """
    circle = frame.rotors * frame.motor_kg * frame.arm_m**2
    motors = np.array([[circle / 2], [circle / 2], [circle]])
    rest = box_inertia(np.array([frame.rest_kg]), *(np.array([side]) for side in frame.box_m))
    craft_kg = frame.rotors * frame.motor_kg + frame.rest_kg
    apart = craft_kg * pack_kg / (craft_kg + pack_kg) * above_m**2
    return np.asarray(motors + rest + box_inertia(pack_kg, *size_m) + TILT * apart)
