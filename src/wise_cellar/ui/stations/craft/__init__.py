"""Craft: what it weighs, what drives it, what else draws power, what it was seen to do."""

from wise_cellar.ui.stations.doorway import Doorway, Page

DOORWAY = Doorway(
    title="Craft",
    prefixes=("craft",),
    search_words="weight parts motors propellers rotors wing drone aircraft known flight",
    pages=(
        Page("Against take-off mass", "power watts hover weight"),
        Page("Against airspeed", "power speed range best cruise"),
    ),
    module="wise_cellar.ui.stations.craft.station",
    name="CraftStation",
)
