"""The designs that no other beats: a Pareto front over chosen aims."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

import numpy as np

from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.search.flown import Flown

_BLOCK = 1024


class Aim(StrEnum):
    """What more or less of is better."""

    MINUTES = "minutes"
    MASS = "take-off mass"
    PRICE = "price"
    MARGIN = "thrust margin"


def gains(flown: Flown, aims: Sequence[Aim]) -> Floats:
    """(rows, aims) More is better; what is not known is worst."""
    columns = {
        Aim.MINUTES: flown.duration_s, Aim.MASS: -flown.takeoff_g, Aim.PRICE: -flown.price,
        Aim.MARGIN: flown.late_margin,
    }  # fmt: skip
    return np.stack([np.nan_to_num(columns[aim], nan=-np.inf) for aim in aims], axis=1)


def pareto(gained: Floats, among: Bools | None = None) -> Bools:
    """(rows,) Which rows no other is at least as good as in every column and better in one.

    Equal rows stay together. ``among`` leaves the others out, as contenders too. Rows are gone through from the
    greatest sum of ranks down, so that the front that stands dominates most of the next block at once.
    """
    rows = np.flatnonzero(among) if among is not None else np.arange(len(gained))
    kept = np.zeros(len(gained), bool)
    if not len(rows):
        return kept
    values = gained[rows]
    ranks = np.stack([np.unique(column, return_inverse=True)[1] for column in values.T], axis=1)
    order = np.argsort(-ranks.sum(axis=1), kind="stable")
    front: Ints = np.zeros((0, ranks.shape[1]), ranks.dtype)
    members: list[int] = []
    for start in range(0, len(order), _BLOCK):
        block = order[start : start + _BLOCK]
        block = block[~_dominated(ranks[block], front)]
        block = block[~_dominated(ranks[block], ranks[block])]
        # Whoever has a greater sum of ranks is never dominated by whoever comes later.
        front = np.concatenate([front, ranks[block]])
        members += block.tolist()
    kept[rows[members]] = True
    return kept


def _dominated(rows: Ints, by: Ints) -> Bools:
    """(rows,) Whether any of ``by`` is at least as good in all and better in one."""
    if not len(rows) or not len(by):
        return np.zeros(len(rows), bool)
    at_least = np.ones((len(rows), len(by)), bool)
    better = np.zeros((len(rows), len(by)), bool)
    for column in range(rows.shape[1]):
        mine, its = rows[:, column, None], by[None, :, column]
        at_least &= its >= mine
        better |= its > mine
    return np.asarray((at_least & better).any(axis=1))
