"""The Charge station: the charge of one pack, and a day in the field."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Charge",
    prefixes=("design.charge", "design.charger", "design.day"),
    search_words="charger storage field day supply",
    module="wise_cellar.ui.stations.charge.station",
    name="ChargeStation",
)
