"""Pack: what is built, drawn to scale, with what it weighs, resists and stands."""

from wise_cellar.ui.stations.doorway import Doorway, Page

DOORWAY = Doorway(
    title="Pack",
    prefixes=("design.packs.0.recipe",),
    search_words="build weakest link chain battery",
    pages=(
        Page("Placement", "layout arrangement rows"),
        Page("Joining", "weld solder springs strips nickel"),
        Page("Leads", "wires gauge connector plug fuse"),
        Page("Fittings", "wrap sleeve sheet mount strap grams"),
        Page("Bay", "room fit balance point"),
    ),
    module="wise_cellar.ui.stations.pack.station",
    name="PackStation",
)
