"""What a search found as a table: columns in people's units, as text, and as CSV."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.flight import Ending
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.search.flown import Flown
from wise_cellar.core.search.limits import Judged
from wise_cellar.core.shown import shown
from wise_cellar.core.units import QuantityError, bare_number, format_minutes, format_share, parse_typed, unit_of_field
from wise_cellar.core.words import quoted

ENDINGS = {
    Ending.MISSION_COMPLETE: "mission complete", Ending.RESERVE_REACHED: "landing rule",
    Ending.CELL_CUT_OFF: "cell at its minimum", Ending.BROWN_OUT: "a load browns out",
    Ending.OUT_OF_THRUST: "out of thrust", Ending.NO_POWER: "cannot supply the power",
}  # fmt: skip


@dataclass(frozen=True)
class DesignColumn:
    """One column: a value a row, which also sorts, and its text."""

    key: str
    """Its name in a CSV file, with its unit."""
    head: str
    meaning: str
    values: Any
    """(rows,) Numbers or words."""
    text: Callable[[Any], str]
    usual: bool = True
    """Shown unless the user says otherwise."""

    @property
    def words(self) -> bool:
        """Whether it holds words."""
        return self.values.dtype.kind not in "fi"


def columns(space: Space, flown: Flown, judged: Judged) -> tuple[DesignColumn, ...]:
    """Every column, for the rows of ``flown``."""
    place = space.places(flown.row)

    def named(values: Sequence[str], places: Ints) -> Any:
        return np.array(values, dtype=object)[places]

    def number(
        key: str, head: str, meaning: str, values: Floats, decimals: int, usual: bool = True, unit: str = ""
    ) -> DesignColumn:
        into = f" {shown(unit).symbol}" if unit else ""
        told = f",{into}" if unit else ""
        return DesignColumn(
            key, head + into, meaning + told, values, lambda value: _number(value, decimals, unit), usual
        )

    worst = np.max(
        [flown.cell_share, flown.strip_share, flown.lead_share, flown.joint_share, flown.craft_share], axis=0
    )
    first = np.full(len(flown), "", dtype=object)
    for limit in reversed(judged.limits):
        first[limit.fails] = limit.name
    own = len(space.cells) > 1
    return (
        DesignColumn("cell", "Cell", "Cell type", named([cell.name for cell in space.cells], place.cells), str, own),
        number("series", "S", "Cells in series", np.array(space.series, float)[place.series], 0),
        number("parallel", "P", "Cells in parallel", np.array(space.parallel, float)[place.parallel], 0),
        DesignColumn("joint", "Joined", "How strips meet cells",
                     named([str(j) for j in space.joints], place.joints), str, len(space.joints) > 1),
        number("lead_awg", "AWG", "Gauge of the leads", np.array(space.gauges, float)[place.gauges], 0,
               len(space.gauges) > 1),
        DesignColumn("landing", "Landing", "Landing rule",
                     named([str(p) for p in space.policies], place.policies), str, len(space.policies) > 1),
        DesignColumn("duration_s", "In the air", "Minutes in the air", flown.duration_s, format_minutes),
        number("takeoff_mass_g", "Take-off", "Take-off mass", flown.takeoff_g, 0, unit="g"),
        number("pack_mass_g", "Pack", "Mass of the pack", flown.pack_g, 0, False, "g"),
        number("late_punch_v", "Late V", "Volts a cell in a late punch, as the craft sees them", flown.late_v, 2),
        number("late_margin", "Margin", f"Late full-throttle thrust over {space.complete.craft.margin_over}",
               flown.late_margin, 2),
        number("early_margin", "First margin", "The same in a first punch", flown.early_margin, 2, False),
        number("quickness_percent", "Turns %", "Quickness about its slower of roll and pitch, over the battery flown"
               " now, %", 100 * flown.quickness, 0, False),
        number("hover_throttle_percent", "Hover %", "Throttle in a hover on a full pack, %",
               100 * flown.hover_throttle, 0, False),
        number("hottest_c", "Hottest", "The cell that carries most, at its warmest", flown.hottest_c, 0, False, "°C"),
        DesignColumn("weakest_link_percent", "Of limit", "The weakest link over its limit", 100 * worst,
                     lambda percent: format_share(percent / 100)),
        number("energy_wh", "Wh used", "Energy given until landing, Wh", flown.usable_wh, 0, False),
        number("charge_left_percent", "Left %", "Charge left at the end, %", 100 * flown.charge_left, 0, False),
        number("price", "Price", "Of all cells", flown.price, 2, False),
        DesignColumn("ends", "Ends by", "Why the flight ends", np.array(
            [ENDINGS[Ending(int(code))] for code in range(len(Ending))], dtype=object)[flown.ending], str, False),
        DesignColumn("excluded_by", "Excluded by", "The first limit that it breaks", first, str, False),
    )  # fmt: skip


_FILTERS = {
    "minutes": "duration_s", "mass": "takeoff_mass_g", "pack": "pack_mass_g", "margin": "late_margin",
    "late": "late_punch_v", "hover": "hover_throttle_percent", "turns": "quickness_percent", "price": "price",
    "limit": "weakest_link_percent", "s": "series", "p": "parallel",
}  # fmt: skip
"""What is compared, and the column that holds it."""
_COMPARED = re.compile(r"([a-z]+)(<=|>=|<|>|=)(-?\d.*)")
_SIGNS = re.compile(r"\s*(<=|>=|<|>|=)\s*")
FILTER_EXAMPLE = "fell 4s margin>1.5 mass<2300g"


def matching(every: Sequence[DesignColumn], text: str) -> Bools:
    """(rows,) Which rows a filter leaves: words of any column, "4s", "3p", and comparisons such as "margin>1.5".

    Raises :class:`DocumentError` when a comparison names nothing that is known.
    """
    by_key = {column.key: column for column in every}
    left = np.ones(len(every[0].values), bool)
    for word in _SIGNS.sub(r"\1", text.lower()).split():
        count = re.fullmatch(r"(\d+)([sp])", word)
        if count is not None:
            key = "series" if count[2] == "s" else "parallel"
            left &= by_key[key].values == int(count[1])
        elif any(sign in word for sign in "<>="):
            left &= _compared(by_key, word)
        else:
            texts = [column for column in every if column.words]
            left &= np.logical_or.reduce([_holding(column, word) for column in texts])
    return left


def _holding(column: DesignColumn, word: str) -> Bools:
    found = {value: word in value.lower() for value in set(column.values.tolist())}
    return np.array([found[value] for value in column.values.tolist()], bool)


def _compared(by_key: dict[str, DesignColumn], word: str) -> Bools:
    parts = _COMPARED.fullmatch(word)
    if parts is None or parts[1] not in _FILTERS:
        raise DocumentError(
            f"{quoted(word)} compares nothing that is known: write {', '.join(_FILTERS)} with <, > or = and a number,"
            f" such as {FILTER_EXAMPLE}."
        )
    key = _FILTERS[parts[1]]
    try:
        # Seconds are typed as minutes here.
        bound = (
            60 * parse_typed(parts[3], unit_of_field("duration_min"))
            if key == "duration_s"
            else (parse_typed(parts[3], unit_of_field(key)))
        )
    except QuantityError as error:
        raise DocumentError(f"{quoted(word)} compares with no number: {error}") from error
    compare = {"<": np.less, ">": np.greater, "<=": np.less_equal, ">=": np.greater_equal, "=": np.equal}[parts[2]]
    return np.asarray(compare(by_key[key].values, bound))


def _number(value: float, decimals: int, unit: str) -> str:
    return "–" if math.isnan(value) else bare_number(value, unit, decimals)


def as_csv(shown: Sequence[DesignColumn], places: Ints) -> str:
    """Comma-separated text of some rows, in their order; plain numbers with a dot, empty where not known."""
    chosen = [column.values[places].tolist() for column in shown]
    rows = ([_plain(value) for value in row] for row in zip(*chosen, strict=True))
    return csv_text([[column.key for column in shown], *rows])


def _plain(value: Any) -> str:
    if isinstance(value, float):
        return "" if math.isnan(value) else f"{value:.6g}"
    return str(value)


def as_text(shown: Sequence[DesignColumn], places: Ints) -> str:
    """Tab-separated text of some rows as they are shown, for the clipboard."""
    lines = ["\t".join(column.head for column in shown)]
    for place in places.tolist():
        lines.append("\t".join(column.text(column.values[place]) for column in shown))
    return "\n".join(lines).replace("\u202f", " ").replace("\u00a0", " ")
