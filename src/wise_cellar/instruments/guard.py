"""What ends a discharge: looked at with every reading, and whenever none comes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from wise_cellar.core.units import format_amps, format_celsius, format_minutes, format_volts

STALE_S = 3.0
"""A load whose last reading is older than that is switched off."""
AMPS_OVER, AMPS_SURE = 0.10, 0.2
"""By which share, and at least by how many amps, a load may draw more than it was told."""


@dataclass(frozen=True)
class Guard:
    """The limits of one discharge."""

    amps: float
    least_v: float
    most_c: float
    most_s: float

    def at(self, elapsed_s: float, values: Mapping[str, float]) -> str:
        """Why the load has to be switched off at this reading; empty where it goes on."""
        volts, amps, celsius = (values.get(name) for name in ("volts", "amps", "temperature"))
        if volts is not None and volts <= self.least_v:
            return f"{format_volts(self.least_v)} is reached"
        if celsius is not None and celsius >= self.most_c:
            return f"it is at {format_celsius(celsius)}, and may not be warmer than {format_celsius(self.most_c)}"
        if amps is not None and amps > max(self.amps * (1 + AMPS_OVER), self.amps + AMPS_SURE):
            return f"the load draws {format_amps(amps)} and was told {format_amps(self.amps)}"
        if elapsed_s >= self.most_s:
            return f"{format_minutes(self.most_s)} are over"
        return ""

    @staticmethod
    def without(silent_s: float) -> str:
        """Why it has to be switched off where no reading has come for so long."""
        return f"no reading has come for {round(silent_s)} seconds" if silent_s > STALE_S else ""
