"""What the columns of a logged table mean: guessed from their names and figures, to be corrected by the user."""

from __future__ import annotations

import re
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.physics.arrays import Bools, Floats
from wise_cellar.core.words import LONGEST_NAME, one_line

MOST_FIGURE = 1e20
"""Of any column, in any unit: nanoseconds since 1970 have 19 digits."""


class Role(StrEnum):
    """What a column holds."""

    TIME = "time"
    VOLTAGE = "volts"
    CURRENT = "amps"
    CAPACITY = "charge drawn"
    TEMPERATURE = "temperature"
    SOC = "state of charge"
    THROTTLE = "throttle"
    AIRSPEED = "airspeed"
    GROUND_SPEED = "ground speed"
    HEIGHT = "height"
    IGNORED = "left aside"


_SPEEDS = {
    "m/s": ("m/s", 1.0), "ms": ("m/s", 1.0), "km/h": ("km/h", 1 / 3.6), "kmh": ("km/h", 1 / 3.6),
    "kn": ("kn", 1852 / 3600), "kt": ("kn", 1852 / 3600), "knots": ("kn", 1852 / 3600), "mph": ("mph", 0.44704),
}  # fmt: skip
# Units of each role: spellings (lower case) -> what its unit is shown as, and the factor into SI-like units
# (s, V, A, Ah, °C by offset below, share of one).
UNITS: dict[Role, dict[str, tuple[str, float]]] = {
    Role.TIME: {
        "s": ("s", 1.0), "sec": ("s", 1.0), "secs": ("s", 1.0), "seconds": ("s", 1.0), "second": ("s", 1.0),
        "sek": ("s", 1.0), "min": ("min", 60.0), "mins": ("min", 60.0), "minutes": ("min", 60.0),
        "h": ("h", 3600.0), "hr": ("h", 3600.0), "hours": ("h", 3600.0), "std": ("h", 3600.0),
        "ms": ("ms", 1e-3), "msec": ("ms", 1e-3),
        "date": ("date", 1.0), "hh:mm:ss": ("h:m:s", 1.0), "h:m:s": ("h:m:s", 1.0), "h:min:s": ("h:m:s", 1.0),
    },
    Role.VOLTAGE: {"v": ("V", 1.0), "volt": ("V", 1.0), "volts": ("V", 1.0), "mv": ("mV", 1e-3)},
    Role.CURRENT: {"a": ("A", 1.0), "amp": ("A", 1.0), "amps": ("A", 1.0), "ampere": ("A", 1.0), "ma": ("mA", 1e-3)},
    Role.CAPACITY: {"ah": ("Ah", 1.0), "mah": ("mAh", 1e-3), "as": ("As", 1 / 3600)},
    Role.TEMPERATURE: {
        "c": ("°C", 1.0), "°c": ("°C", 1.0), "degc": ("°C", 1.0), "celsius": ("°C", 1.0), "f": ("°F", 1.0),
        "°f": ("°F", 1.0), "degf": ("°F", 1.0), "k": ("K", 1.0), "kelvin": ("K", 1.0),
    },
    Role.SOC: {"": ("of 1", 1.0), "1": ("of 1", 1.0), "%": ("%", 0.01), "percent": ("%", 0.01)},
    Role.THROTTLE: {"": ("of 1", 1.0), "%": ("%", 0.01), "percent": ("%", 0.01), "pct": ("%", 0.01)},
    Role.AIRSPEED: _SPEEDS, Role.GROUND_SPEED: _SPEEDS,
    Role.HEIGHT: {"m": ("m", 1.0), "ft": ("ft", 0.3048), "mm": ("mm", 1e-3)},
    Role.IGNORED: {},
}  # fmt: skip

_WORDS: tuple[tuple[Role, str], ...] = (
    (Role.THROTTLE, r"\bthr\b|throttle"),
    (Role.AIRSPEED, r"air ?speed|\b[it]as\b"),
    (Role.GROUND_SPEED, r"ground ?speed|\bspeed\b|\bgs\b"),
    (Role.HEIGHT, r"altitude|\balt\b|height"),
    (Role.SOC, r"\bsoc\b|state.?of.?charge|ladezustand"),
    (Role.CAPACITY, r"capacity|\bcap\b|\bcharge\b|\bq\b|kapaz|ladung|\bm?ah\b|drawn|discharged"),
    (Role.TEMPERATURE, r"temp|\bdeg[cf]\b|celsius"),
    (Role.VOLTAGE, r"volt|spannung|\bu\b|\bv\b|\bmv\b|\bocv\b|\bvbat\b|\bucell\b|\bvcell\b"),
    (Role.CURRENT, r"current|\bamps?\b|ampere|strom|\bi\b|\ba\b|\bma\b|\bcurr\b|\biload\b"),
    (Role.TIME, r"time|zeit|elapsed|\bt\b|\bsec|\bs\b|\bmin\b|\bh\b|datum|\bdate\b|timestamp"),
)
_UNIT = re.compile(r"[\[(<{]\s*([^\])>}]+?)\s*[\])>}]\s*$|/\s*([^\s/]+)\s*$|,\s*([^\s,]+)\s*$")
DATE = re.compile(r"^\s*(\d{4}-\d\d-\d\d)[T ](\d\d:\d\d:\d\d(?:[.,]\d+)?)(?:Z|[+-]\d\d:?\d\d)?\s*$")
"""ISO 8601; the zone is the same in every row."""
TIMES = ("h:m:s", "date")
"""Units of time that are no plain number."""
CLOCK = re.compile(r"^\s*(\d+):(\d{1,2})(?::(\d{1,2}(?:[.,]\d+)?))?\s*$")


@dataclass(frozen=True)
class LogColumn:
    """A column as understood: its name in the file, its role, and the unit of its figures."""

    name: str
    role: Role
    unit: str = ""

    @property
    def factor(self) -> float:
        """From the column's unit into s, V, A, Ah or a share of one; 1 for temperatures."""
        return next((factor for shown, factor in UNITS[self.role].values() if shown == self.unit), 1.0)

    def with_role(self, role: Role) -> LogColumn:
        """The same column taken for something else, in that role's first unit unless its name tells one."""
        return replace(self, role=role, unit=_unit_for(role, self.name))


def units_of(role: Role) -> list[str]:
    """The units a role may have, each once."""
    return list(dict.fromkeys(shown for shown, _ in UNITS[role].values()))


def guess_columns(names: Sequence[str], rows: Sequence[Sequence[str]], decimal: str = ".") -> tuple[LogColumn, ...]:
    """Roles and units of the columns, from their names, and from the figures where the names do not tell.

    ``rows`` are the first lines of data. Each role is given once, to the column whose name or figures fit it best.
    """
    figures = [
        _figures([row[place] if place < len(row) else "" for row in rows], decimal) for place in range(len(names))
    ]
    found: list[Role] = [Role.IGNORED] * len(names)
    for role, pattern in _WORDS:
        for place, name in enumerate(names):
            if found[place] is not Role.IGNORED or role in found or _is_current(role, name):
                continue
            if re.search(pattern, _plain(name)):
                found[place] = role
                break
    if not any(name.strip() for name in names) or Role.VOLTAGE not in found:
        found = _by_figures(figures, found)
    columns = []
    for place, (name, role) in enumerate(zip(names, found, strict=True)):
        unit = _unit_for(role, name)
        cells = [row[place] for row in rows if place < len(row)]
        if role is Role.TIME and cells and CLOCK.match(cells[0]):
            unit = "h:m:s"
        if role is Role.TIME and cells and DATE.match(cells[0]):
            unit = "date"
        columns.append(
            LogColumn(
                one_line(name, LONGEST_NAME) or f"column {place + 1}", role, _by_size(role, unit, name, figures[place])
            )
        )
    return tuple(columns)


_GROUP = re.compile(r"^(?:v ?)?(?:cell|group|zelle|gruppe)? ?(\d{1,2})(?: ?(?:m?v|volts?|voltage|spannung))?$")


def group_columns(columns: Sequence[LogColumn]) -> list[tuple[int, LogColumn]]:
    """Columns that hold the volts of single groups, by their numbers from 1 on, with their places; none where one is
    missing among them."""
    numbered: dict[int, tuple[int, LogColumn]] = {}
    for place, column in enumerate(columns):
        words = re.sub(r"(?<=[a-z])(?=\d)|(?<=\d)(?=[a-z])", " ", _plain(column.name))
        match = _GROUP.match(words)
        if column.role is Role.IGNORED and match is not None and not words.isdigit():
            numbered.setdefault(int(match[1]), (place, column.with_role(Role.VOLTAGE)))
    wanted = range(1, len(numbered) + 1)
    return [numbered[number] for number in wanted] if len(numbered) > 1 and set(numbered) == set(wanted) else []


_POSITION = (r"\blat(itude)?\b", r"\b(lon|lng|long|longitude)\b")


def position_columns(columns: Sequence[LogColumn]) -> list[int]:
    """Places of the columns that hold latitude and longitude, degrees; none where either is missing."""
    found = [
        next((place for place, column in enumerate(columns)
              if column.role is Role.IGNORED and re.search(pattern, _plain(column.name))), None)
        for pattern in _POSITION
    ]  # fmt: skip
    return [place for place in found if place is not None] if None not in found else []


def _is_current(role: Role, name: str) -> bool:
    """Whether a name that may be of a charge ends with the unit of a current: ``charge_A``."""
    return role is Role.CAPACITY and _plain(name).split()[-1:] in (["a"], ["ma"])


def measurable(figures: Floats) -> Bools:
    """Which of them are numbers that something could have measured, in any unit."""
    return np.abs(figures) <= MOST_FIGURE


def clock_seconds(text: str) -> float:
    """Seconds of ``1:02:03.5`` or ``62:03``, or since 1970 of ``2024-01-19T09:12:00Z``; raises ``ValueError`` for
    anything else."""
    if len(text) > LONGEST_NAME:
        raise ValueError("longer than any number")
    date = DATE.match(text)
    if date is not None:
        moment = np.datetime64(f"{date[1]}T{date[2].replace(',', '.')}", "ms")
        return float(moment.astype("int64")) / 1000
    match = CLOCK.match(text)
    if match is None:
        return float(text)
    first, second, third = match.groups()
    if third is None:
        return 60.0 * int(first) + int(second)
    return 3600.0 * int(first) + 60.0 * int(second) + float(third.replace(",", "."))


def check_columns(columns: Sequence[LogColumn]) -> None:
    """Refuse roles that cannot make a discharge: a sentence in a :class:`DocumentError`."""
    roles = [column.role for column in columns]
    for role in Role:
        if role is not Role.IGNORED and roles.count(role) > 1:
            raise DocumentError(f"Two columns are taken for {role}; choose one, and leave the other aside.")
    if Role.VOLTAGE not in roles:
        raise DocumentError("No column is taken for volts; choose the one that holds the voltage.")
    if not {Role.TIME, Role.CAPACITY, Role.SOC} & set(roles):
        raise DocumentError("No column is taken for time or for the charge drawn; choose the one that holds it.")


def _plain(name: str) -> str:
    """A name with its words apart: ``Voltage_V`` and ``cellTemp(°C)`` as words."""
    name = name[:LONGEST_NAME]
    apart = re.sub(r"(?<=[a-z]{2})(?=[A-Z][a-z])", " ", name)
    return re.sub(r"[^a-z0-9°%]+", " ", apart.lower()).strip()


def _unit_for(role: Role, name: str) -> str:
    known = UNITS[role]
    name = name[:LONGEST_NAME]
    match = _UNIT.search(name.strip())
    spelled = [part for part in (match.groups() if match else ()) if part]
    spelled += _plain(name).split()[::-1]
    for word in spelled:
        unit = known.get(word.strip().lower())
        if unit is not None:
            return unit[0]
    return next((shown for shown, _ in known.values()), "")


def _by_size(role: Role, unit: str, name: str, figures: Floats) -> str:
    """Where the name tells no unit, figures that are far too large are taken for the smaller one."""
    told = (
        any(word in UNITS[role] for word in _plain(name).split())
        or _UNIT.search(name[:LONGEST_NAME].strip()) is not None
    )
    if told or figures.size == 0:
        return unit
    middle = float(np.median(np.abs(figures)))
    if role is Role.VOLTAGE and middle > 500:
        return "mV"
    if role is Role.CURRENT and middle > 300:
        return "mA"
    if role is Role.CAPACITY and float(np.max(figures)) > 60:
        return "mAh"
    if role in (Role.SOC, Role.THROTTLE) and float(np.max(figures)) > 1.5:
        return "%"
    return unit


def _by_figures(figures: Sequence[Floats], found: Sequence[Role]) -> list[Role]:
    """Fill what names did not tell: the first rising column is time, a column within a cell's volts is volts."""
    roles = list(found)

    def give(role: Role, place: int | None) -> None:
        if place is not None and role not in roles:
            roles[place] = role

    free = [n for n, values in enumerate(figures) if roles[n] is Role.IGNORED and values.size]
    if not {Role.TIME, Role.CAPACITY, Role.SOC} & set(roles):
        rising = next((n for n in free if figures[n].size > 1 and np.all(np.diff(figures[n]) > 0)), None)
        if rising is not None:
            small = float(figures[rising].max()) < 60 and len(figures) == 2
            give(Role.CAPACITY if small else Role.TIME, rising)
    free = [n for n in free if roles[n] is Role.IGNORED]
    give(Role.VOLTAGE, next((n for n in free if 1.5 < np.median(figures[n]) < 4.6), None))
    free = [n for n in free if roles[n] is Role.IGNORED]
    give(Role.CURRENT, next((n for n in free if Role.TIME in roles), None))
    return roles


def _figures(texts: Sequence[str], decimal: str) -> Floats:
    values = []
    for text in texts:
        with suppress(ValueError):
            values.append(clock_seconds(text.strip().replace(decimal, ".")))
    figures = np.array(values, float)
    return figures[measurable(figures)]
