"""The Compare station: every buildable pack, flown."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Compare",
    prefixes=("design.search",),
    search_words="search best combinations trade-off front",
    module="wise_cellar.ui.stations.compare.station",
    name="CompareStation",
)
