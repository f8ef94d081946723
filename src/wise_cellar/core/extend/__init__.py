"""An auxiliary beside the battery a craft has: both put on one bus, and what the craft's own counter makes of it."""

from wise_cellar.core.extend.counter import CounterOutcome, counter_outcomes
from wise_cellar.core.extend.equalising import Equalising, bus_sentences, equalise, figures, verdict
from wise_cellar.core.extend.fuses import fuse_sentences
from wise_cellar.core.extend.through_craft import ThroughCraft, charge_through_craft

__all__ = [
    "CounterOutcome",
    "Equalising",
    "ThroughCraft",
    "bus_sentences",
    "charge_through_craft",
    "counter_outcomes",
    "equalise",
    "figures",
    "fuse_sentences",
    "verdict",
]
