"""Pack: what is built, drawn to scale, with what it weighs, resists and stands."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Pack",
    prefixes=("design.packs.0.recipe",),
    search_words="build strips welds leads connector layout bay balance point",
    module="wise_cellar.ui.stations.pack.station",
    name="PackStation",
)
