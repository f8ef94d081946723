"""How near the links of packs come to their limits, for many packs and many currents at once.

Strips are judged in sorts, each by the run that warms most; leads and connector by their own heat; cells by their
ratings, the one that carries most of its group.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from wise_cellar.core.pack.layout import PackLayout, RunKind
from wise_cellar.core.pack.ledger import PackBuild
from wise_cellar.core.physics.arrays import Floats, Ints
from wise_cellar.core.physics.conductor import LEAD_RISE_K, STRIP_RISE_K, Conductor, Heating, worst_shares


class StripSort(IntEnum):
    """Runs of strip that are judged together."""

    BETWEEN = 0
    """From group to group."""
    WITHIN = 1
    """Along an inner group."""
    END = 2
    """At the two ends of the pack."""
    WIRE = 3
    """What bridges cells that no strip can join."""


def strip_sorts(layout: PackLayout, series_count: int) -> dict[StripSort, list[int]]:
    """The runs of every sort that a layout has."""
    found: dict[StripSort, list[int]] = {}
    for place, run in enumerate(layout.strips):
        inner = 0 < run.node < series_count
        if run.kind is RunKind.WIRE:
            sort = StripSort.WIRE
        elif not inner:
            sort = StripSort.END
        else:
            sort = StripSort.BETWEEN if run.kind is RunKind.LINK else StripSort.WITHIN
        found.setdefault(sort, []).append(place)
    return found


def hottest(conductors: Sequence[Conductor], run_a: Floats, runs: Sequence[int]) -> Ints:
    """(packs,) Of some runs the one that warms most in each pack, by r·I² with ``run_a`` of shape ``(packs, runs)``."""
    rise = np.array([conductors[run].heating.rise_k_a2 for run in runs])
    return np.asarray(np.array(runs)[np.argmax(rise * run_a[:, runs] ** 2, axis=1)])


@dataclass(frozen=True)
class StripTable:
    """(packs, sorts) The run of each sort that warms most: its share of the pack's current, 0 where there is none, and
    how it warms."""

    share: Floats
    rise_k_a2: Floats
    time_s: Floats

    @classmethod
    def none(cls, packs: int) -> StripTable:
        """Of packs without strips."""
        share, rise, time_s = np.zeros((3, packs, len(StripSort)))
        return cls(share, rise, time_s + 1.0)

    @classmethod
    def of(cls, layout: PackLayout, series_count: int, conductors: Sequence[Conductor], run_a: Floats) -> StripTable:
        """Of packs of one layout, ``run_a`` of shape ``(packs, runs)`` for one ampere of each pack."""
        table, every = cls.none(len(run_a)), np.arange(len(run_a))
        for sort, runs in strip_sorts(layout, series_count).items():
            worst = hottest(conductors, run_a, runs)
            table.share[:, sort] = np.abs(run_a[every, worst])
            table.rise_k_a2[:, sort] = [conductors[run].heating.rise_k_a2 for run in worst.tolist()]
            table.time_s[:, sort] = [conductors[run].heating.time_constant_s for run in worst.tolist()]
        return table

    def put(self, packs: Ints, other: StripTable) -> None:
        """Write another table's packs at places of this one."""
        for mine, others in ((self.share, other.share), (self.rise_k_a2, other.rise_k_a2), (self.time_s, other.time_s)):
            mine[packs] = others

    def take(self, packs: Ints) -> StripTable:
        """Those of some packs."""
        return StripTable(self.share[packs], self.rise_k_a2[packs], self.time_s[packs])

    def worst(self, cruise_a: Floats, punch_a: Floats, punch_s: float) -> Floats:
        """(packs,) The worst strip over its limit, for currents of each pack."""
        cruise, punch = self.share * cruise_a[:, None], self.share * punch_a[:, None]
        return np.asarray(worst_shares(self.rise_k_a2, self.time_s, STRIP_RISE_K, cruise, punch, punch_s).max(axis=1))


def lead_share(heats: Sequence[tuple[Floats, Floats]], cruise_a: Floats, punch_a: Floats, punch_s: float) -> Floats:
    """(rows,) The worst of leads and connector over its limit: of each K/A² and time constant, s, arrays that broadcast
    against the currents of the packs. Source: :func:`worst_shares`; ``LEAD_RISE_K`` is our estimate."""
    shares = [worst_shares(rise, time_s, LEAD_RISE_K, cruise_a, punch_a, punch_s) for rise, time_s in heats]
    return np.asarray(np.max(shares, axis=0))


def cell_share(worst_share: Floats, cruise_a: Floats, punch_a: Floats, limit_a: Floats, burst_a: Floats) -> Floats:
    """How near the cell that carries ``worst_share`` of the mean comes to its limit, 1 = at it.

    Amps of the mean cell, at cruise against what it may give for good, in a burst against what it may give for as long.
    Source: the sheet's ratings. Not modelled: a rating that falls with cold or age.
    """
    return np.asarray(worst_share * np.maximum(cruise_a / limit_a, punch_a / burst_a))


def worst_of_pack(build: PackBuild, cruise_a: Floats, punch_a: Floats, punch_s: float) -> Floats:
    """(rows,) The worst link of one pack over its limit, for many currents of the pack."""
    cell, parallel = build.cell, build.recipe.parallel_count
    limits = np.array(cell.limit_current_a), np.array(cell.limit_for(punch_s))
    worst = cell_share(np.array(build.worst_share), cruise_a / parallel, punch_a / parallel, *limits)
    heats = [(np.array(one.rise_k_a2), np.array(one.time_constant_s)) for one in outward_heatings(build)]
    worst = np.maximum(worst, lead_share(heats, cruise_a, punch_a, punch_s))
    if build.interconnect is None:
        return worst
    circuit, rows = build.interconnect, np.zeros(len(cruise_a), np.intp)
    table = StripTable.of(build.layout, build.recipe.series_count, circuit.conductors, circuit.run_a[None])
    return np.maximum(worst, table.take(rows).worst(cruise_a, punch_a, punch_s))


def outward_heatings(build: PackBuild) -> list[Heating]:
    """Leads, where they are judged, and connector."""
    leads = [build.lead.heating] if leads_are_judged(build) else []
    return [*leads, build.connector.heating]


def leads_are_judged(build: PackBuild) -> bool:
    """Not the own leads of one pack bought whole."""
    return not (build.cell.whole_pack and build.units <= 1)
