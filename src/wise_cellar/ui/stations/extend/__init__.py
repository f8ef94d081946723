"""The Extend station: packs that share the craft's bus."""

from wise_cellar.ui.stations.doorway import Doorway, Page

DOORWAY = Doorway(
    title="Extend",
    prefixes=("design.packs", "cells", "design.taken_off"),
    search_words="auxiliary parallel second battery bus join equalise",
    pages=(
        Page("On the bus", "share current parallel"),
        Page("At the plug", "connect equalise join volts match"),
        Page("Own counter", "remaining percent data link intelligent"),
    ),
    module="wise_cellar.ui.stations.extend.station",
    name="ExtendStation",
)
