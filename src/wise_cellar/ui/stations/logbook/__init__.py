"""The Logbook: what was run on the bench and flown, held against what was expected."""

from wise_cellar.ui.stations.doorway import Doorway, Page

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
    takes_in=lambda logbook, paths: logbook.take_in(paths),
    module="wise_cellar.ui.stations.logbook.station",
    name="LogbookStation",
)
