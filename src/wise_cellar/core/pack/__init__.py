"""A pack as it is built: where cells and strips lie, what they weigh, carry, resist and stand."""

from wise_cellar.core.pack.alternatives import Alternative, alternatives, largest_that_fits
from wise_cellar.core.pack.arrangement import CellShape, arrange, shape_of
from wise_cellar.core.pack.balance import BalancePoint, balance_of
from wise_cellar.core.pack.chain import Link, LinkKind, craft_links, pack_links
from wise_cellar.core.pack.heat import PackCurrents, RunHeat, run_heats
from wise_cellar.core.pack.interconnect import Interconnect
from wise_cellar.core.pack.joining import SCHOOLS
from wise_cellar.core.pack.layout import CellPlace, Face, PackLayout, RunKind, StripRun, Terminal
from wise_cellar.core.pack.ledger import MassEntry, PackBuild, ResistanceEntry, build_pack
from wise_cellar.core.pack.own import is_free, placed_as
from wise_cellar.core.pack.room import Stowed, lying_mm, spare_mm, stow
from wise_cellar.core.pack.weighed import as_parts, rebuilt

__all__ = [
    "SCHOOLS",
    "Alternative",
    "BalancePoint",
    "CellPlace",
    "CellShape",
    "Face",
    "Interconnect",
    "Link",
    "LinkKind",
    "MassEntry",
    "PackBuild",
    "PackCurrents",
    "PackLayout",
    "ResistanceEntry",
    "RunHeat",
    "RunKind",
    "Stowed",
    "StripRun",
    "Terminal",
    "alternatives",
    "arrange",
    "as_parts",
    "balance_of",
    "build_pack",
    "craft_links",
    "is_free",
    "largest_that_fits",
    "lying_mm",
    "pack_links",
    "placed_as",
    "rebuilt",
    "run_heats",
    "shape_of",
    "spare_mm",
    "stow",
]
