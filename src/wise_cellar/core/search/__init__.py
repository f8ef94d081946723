"""Every buildable pack flown at once: what to search, what came of it, and which of it is worth building."""

from wise_cellar.core.lowering.space import MOST_DESIGNS, Space
from wise_cellar.core.search.beside import Difference, Share, difference, in_short
from wise_cellar.core.search.flown import Flown, fly_rows, joined
from wise_cellar.core.search.found import Found
from wise_cellar.core.search.front import Aim, gains, pareto
from wise_cellar.core.search.growth import Growth, growth
from wise_cellar.core.search.limits import Exclusion, Judged, Limit, judge, worst_exclusion
from wise_cellar.core.search.pool import Flyers
from wise_cellar.core.search.sensitivity import Slope, sensitivity
from wise_cellar.core.search.swap import Reference, Swap, bought, present, swaps
from wise_cellar.core.search.table import FILTER_EXAMPLE, DesignColumn, as_csv, as_text, columns, matching

__all__ = [
    "FILTER_EXAMPLE",
    "MOST_DESIGNS",
    "Aim",
    "DesignColumn",
    "Difference",
    "Exclusion",
    "Flown",
    "Flyers",
    "Found",
    "Growth",
    "Judged",
    "Limit",
    "Reference",
    "Share",
    "Slope",
    "Space",
    "Swap",
    "as_csv",
    "as_text",
    "bought",
    "columns",
    "difference",
    "fly_rows",
    "gains",
    "growth",
    "in_short",
    "joined",
    "judge",
    "matching",
    "pareto",
    "present",
    "sensitivity",
    "swaps",
    "worst_exclusion",
]
