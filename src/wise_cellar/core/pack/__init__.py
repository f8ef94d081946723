"""A pack as it is built: where cells and strips lie, what they weigh, resist and stand."""

from wise_cellar.core.pack.arrangement import CellPlace, Face, PackLayout, StripRun, arrange
from wise_cellar.core.pack.chain import Link, chain
from wise_cellar.core.pack.ledger import MassEntry, PackBuild, ResistanceEntry, build_pack

__all__ = [
    "CellPlace",
    "Face",
    "Link",
    "MassEntry",
    "PackBuild",
    "PackLayout",
    "ResistanceEntry",
    "StripRun",
    "arrange",
    "build_pack",
    "chain",
]
