"""Craft: what it weighs, what drives it, what else draws power, what it was seen to do."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Craft",
    prefixes=("craft",),
    search_words="weight parts motors propellers rotors wing drone aircraft known flight",
    pages=(
        Page("Against take-off mass", "power watts hover weight"),
        Page("Against airspeed", "power speed range best cruise"),
    ),
    walk=(
        WalkStep(
            "The craft is weighed part by part. Change the grams of a part, and watch the minutes below.",
            lambda began, now: began.complete.craft.parts != now.complete.craft.parts,
        ),
    ),
    module="wise_cellar.ui.stations.craft.station",
    name="CraftStation",
)
