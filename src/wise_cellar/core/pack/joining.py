"""The schools of joining cells: what a joint resists and weighs, what it is good for, and what to be careful about."""

from __future__ import annotations

import math
from dataclasses import dataclass

from wise_cellar.core.documents import Joint, PackRecipe, Strip, Underlay
from wise_cellar.core.physics.conductor import LEAD_RISE_K, METALS, SURFACE_WRAPPED, Conductor, Heating

USUAL_WELDS = 4
THICK_STRIP_MM, THICK_COPPER_MM = 0.2, 0.2
"""Nickel or steel over which a small welder does not weld through, and copper from which on it draws too much heat from
an iron: estimates of the craft."""
WELD_SPOT_A = 8.0
"""What one spot of a weld carries, A: an estimate of the craft."""
SPRING_A, SPRING_BURST_S = 4.0, 3.0
"""What a spring contact carries for good, A, and for how long twice that: an estimate of the craft."""
SPRING_TIME_S = SPRING_BURST_S / math.log(4 / 3)
"""Time constant of a contact that twice its current warms in these seconds as its current does for good:
4·(1 − exp(−t/τ)) = 1."""
BRAID_COPPER = 0.5
"""Copper in the cross-section of a pressed braid; the rest is air."""


@dataclass(frozen=True)
class School:
    """One way to join: per joint, ohms and grams; estimates for careful work."""

    joint_ohm: float
    joint_g: float
    heat: str
    tools: str
    apart: str
    """Whether it can be taken apart again."""
    caution: str


SCHOOLS = {
    Joint.SPOT_WELD: School(
        0.2e-3,
        0.0,
        "little heat in the cell",
        "a welder, nickel or plated steel",
        "hard to take apart",
        "Before you weld: cover the end you are not working on. A strip across a bare end is a short.",
    ),
    Joint.SOLDERED: School(
        0.15e-3,
        0.15,
        "much heat at the seal",
        "a hot, heavy iron, copper too",
        "taken apart with heat again",
        "Tin cell and strip apart; if it does not flow in two seconds, stop and let it cool. Never on a pouch's face:"
        " heat opens the seal.",
    ),
    Joint.SPRING_HOLDER: School(
        15e-3,
        0.0,
        "no heat",
        "no tools, a few amps at most",
        "taken apart by hand",
        "Springs resist much and let go in a hard landing: keep them for the bench.",
    ),
}


def joint_ohm(recipe: PackRecipe) -> float:
    """One joint of a strip and a cell end, ohms: as measured, else by the school; welds share the current.

    R = R_usual·4/welds. Source: our estimates for each way of joining. Not modelled: constriction in the can, ageing.
    """
    if recipe.joint_mohm is not None:
        return recipe.joint_mohm * 1e-3
    usual = SCHOOLS[recipe.joint].joint_ohm
    return usual * USUAL_WELDS / recipe.welds if recipe.joint is Joint.SPOT_WELD else usual


@dataclass(frozen=True)
class JointLimit:
    """What the joints at one end of a cell carry: amps for good, and how they warm where that allows more for a
    moment."""

    amps: float
    heating: Heating | None


def joint_limit(recipe: PackRecipe) -> JointLimit | None:
    """Of springs, welds, and of solder where the recipe says a limit; A through one end of one cell.

    Source: the recipe's own figure, else 4 A a spring (8 A for 3 s) and 8 A a weld spot, estimates of the craft. Not
    modelled: how well a weld took.
    """
    own = recipe.joint_limit_a
    if recipe.joint is Joint.SPRING_HOLDER:
        amps = own or SPRING_A
        return JointLimit(amps, Heating(LEAD_RISE_K / amps**2, SPRING_TIME_S))
    if recipe.joint is Joint.SPOT_WELD:
        return JointLimit(own or WELD_SPOT_A * recipe.welds, None)
    return JointLimit(own, None) if own is not None else None


def strip_conductor(strip: Strip, layers: int, length_mm: float) -> Conductor:
    """Strip of ``layers`` with the copper under it, wrapped, over a length.

    Metals side by side share the current by their conductance. Source: ``METALS``; a braid is half air, our estimate.
    Not modelled: the contact between layers.
    """
    width, thickness = strip.width_mm * 1e-3, strip.thickness_mm * layers * 1e-3
    parts = [(METALS[strip.metal], width * thickness)]
    if strip.underlay is not Underlay.NONE:
        fill = BRAID_COPPER if strip.underlay is Underlay.BRAID else 1.0
        copper = strip.underlay_width_mm * strip.underlay_thickness_mm * 1e-6
        parts.append((METALS["copper"], copper * fill))
        width, thickness = max(width, strip.underlay_width_mm * 1e-3), thickness + strip.underlay_thickness_mm * 1e-3
    return Conductor(tuple(parts), length_mm * 1e-3, 2 * (width + thickness), SURFACE_WRAPPED, between_cells=True)
