"""What to be careful about while a pack is built, said where the risk is, with the numbers of the pack at hand."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.cells import electrical
from wise_cellar.core.documents import FormFactor, Joint, StripMetal, Underlay
from wise_cellar.core.pack.joining import SCHOOLS, THICK_STRIP_MM
from wise_cellar.core.pack.ledger import PackBuild
from wise_cellar.core.units import TOLD, format_amps, format_volts

WITHIN_MV, APART_V = 20, 0.6
"""How alike cells of one group rest when they are joined, and an example of cells that do not."""

AFTER_A_CRASH = (
    "After a crash, water or a dent: outdoors, an hour's watch, no charging. Dented, wet or swollen packs are not used"
    " again."
)
STAY_WITH_IT = "Stay with it, on a ground that cannot burn, away from what can."
"""While a pack is charged, wherever that is told."""


@dataclass(frozen=True)
class Advice:
    """A sentence or two; ``care`` where there is a risk that the recipe itself chose."""

    sentence: str
    care: bool = False


def joining_advice(build: PackBuild) -> tuple[Advice, ...]:
    """Of strips and joints; none of a pack bought whole, which nobody opens."""
    recipe, cell = build.recipe, build.cell
    if cell.whole_pack:
        return (
            Advice(
                "A pack bought whole is not opened or re-joined; strips, joints and layout here do not apply to it."
            ),
        )
    found = []
    if cell.form_factor is not FormFactor.POUCH:
        found.append(
            Advice(
                "Put an insulating ring on every positive end before any strip: the rim round it is negative. Keep the"
                " vent holes free, and no strip wider than the ring."
            )
        )
    if recipe.parallel_count > 1:
        amps = APART_V / (2 * electrical(cell)["r0_ohm"])
        found.append(
            Advice(
                f"Only cells of one kind, age and use, within {WITHIN_MV} mV of each other: two of these"
                f" {format_volts(APART_V, TOLD)} apart drive {format_amps(amps, 0)} through each other"
                " when you join them."
            )
        )
    found.append(Advice(SCHOOLS[recipe.joint].caution, care=True))
    strip = recipe.strip
    thick = strip.thickness_mm > THICK_STRIP_MM or strip.layers > 1 or strip.underlay is not Underlay.NONE
    if recipe.joint is Joint.SPOT_WELD and (thick or strip.metal is StripMetal.COPPER):
        found.append(
            Advice(
                "Weld layer by layer, and pull one test joint until the strip tears, not the weld. Small welders do not"
                " hold copper to a can.",
                care=True,
            )
        )
    return tuple(found)


LEADS = (
    Advice(
        "Cut and insulate one lead at a time. Red is positive on both halves of a plug; check with a meter before the"
        " craft sees it."
    ),
    Advice(
        "A tap for every node, numbered in the drawing, goes to the balance plug in that order. Check each with a meter"
        " before the plug meets a charger.",
        care=True,
    ),
)
FITTINGS = (
    Advice("Cover the face you are not working on: one loose strip is a short circuit. Rings, watch and tools off the"
           " bench.", care=True),
    Advice(AFTER_A_CRASH, care=True),
)  # fmt: skip
BAY = (Advice("A pack over an antenna or a GPS spoils both: keep that part of the bay free.", care=True),)
LABEL = (
    Advice(
        "Many carriers ask first above 100 Wh a pack and take none above 160 Wh. A home-built pack has no transport"
        " test: ask before you carry or post it. At a third of charge, plugs covered; a damaged pack does not travel."
        " Rules are local: check yours.",
        care=True,
    ),
)
