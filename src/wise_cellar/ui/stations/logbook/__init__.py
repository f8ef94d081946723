"""The Logbook: what was run on the bench and flown, held against what was expected."""

from wise_cellar.ui.stations.doorway import Doorway

DOORWAY = Doorway(
    title="Logbook",
    prefixes=(),
    search_words="bench run schedule load telemetry recordings live test by hand",
    takes_in=lambda logbook, paths: logbook.take_in(paths),
    module="wise_cellar.ui.stations.logbook.station",
    name="LogbookStation",
)
