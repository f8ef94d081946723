"""Changes to a recipe that a builder would think of: those that spare a link, and those that save grams or ohms."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import (
    MOST_PARALLEL,
    ConnectorClass,
    Joint,
    LeadExit,
    NodeLayers,
    PackRecipe,
    StripMetal,
    Underlay,
)
from wise_cellar.core.pack import Link, LinkKind
from wise_cellar.core.pack.ledger import FUSES_A
from wise_cellar.core.units import TOLD, format_amps, format_mm, format_section

CLEAR = 0.85
"""A link under this share of its limit needs no change."""
MOST_LAYERS, THICKEST_AWG = 4, 4
MORE_WELDS = (6, 8, 12, 16)
_ORDINALS = {2: "second", 3: "third", 4: "fourth", 5: "fifth", 6: "sixth"}


class Target(StrEnum):
    """What a proposal is for."""

    LINK = "spares a link"
    MINUTES = "less resistance"
    GRAMS = "less mass"


@dataclass(frozen=True)
class Proposal:
    """One change, in words that stand after "Take" or alone, and the recipe it leads to."""

    words: str
    recipe: PackRecipe
    target: Target
    link: str = ""
    """Name of the link that it is to spare."""


def proposals(recipe: PackRecipe, answer: Answer) -> tuple[Proposal, ...]:
    """Everything worth flying for this recipe, duplicates aside."""
    found = [*_sparing(recipe, answer), *_improving(recipe, answer)]
    seen: set[PackRecipe] = {recipe}
    kept = []
    for proposal in found:
        if proposal.recipe not in seen:
            seen.add(proposal.recipe)
            kept.append(proposal)
    return tuple(kept)


def _changed(recipe: PackRecipe, part: str = "", **changes: Any) -> PackRecipe:
    if not part:
        return recipe.changed(**changes)
    return recipe.changed(**({part: getattr(recipe, part).changed(**changes)}))


def _sparing(recipe: PackRecipe, answer: Answer) -> Iterator[Proposal]:
    for link in answer.recipe_links:
        if link.worst_share <= CLEAR:
            continue
        if link.kind in (LinkKind.STRIP, LinkKind.BUS):
            yield from _for_strips(recipe, link)
        elif link.kind is LinkKind.LEAD:
            yield from _for_leads(recipe, link)
        elif link.kind is LinkKind.CONNECTOR:
            yield from _for_connector(recipe, link)
        elif link.kind is LinkKind.JOINT:
            yield from _for_joints(recipe, link)
        elif link.kind is LinkKind.FUSE:
            yield from _for_fuse(recipe, link)
        elif link.kind in (LinkKind.CELL, LinkKind.GROUP):
            yield from _for_cells(recipe, link)


def _for_strips(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    """More layers on the worst links, worst first, and on all; copper under all; leads elsewhere for a bus."""
    for count in range(1, len(link.nodes) + 1):
        for more in range(1, MOST_LAYERS):
            yield from _more_layers(recipe, link, link.nodes[:count], more)
    for more in (1, 2):
        layers = recipe.strip.layers + more
        if layers <= MOST_LAYERS:
            words = f"{_ORDINALS[layers].capitalize()} strip layer everywhere"
            stronger = tuple(each for each in recipe.more_layers if each.layers > layers)
            heavier = _changed(_changed(recipe, "strip", layers=layers), more_layers=stronger)
            yield Proposal(words, heavier, Target.LINK, link.name)
    for proposal in _copper(recipe):
        yield Proposal(proposal.words, proposal.recipe, Target.LINK, link.name)
    if link.kind is LinkKind.BUS:
        for exit_ in LeadExit:
            moved = _changed(recipe, "leads", exit=exit_)
            yield Proposal(f"Leads at {exit_}", moved, Target.LINK, link.name)


def _more_layers(recipe: PackRecipe, link: Link, nodes: tuple[int, ...], more: int) -> Iterator[Proposal]:
    layers = max(recipe.layers_at(node) for node in nodes) + more
    if layers > MOST_LAYERS:
        return
    others = tuple(each for each in recipe.more_layers if each.node not in nodes)
    added = tuple(NodeLayers(node=node, layers=layers) for node in sorted(nodes))
    where = ", ".join(str(node) for node in sorted(nodes)[:-1])
    where = f"links {where} and {max(nodes)}" if where else f"link {nodes[0]}"
    words = f"{_ORDINALS[layers].capitalize()} strip layer on {where}"
    merged = tuple(sorted((*others, *added), key=lambda each: each.node))
    yield Proposal(words, _changed(recipe, more_layers=merged), Target.LINK, link.name)


def _copper(recipe: PackRecipe) -> Iterator[Proposal]:
    strip = recipe.strip
    if strip.underlay is not Underlay.NONE or strip.metal is StripMetal.COPPER or recipe.joint is Joint.SPRING_HOLDER:
        return
    for thickness in (0.1, 0.2, 0.3):
        words = f"Copper strip of {format_section(strip.width_mm, thickness)} under the {strip.metal}"
        under = _changed(recipe, "strip", underlay=Underlay.STRIP, underlay_width_mm=strip.width_mm,
                         underlay_thickness_mm=thickness)  # fmt: skip
        yield Proposal(words, under, Target.MINUTES)


def _for_leads(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    gauge = recipe.leads.gauge_awg
    for thicker in range(gauge - 1, max(gauge - 9, THICKEST_AWG - 1), -1):
        words = f"Leads of {thicker} AWG"
        yield Proposal(words, _changed(recipe, "leads", gauge_awg=thicker), Target.LINK, link.name)


def _for_connector(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    if recipe.leads.wear > 1:
        yield Proposal("A new connector of its class", _changed(recipe, "leads", wear=1.0), Target.LINK, link.name)
    classes = list(ConnectorClass)
    for larger in classes[classes.index(recipe.leads.connector) + 1 :]:
        words = f"Connector of the {larger}"
        yield Proposal(words, _changed(recipe, "leads", connector=larger), Target.LINK, link.name)


def _for_joints(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    """More spots of a weld, welds for springs, more cells to share the current."""
    if recipe.joint is Joint.SPRING_HOLDER:
        words = "Spot-welded strips instead of springs"
        yield Proposal(words, _changed(recipe, joint=Joint.SPOT_WELD), Target.LINK, link.name)
    elif recipe.joint is Joint.SPOT_WELD and recipe.joint_limit_a is None:
        for welds in MORE_WELDS:
            if welds > recipe.welds:
                words = f"{welds} welds at each end"
                yield Proposal(words, _changed(recipe, welds=welds), Target.LINK, link.name)
    yield from _more_cells(recipe, link)


def _for_fuse(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    for amps in FUSES_A:
        if recipe.leads.fuse_a is not None and amps > recipe.leads.fuse_a:
            yield Proposal(
                f"Fuse of {format_amps(amps, TOLD)}", _changed(recipe, "leads", fuse_a=amps), Target.LINK, link.name
            )


def _more_cells(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    for more in (1, 2, 3):
        count = recipe.parallel_count + more
        if count <= MOST_PARALLEL:
            yield Proposal(f"{count} cells in parallel", _changed(recipe, parallel_count=count), Target.LINK, link.name)


def _for_cells(recipe: PackRecipe, link: Link) -> Iterator[Proposal]:
    yield from _more_cells(recipe, link)
    for exit_ in LeadExit:
        yield Proposal(f"Leads at {exit_}", _changed(recipe, "leads", exit=exit_), Target.LINK, link.name)


def _improving(recipe: PackRecipe, answer: Answer) -> Iterator[Proposal]:
    """What lowers resistance, and what lowers mass, one step each way."""
    leads, strip = recipe.leads, recipe.strip
    wired = answer.build.interconnect is not None
    for step, target in ((-2, Target.MINUTES), (2, Target.GRAMS)):
        if 4 <= leads.gauge_awg + step <= 26:
            words = f"Leads of {leads.gauge_awg + step} AWG"
            yield Proposal(words, _changed(recipe, "leads", gauge_awg=leads.gauge_awg + step), target)
    if leads.length_mm > 60:
        half = max(round(leads.length_mm / 2, -1), 40)
        for shorter in (half, leads.length_mm - 40) if half < leads.length_mm - 80 else (half,):
            words = f"Leads of {format_mm(shorter)}, if they still reach"
            yield Proposal(words, _changed(recipe, "leads", length_mm=shorter), Target.GRAMS)
    if leads.adaptors:
        yield Proposal("No adaptor in line", _changed(recipe, "leads", adaptors=0), Target.GRAMS)
    if not wired:
        return
    if strip.layers < MOST_LAYERS:
        words = f"{_ORDINALS[strip.layers + 1].capitalize()} strip layer everywhere"
        yield Proposal(words, _changed(recipe, "strip", layers=strip.layers + 1), Target.MINUTES)
    if strip.layers > 1:
        yield Proposal("One strip layer less", _changed(recipe, "strip", layers=strip.layers - 1), Target.GRAMS)
    yield from _copper(recipe)
    for exit_ in LeadExit:
        yield Proposal(f"Leads at {exit_}", _changed(recipe, "leads", exit=exit_), Target.MINUTES)
    if recipe.joint is Joint.SPRING_HOLDER:
        words = "Spot-welded strips instead of springs"
        yield Proposal(words, _changed(recipe, joint=Joint.SPOT_WELD), Target.MINUTES)
    if recipe.joint is Joint.SPOT_WELD and recipe.welds < 8 and recipe.joint_mohm is None:
        yield Proposal("Eight welds at each end", _changed(recipe, welds=8), Target.MINUTES)
