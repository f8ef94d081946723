"""Landing rules as arrays: each calls by one of three measures, the others never."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from wise_cellar.core.documents import LandingBasis, LandingClass, LandingRule
from wise_cellar.core.physics.arrays import Bools, Floats, Ints


def landing_arrays(
    rules: Sequence[LandingRule], which: Ints, kinds: Mapping[LandingClass, Bools], own: Bools, label_mah: Floats,
    packs: dict[str, Any],
) -> dict[str, Any]:  # fmt: skip
    """By the names in :class:`~wise_cellar.core.flight.FlightBatch`.

    ``which`` of the ``rules`` is that of each flight, and of ``kinds`` which flights have a pack of them, of shape
    ``(flights,)``. ``own`` batteries and labels, ``(packs, flights)``; ``packs`` as
    :func:`~wise_cellar.core.lowering.packs.stacked` gives them.
    """
    loaded, rest, used_c, reserve = np.full((4, len(which)), -np.inf)
    hold = np.zeros(len(which))
    strict = np.array([rule.strict_minimum for rule in rules])[which]
    in_bursts = np.array([rule.basis is LandingBasis.BURSTS for rule in rules])[which]
    counted = packs["parallel"][:, 0] > 0
    for rule in dict.fromkeys(rules):
        here = np.array([one == rule for one in rules])[which]
        has_own = own.any(axis=0) & here
        if rule.basis is LandingBasis.LOADED:
            volts = np.max([np.where(there, rule.threshold_v(kind), -np.inf) for kind, there in kinds.items()], axis=0)
            loaded[here], hold[here] = volts[here], rule.hold_s
            reserve[here] = -np.inf if rule.reserve is None else rule.reserve
        elif rule.basis is LandingBasis.BURSTS:
            loaded[here] = rule.burst_voltage_v
        elif rule.basis is LandingBasis.RESTING:
            rest[here] = rule.resting_voltage_v
        else:
            whole = label_mah.sum(axis=0)
            believed = np.where(has_own, (own * label_mah).sum(axis=0), whole)
            used_c[here] = 3.6 * np.broadcast_to(rule.charge_mah(believed, whole), whole.shape)[here]
        if rule.counts_own_only:
            counted = np.where(has_own, own, counted)
    return {
        "landing_v": loaded,
        "landing_hold_s": hold,
        "strict": strict,
        "landing_in_bursts": in_bursts,
        "landing_rest_v": rest,
        **_counting(counted[:, None] * packs["parallel"] * packs["cell"].charge_c, packs, used_c, reserve),
    }


def _counting(held_c: Floats, packs: dict[str, Any], used_c: Floats, reserve: Floats) -> dict[str, Floats]:
    """``counted`` and ``landing_soc`` where the rule calls once ``used_c`` of the charge is gone that the counted packs
    hold when full, ``held_c`` of shape ``(packs, groups, flights)``, or only ``reserve`` of it is left; minus infinity
    where it goes by something else.

    All groups of a pack give the same charge, whatever they hold: each counts by its share of the groups in series.
    """
    held_c = held_c * packs["group_share"]
    whole = held_c.sum(axis=(0, 1))
    counted = held_c / whole
    calls = np.isfinite(used_c)
    left = (counted * packs["start"].soc).sum(axis=(0, 1)) - np.where(calls, used_c, 0.0) / whole
    return {"counted": counted, "landing_soc": np.where(calls, left, reserve)}
