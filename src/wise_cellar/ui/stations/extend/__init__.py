"""The Extend station: packs that share the craft's bus."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Extend",
    prefixes=("design.packs", "cells", "design.taken_off"),
    search_words="auxiliary parallel second battery bus join equalise",
    pages=(
        Page("On the bus", "share current parallel"),
        Page("At the plug", "connect equalise join volts match"),
        Page("Own counter", "remaining percent data link intelligent"),
    ),
    walk=(
        WalkStep(
            "Two packs can share a bus. Open “Dunlin, extended”: Ctrl+K, type its name, Enter.",
            lambda _, now: len(now.complete.packs) > 1,
        ),
    ),
    module="wise_cellar.ui.stations.extend.station",
    name="ExtendStation",
)
