"""The Charge station: the charge of one pack, and a day in the field."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Charge",
    prefixes=("design.charge", "design.charger", "design.day"),
    search_words="charger supply",
    pages=(
        Page("One pack", "charger settings current time storage store watch live alarm"),
        Page("Field day", "sets order generator sorties plan"),
    ),
    walk=(
        WalkStep(
            "And back at the bench: change the charger's current, and see when the pack is full.",
            lambda began, now: began.complete.design.charger != now.complete.design.charger,
            "One pack",
        ),
    ),
    module="wise_cellar.ui.stations.charge.station",
    name="ChargeStation",
)
