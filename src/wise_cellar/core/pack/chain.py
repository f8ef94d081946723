"""The chain: every link from cell to ESC, its current at cruise and at punch, each against its limit."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from wise_cellar.core.documents import Craft
from wise_cellar.core.pack.heat import PackCurrents
from wise_cellar.core.pack.interconnect import Interconnect
from wise_cellar.core.pack.layout import RunKind
from wise_cellar.core.pack.ledger import PackBuild
from wise_cellar.core.pack.rating import StripSort, hottest, leads_are_judged, strip_sorts
from wise_cellar.core.physics.conductor import LEAD_RISE_K, STRIP_RISE_K, Heating


class LinkKind(StrEnum):
    """What a link is, for whoever looks for a change that clears it."""

    CELL = "cell"
    GROUP = "group"
    STRIP = "strip"
    BUS = "bus"
    LEAD = "lead"
    CONNECTOR = "connector"
    CRAFT = "craft"


@dataclass(frozen=True)
class Link:
    """One link: currents and limits in amps through *it*, and the field that governs it."""

    name: str
    kind: LinkKind
    cruise_a: float
    punch_a: float
    cruise_limit_a: float
    punch_limit_a: float
    """Current allowed for the length of the punch; 0 where cruise alone is too much."""
    punch_share: float
    """Punch over its limit; for metal the square root of heating over heating allowed."""
    field: str
    rises_k: tuple[float, float] | None = None
    """Kelvin above what lies around it, of metal: at cruise for good, and at the end of the punch."""
    allowed_s: float | None = None
    """How long the punch may last after cruise, of metal; infinite where for good."""
    words: str = ""
    """What else there is to say: the shares of a group."""
    nodes: tuple[int, ...] = ()
    """Of strips: the nodes that carry it, from the worst down."""
    pack: int | None = None
    """Which of the packs on the bus it belongs to, the recipe's first; none of the craft's own links."""

    @property
    def cruise_share(self) -> float:
        """Cruise current over its limit."""
        return self.cruise_a / self.cruise_limit_a

    @property
    def worst_share(self) -> float:
        """The greater share."""
        return max(self.cruise_share, self.punch_share)


@dataclass(frozen=True)
class _Currents(PackCurrents):
    """The pack's currents, and links made of them."""

    def metal(
        self, name: str, kind: LinkKind, heating: Heating, rise_k: float, field: str, share: float = 1.0,
        nodes: tuple[int, ...] = (),
    ) -> Link:  # fmt: skip
        """A link that its own heat limits, carrying ``share`` of the pack's current."""
        cruise, punch = self.cruise_a * share, self.punch_a * share
        rise = heating.pulse_rise_k(punch, self.punch_s, cruise)
        return Link(
            name, kind, cruise, punch, heating.rated_current_a(rise_k),
            heating.pulse_current_a(rise_k, self.punch_s, cruise), math.sqrt(rise / rise_k), field,
            rises_k=(heating.steady_rise_k(cruise), rise), allowed_s=heating.allowed_s(rise_k, punch, cruise),
            nodes=nodes,
        )  # fmt: skip

    def rated(
        self, name: str, kind: LinkKind, share: float, limit: float, field: str, punch_limit: float | None = None,
        words: str = "",
    ) -> Link:  # fmt: skip
        """A link that a rating limits."""
        allowed = punch_limit or limit
        punch = self.punch_a * share
        return Link(name, kind, self.cruise_a * share, punch, limit, allowed, punch / allowed, field, words=words)


def pack_links(build: PackBuild, given: PackCurrents) -> tuple[Link, ...]:
    """Links from the cell to the connector for the pack's currents.

    Strips: the current that warms them by 30 K, leads and connector by 40 K; at a punch the current that does so in
    the length of a punch after cruise, by their own heat capacity. Cells: their ratings; the pulse rating at a punch
    where there is one. The cell is the one that carries most of its group. Source: `pack/rating.py`; the allowed rises
    are our estimates. Not modelled: a bundle of leads that warm each other.
    """
    currents = _Currents(given.cruise_a, given.punch_a, given.punch_s)
    cell, parallel = build.cell, build.recipe.parallel_count
    field = "cell.continuous_current_a" if cell.continuous_current_a is not None else "cell.c_rating"
    links = [
        currents.rated(
            "Cell",
            LinkKind.CELL,
            build.worst_share / parallel,
            cell.limit_current_a,
            field,
            cell.limit_for(given.punch_s),
        )
    ]
    if build.interconnect is not None:
        if parallel > 1:
            links.append(_group(build, build.interconnect, currents))
        links += _strips(build, build.interconnect, currents)
    return (*links, *_outwards(build, currents))


def craft_links(craft: Craft, given: PackCurrents) -> tuple[Link, ...]:
    """ESC and motor, by their ratings, for the current of all packs together, shared alike by all rotors.

    Source: the ratings as given; a burst is held to the same. Not modelled: that one rotor of a turn takes more.
    """
    currents = _Currents(given.cruise_a, given.punch_a, given.punch_s)
    share = 1 / craft.rotors.count
    return (
        currents.rated("ESC", LinkKind.CRAFT, share, craft.esc.max_current_a, "craft.esc.max_current_a"),
        currents.rated("Motor", LinkKind.CRAFT, share, craft.motor.max_current_a, "craft.motor.max_current_a"),
    )


def _group(build: PackBuild, circuit: Interconnect, currents: _Currents) -> Link:
    """The whole group against what it could give, were it not for the cell that carries most."""
    cell, parallel = build.cell, build.recipe.parallel_count
    low, high = (round(100 * share / parallel) for share in (circuit.shares.min(), circuit.shares.max()))
    words = f"each {low} %" if low == high else f"shares {low} … {high} %"
    able = parallel / circuit.worst_share
    return currents.rated(
        f"Group of {parallel}", LinkKind.GROUP, 1.0, able * cell.limit_current_a, "recipe.parallel_count",
        able * cell.limit_for(currents.punch_s), words,
    )  # fmt: skip


def _strips(build: PackBuild, circuit: Interconnect, currents: _Currents) -> list[Link]:
    """The worst strip between groups, the worst within a group, and any wire that bridges what strips cannot."""
    sorts = strip_sorts(build.layout, build.recipe.series_count)
    found = [
        _worst(build, circuit, currents, sorts[sort], LinkKind.BUS if sort is StripSort.END else LinkKind.STRIP)
        for sort in StripSort
        if sort in sorts
    ]
    # A bar within an inner group is of interest only where it carries more than the strips between them.
    ties = [link for link in found if link.name.startswith("Bar")]
    links = [link for link in found if link.name.startswith("Strip")]
    if ties and links and ties[0].worst_share <= links[0].worst_share:
        found.remove(ties[0])
    return found


def _worst(build: PackBuild, circuit: Interconnect, currents: _Currents, runs: Sequence[int], kind: LinkKind) -> Link:
    """The run that warms most, named by its node; the nodes of all that warm nearly as much, worst first."""
    heat = {place: circuit.conductors[place].heating.rise_k_a2 * float(circuit.run_a[place]) ** 2 for place in runs}
    worst = int(hottest(circuit.conductors, circuit.run_a[None], runs)[0])
    run = build.layout.strips[worst]
    by_node: dict[int, float] = {}
    for place, rise in heat.items():
        node = build.layout.strips[place].node
        by_node[node] = max(by_node.get(node, 0.0), rise)
    nodes = tuple(sorted(by_node, key=lambda node: (-round(by_node[node], 9), node)))
    alike = len(nodes) > 1 and min(by_node.values()) > 0.98 * heat[worst]
    share = abs(float(circuit.run_a[worst]))
    name = _name(run.node, run.kind, kind, alike, build.recipe.series_count)
    field = "recipe.leads.gauge_awg" if run.kind is RunKind.WIRE else "recipe.strip.layers"
    return currents.metal(name, kind, circuit.conductors[worst].heating, STRIP_RISE_K, field, max(share, 1e-12), nodes)


def _name(node: int, run: RunKind, kind: LinkKind, alike: bool, series: int) -> str:
    if run is RunKind.WIRE:
        return f"Bridging wire at {node}"
    if kind is LinkKind.BUS:
        return "Bus at −" if node == 0 else "Bus at +" if node == series else f"Bus at {node}"
    if run is RunKind.TIE:
        return f"Bar at {node}"
    return "Strips between groups" if alike else f"Strip {node}–{node + 1}"


def _outwards(build: PackBuild, currents: _Currents) -> list[Link]:
    """Leads and connector."""
    gauge, connector = build.recipe.leads.gauge_awg, build.recipe.leads.connector
    links = []
    if leads_are_judged(build):
        links.append(
            currents.metal(f"Lead, {gauge} AWG", LinkKind.LEAD, build.lead.heating, LEAD_RISE_K,
                           "recipe.leads.gauge_awg")
        )  # fmt: skip
    return [
        *links,
        currents.metal(f"Connector, {connector}", LinkKind.CONNECTOR, build.connector.heating, LEAD_RISE_K,
                       "recipe.leads.connector"),
    ]  # fmt: skip
