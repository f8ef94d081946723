"""The Charge station: the charge of one pack, and a day in the field."""

from wise_cellar.ui.stations.doorway import Doorway, Page

DOORWAY = Doorway(
    title="Charge",
    prefixes=("design.charge", "design.charger", "design.day"),
    search_words="charger supply",
    pages=(
        Page("One pack", "charger settings current time storage store"),
        Page("Field day", "sets order generator sorties plan"),
    ),
    module="wise_cellar.ui.stations.charge.station",
    name="ChargeStation",
)
