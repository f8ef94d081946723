"""Whether the pack is fit to be built as its recipe has it: strips, insulation, joints, groups."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from wise_cellar.core.answer.limits import positive_end_mm
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.documents import (
    CompleteDesign,
    CompletePack,
    FormFactor,
    Joint,
    PackRecipe,
    StripMetal,
    Underlay,
    Welder,
)
from wise_cellar.core.lowering.packs import groups_of
from wise_cellar.core.pack import PackBuild
from wise_cellar.core.pack.joining import THICK_COPPER_MM, THICK_STRIP_MM
from wise_cellar.core.units import TOLD, format_mm, format_number
from wise_cellar.core.words import all_of, upper_first

UNLIKE_CAPACITY, UNLIKE_CHARGE = 0.05, 0.02
"""By how much groups must differ, in capacity and in charge, to be told as unlike."""


def build_findings(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Findings of every pack that is built, not bought whole."""
    for pack in answer.packs:
        if pack.complete.cell.whole_pack:
            continue
        for finding in _of_pack(pack.complete, pack.build):
            yield replace(finding, field=pack.complete.path(finding.field))


def _of_pack(pack: CompletePack, build: PackBuild) -> Iterator[Finding]:
    recipe = pack.recipe
    yield from _strip(build)
    yield from _insulation(recipe)
    if not recipe.balance.fitted and recipe.series_count > 1:
        yield over(
            f"No balance lead on {recipe.series_count} in series: nobody sees the group that is too full or too empty.",
            "recipe.balance.fitted",
        )
    if pack.cell.form_factor is FormFactor.POUCH:
        yield from _pouch(recipe)
    else:
        yield from _joint(recipe)
    yield from _groups(pack)


def _strip(build: PackBuild) -> Iterator[Finding]:
    cell, width = build.cell, build.recipe.strip.width_mm
    room = positive_end_mm(cell)
    if build.layout.strips and cell.form_factor.cylindrical and width > room:
        yield caution(
            f"A strip {format_mm(width, TOLD)} wide reaches over the insulating ring of a positive end, whose"
            f" rim is negative: {format_mm(room, 1)} is the most on this cell.",
            "recipe.strip.width_mm",
        )


def _insulation(recipe: PackRecipe) -> Iterator[Finding]:
    missing = [
        (words, field)
        for words, field, mm in (
            ("sheet over its faces", "recipe.fittings.end_sheet_mm", recipe.fittings.end_sheet_mm),
            ("sleeve", "recipe.fittings.shrink_mm", recipe.fittings.shrink_mm),
        )
        if mm == 0
    ]
    if missing:
        yield over(
            f"No {' and no '.join(words for words, _ in missing)}: put sheet on both faces and a sleeve over all, or a"
            " crash shorts it.",
            missing[0][1],
        )


def _joint(recipe: PackRecipe) -> Iterator[Finding]:
    strip, small = recipe.strip, recipe.welder is Welder.SMALL
    copper = strip.metal is StripMetal.COPPER
    if recipe.joint is Joint.SPOT_WELD and small and copper:
        yield over(
            "A small welder does not hold bare copper to a can: nickel or plated steel over it, a stronger welder, or"
            " solder.",
            "recipe.welder",
        )
    elif recipe.joint is Joint.SPOT_WELD and small and strip.thickness_mm > THICK_STRIP_MM:
        yield caution(
            f"A small welder does not weld {strip.metal} of {format_mm(strip.thickness_mm, TOLD)} through: layers of"
            f" {format_mm(THICK_STRIP_MM, TOLD)}, welded one by one, hold; pull one test joint until the strip"
            " tears, not the weld.",
            "recipe.strip.thickness_mm",
        )
    thick = max(
        strip.thickness_mm if copper else 0.0,
        strip.underlay_thickness_mm if strip.underlay is not Underlay.NONE else 0.0,
    )
    if recipe.joint is Joint.SOLDERED and thick >= THICK_COPPER_MM:
        yield caution(
            f"Copper of {format_mm(thick, TOLD)} draws the heat of the iron away, so that the cell is heated"
            " long before solder flows: thinner tabs to the cells, the copper along them.",
            "recipe.strip.thickness_mm" if copper else "recipe.strip.underlay_thickness_mm",
        )


def _pouch(recipe: PackRecipe) -> Iterator[Finding]:
    if recipe.joint is Joint.SPRING_HOLDER:
        yield over(
            "Springs press on a pouch, which has no can: its thin tabs are soldered at their tips, or clamped.",
            "recipe.joint",
        )
    elif recipe.joint is Joint.SPOT_WELD:
        yield over(
            "A spot welder burns through a pouch's tabs, one of which is thin aluminium: solder them at their tips.",
            "recipe.joint",
        )
    else:
        yield caution(
            "Solder a pouch at the tips of its tabs, never on its face or near its seal: heat opens it.",
            "recipe.joint",
        )


def _groups(pack: CompletePack) -> Iterator[Finding]:
    """Groups of other age or kind, or of other charge, than the rest."""
    groups = groups_of(pack.state, pack.recipe.series_count)
    best = max(group.capacity for group in groups)
    aged = sorted(member + 1 for group in groups if group.capacity < best - UNLIKE_CAPACITY for member in group.members)
    if aged:
        yield caution(
            f"{upper_first(_group_words(aged))} {'has' if len(aged) == 1 else 'have'} less capacity than the others:"
            " cells of one kind, age and use belong in one pack.",
            "state.groups",
        )
    charge = [pack.state.start_charge_percent / 100 if group.soc is None else group.soc for group in groups]
    if max(charge) - min(charge) > UNLIKE_CHARGE:
        yield caution(
            f"Groups start between {format_number(100 * min(charge), 0)} and"
            f" {format_number(100 * max(charge), 0)} % of charge: balance them before they fly.",
            "state.groups",
        )


def _group_words(numbers: list[int]) -> str:
    return f"group {numbers[0]}" if len(numbers) == 1 else f"groups {all_of([str(number) for number in numbers])}"
