"""The Extend station: packs that share the craft's bus."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Extend",
    prefixes=("design.packs", "cells", "design.taken_off"),
    search_words="auxiliary parallel second battery bus join equalise",
    module="wise_cellar.ui.stations.extend.station",
    name="ExtendStation",
)
