"""Bytes into lines, and lines into readings: what is understood, and what is not, said in a sentence."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from wise_cellar.core.words import quoted
from wise_cellar.instruments.profile import Channel, Form, Profile
from wise_cellar.instruments.quantities import converted

LONGEST_LINE = 4096
"""Bytes; a longer line is no line of a device that was understood."""
MOST_SOURCES = 200
"""Names that lines have told, and what they are: more are no longer remembered."""
BETWEEN_ANSWERS = "; "
"""Of one round of questions, where they stand in one line."""
_FIGURES = r"[-+]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:[eE][-+]?\d+)?"
_NUMBER = re.compile(_FIGURES)
PAIR = re.compile(
    rf"([A-Za-z][\w./]*)\s*[=:]\s*({_FIGURES}|[-+]?nan|[-+]?inf)\s*([^\s,;0-9=:]*)(?![\w./]*\s*[=:])", re.IGNORECASE
)
"""Key, figures, and a unit: not the key of the next pair."""
_ERROR = re.compile(r"^\s*(err\b|error\b|[-+]?[1-9]\d*\s*,\s*\"?[A-Za-z])", re.I)
"""``ERR``, ``error: …``, and the standard form of an answer that is an error: ``-113,"Undefined header"``."""


@dataclass(frozen=True)
class Reading:
    """What a line said: values in the units that they are kept in, by quantity."""

    at_s: float
    """When it came, by a clock that only goes forward."""
    values: Mapping[str, float]
    line: str


@dataclass(frozen=True)
class Refusal:
    """A line that was not understood, and why."""

    at_s: float
    sentence: str
    line: str


@dataclass
class Splitter:
    """Bytes into lines, in whatever pieces they come; a line ends at CR, LF or both."""

    _rest: bytes = b""
    _skipping: bool = False

    def feed(self, data: bytes) -> list[str]:
        """The lines that are whole by now. What is too long for a line comes as its first part, once."""
        self._rest += data.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
        *whole, self._rest = self._rest.split(b"\n")
        if self._skipping and whole:
            whole.pop(0)
            self._skipping = False
        lines = [piece[:LONGEST_LINE].decode("utf-8", "replace") for piece in whole if piece.strip()]
        if len(self._rest) > LONGEST_LINE:
            if not self._skipping:
                lines.append(self._rest[:LONGEST_LINE].decode("utf-8", "replace"))
            self._rest, self._skipping = b"", True
        return lines

    def forget(self) -> None:
        """The link was lost in the middle of a line: half a line is none."""
        self._rest, self._skipping = b"", False


@dataclass
class Understanding:
    """Reads the lines of one device by its profile; remembers the names of its columns."""

    profile: Profile
    _heads: dict[str, int] = field(default_factory=dict)
    _at: dict[str, Channel | None] = field(default_factory=dict)

    def read(self, line: str, at_s: float, answer: int = 0) -> Reading | Refusal | None:
        """What a line says; none of a line that only names columns. ``answer`` counts what it answers, from 1."""
        text = line.strip()
        if _ERROR.match(text):
            return Refusal(at_s, f"It answers an error: {quoted(text)}.", text)
        found = self._texts(text, answer)
        if isinstance(found, str):
            return Refusal(at_s, found, text)
        if found is None:
            return None
        values: dict[str, float] = {}
        for source, told in found.items():
            channel = self._channel(source)
            if channel is None:
                continue
            value = self._value(channel, *told)
            if isinstance(value, str):
                return Refusal(at_s, value, text)
            values[channel.quantity] = value
        if not values:
            return Refusal(at_s, f"{quoted(text)} has none of what this profile reads.", text)
        return Reading(at_s, values, text)

    def _channel(self, source: str) -> Channel | None:
        if source not in self._at:
            if len(self._at) > MOST_SOURCES:
                self._at.clear()
            self._at[source] = self.profile.lines.at(source)
        return self._at[source]

    def _texts(self, text: str, answer: int) -> dict[str, tuple[str, str]] | str | None:
        """Texts of the values, each with its unit where the line tells one; a sentence where it is no such line."""
        lines = self.profile.lines
        if lines.form is Form.ANSWERS:
            return {str(answer): (text, "")}
        if lines.form is Form.MAVLINK and not PAIR.search(text):
            return f"{text}: another baud rate, or no MAVLink?"
        if lines.form in (Form.PAIRS, Form.MAVLINK):
            pairs = {key.strip(): (value, unit) for key, value, unit in PAIR.findall(text)}
            return pairs or f"{quoted(text)} holds no pair such as V=3.512."
        if lines.form is Form.PATTERN:
            match = re.search(lines.pattern, text)
            if match is None:
                return f"{quoted(text)} is not what the pattern expects."
            return {name: (value, "") for name, value in match.groupdict().items() if value is not None}
        return self._columns([cell.strip() for cell in text.split(lines.separator)], text)

    def _columns(self, cells: Sequence[str], text: str) -> dict[str, tuple[str, str]] | str | None:
        wanted = [channel.source for channel in self.profile.lines.channels if not channel.open_ended]
        by_name = [source for source in wanted if not source.isdecimal()]
        if any(source in cells for source in by_name) or (not by_name and not any(map(_NUMBER.fullmatch, cells))):
            self._heads = {cell: place for place, cell in enumerate(cells)}
            return None
        found = {}
        for source in wanted:
            place = int(source) - 1 if source.isdecimal() else self._heads.get(source)
            if place is None:
                return f"No line has named a column {quoted(source)} yet; was it joined in the middle?"
            if place >= len(cells):
                return f"{quoted(text)} has {len(cells)} columns, and column {place + 1} is wanted: half a line?"
            if cells[place]:
                found[source] = (cells[place], "")
        for head, place in self._heads.items() if self.profile.open_ended else ():
            if place < len(cells) and cells[place]:
                found.setdefault(head, (cells[place], ""))
        return found

    def _value(self, channel: Channel, text: str, unit: str) -> float | str:
        """A number in the kept unit, or why it is none."""
        match = _NUMBER.match(text.strip())
        if match is None:
            return f"{quoted(text)} is no number of {channel.quantity}."
        number = match.group()
        if "," in number and self.profile.lines.decimal == ".":
            if "." in number:
                return f"{quoted(text)} has a comma and a point: which is the decimal mark?"
            return f"{quoted(text)} has a decimal comma; say so in the profile."
        value = float(number.replace(",", "."))
        if not math.isfinite(value):
            return f"{quoted(text)} is no number of {channel.quantity}."
        told = unit or text.strip()[match.end() :].strip()
        try:
            return converted(channel.quantity, value, told or channel.unit)
        except ValueError as error:
            return str(error)
