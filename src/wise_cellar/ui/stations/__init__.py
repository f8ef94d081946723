"""The stations in working order. A new one is a folder that declares a ``DOORWAY``, and its name here."""

from wise_cellar.ui.stations import cells, charge, compare, craft, extend, flight, pack

STATIONS = tuple(room.DOORWAY for room in (craft, cells, pack, flight, compare, extend, charge))
