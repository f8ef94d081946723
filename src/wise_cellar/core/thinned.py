"""Long series with fewer points, that keep their extremes."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.physics.arrays import Floats


def thinned(across: Floats, values: Floats, most: int) -> tuple[Floats, Floats]:
    """At most about ``most`` points of a line, ``(points,)`` both: of every stretch its least and its greatest value,
    in their order; what is not a number stays where a stretch has nothing else, as a gap."""
    stretches = most // 2
    long = len(values) // stretches if stretches else 0
    if long < 3:
        return across, values
    whole = long * stretches
    parts = values[:whole].reshape(stretches, long)
    gaps = np.isnan(parts)
    ends = np.sort(
        [np.argmin(np.where(gaps, np.inf, parts), axis=1), np.argmax(np.where(gaps, -np.inf, parts), axis=1)], axis=0
    )
    places = np.unique(np.concatenate([(ends + long * np.arange(stretches)).ravel(), np.arange(whole, len(values))]))
    return across[places], values[places]
