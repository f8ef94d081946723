"""The Compare station: every buildable pack, flown."""

from wise_cellar.ui.stations.doorway import Doorway, Page

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
    module="wise_cellar.ui.stations.compare.station",
    name="CompareStation",
)
