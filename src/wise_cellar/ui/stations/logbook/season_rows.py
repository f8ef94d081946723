"""The flights of the workspace as rows of a season, and what a row shows."""

from __future__ import annotations

from wise_cellar.core.documents import BuiltPack, Craft, Design, DocumentError, FlightEntry
from wise_cellar.core.logbook.season import SeasonRow
from wise_cellar.core.lowering.designs import lower_one
from wise_cellar.core.units import format_celsius, format_mah, format_number, format_speed
from wise_cellar.ui.state.logbook_edits import complete_of, flights
from wise_cellar.ui.state.memory import Memory
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.lines import Line


class SeasonRows:
    """Tells the rows, and remembers what designs weigh."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._masses = Memory()

    def every(self, *, weighed: bool) -> list[SeasonRow]:
        """One row a flight; ``weighed`` with what took off, which is told by the whole design."""
        designs, crafts, packs = self._session.all(Design), self._session.all(Craft), self._session.all(BuiltPack)
        found = []
        for entry in flights(self._session):
            design, pack = designs.get(entry.design_id), packs.get(entry.pack_id)
            craft = None if design is None else crafts.get(design.craft_id)
            found.append(SeasonRow(
                entry, "" if craft is None else craft.name, "" if design is None else design.name,
                "" if pack is None else pack.name, self._takeoff_g(entry) if weighed else None,
            ))  # fmt: skip
        return found

    def _takeoff_g(self, entry: FlightEntry) -> float | None:
        try:
            complete = complete_of(self._session, entry)
        except DocumentError:
            return None
        known: float | None = self._masses.get(complete)
        if known is None:
            known = lower_one(complete, 1.0).takeoff_mass_g
            self._masses.keep(complete, known)
        return known


def row_lines(row: SeasonRow) -> tuple[Line, ...]:
    """When, which, and its minutes; faint where nothing is learned from it."""
    entry = row.entry
    minutes = "" if entry.duration_min is None else format_number(entry.duration_min, 1)
    told = (f"{entry.flown_at:%Y-%m-%d}", entry.name, minutes)
    return tuple(Line(text, "" if entry.teaches else "faint", 11.5) for text in told)


def row_tip(row: SeasonRow) -> str:
    """What has no room in its row."""
    entry = row.entry
    told = [
        f"{entry.flown_at:%Y-%m-%d %H:%M}", entry.name, row.pack or row.design, entry.place,
        "" if entry.returned_mah is None else f"{format_mah(entry.returned_mah)} put back",
        "" if entry.wind_m_s is None else f"wind {format_speed(entry.wind_m_s)}",
        "" if entry.air_temperature_c is None else format_celsius(entry.air_temperature_c),
        "logged" if entry.recording_id else "by hand", entry.note,
    ]  # fmt: skip
    return ", ".join(word for word in told if word)
