"""A way of talking: how a device is spoken to, how its lines are read, what it may be told. One TOML file each.

A profile names no device and no maker: many talk alike.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable
from enum import StrEnum
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Self

import tomli_w
from pydantic import Field, model_validator

from wise_cellar.core.documents import Document, DocumentError, RecordedChannel
from wise_cellar.core.documents.text import Name, Notes
from wise_cellar.core.words import quoted
from wise_cellar.instruments.quantities import EVERY, GROUP, converted, quantity_of

LARGEST_BYTES = 100_000


class Mode(StrEnum):
    """Who begins."""

    LISTEN = "listen"
    ASK = "ask"


class Form(StrEnum):
    """How a line holds its values."""

    COLUMNS = "columns"
    """Separated; the first line may name them."""
    PAIRS = "pairs"
    """``V=3.512 R=15.1``."""
    PATTERN = "pattern"
    """By a regular expression with named groups."""
    ANSWERS = "answers"
    """One number an answer, in the order of what was asked."""
    MAVLINK = "mavlink"
    """Messages of that protocol, told as pairs."""


class LineEnd(StrEnum):
    """What a line that is sent ends with."""

    LF = "LF"
    CR = "CR"
    CRLF = "CRLF"

    @property
    def text(self) -> str:
        """As it is sent."""
        return {LineEnd.LF: "\n", LineEnd.CR: "\r", LineEnd.CRLF: "\r\n"}[self]


class Talk(Document):
    """How it is spoken to."""

    mode: Mode = Field(Mode.LISTEN, title="mode")
    ask: tuple[Name, ...] = Field((), max_length=20, title="what is asked", description="A line each, in turn.")
    every_s: float = Field(1.0, ge=0.02, le=3600, title="asked every")
    hello: tuple[Name, ...] = Field((), max_length=10, title="said first", description="Once, after it is opened.")
    baud: int = Field(115200, ge=300, le=4_000_000, title="baud rate")
    end: LineEnd = Field(LineEnd.LF, title="end of a line that is sent")


class Channel(Document):
    """One quantity: where it stands in a line, and its unit."""

    quantity: Name = Field(min_length=1, max_length=20, title="quantity")
    source: Name = Field(
        min_length=1, max_length=40, title="where it stands",
        description="The name or number of a column, the key of a pair, a group of the pattern, or which answer. Of"
        " group-* a * stands for the number.",
    )  # fmt: skip
    unit: Name = Field(min_length=1, max_length=10, title="unit")

    @model_validator(mode="after")
    def _known(self) -> Self:
        try:
            converted(self.quantity, 1.0, self.unit)
        except DocumentError as error:
            raise ValueError(str(error)) from error
        if self.open_ended and self.source.count(EVERY) != 1:
            raise ValueError(f"{quoted(self.source)} has to hold one *, where the number of the group stands.")
        return self

    @property
    def open_ended(self) -> bool:
        """Whether it stands for as many groups as there are."""
        return self.quantity == GROUP + EVERY

    def at(self, source: str) -> Channel | None:
        """What stands at a source, where this channel reads it."""
        if not self.open_ended:
            return self if source == self.source else None
        found = re.fullmatch(re.escape(self.source).replace(re.escape(EVERY), "([1-9][0-9]?)"), source)
        return self.changed(quantity=GROUP + found[1], source=source) if found is not None else None


class Lines(Document):
    """How its lines are read."""

    form: Form = Field(Form.COLUMNS, title="form")
    separator: str = Field(",", min_length=1, max_length=3, title="separator of columns")
    decimal: str = Field(".", pattern="^[.,]$", title="decimal mark")
    pattern: str = Field("", max_length=400, title="pattern")
    channels: tuple[Channel, ...] = Field(min_length=1, max_length=64, title="channels")

    @model_validator(mode="after")
    def _readable(self) -> Self:
        names = [channel.quantity for channel in self.channels]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise ValueError(f"{quoted(twice)} is told by two channels; each quantity by one.")
        if self.form is Form.PATTERN:
            try:
                groups = re.compile(self.pattern).groupindex
            except re.error as error:
                raise ValueError(f"The pattern {quoted(self.pattern)} cannot be read: {error}.") from error
            missing = next((one.source for one in self.channels if not any(map(one.at, groups))), None)
            if missing is not None:
                raise ValueError(f"The pattern has no group {quoted(missing)}; it has {', '.join(groups) or 'none'}.")
        if self.form is Form.COLUMNS and self.decimal == self.separator:
            raise ValueError("A comma cannot both part columns and be the decimal mark.")
        return self

    def at(self, source: str) -> Channel | None:
        """What stands at a source; none where nothing of it is read."""
        return next(filter(None, (channel.at(source) for channel in self.channels)), None)


class Told(Document):
    """What it may be told to do; empty where it takes no such order. ``{amps}`` and ``{watts}`` stand for numbers."""

    off: Name = Field("", max_length=60, title="to switch off")
    on: Name = Field("", max_length=60, title="to switch on")
    amps: Name = Field("", max_length=60, title="to draw a current")
    watts: Name = Field("", max_length=60, title="to draw a power")


class Profile(Document):
    """A way of talking."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    name: Name = Field(min_length=1, max_length=60, title="name")
    says: Notes = Field("", title="what talks so")
    talk: Talk = Field(default_factory=Talk)
    lines: Lines
    told: Told = Field(default_factory=Told)

    @model_validator(mode="after")
    def _asks(self) -> Self:
        if self.talk.mode is Mode.ASK and not self.talk.ask:
            raise ValueError("A device that is asked needs a line to be asked with.")
        if self.lines.form is Form.ANSWERS:
            sources = [one.source for one in self.lines.channels]
            wrong = next((s for s in sources if not s.isdecimal() or not 1 <= int(s) <= len(self.talk.ask)), None)
            if wrong is not None:
                raise ValueError(f"Answer {quoted(wrong)} is to none of the {len(self.talk.ask)} questions.")
        return self

    @property
    def open_ended(self) -> bool:
        """Whether only a reading tells how many channels there are."""
        return any(channel.open_ended for channel in self.lines.channels)

    @property
    def quantities(self) -> tuple[str, ...]:
        """What it tells whatever comes."""
        return tuple(channel.quantity for channel in self.lines.channels if not channel.open_ended)

    def recorded(self, told: Iterable[str]) -> tuple[RecordedChannel, ...]:
        """Its channels, in the units that they are kept in: and those of the groups that a reading ``told``."""
        groups = [name for name in told if name not in self.quantities] if self.open_ended else []
        groups.sort(key=lambda name: int(name.removeprefix(GROUP)))
        names = (*self.quantities, *groups)
        return tuple(RecordedChannel(quantity=name, unit=quantity_of(name).unit) for name in names)


def profile_from_toml(text: str, name: str = "This profile") -> Profile:
    """A profile from TOML; raises :class:`DocumentError` with a sentence."""
    try:
        data = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise DocumentError(f"{name} is no TOML that can be read: {error}.") from error
    return Profile.from_data(data)


def profile_to_toml(profile: Profile) -> str:
    """The text that :func:`profile_from_toml` reads: whatever is other than usual."""
    return tomli_w.dumps(profile.model_dump(mode="json", exclude_defaults=True))


def read_profile(path: Path) -> Profile:
    """A profile from a file; raises :class:`DocumentError` with a sentence."""
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise DocumentError(f"{path.name} is too large for a profile.")
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise DocumentError(f"{path.name} cannot be read as a profile: {error}.") from error
    try:
        return profile_from_toml(text, path.name)
    except DocumentError as error:
        raise DocumentError(f"{path.name}: {error}", error.path) from error


@cache
def shipped_profiles() -> dict[str, Profile]:
    """Those that ship with the product, by the names of their files."""
    folder = Path(str(resources.files(__package__) / "profiles"))
    return {path.stem: read_profile(path) for path in sorted(folder.glob("*.toml"))}
