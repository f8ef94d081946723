"""Flight: the mission over time, with what the pack and the craft do under it."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

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
    search_words="minutes time in the air volts traces",
    pages=(
        Page("Mission", "blocks legs repeat"),
        Page("Weather", "wind cold temperature altitude gusts conditions"),
        Page("Landing", "alarm low voltage warning buzzer land rule when"),
        Page("Range", "trust how sure doubt accuracy uncertainty what next measure weigh"),
        Page("Why", "explain because reason"),
    ),
    walk=(
        WalkStep(
            "When do you land? Choose another landing rule, and see what is left in the pack.",
            lambda began, now: began.complete.design.landing != now.complete.design.landing,
            "Landing",
        ),
        WalkStep(
            "Pin this answer with Ctrl+D: from now on every answer shows its change.",
            lambda _, now: now.pinned,
        ),
    ),
    module="wise_cellar.ui.stations.flight.station",
    name="FlightStation",
)
