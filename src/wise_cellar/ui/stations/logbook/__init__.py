"""The Logbook: what was run on the bench and flown, held against what was expected."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Logbook",
    prefixes=(),
    search_words="log flights season learn",
    pages=(
        Page("Flights", "log telemetry season minutes write down phases sensor compare"),
        Page("Bench", "run schedule load live test by hand recordings"),
        Page("Packs", "age worn cycles capacity resistance retire health life"),
        Page("Learned", "power drag capacity resistance cooling range narrower"),
    ),
    walk=(
        WalkStep(
            "Look where the minutes of a flight went: air, how it was flown, power, the pack, and what is left.",
            lambda _began, now: "Flights" in now.pages,
            "Flights",
        ),
        WalkStep(
            "Take the power that the spring's flights say, and see the range narrow; it can be let go again.",
            lambda began, now: began.complete.craft.learned != now.complete.craft.learned,
            "Learned",
        ),
    ),
    takes_in=lambda logbook, paths: logbook.take_in(paths),
    module="wise_cellar.ui.stations.logbook.station",
    name="LogbookStation",
)
