"""Flight: the mission over time, with what the pack and the craft do under it."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Flight",
    prefixes=(
        "mission",
        "design.mission_id",
        "design.conditions",
        "design.packs.0.state",
        "design.packs.0.cooling",
        "design.landing",
        "craft.alarm_names",
    ),
    search_words="mission minutes time in the air weather landing alarm traces",
    module="wise_cellar.ui.stations.flight.station",
    name="FlightStation",
)
