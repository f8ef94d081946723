"""What ends a discharge or a run: looked at with every reading, and whenever none comes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from wise_cellar.core.units import format_amps, format_celsius, format_minutes, format_volts

STALE_S = 3.0
"""A load whose last reading is older than that is switched off."""
AMPS_OVER, AMPS_SURE = 0.10, 0.2
"""By which share, and at least by how many amps, a load may draw more than it was told."""


VOLTS_OVER = 0.05
"""Of a cell, over its full voltage: more is none of so many cells."""


@dataclass(frozen=True)
class Guard:
    """The limits of one discharge, at one current."""

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
            return _too_warm(celsius, self.most_c)
        if amps is not None and _draws_more(amps, self.amps):
            return f"the load draws {format_amps(amps)} and was told {format_amps(self.amps)}"
        if elapsed_s >= self.most_s:
            return f"{format_minutes(self.most_s)} are over"
        return ""

    @staticmethod
    def without(silent_s: float) -> str:
        """Why it has to be switched off where no reading has come for so long."""
        return f"no reading has come for {round(silent_s)} seconds" if silent_s > STALE_S else ""


@dataclass(frozen=True)
class RunGuard:
    """The limits of a run, of all that is on the load or in the craft."""

    least_v: float
    most_v: float
    most_c: float
    most_a: float

    def at(self, values: Mapping[str, float], told_a: float | None) -> str:
        """Why it has to be switched off at this reading, empty where it goes on. ``told_a`` is what was told to be
        drawn; none where nobody tells it."""
        volts, amps, celsius = (values.get(name) for name in ("volts", "amps", "temperature"))
        if volts is not None and volts <= self.least_v:
            return f"{format_volts(self.least_v)} is reached"
        if volts is not None and volts > self.most_v:
            return not_so_many_cells(volts, self.most_v)
        if celsius is not None and celsius >= self.most_c:
            return _too_warm(celsius, self.most_c)
        if amps is not None and amps > self.most_a:
            return f"{format_amps(amps)} flow, and {format_amps(self.most_a)} are the most"
        if amps is not None and told_a is not None and _draws_more(amps, told_a):
            return f"the load draws {format_amps(amps)} and was told {format_amps(told_a)}"
        return ""

    without = staticmethod(Guard.without)


def not_so_many_cells(volts: float, most_v: float) -> str:
    """That volts are more than what is meant to be on it can have."""
    return f"{format_volts(volts)} are more than the {format_volts(most_v)} that what is meant to be on it can have"


def _too_warm(celsius: float, most_c: float) -> str:
    return f"it is at {format_celsius(celsius)}, and may not be warmer than {format_celsius(most_c)}"


def _draws_more(amps: float, told_a: float) -> bool:
    return amps > max(told_a * (1 + AMPS_OVER), told_a + AMPS_SURE)
