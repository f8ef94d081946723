"""The chain: every link from cell to ESC, its current at cruise and at punch, each against its limit."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, replace
from enum import StrEnum

from wise_cellar.core.cells import burst_limit_a, lasting_limit_a, limit_field
from wise_cellar.core.documents import Craft, Joint
from wise_cellar.core.pack.heat import PackCurrents
from wise_cellar.core.pack.interconnect import Interconnect
from wise_cellar.core.pack.joining import joint_limit
from wise_cellar.core.pack.layout import RunKind
from wise_cellar.core.pack.ledger import PackBuild, fuse_heating
from wise_cellar.core.pack.rating import Carrier, hottest, leads_are_judged, strip_sorts
from wise_cellar.core.physics.conductor import LEAD_RISE_K, Heating, strip_rise_k
from wise_cellar.core.units import TOLD, format_amps

FLIGHT_MATTERS = 1.02
"""How many times a punch's share a flight's must be to be told in its place."""


class LinkKind(StrEnum):
    """What a link is, for whoever looks for a change that clears it."""

    CELL = "cell"
    GROUP = "group"
    STRIP = "strip"
    BUS = "bus"
    LEAD = "lead"
    CONNECTOR = "connector"
    JOINT = "joint"
    FUSE = "fuse"
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
    flown_share: float = 0.0
    """Of its limit, along the flight: metal by its heat, cells by bursts that last longer than they may."""
    flown_rise_k: float | None = None
    """Of metal: at its warmest along the flight."""
    rise_allowed_k: float | None = None
    held_a: float = 0.0
    """Of cells: the most that lasted longer than a burst may."""
    springs: bool = False
    """Whether it is spring contacts."""
    pack: int | None = None
    """Which of the packs on the bus it belongs to, the recipe's first; none of the craft's own links."""

    @property
    def cruise_share(self) -> float:
        """Cruise current over its limit."""
        return self.cruise_a / self.cruise_limit_a

    @property
    def by_flight(self) -> bool:
        """Whether the flight as a whole asks more of it than cruise and one punch do."""
        return self.flown_share > FLIGHT_MATTERS * max(self.cruise_share, self.punch_share)

    @property
    def worst_share(self) -> float:
        """The greatest share."""
        return max(self.cruise_share, self.punch_share, self.flown_share)


@dataclass(frozen=True)
class _Currents(PackCurrents):
    """The pack's currents, and links made of them."""

    def metal(
        self, name: str, kind: LinkKind, carrier: Carrier, heating: Heating, field: str, share: float = 1.0,
        nodes: tuple[int, ...] = (), most_a: float = math.inf,
    ) -> Link:  # fmt: skip
        """A link that its own heat limits, carrying ``share`` of the pack's current, in a burst ``most_a`` at most."""
        rise_k = float(strip_rise_k(self.cells_c)) if carrier < Carrier.LEAD else LEAD_RISE_K
        cruise, punch = self.cruise_a * share, self.punch_a * share
        rise = heating.pulse_rise_k(punch, self.punch_s, cruise)
        flown = heating.rise_k_a2 * share**2 * self.felt(carrier)
        allowed_s = heating.allowed_s(rise_k, punch, cruise)
        return Link(
            name, kind, cruise, punch, heating.rated_current_a(rise_k),
            min(heating.pulse_current_a(rise_k, self.punch_s, cruise), most_a),
            max(math.sqrt(rise / rise_k), punch / most_a), field,
            rises_k=(heating.steady_rise_k(cruise), rise), allowed_s=allowed_s if punch <= most_a else 0.0,
            nodes=nodes, flown_share=math.sqrt(flown / rise_k), flown_rise_k=flown, rise_allowed_k=rise_k,
        )  # fmt: skip

    def rated(
        self, name: str, kind: LinkKind, share: float, limit: float, field: str, punch_limit: float | None = None,
        words: str = "",
    ) -> Link:  # fmt: skip
        """A link that a rating limits; ``punch_limit`` for a burst that is short enough."""
        allowed = punch_limit or limit
        punch, held = self.punch_a * share, self.held_a * share if punch_limit is not None else 0.0
        return Link(
            name, kind, self.cruise_a * share, punch, limit, allowed, punch / allowed, field, words=words,
            flown_share=held / limit, held_a=held,
        )  # fmt: skip


def pack_links(build: PackBuild, given: PackCurrents) -> tuple[Link, ...]:
    """Links from the cell to the connector for the pack's currents.

    Strips: the current that warms them by 30 K over the cells, and to 75 °C at most; leads, connector, springs and
    fuse by 40 K. At a punch the current that does so in the length of a punch after cruise, by their own heat capacity;
    along the flight the greatest rise that the flown current made. Cells: their limits for good, in a burst, and in
    bursts longer than they may be. The cell is the one that carries most of its group. Source: `pack/rating.py`; the
    allowed rises are our estimates. Not modelled: a bundle of leads that warm each other.
    """
    currents = _Currents(*(getattr(given, each.name) for each in fields(PackCurrents)))
    cell, parallel = build.cell, build.recipe.parallel_count
    links = [
        currents.rated(
            "Cell",
            LinkKind.CELL,
            build.worst_share / parallel,
            lasting_limit_a(cell),
            limit_field(cell),
            burst_limit_a(cell, given.punch_s),
        )
    ]
    if build.interconnect is not None:
        if parallel > 1:
            links.append(_group(build, build.interconnect, currents))
        links += _strips(build, build.interconnect, currents)
        links += _joints(build, currents)
    return (*links, *_outwards(build, currents))


def craft_links(craft: Craft, given: PackCurrents) -> tuple[Link, ...]:
    """ESC and motor, by their ratings, for the current of all packs together, shared alike by all rotors.

    Source: the ratings as given; a burst is held to the same. Not modelled: that one rotor of a turn takes more.
    """
    currents = _Currents(*(getattr(given, each.name) for each in fields(PackCurrents)))
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
        f"Group of {parallel}", LinkKind.GROUP, 1.0, able * lasting_limit_a(cell), "recipe.parallel_count",
        able * burst_limit_a(cell, currents.punch_s), words,
    )  # fmt: skip


def _strips(build: PackBuild, circuit: Interconnect, currents: _Currents) -> list[Link]:
    """The worst strip between groups, the worst within a group, and any wire that bridges what strips cannot."""
    sorts = strip_sorts(build.layout, build.recipe.series_count)
    found = [_worst(build, circuit, currents, sort, sorts[sort]) for sort in Carrier if sort in sorts]
    # A bar within an inner group is of interest only where it carries more than the strips between them.
    ties = [link for link in found if link.name.startswith("Bar")]
    links = [link for link in found if link.name.startswith("Strip")]
    if ties and links and ties[0].worst_share <= links[0].worst_share:
        found.remove(ties[0])
    return found


def _joints(build: PackBuild, currents: _Currents) -> Iterator[Link]:
    """Welds or springs at one end of the cell that carries most."""
    recipe, limit = build.recipe, joint_limit(build.recipe)
    if limit is None:
        return
    share = build.worst_share / recipe.parallel_count
    if limit.heating is not None:
        springs = currents.metal("Springs", LinkKind.JOINT, Carrier.JOINT, limit.heating, "recipe.joint", share)
        yield replace(springs, springs=True, rises_k=None, flown_rise_k=None)
        return
    welded = recipe.joint is Joint.SPOT_WELD
    name, field = ("Welds on a cell end", "recipe.welds") if welded else ("Joint on a cell end", "recipe.joint_limit_a")
    yield currents.rated(name, LinkKind.JOINT, share, limit.amps, field)


def _worst(build: PackBuild, circuit: Interconnect, currents: _Currents, sort: Carrier, runs: Sequence[int]) -> Link:
    """The run that warms most, named by its node; the nodes of all that warm nearly as much, worst first."""
    kind = LinkKind.BUS if sort is Carrier.END else LinkKind.STRIP
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
    return currents.metal(name, kind, sort, circuit.conductors[worst].heating, field, max(share, 1e-12), nodes)


def _name(node: int, run: RunKind, kind: LinkKind, alike: bool, series: int) -> str:
    if run is RunKind.WIRE:
        return f"Bridging wire at {node}"
    if kind is LinkKind.BUS:
        return "Bus at −" if node == 0 else "Bus at +" if node == series else f"Bus at {node}"
    if run is RunKind.TIE:
        return f"Bar at {node}"
    return "Strips between groups" if alike else f"Strip {node}–{node + 1}"


def _outwards(build: PackBuild, currents: _Currents) -> list[Link]:
    """Leads, fuse and connector."""
    leads = build.recipe.leads
    links = []
    if leads_are_judged(build):
        links.append(
            currents.metal(f"Lead, {leads.gauge_awg} AWG", LinkKind.LEAD, Carrier.LEAD, build.lead.heating,
                           "recipe.leads.gauge_awg")
        )  # fmt: skip
    if leads.fuse_a is not None:
        heating, most_a = fuse_heating(leads.fuse_a)
        links.append(currents.metal(f"Fuse, {format_amps(leads.fuse_a, TOLD)}", LinkKind.FUSE, Carrier.FUSE, heating,
                                    "recipe.leads.fuse_a", most_a=most_a))  # fmt: skip
    return [
        *links,
        currents.metal(f"Connector, {leads.connector}", LinkKind.CONNECTOR, Carrier.CONNECTOR, build.connector.heating,
                       "recipe.leads.connector", most_a=build.connector.burst_a),
    ]  # fmt: skip
