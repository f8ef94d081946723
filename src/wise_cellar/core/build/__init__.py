"""From a tray of numbered cells to a pack that is what was designed."""

from wise_cellar.core.build.as_built import Imbalance, as_built, imbalance, in_minutes, state_of
from wise_cellar.core.build.matching import Asked, Matched, as_they_came, bench, match, unlike, worst_order
from wise_cellar.core.build.tray import Fate, JudgedCell, Remark, Tray, judge, loss_mah_day

__all__ = [
    "Asked",
    "Fate",
    "Imbalance",
    "JudgedCell",
    "Matched",
    "Remark",
    "Tray",
    "as_built",
    "as_they_came",
    "bench",
    "imbalance",
    "in_minutes",
    "judge",
    "loss_mah_day",
    "match",
    "state_of",
    "unlike",
    "worst_order",
]
