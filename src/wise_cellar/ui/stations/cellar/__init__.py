"""Cellar: every design on its shelf, the crafts, missions and cell types, and the sentence that a craft begins with."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

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
    walk=(
        WalkStep(
            "Every design stands on its shelf. Choose “Whimbrel, long transect” and press Enter.",
            lambda _, now: now.station != "Cellar" and now.complete.design.id == "whimbrel-transect",
            "Designs",
        ),
    ),
    module="wise_cellar.ui.stations.cellar.station",
    name="CellarStation",
)
