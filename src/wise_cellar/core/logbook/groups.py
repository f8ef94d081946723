"""What the volts of a pack's groups say of each: the charge it has left, and so what it holds beside the others.

All groups give the same charge Q. A group that was at z₀ and is at z at rest holds C = Q/(z₀ − z), by the open-circuit
voltage; so C over the middle of the others is (z₀ − z of the middle)/(z₀ − z). Source: the open-circuit voltage as a
gauge of charge. Not modelled: surface lag that differs between groups, which a few minutes' rest takes away.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.build.finished import READING_V, charge_of
from wise_cellar.core.documents import CellType
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_number, format_share

ENDS_S = 15.0
"""At either end of a log so much is looked at."""
LEAST_USED = 0.3
"""Of the charge: less does not tell what a group holds."""
STILL_SHARE = 0.1
"""Of the mean amps: under it the pack rests."""
LEAST_REST_S = 20.0
BEHIND = 0.02
"""From which share under the middle on a group is named."""


@dataclass(frozen=True)
class GroupsSeen:
    """Groups of a pack from the negative end, arrays of shape ``(groups,)``."""

    left: Floats
    """Charge left at the end, share of one."""
    apart_v: Floats
    """At the end, over the middle of all."""
    holds: Floats
    """Over the middle of the others, share of one; not a number where too little was used."""
    doubt: Floats
    used: Floats
    """Of its charge, between both readings."""

    @property
    def weakest(self) -> int | None:
        """Counted from 0; none where no group is behind by more than its doubt."""
        if not np.isfinite(self.holds).all():
            return None
        least = int(self.holds.argmin())
        short = 1 - float(self.holds[least])
        return least if short > max(BEHIND, 2 * float(self.doubt[least])) else None

    def words(self) -> list[str]:
        """Which group is behind, and by how much."""
        weak = self.weakest
        if weak is None:
            return []
        apart = format_number(-1000 * float(self.apart_v[weak]), 0)
        return [
            f"Group {weak + 1} holds {format_share(1 - float(self.holds[weak]))} less than the others, and was"
            f" {apart}\u00a0mV under them when it was lowest."
        ]


def groups_between(cell_type: CellType, before_v: Floats, after_v: Floats) -> GroupsSeen:
    """What resting volts before and after one charge that all groups gave, or took, say of each."""
    full, left = (np.array([charge_of(cell_type, float(volts)) for volts in values]) for values in (before_v, after_v))
    used = full - left
    lower = after_v if np.median(used) > 0 else before_v
    others = np.array([float(np.median(np.delete(used, place))) for place in range(len(used))])
    near = np.array([
        charge_of(cell_type, float(volts) + READING_V) - charge_of(cell_type, float(volts) - READING_V)
        for volts in lower
    ])  # fmt: skip
    enough = np.abs(used) > LEAST_USED
    holds = np.where(enough, others / np.where(enough, used, 1.0), np.nan)
    return GroupsSeen(
        left, lower - np.median(lower), holds, np.abs(near) / 2 / np.maximum(np.abs(used), 1e-6), np.abs(used)
    )


def groups_seen(log: FlightLog, cell_type: CellType) -> GroupsSeen | None:
    """What a log says of its groups; none where it tells no volts of them, or does not end at rest."""
    if log.groups_v.shape[1] < 2:
        return None
    flows = np.abs(log.amps) > STILL_SHARE * float(np.abs(log.amps).mean())
    last_flow = float(log.time_s[flows][-1]) if flows.any() else 0.0
    ends = float(log.time_s[-1])
    if ends - last_flow < LEAST_REST_S:
        return None
    first, last = log.time_s < log.time_s[0] + ENDS_S, log.time_s > ends - ENDS_S
    before, after = (np.nanmedian(log.groups_v[rows], axis=0) for rows in (first, last))
    return groups_between(cell_type, before, after)
