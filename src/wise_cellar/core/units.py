"""Numbers with units, as people type and read them.

Field names of documents end in their unit (``mass_g``, ``dcir_mohm``); :func:`unit_of_field` reads that suffix.
:func:`parse_typed` takes what somebody typed ("1.2kg", "85F", "14 awg", "2:30") into that unit, and what is shown is in
the units that a person thinks in (:mod:`wise_cellar.core.shown`).
"""

from __future__ import annotations

import math
import operator
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from wise_cellar.core.shown import shown, units, with_mark
from wise_cellar.core.words import quoted

MINUS = "−"
LONGEST_TYPED = 200
MANY_TIMES, UNKNOWN_OVER = 3.0, 6.0
MOST_DECIMALS, TOLD_DIGITS = 6, 3
TOLD = None
"""In place of decimals: as finely as it was told, without needless zeros."""
WIDE_MIN = 2.0
"""A range so wide is told in whole minutes."""


class QuantityError(ValueError):
    """What was typed is not a number of the wanted kind; the message says what would be right."""


@dataclass(frozen=True)
class Unit:
    """A unit a document keeps its values in; :func:`shown` of its ``symbol`` tells what they are shown in.

    ``accepts`` maps every spelling (lower case) to a function into this unit;
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
_AREA_M2 = {
    **{f"m{two}": 1.0 for two in "2²"},
    **{f"dm{two}": 1e-2 for two in "2²"},
    **{f"cm{two}": 1e-4 for two in "2²"},
    **{f"in{two}": 0.0254**2 for two in "2²"},
    **{f"ft{two}": 0.3048**2 for two in "2²"},
}
_TIME_S = {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0}
_SPEED = {"m/s": 1.0, "ms": 1.0, "km/h": 1 / 3.6, "kmh": 1 / 3.6, "mph": 0.44704, "kn": 1.852 / 3.6, "kt": 1.852 / 3.6}

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
    "m2": Unit("area", "m²", 4, _scaled(**_AREA_M2), "0.03 m² or 300 cm²"),
    "dm2": Unit(
        "area",
        "dm²",
        2,
        _scaled(**{name: 100.0 * factor for name, factor in _AREA_M2.items()}),
        "42 dm² or 0.42 m²",
    ),
    "rpm": Unit("speed", "rpm", 0, _scaled(rpm=1.0), "6500 rpm"),
    "rpm_per_v": Unit("speed constant", "rpm/V", 0, _scaled(**{"rpm/v": 1.0, "kv": 1.0}), "920 rpm/V"),
    "awg": Unit("gauge", "AWG", 0, _scaled(awg=1.0, ga=1.0), "14 AWG"),
    "percent": Unit("share", "%", 0, _scaled(**{"%": 1.0, "percent": 1.0}), "80 %"),
    "deg": Unit("angle", "°", 0, _scaled(**{"deg": 1.0, "°": 1.0, "degrees": 1.0}), "270 or 270 deg"),
    "": Unit("number", "", 3, {}, "a plain number such as 4"),
}

_BY_SYMBOL = {unit.symbol: unit for unit in _UNITS.values()}
_NUMBER = re.compile(r"^([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d+)?)\s*(.*)$", re.IGNORECASE)
_CLOCK = re.compile(r"^(\d{1,6}):([0-5]\d)$")
_THOUSANDS = {
    mark: re.compile(rf"^([+-]?[1-9]\d{{0,2}}(?:{re.escape(mark)}\d{{3}})+)({re.escape(point)}\d+)?(?![\d.,])")
    for mark, point in ((",", "."), (".", ","))
}
"""By the mark of thousands, numbers that hold it."""
_SPACES = ("\u00a0", "\u2009", "\u202f")


def unit_of_field(field_name: str) -> Unit:
    """Unit of a document field, from the longest suffix of its name that is a unit; plain number otherwise."""
    parts = field_name.lower().split("_")
    for start in range(len(parts)):
        suffix = "_".join(parts[start:])
        if suffix in _UNITS and suffix != field_name.lower():
            return _UNITS[suffix]
    return _UNITS[""]


def parse_typed(text: str, unit: Unit) -> float:
    """Value in ``unit`` of what a person typed: a bare number is in what that unit is shown in, with its decimal mark.

    Raises :class:`QuantityError` as :func:`parse_quantity` does.
    """
    return parse_quantity(text, unit, decimal_comma=units().decimal_comma, bare=shown(unit.symbol).kept)


def parse_quantity(
    text: str, unit: Unit, *, decimal_comma: bool = False, bare: Callable[[float], float] | None = None
) -> float:
    """Value in ``unit`` of what was written; a bare number is already in ``unit``, or is taken there by ``bare``.

    A comma before three digits is refused with both of its readings, or a point where decimals stand behind a
    ``decimal_comma``. Raises :class:`QuantityError` with a sentence when it is no number, or a unit of another kind.
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
    match = _NUMBER.match(_without_thousands(cleaned, "." if decimal_comma else ","))
    if not match:
        raise QuantityError(f"{quoted(text.strip())} is not a number; write {unit.example}.")
    value = float(match[1].replace(",", "."))
    spelled = match[2].strip().lower()
    if spelled:
        convert = unit.accepts.get(spelled)
        if convert is None:
            article = "an" if unit.kind[0] in "aeiou" else "a"
            wanted = f"{article} {unit.kind}" if unit.kind != "number" else "a number without a unit"
            raise QuantityError(f"{quoted(match[2].strip())} is not a unit of {wanted} here; write {unit.example}.")
        value = convert(value)
    elif bare is not None:
        value = bare(value)
    if not math.isfinite(value):
        raise QuantityError(f"{quoted(text.strip())} is larger than any number here; write {unit.example}.")
    return value


def _without_thousands(text: str, mark: str) -> str:
    """ "1,234.5" and "1,234,567" without their commas; "1,200" alone could be either number. Likewise of points."""
    match = _THOUSANDS[mark].match(text)
    if match is None:
        return text
    whole, rest = match[1], match[2] or ""
    if whole.count(mark) == 1 and not rest:
        small, large = f"{float(whole.replace(',', '.')):g}", whole.replace(mark, "")
        if mark == ".":
            small = small.replace(".", ",")
        name = "comma" if mark == "," else "point"
        raise QuantityError(
            f"{quoted(whole)} may be {small} or {large}; write it without the {name}: {small} or {large}."
        )
    return whole.replace(mark, "") + rest + text[match.end() :]


def format_number(value: float, decimals: int, *, signed: bool = False) -> str:
    """Number with a true minus sign and thin-spaced thousands: ``−1 250.5``; ``signed`` marks what is over nought."""
    text = f"{abs(value):,.{decimals}f}".replace(",", "\u202f")
    more = any(digit in "123456789" for digit in text)
    return (MINUS if value < 0 and more else "+" if signed and more else "") + with_mark(text)


def counted(count: int, one: str, many: str = "") -> str:
    """So many of something: ``1 cell``, ``1 200 cells``; ``many`` where it is not ``one`` with an s."""
    return f"{format_number(count, 0)} {one if count == 1 else many or one + 's'}"


def format_significant(value: float, digits: int = 6) -> str:
    """Number with so many digits that mean something and no needless zeros: ``0.15``, ``4``."""
    text = f"{value:.{digits}g}"
    return with_mark(text.replace("-", MINUS) if "e" not in text else text)


def _significant(value: float, digits: int) -> str:
    """With so many digits that mean something, whole ones all, and no needless zeros."""
    first = math.floor(math.log10(abs(value))) if value else 0
    return _trimmed(value, min(max(digits - 1 - first, 0), MOST_DECIMALS))


def _trimmed(value: float, decimals: int) -> str:
    """Without needless zeros."""
    if not math.isfinite(value):
        return f"{value:g}"
    rounded = round(float(value), max(decimals, 0))
    short = f"{rounded:.{decimals}f}".rstrip("0").rstrip(".") if decimals > 0 else f"{rounded:.0f}"
    return format_number(rounded, len(short.partition(".")[2]))


def format_quantity(value: float, unit: Unit) -> str:
    """Value with its unit as it is shown, without needless zeros: ``18.5 mΩ``, ``80 %``, ``6.3 in``."""
    into = shown(unit.symbol)
    text = _trimmed(into.of(value), max(unit.decimals + into.finer, 0))
    return f"{text}\u00a0{into.symbol}" if into.symbol else text


def format_read(value: float, symbol: str) -> str:
    """A value read off a picture, kept in a unit, in what that is shown in: three figures, whole ones all."""
    into = shown(symbol)
    text = _significant(float(into.of(value)), TOLD_DIGITS)
    return f"{text}\u00a0{into.symbol}" if into.symbol else text


def entry_text(value: float, unit: Unit, *, whole: bool = False) -> str:
    """What a field for ``unit`` shows of a value: the number alone, with three digits at least that mean something."""
    into = shown(unit.symbol)
    number = float(into.of(value))
    first = math.floor(math.log10(abs(number))) if number and math.isfinite(number) else 0
    return _trimmed(number, 0 if whole else max(unit.decimals + into.finer, min(2 - first, MOST_DECIMALS), 2))


def _in(value: float, symbol: str, decimals: int | None, *, signed: bool = False) -> str:
    """A value kept in a unit, in what that is shown in, as finely as ``decimals`` of the kept one are."""
    into = shown(symbol)
    if decimals is TOLD:
        if into.symbol == symbol:
            return f"{entry_text(value, _BY_SYMBOL[symbol])} {symbol}"
        # In another unit than it was told in, the digits behind the third were never meant.
        return f"{_significant(into.of(value), TOLD_DIGITS)} {into.symbol}"
    return f"{format_number(into.of(value), max(decimals + into.finer, 0), signed=signed)} {into.symbol}"


def format_grams(value: float, decimals: int | None = 0, *, signed: bool = False) -> str:
    """A mass: ``2 044 g``, ``72.1 oz``."""
    return _in(value, "g", decimals, signed=signed)


def format_mm(value: float, decimals: int | None = 0, *, signed: bool = False) -> str:
    """A length: ``160 mm``, ``6.3 in``."""
    return _in(value, "mm", decimals, signed=signed)


def format_size(*sides_mm: float) -> str:
    """The sides of a box: ``140 × 65 × 22 mm``."""
    *first, last = (format_mm(side) for side in sides_mm)
    return " × ".join([*(side.partition(" ")[0] for side in first), last])


def format_section(width_mm: float, thickness_mm: float) -> str:
    """The section of a strip: ``8 × 0.2 mm``."""
    return f"{format_mm(width_mm, TOLD).partition(' ')[0]} × {format_mm(thickness_mm, TOLD)}"


def format_span(value_mm: float) -> str:
    """The span of a wing: ``2.4 m``, ``94 in``."""
    into = shown("mm")
    return format_mm(value_mm, -1) if into.per != 1.0 else f"{format_significant(value_mm / 1000, 2)} m"


def format_metres(value: float, decimals: int | None = 0) -> str:
    """A height, or a way over ground: ``40 m``, ``131 ft``."""
    return _in(value, "m", decimals)


def format_km(value: float, decimals: int = 1) -> str:
    """A long way: ``12.3 km``, ``7.6 mi``."""
    return _in(value, "km", decimals)


def format_speed(value_m_s: float, decimals: int | None = 1) -> str:
    """A speed: ``11.2 m/s``, ``40.3 km/h``."""
    return _in(value_m_s, "m/s", decimals)


def format_celsius(value: float, decimals: int | None = 0) -> str:
    """A temperature: ``−15 °C``, ``5 °F``."""
    return _in(value, "°C", decimals)


def format_volts(value: float, decimals: int | None = 2) -> str:
    """A voltage: ``3.31 V``."""
    return _in(value, "V", decimals)


def format_amps(value: float, decimals: int | None = 1) -> str:
    """A current: ``21.8 A``."""
    return _in(value, "A", decimals)


def format_watts(value: float, decimals: int | None = 0) -> str:
    """A power: ``213 W``."""
    return _in(value, "W", decimals)


def format_rise(kelvin: float, decimals: int = 0) -> str:
    """A difference of temperatures: ``12 K``, ``22 °F``."""
    return _in(kelvin, "K", decimals)


def format_loading(value_g_dm2: float) -> str:
    """A mass on an area: ``54 g/dm²``."""
    return _in(value_g_dm2, "g/dm²", 0)


def bare_number(value: float, symbol: str, decimals: int = 0) -> str:
    """A value as it is shown, without its unit, where that stands beside it already."""
    into = shown(symbol)
    return format_number(into.of(value), max(decimals + into.finer, 0))


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


def format_narrowing(now_s: tuple[float, float], then_s: tuple[float, float]) -> str:
    """A range of durations and what it becomes, in minutes: ``27 … 49 becomes 32 … 40``; in tenths of one where whole
    ones do not tell them apart."""
    was, then = format_range(*now_s), format_range(*then_s)
    if was == then:
        was, then = (f"{format_number(low / 60, 1)} … {format_number(high / 60, 1)}" for low, high in (now_s, then_s))
    return f"{was} becomes {then}" if was != then else f"{was} stays"


def format_change(value: float, decimals: int, unit: str) -> str:
    """Signed change with its unit: ``+140 g``, ``−0.06 V``; ``no change`` when it rounds to nothing."""
    into = shown(unit)
    text = format_number(into.change(value), max(decimals + into.finer, 0), signed=True)
    return f"{text} {into.symbol}" if any(digit in "123456789" for digit in text) else "no change"
