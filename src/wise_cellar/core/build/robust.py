"""How far single readings lie from their lot, and whether a lot is of two kinds."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.physics.arrays import Bools, Floats

NORMAL_MAD = 1.4826
"""Standard deviation of a normal spread over its median absolute deviation."""
FAR_Z = 3.5
"""From here on a reading is apart from its lot. Source: Iglewicz and Hoaglin, How to Detect and Handle Outliers,
1993."""
FEWEST = 5
"""Of fewer readings nothing is said."""


def robust_z(values: Floats, least_sigma: float) -> Floats:
    """``(cells,)`` Distances from the median in standard deviations, by the median absolute deviation.

    NaN where a cell was not read, and everywhere when fewer than ``FEWEST`` were; ``least_sigma`` is what one reading
    is good for. Source: as ``FAR_Z``. Not modelled: lots that are skewed.
    """
    read = np.isfinite(values)
    if read.sum() < FEWEST:
        return np.full(values.shape, np.nan)
    middle = np.median(values[read])
    sigma = max(NORMAL_MAD * float(np.median(np.abs(values[read] - middle))), least_sigma)
    return (values - middle) / sigma


@dataclass(frozen=True)
class TwoKinds:
    """A lot that falls into two: which cells are of the higher kind, and the middles of both."""

    higher: Bools
    """(cells,)"""
    low: float
    high: float


LEAST_OF_KIND = 3
GAP_OVER_SPREAD = 4.0
"""Distance of two kinds over the greater spread inside one of them."""


def two_kinds(values: Floats, least_sigma: float) -> TwoKinds | None:
    """The split of a lot at its widest gap, where both sides are kinds of their own; none where it is one lot.

    Each kind must have ``LEAST_OF_KIND`` cells, and the middles must lie ``GAP_OVER_SPREAD`` spreads apart.
    Source: the widest gap of ordered readings, a single-linkage cut in one dimension. Not modelled: three kinds.
    """
    read = np.flatnonzero(np.isfinite(values))
    if len(read) < 2 * LEAST_OF_KIND:
        return None
    order = read[np.argsort(values[read], kind="stable")]
    gaps = np.diff(values[order])
    inside = slice(LEAST_OF_KIND - 1, len(order) - LEAST_OF_KIND)
    at = int(np.argmax(gaps[inside])) + LEAST_OF_KIND
    lower, upper = values[order[:at]], values[order[at:]]
    spread = max(float(np.std(lower, ddof=1)), float(np.std(upper, ddof=1)), least_sigma)
    low, high = float(np.median(lower)), float(np.median(upper))
    if high - low < GAP_OVER_SPREAD * spread or gaps[at - 1] < spread:
        return None
    higher = np.zeros(values.shape, bool)
    higher[order[at:]] = True
    return TwoKinds(higher, low, high)
