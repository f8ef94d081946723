"""Columns of the shelf: what each shows and is sorted by, and how soon it gives way in a narrow window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import Qt

from wise_cellar.core.shelf import ShelfRow
from wise_cellar.core.shown import shown
from wise_cellar.core.units import bare_number, format_grams, format_share

SORT_ROLE = Qt.ItemDataRole.UserRole
NEAR_LIMIT = 0.85
"""Beyond so much of a limit a figure warns."""
ROW_ROLE = Qt.ItemDataRole.UserRole + 1
NAME, LINE = 0, 1
PACK = 11


@dataclass(frozen=True)
class ShelfColumn:
    """A column: its name, what it means, the value to sort by, the text to show; ``yields`` first where 1; the
    ``unit`` that its values are kept in stands in its head as it is shown."""

    name: str
    meaning: str
    value: Callable[[ShelfRow], Any]
    text: Callable[[ShelfRow], str]
    yields: int = 0
    unit: str = ""

    @property
    def head(self) -> str:
        """What stands over it."""
        return f"{self.name} {shown(self.unit).symbol}" if self.unit else self.name


def _number(
    name: str,
    meaning: str,
    value: Callable[[ShelfRow], float | None],
    decimals: int,
    yields: int = 0,
    unit: str = "",
) -> ShelfColumn:
    def text(row: ShelfRow) -> str:
        found = value(row)
        return "" if found is None else bare_number(found, unit, decimals)

    def sortable(row: ShelfRow) -> float:
        found = value(row)
        return float("inf") if found is None else found

    return ShelfColumn(name, meaning, sortable, text, yields, unit)


COLUMNS = (
    ShelfColumn("Cell", "Name, with a mark of what its sheet claims", lambda r: r.cell.name, lambda r: r.cell.name),
    ShelfColumn("Discharge", "Volts over charge at the present amps a cell, all rows on one scale",
                lambda r: r.loaded_v, lambda r: ""),
    _number("Minutes", "Flight of this craft", lambda r: r.duration_s / 60, 1),
    _number("Usable Wh", "Energy given at the connector until the flight ended", lambda r: r.usable_wh, 0),
    ShelfColumn("Used", "Charge given at landing over the label's", lambda r: r.used_share,
                lambda r: format_share(r.used_share), 6),
    _number("Loaded V", "Mean volts a cell under load over the flight", lambda r: r.loaded_v, 2, 2),
    _number("Late V", "Volts a cell in a burst when the landing rule calls", lambda r: r.late_punch_v, 2, 7),
    ShelfColumn("Of limit", "Current over the cell's limit, at cruise or in a first punch", lambda r: r.rating_share,
                lambda r: format_share(r.rating_share), 8),
    _number("End", "Hottest cell of the flight", lambda r: r.hottest_c, 0, 5, "°C"),
    _number("Wh/kg", "Usable energy over the mass of the pack", lambda r: r.usable_wh_kg, 0, 4),
    _number("Cost/min", "Price of all cells over the minutes of one flight", lambda r: r.price_per_minute, 2, 3),
    ShelfColumn("Pack", "Cells in parallel, and what the pack weighs", lambda r: r.pack_mass_g,
                lambda r: f"{r.parallel_count}P {format_grams(r.pack_mass_g)}", 1),
    ShelfColumn("Fit", "Beyond: the flight goes beyond the currents or the warmth that the cell's fit rests on",
                lambda r: r.beyond_fit, lambda r: "beyond" if r.beyond_fit else "", 2),
)  # fmt: skip
