"""The schools of joining cells: what a joint resists and weighs, what it is good for, and what to be careful about."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.documents import Joint, PackRecipe, Strip, Underlay
from wise_cellar.core.physics.conductor import METALS, SURFACE_WRAPPED, Conductor

USUAL_WELDS = 4
BRAID_COPPER = 0.5
"""Copper in the cross-section of a pressed braid; the rest is air."""


@dataclass(frozen=True)
class School:
    """One way to join: per joint, ohms and grams; estimates for careful work."""

    joint_ohm: float
    joint_g: float
    good_for: str
    caution: str


SCHOOLS = {
    Joint.SPOT_WELD: School(
        0.2e-3,
        0.0,
        "Nickel and plated steel, any number of cells; little heat in the cell, and hard to take apart.",
        "Before you weld: cover the end you are not working on. A strip across a bare end is a short.",
    ),
    Joint.SOLDERED: School(
        0.15e-3,
        0.15,
        "Copper and thick strips, low resistance, no welder needed; every joint heats a cell.",
        "Soldering heats the seal of the cell. Use a hot, heavy tip, two seconds at most, and let it cool.",
    ),
    Joint.SPRING_HOLDER: School(
        15e-3,
        0.0,
        "Bench tests and cells that are swapped; a flight at a few amps at most.",
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
    return Conductor(tuple(parts), length_mm * 1e-3, 2 * (width + thickness), SURFACE_WRAPPED)
