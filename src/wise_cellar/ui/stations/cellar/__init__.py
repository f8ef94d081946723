"""Cellar: every design on its shelf, the crafts, missions and cell types, and the sentence that a craft begins with."""

from wise_cellar.ui.stations.doorway import Doorway, Page

DOORWAY = Doorway(
    title="Cellar",
    prefixes=(),
    search_words="designs shelf all list archive begin new start notes crafts missions cell types samples",
    pages=(
        Page("Designs", "all shelf list open archive notes"),
        Page("Crafts", "drones aircraft list"),
        Page("Missions", "flights plans list"),
        Page("Cell types", "batteries list"),
    ),
    module="wise_cellar.ui.stations.cellar.station",
    name="CellarStation",
)
