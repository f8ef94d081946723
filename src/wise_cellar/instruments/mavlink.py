"""MAVLink messages (versions 1 and 2) as lines of pairs, such as ``SYS_STATUS.voltage_battery=15230``.

A line holds one message: its fields that are numbers, without those that say that they are unknown; what is read of
them stands first. Fields of a list have their place behind them, ``BATTERY_STATUS.voltages.1``; messages of a second
battery are ``BATTERY_STATUS_2``. Only messages that a profile reads become lines. Source: the public definitions of
the protocol's common messages.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from wise_cellar.instruments.profile import Profile

UNKNOWN = {
    ("SYS_STATUS", "voltage_battery"): 0xFFFF, ("SYS_STATUS", "current_battery"): -1,
    ("SYS_STATUS", "battery_remaining"): -1, ("BATTERY_STATUS", "temperature"): 0x7FFF,
    ("BATTERY_STATUS", "current_battery"): -1, ("BATTERY_STATUS", "current_consumed"): -1,
    ("BATTERY_STATUS", "energy_consumed"): -1, ("BATTERY_STATUS", "battery_remaining"): -1,
}  # fmt: skip
"""What these fields are where they are not known."""
LISTS = {("BATTERY_STATUS", "voltages"): 0xFFFF, ("BATTERY_STATUS", "voltages_ext"): 0}
"""Lists, and what is at a place where there is nothing."""
CELLS = "voltages"
MOST_CELL_MV = 5000
"""More at the only place of a list is no cell, but the pack."""
STRANGE_BYTES = 64
"""So many without a message are told."""


class MessageSplitter:
    """Bytes into lines, in whatever pieces they come; a stand-in for the splitter of texts."""

    def __init__(self, profile: Profile) -> None:
        from pymavlink.dialects.v20 import common

        self._new, self._lines = common.MAVLink, profile.lines
        self._wanted = frozenset(channel.source.partition(".")[0] for channel in profile.lines.channels)
        self._strange = 0
        self.forget()

    def feed(self, data: bytes) -> list[str]:
        """The messages that are whole by now, a line each."""
        return [line for message in self._parser.parse_buffer(data) or () for line in self._line(message)]

    def forget(self) -> None:
        """The link was lost in the middle of a message: half a one is none."""
        self._parser: Any = self._new(None)
        self._parser.robust_parsing = True

    def _line(self, message: Any) -> Iterator[str]:
        kind = message.get_type()
        if kind == "BAD_DATA":
            self._strange += len(message.data)
            if self._strange >= STRANGE_BYTES:
                yield f"{self._strange} bytes that are no message"
                self._strange = 0
            return
        self._strange = 0
        battery = getattr(message, "id", 0) if kind == "BATTERY_STATUS" else 0
        name = f"{kind}_{battery + 1}" if battery else kind
        if name in self._wanted:
            pairs = {f"{name}.{field}": value for field, value in _numbers(kind, message)}
            ordered = sorted(pairs, key=lambda source: self._lines.at(source) is None)
            if pairs:
                yield " ".join(f"{source}={pairs[source]}" for source in ordered)


def _numbers(kind: str, message: Any) -> Iterator[tuple[str, float]]:
    for field in message.get_fieldnames():
        value = getattr(message, field)
        empty = LISTS.get((kind, field))
        if empty is not None:
            there = [(place, each) for place, each in enumerate(value, 1) if each != empty]
            if field == CELLS and len(there) == 1 and there[0][1] > MOST_CELL_MV:
                yield "pack_voltage", there[0][1]
            else:
                yield from ((f"{field}.{place}", each) for place, each in there)
        elif isinstance(value, int | float) and value == value and value != UNKNOWN.get((kind, field)):
            yield field, value
