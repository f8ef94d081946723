"""The Compare station: every buildable pack, flown."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Compare",
    prefixes=("design.search",),
    module="wise_cellar.ui.stations.compare.station",
    name="CompareStation",
)
