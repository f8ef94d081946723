"""How near the links of packs come to their limits, for many packs and many currents at once.

What carries a pack's current besides its cells is a *carrier*: strips in their sorts, each by the run that warms most,
then lead, connector, joint and fuse. Each warms in its own time along a flight (:func:`felt`), and some have a most
that no burst may pass. Cells are judged by their limits, the one that carries most of its group.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from enum import IntEnum

import numpy as np

from wise_cellar.core.cells import burst_limit_a, inside_heating, lasting_limit_a
from wise_cellar.core.documents import CellType, PackRecipe
from wise_cellar.core.pack.joining import joint_limit
from wise_cellar.core.pack.layout import PackLayout, RunKind
from wise_cellar.core.pack.ledger import FUSES_A, Connector, PackBuild, fuse_heating
from wise_cellar.core.physics.arrays import FloatOrArray, Floats, Ints
from wise_cellar.core.physics.conductor import LEAD_RISE_K, Conductor, Heating, strip_rise_k, worst_shares


class Carrier(IntEnum):
    """What carries a pack's current; strips first."""

    BETWEEN = 0
    """From group to group."""
    WITHIN = 1
    """Along an inner group."""
    END = 2
    """At the two ends of the pack."""
    WIRE = 3
    """What bridges cells that no strip can join."""
    LEAD = 4
    CONNECTOR = 5
    JOINT = 6
    """At one end of the cell that carries most."""
    FUSE = 7
    INSIDE = 8
    """No link: the middle of the cell that carries most, as it warms over the cell."""


CLEAR_OF_OPENING = 0.9
"""Of its limit, so that a fuse does not open over a flight a little livelier than planned."""
STRIPS = slice(Carrier.BETWEEN, Carrier.LEAD)
LINKS = slice(Carrier.BETWEEN, Carrier.INSIDE)
OUTWARDS = [Carrier.LEAD, Carrier.CONNECTOR, Carrier.FUSE]


def strip_sorts(layout: PackLayout, series_count: int) -> dict[Carrier, list[int]]:
    """The runs of every sort that a layout has."""
    found: dict[Carrier, list[int]] = {}
    for place, run in enumerate(layout.strips):
        inner = 0 < run.node < series_count
        if run.kind is RunKind.WIRE:
            sort = Carrier.WIRE
        elif not inner:
            sort = Carrier.END
        else:
            sort = Carrier.BETWEEN if run.kind is RunKind.LINK else Carrier.WITHIN
        found.setdefault(sort, []).append(place)
    return found


def hottest(conductors: Sequence[Conductor], run_a: Floats, runs: Sequence[int]) -> Ints:
    """(packs,) Of some runs the one that warms most in each pack, by r·I² with ``run_a`` of shape ``(packs, runs)``."""
    rise = np.array([conductors[run].heating.rise_k_a2 for run in runs])
    return np.asarray(np.array(runs)[np.argmax(rise * run_a[:, runs] ** 2, axis=1)])


@dataclass(frozen=True)
class Carried:
    """What packs carry: ``(packs,)``, amps of the whole pack, and ``felt_a2`` of each carrier ``(packs, carriers)``."""

    cruise_a: Floats
    punch_a: Floats
    punch_s: float
    felt_a2: Floats
    """The greatest square along the flight, as each carrier feels it."""
    cells_c: Floats
    """The warmest cell."""


@dataclass(frozen=True)
class CarrierTable:
    """(packs, carriers) The share of the pack's current, 0 where there is no such carrier, how it warms, and the most
    that it may carry at all."""

    share: Floats
    rise_k_a2: Floats
    time_s: Floats
    most_a: Floats

    @classmethod
    def none(cls, packs: int) -> CarrierTable:
        """Of packs without any."""
        share, rise, time_s, most = np.zeros((4, packs, len(Carrier)))
        return cls(share, rise, time_s + 1.0, most + np.inf)

    def set(
        self, carrier: Carrier, share: FloatOrArray, heating: Heating | None, most_a: FloatOrArray = np.inf
    ) -> None:
        """One carrier of every pack."""
        self.share[:, carrier], self.most_a[:, carrier] = share, most_a
        if heating is not None:
            self.rise_k_a2[:, carrier], self.time_s[:, carrier] = heating.rise_k_a2, heating.time_constant_s

    def set_strips(self, layout: PackLayout, series: int, conductors: Sequence[Conductor], run_a: Floats) -> None:
        """Strips of packs of one layout, ``run_a`` of shape ``(packs, runs)`` for one ampere of each pack."""
        every = np.arange(len(run_a))
        for sort, runs in strip_sorts(layout, series).items():
            worst = hottest(conductors, run_a, runs)
            self.share[:, sort] = np.abs(run_a[every, worst])
            self.rise_k_a2[:, sort] = [conductors[run].heating.rise_k_a2 for run in worst.tolist()]
            self.time_s[:, sort] = [conductors[run].heating.time_constant_s for run in worst.tolist()]

    def set_joint(self, recipe: PackRecipe, worst_share: FloatOrArray) -> None:
        """The joints of packs joined as a recipe has it."""
        limit = joint_limit(recipe)
        if limit is not None:
            most = np.inf if limit.heating is not None else limit.amps
            self.set(Carrier.JOINT, worst_share / recipe.parallel_count, limit.heating, most)

    def set_outwards(self, recipe: PackRecipe) -> None:
        """Connector and fuse, which carry all of it."""
        connector = Connector.of(recipe.leads)
        self.set(Carrier.CONNECTOR, 1.0, connector.heating, connector.burst_a)
        fuse_a = recipe.leads.fuse_a
        self.set(Carrier.FUSE, float(fuse_a is not None), *fuse_heating(fuse_a or FUSES_A[0]))

    def set_inside(self, cell: CellType, share: FloatOrArray) -> None:
        """The middle of the cell that carries ``share`` of the pack's current."""
        self.set(Carrier.INSIDE, share, inside_heating(cell))

    def inside_c(self, carried: Carried) -> Floats:
        """(packs,) The middle of the warmest cell at its warmest, °C."""
        felt_a2 = self.share[:, Carrier.INSIDE] ** 2 * carried.felt_a2[:, Carrier.INSIDE]
        return np.asarray(carried.cells_c + self.rise_k_a2[:, Carrier.INSIDE] * felt_a2)

    def put(self, packs: Ints, other: CarrierTable) -> None:
        """Write another table's packs at places of this one."""
        for field in fields(self):
            getattr(self, field.name)[packs] = getattr(other, field.name)

    def take(self, packs: Ints) -> CarrierTable:
        """Those of some packs."""
        return CarrierTable(*(getattr(self, field.name)[packs] for field in fields(self)))

    def shares(self, carried: Carried) -> Floats:
        """(packs, links) Each over its limit, 1 = at it.

        Source: :func:`worst_shares` and the most of each. Not modelled: strips of one sort in their turn, only the one
        that warms most for good.
        """
        allowed = np.full(self.share.shape, LEAD_RISE_K)
        allowed[:, STRIPS] = strip_rise_k(carried.cells_c)[:, None]
        cruise, punch = self.share * carried.cruise_a[:, None], self.share * carried.punch_a[:, None]
        felt_a2 = self.share**2 * carried.felt_a2
        warm = worst_shares(self.rise_k_a2, self.time_s, allowed, cruise, punch, carried.punch_s, felt_a2)
        return np.asarray(np.maximum(warm, np.maximum(cruise, punch) / self.most_a))[:, LINKS]


def cell_share(
    worst_share: Floats, cruise_a: Floats, punch_a: Floats, held_a: Floats, limit_a: Floats, burst_a: Floats
) -> Floats:
    """How near the cell that carries ``worst_share`` of the mean comes to its limit, 1 = at it.

    Amps of the mean cell, at cruise and in bursts that last too long against what it may give for good, in a burst
    against what it may give for as long. Source: the cell's limits (`cells/limits.py`). Not modelled: a rating that
    falls with cold or age.
    """
    lasting = np.maximum(cruise_a, held_a)
    return np.asarray(worst_share * np.maximum(lasting / limit_a, punch_a / burst_a))


def carriers_of(build: PackBuild) -> CarrierTable:
    """The carriers of one pack."""
    table, recipe = CarrierTable.none(1), build.recipe
    if build.interconnect is not None:
        circuit = build.interconnect
        table.set_strips(build.layout, recipe.series_count, circuit.conductors, circuit.run_a[None])
        table.set_joint(recipe, build.worst_share)
    if leads_are_judged(build):
        table.set(Carrier.LEAD, 1.0, build.lead.heating)
    table.set_outwards(recipe)
    table.set_inside(build.cell, build.worst_share / recipe.parallel_count)
    return table


def worst_of_pack(build: PackBuild, carried: Carried, held_a: Floats) -> Floats:
    """(rows,) The worst link of one pack over its limit, for many currents of the pack."""
    cell, parallel = build.cell, build.recipe.parallel_count
    limits = np.array(lasting_limit_a(cell)), np.array(burst_limit_a(cell, carried.punch_s))
    cruise, punch, held = (one / parallel for one in (carried.cruise_a, carried.punch_a, held_a))
    cells = cell_share(np.array(build.worst_share), cruise, punch, held, *limits)
    table = carriers_of(build).take(np.zeros(len(held_a), np.intp))
    return np.asarray(np.maximum(cells, table.shares(carried).max(axis=1)))


def fuse_for(carried: Carried) -> float | None:
    """The smallest fuse, rated amps, that one pack's flight does not open; none where it takes more than any.

    By the law of the fuse as a link, at ``CLEAR_OF_OPENING`` of its limit.
    """
    for amps in FUSES_A:
        table = CarrierTable.none(1)
        table.set(Carrier.FUSE, 1.0, *fuse_heating(amps))
        if float(table.shares(carried)[0, Carrier.FUSE]) <= CLEAR_OF_OPENING:
            return amps
    return None


def leads_are_judged(build: PackBuild) -> bool:
    """Not the own leads of one pack bought whole."""
    return not (build.cell.whole_pack and build.units <= 1)
