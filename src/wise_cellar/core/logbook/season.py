"""All flights of a season: a row each, those that a few typed words pick out, their totals, and tables of them."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import DocumentError, FlightEntry
from wise_cellar.core.units import counted, format_mah, format_minutes, format_number
from wise_cellar.core.words import quoted

LIMIT = re.compile(r"^(wind|air|minutes|charge)\s*([<>])\s*(-?\d+(?:[.,]\d+)?)$")
"""What is over or under a number."""
FIELDS = {"wind": "wind_m_s", "air": "air_temperature_c", "minutes": "duration_min", "charge": "returned_mah"}
OVER = {
    "days": "", "wind": "m/s", "air": "°C", "charge put back": "mAh", "take-off mass": "g", "charge at take-off": "%",
}  # fmt: skip
"""What minutes are shown over, each with its unit."""
COLUMNS = (
    "flown_at", "name", "craft", "pack", "design", "place", "duration_min", "used_mah", "returned_mah", "landing_v",
    "resting_v", "start_charge_percent", "air_temperature_c", "wind_m_s", "altitude_m", "note",
)  # fmt: skip


@dataclass(frozen=True)
class SeasonRow:
    """A flight with the names of what flew."""

    entry: FlightEntry
    craft: str
    design: str
    pack: str
    """Of the built pack; empty where it has no name."""
    takeoff_g: float | None = None

    def over(self, what: str) -> float:
        """One of :data:`OVER`, days since the year 1; not a number where it was not noted."""
        entry = self.entry
        values = {
            "days": entry.flown_at.toordinal() + entry.flown_at.hour / 24, "wind": entry.wind_m_s,
            "air": entry.air_temperature_c, "charge put back": entry.returned_mah, "take-off mass": self.takeoff_g,
            "charge at take-off": entry.start_charge_percent,
        }  # fmt: skip
        value = values[what]
        return math.nan if value is None else float(value)

    def value(self, name: str) -> object:
        """One of :data:`COLUMNS`."""
        if name in ("craft", "design", "pack"):
            return getattr(self, name)
        value = getattr(self.entry, name)
        return f"{value:%Y-%m-%dT%H:%M}" if name == "flown_at" else value


def picked(rows: Sequence[SeasonRow], typed: str) -> list[SeasonRow]:
    """Rows in which every typed word stands, and that keep to every limit such as ``wind>6``; raises
    :class:`DocumentError` for a limit that cannot be read."""
    words = re.sub(r"\s*([<>])\s*", r"\1", typed.lower()).split()
    limits = [word for word in words if "<" in word or ">" in word]
    return [row for row in rows if all(_keeps(row.entry, word) for word in limits)
            and all(word in _text(row) for word in words if word not in limits)]  # fmt: skip


def _text(row: SeasonRow) -> str:
    entry = row.entry
    told = (entry.name, row.craft, row.pack, row.design, entry.place, entry.note, f"{entry.flown_at:%Y-%m-%d}")
    return " ".join(told).lower()


def _keeps(entry: FlightEntry, word: str) -> bool:
    found = LIMIT.match(word)
    if found is None:
        raise DocumentError(f"{quoted(word)} is no limit; write one such as wind>6, air<5, minutes>30 or charge>3000.")
    value = getattr(entry, FIELDS[found[1]])
    limit = float(found[3].replace(",", "."))
    return value is not None and (value < limit if found[2] == "<" else value > limit)


def totals(rows: Sequence[SeasonRow]) -> str:
    """How many, how long, and what was put back, in words."""
    minutes = [row.entry.duration_min for row in rows if row.entry.duration_min is not None]
    back = [row.entry.returned_mah for row in rows if row.entry.returned_mah is not None]
    told = [counted(len(rows), "flight")]
    if minutes:
        told.append(f"{format_minutes(60 * sum(minutes))} in the air")
        told.append(f"{format_number(sum(minutes) / len(minutes), 1)} min in the mean")
    if back:
        told.append(f"{format_mah(sum(back))} put back")
    return ", ".join(told)


def season_to_csv(rows: Sequence[SeasonRow]) -> str:
    """A table of flights, which a spreadsheet shows and never carries out."""
    return csv_text([COLUMNS, *([row.value(name) for name in COLUMNS] for row in rows)])


def season_to_json(rows: Sequence[SeasonRow]) -> str:
    """The same flights with all that was noted of them."""
    told = [{**{name: row.value(name) for name in COLUMNS}, **row.entry.model_dump(mode="json")} for row in rows]
    return json.dumps(told, indent=2, ensure_ascii=False) + "\n"
