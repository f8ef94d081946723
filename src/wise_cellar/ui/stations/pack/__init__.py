"""Pack: what is built, drawn to scale, with what it weighs, resists and stands."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

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
    walk=(
        WalkStep(
            "The recipe is a sentence. Press ] for one more cell in parallel; the drawing and the chain follow.",
            lambda began, now: began.complete.pack.recipe.parallel_count != now.complete.pack.recipe.parallel_count,
        ),
    ),
    module="wise_cellar.ui.stations.pack.station",
    name="PackStation",
)
