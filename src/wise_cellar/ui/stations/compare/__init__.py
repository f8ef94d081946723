"""The Compare station: every buildable pack, flown."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Compare",
    prefixes=("design.search",),
    search_words="search best combinations trade-off front",
    pages=(
        Page("Every pack", "search best all combinations cloud"),
        Page("Same mass", "swap replace polymer lithium-ion instead"),
        Page("Side by side", "beside versus difference two designs pin"),
        Page("A little more", "sensitivity slope worth one more parallel"),
    ),
    walk=(
        WalkStep(
            "Every pack around this one has been flown. Open “Side by side” to hold it against your pin.",
            lambda _, now: now.station == "Compare" and "Side by side" in now.pages,
        ),
    ),
    module="wise_cellar.ui.stations.compare.station",
    name="CompareStation",
)
