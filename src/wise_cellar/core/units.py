"""Numbers with units, as people type and read them.

Field names of documents end in their unit (``mass_g``, ``dcir_mohm``); :func:`unit_of_field` reads that suffix.
:func:`parse_quantity` takes what somebody typed ("1.2kg", "85F", "14 awg", "2:30") into that unit.
"""

from __future__ import annotations

import math
import operator
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from wise_cellar.core.words import quoted

MINUS = "−"
LONGEST_TYPED = 200
MANY_TIMES, UNKNOWN_OVER = 3.0, 6.0
WIDE_MIN = 2.0
"""A range so wide is told in whole minutes."""


class QuantityError(ValueError):
    """What was typed is not a number of the wanted kind; the message says what would be right."""


@dataclass(frozen=True)
class Unit:
    """A unit a document keeps its values in.

    ``symbol`` is shown; ``accepts`` maps every spelling (lower case) to a function into this unit;
    ``example`` is quoted when the input cannot be read.
    """

    kind: str
    symbol: str
    decimals: int
    accepts: dict[str, Callable[[float], float]]
    example: str


def _scaled(**factors: float) -> dict[str, Callable[[float], float]]:
    return {name: partial(operator.mul, factor) for name, factor in factors.items()}


_MASS_G = {"g": 1.0, "gram": 1.0, "grams": 1.0, "kg": 1000.0, "mg": 1e-3, "oz": 28.349523125, "lb": 453.59237}
_LENGTH_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "inch": 25.4, '"': 25.4, "ft": 304.8}
_TIME_S = {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0}
_SPEED = {
    "m/s": 1.0,
    "ms": 1.0,
    "km/h": 1 / 3.6,
    "kmh": 1 / 3.6,
    "mph": 0.44704,
    "kn": 0.514444,
    "kt": 0.514444,
}

_UNITS: dict[str, Unit] = {
    "g": Unit("mass", "g", 1, _scaled(**_MASS_G), "250 g or 1.2 kg"),
    "mm": Unit("length", "mm", 2, _scaled(**_LENGTH_MM), "160 mm or 6.3 in"),
    "m": Unit(
        "height",
        "m",
        0,
        _scaled(**{name: factor / 1000.0 for name, factor in _LENGTH_MM.items()}),
        "40 m or 130 ft",
    ),
    "s": Unit("time", "s", 1, _scaled(**_TIME_S), "90 s, 1:30 or 1.5 min"),
    "min": Unit("time", "min", 2, _scaled(s=1 / 60, sec=1 / 60, min=1.0, h=60.0), "12 min or 12:30"),
    "h": Unit("time", "h", 2, _scaled(s=1 / 3600, sec=1 / 3600, min=1 / 60, h=1.0), "6 h or 90 min"),
    "wh": Unit("energy", "Wh", 1, _scaled(wh=1.0, kwh=1000.0), "500 Wh or 1.2 kWh"),
    "c": Unit(
        "temperature",
        "°C",
        1,
        {
            "c": lambda v: v,
            "°c": lambda v: v,
            "f": lambda v: (v - 32.0) / 1.8,
            "°f": lambda v: (v - 32.0) / 1.8,
            "k": lambda v: v - 273.15,
        },
        "12 °C or 54 F",
    ),
    "m_s": Unit("speed", "m/s", 1, _scaled(**_SPEED), "9 m/s or 32 km/h"),
    "mah": Unit("charge", "mAh", 0, _scaled(mah=1.0, ah=1000.0), "3000 mAh or 3 Ah"),
    "mohm": Unit(
        "resistance",
        "mΩ",
        2,
        _scaled(**{"mohm": 1.0, "mω": 1.0, "mohms": 1.0, "ohm": 1000.0, "ω": 1000.0}),
        "18 mΩ or 0.018 ohm",
    ),
    "a": Unit("current", "A", 1, _scaled(a=1.0, ma=1e-3, amp=1.0, amps=1.0), "30 A or 500 mA"),
    "v": Unit("voltage", "V", 2, _scaled(v=1.0, mv=1e-3, volt=1.0, volts=1.0), "3.3 V or 3300 mV"),
    "w": Unit("power", "W", 1, _scaled(w=1.0, mw=1e-3, kw=1000.0), "4.5 W"),
    "m2": Unit("area", "m²", 4, _scaled(**{"m2": 1.0, "m²": 1.0, "cm2": 1e-4, "cm²": 1e-4}), "0.03 m² or 300 cm²"),
    "dm2": Unit(
        "area",
        "dm²",
        2,
        _scaled(**{"dm2": 1.0, "dm²": 1.0, "m2": 100.0, "m²": 100.0, "cm2": 0.01, "cm²": 0.01}),
        "42 dm² or 0.42 m²",
    ),
    "rpm": Unit("speed", "rpm", 0, _scaled(rpm=1.0), "6500 rpm"),
    "rpm_per_v": Unit("speed constant", "rpm/V", 0, _scaled(**{"rpm/v": 1.0, "kv": 1.0}), "920 rpm/V"),
    "awg": Unit("gauge", "AWG", 0, _scaled(awg=1.0, ga=1.0), "14 AWG"),
    "percent": Unit("share", "%", 0, _scaled(**{"%": 1.0, "percent": 1.0}), "80 %"),
    "deg": Unit("angle", "°", 0, _scaled(**{"deg": 1.0, "°": 1.0, "degrees": 1.0}), "270 or 270 deg"),
    "": Unit("number", "", 3, {}, "a plain number such as 4"),
}

_NUMBER = re.compile(r"^([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d+)?)\s*(.*)$", re.IGNORECASE)
_CLOCK = re.compile(r"^(\d{1,6}):([0-5]\d)$")
_THOUSANDS = re.compile(r"^([+-]?[1-9]\d{0,2}(?:,\d{3})+)(\.\d+)?(?![\d.,])")
_SPACES = ("\u00a0", "\u2009", "\u202f")


def unit_of_field(field_name: str) -> Unit:
    """Unit of a document field, from the longest suffix of its name that is a unit; plain number otherwise."""
    parts = field_name.lower().split("_")
    for start in range(len(parts)):
        suffix = "_".join(parts[start:])
        if suffix in _UNITS and suffix != field_name.lower():
            return _UNITS[suffix]
    return _UNITS[""]


def parse_quantity(text: str, unit: Unit, *, decimal_comma: bool = False) -> float:
    """Value in ``unit`` of what was typed; a bare number is already in ``unit``.

    A comma before three digits is refused with both of its readings, unless it is known to be a ``decimal_comma``.
    Raises :class:`QuantityError` with a sentence when it is no number, or a unit of another kind.
    """
    if len(text) > LONGEST_TYPED:
        raise QuantityError(f"{quoted(text)} is not a number; write {unit.example}.")
    cleaned = text.strip().replace(MINUS, "-")
    for space in _SPACES:
        cleaned = cleaned.replace(space, " ")
    cleaned = re.sub(r"(?<=\d) (?=\d{3}(?!\d))", "", cleaned)
    clock = _CLOCK.match(cleaned)
    if clock and unit.kind == "time":
        seconds = int(clock[1]) * 60.0 + int(clock[2])
        return seconds if unit.symbol == "s" else seconds / 60.0
    match = _NUMBER.match(cleaned if decimal_comma else _without_thousands(cleaned))
    if not match:
        raise QuantityError(f"{quoted(text.strip())} is not a number; write {unit.example}.")
    value = float(match[1].replace(",", "."))
    spelled = match[2].strip().lower()
    if spelled:
        convert = unit.accepts.get(spelled)
        if convert is None:
            wanted = f"a {unit.kind}" if unit.kind != "number" else "a number without a unit"
            raise QuantityError(f"{quoted(match[2].strip())} is not a unit of {wanted} here; write {unit.example}.")
        value = convert(value)
    if not math.isfinite(value):
        raise QuantityError(f"{quoted(text.strip())} is larger than any number here; write {unit.example}.")
    return value


def _without_thousands(text: str) -> str:
    """ "1,234.5" and "1,234,567" without their commas; "1,200" alone could be either number."""
    match = _THOUSANDS.match(text)
    if match is None:
        return text
    whole, rest = match[1], match[2] or ""
    if whole.count(",") == 1 and not rest:
        small, large = f"{float(whole.replace(',', '.')):g}", whole.replace(",", "")
        raise QuantityError(
            f"{quoted(whole)} may be {small} or {large}; write it without the comma: {small} or {large}."
        )
    return whole.replace(",", "") + rest + text[match.end() :]


def format_number(value: float, decimals: int) -> str:
    """Number with a true minus sign and thin-spaced thousands: ``−1 250.5``."""
    text = f"{abs(value):,.{decimals}f}".replace(",", "\u202f")
    negative = value < 0 and any(digit in "123456789" for digit in text)
    return (MINUS if negative else "") + text


def format_celsius(value: float) -> str:
    """A temperature in whole degrees: ``−15 °C``."""
    return f"{format_number(value, 0)} °C"


def format_quantity(value: float, unit: Unit) -> str:
    """Value with its unit, without needless zeros: ``18.5 mΩ``, ``80 %``."""
    text = format_number(value, unit.decimals)
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return f"{text}\u00a0{unit.symbol}" if unit.symbol else text


def format_share(value: float) -> str:
    """Share of one as ``71 %``; beyond three as ``14 times``, where digits would claim to be known."""
    if value >= MANY_TIMES:
        return f"{format_number(value, 0)}\u00a0times"
    return f"{format_number(100 * value, 0)}\u00a0%"


def of_limit(value: float, limit: str = "its limit") -> str:
    """Share of a limit in words: ``71 % of its limit``, ``14 times its limit``."""
    return f"{format_share(value)} {limit}" if value >= MANY_TIMES else f"{format_share(value)} of {limit}"


def format_mah(value: float) -> str:
    """A charge as ``9 283 mAh``."""
    return f"{format_number(value, 0)} mAh"


def format_grams(value: float) -> str:
    """A mass as ``2 044 g``."""
    return f"{format_number(value, 0)} g"


def format_minutes(seconds: float) -> str:
    """Duration as ``36 min 10 s``, to the nearest second."""
    whole = round(abs(seconds))
    sign = MINUS if seconds < 0 and whole else ""
    minutes, rest = divmod(whole, 60)
    return f"{sign}{minutes} min {rest:02d} s" if minutes else f"{sign}{rest} s"


def format_range(low_s: float, high_s: float) -> str:
    """A range of durations in minutes: ``33 … 39``, or in tenths of one where it is narrow; one whose ends lie many
    times apart says nothing, and is said to be unknown."""
    low, high = low_s / 60, high_s / 60
    if high >= UNKNOWN_OVER * max(low, 1e-9) and high >= 1:
        return "unknown"
    decimals = 0 if high - low >= WIDE_MIN else 1
    return f"{format_number(low, decimals)} … {format_number(high, decimals)}"


def format_change(value: float, decimals: int, unit: str) -> str:
    """Signed change with its unit: ``+140 g``, ``−0.06 V``; ``no change`` when it rounds to nothing."""
    text = format_number(value, decimals)
    if not any(digit in "123456789" for digit in text):
        return "no change"
    return f"{'+' if value > 0 else ''}{text} {unit}"
