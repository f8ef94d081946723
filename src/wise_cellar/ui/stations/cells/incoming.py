"""Files of discharges on their way in: what was understood of each, what the user said, what came of reading it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wise_cellar.core.curves import Assembled, Circumstances, RestingTable, Role
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import format_mah, format_number, format_significant, format_volts
from wise_cellar.store.curve_files import CancelledError, TableFile, read_resting_table, read_table


@dataclass
class FileState:
    """One file on its way in: as understood, what the user said of it, and what came of reading it."""

    path: Path
    table: TableFile | None
    given: Circumstances
    result: Assembled | RestingTable | None = None
    error: str = ""
    stale: bool = True

    @property
    def resting(self) -> bool:
        """Whether it is taken for a table of resting voltage: states of charge, and neither time nor charge."""
        roles = {column.role for column in self.table.columns} if self.table is not None else set()
        return Role.SOC in roles and not roles & {Role.TIME, Role.CAPACITY}

    @property
    def words(self) -> str:
        """How it stands, for the list of files."""
        if self.error:
            return "not yet right"
        return "reading" if self.stale else "ready"


class Stop:
    """Set from the window, read by the thread."""

    def __init__(self) -> None:
        self.asked = False
        self.share = 0.0

    def go_on(self, share: float) -> bool:
        """Remember how far it is; whether to go on."""
        self.share = share
        return not self.asked


def read_one(place: int, state: FileState, cut_off_v: float, stop: Stop) -> tuple[int, Any]:
    """Read one file beside the window: its place, and its discharge, its resting table or what is wrong."""
    if state.table is None:
        return place, DocumentError(state.error)
    try:
        if state.resting:
            return place, read_resting_table(state.table)
        return place, read_table(state.table, state.given, cut_off_v, stop.go_on)
    except (DocumentError, CancelledError) as error:
        return place, error


def understood(state: FileState) -> str:
    """What was read, and how, in sentences."""
    if state.result is None:
        return ""
    if isinstance(state.result, RestingTable):
        volts = state.result.table.ocv_v
        first = f"A table of resting voltage, {format_number(volts[0], 2)} to {format_volts(volts[-1])}."
        return " ".join((first, *state.result.remarks))
    curve = state.result.curve
    amps = (
        f"{format_significant(curve.current_a.max(), 3)} A"
        if curve.constant
        else f"changing currents up to {format_significant(curve.current_a.max(), 3)} A"
    )
    hours = curve.time_s[-1] / 3600
    lasts = f"{format_number(hours, 1)} h" if hours >= 2 else f"{format_number(60 * hours, 0)} min"
    first = f"A discharge of {format_mah(curve.charge_c[-1] / 3.6)} in {lasts} at {amps}, {len(curve.time_s)} points."
    return " ".join((first, *state.result.remarks))
