"""The Cellar, and the stations in working order: each a folder that declares a ``DOORWAY``, and its name here."""

from wise_cellar.ui.stations import build, cellar, cells, charge, compare, craft, extend, flight, logbook, pack

STATIONS = tuple(room.DOORWAY for room in (cellar, craft, cells, pack, flight, compare, extend, build, charge, logbook))


def place_of(title: str) -> int:
    """The place of a station by what it is called; raises ``ValueError`` where none is."""
    return [station.title for station in STATIONS].index(title)
