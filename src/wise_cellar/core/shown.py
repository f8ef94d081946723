"""The units and the decimal mark that a person thinks in: one setting for all that is read and typed.

Documents, files and every law keep their own units (``mass_g``, ``length_mm``). What a window or a command shows goes
through :func:`shown`, and what is typed without a unit comes back through it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any

from wise_cellar.core.words import quoted


@dataclass(frozen=True)
class Shown:
    """How a kept unit is shown: ``shown = kept * per + zero``, with ``finer`` decimals more for the same fineness."""

    symbol: str
    per: float = 1.0
    zero: float = 0.0
    finer: int = 0

    def of(self, kept: Any) -> Any:
        """A value, or an array of them, as it is shown."""
        return kept if self.per == 1.0 and self.zero == 0.0 else kept * self.per + self.zero

    def change(self, kept: Any) -> Any:
        """A difference of two values, or a scatter, as it is shown."""
        return kept * self.per

    def kept(self, shown: Any) -> Any:
        """What a shown value is kept as."""
        return (shown - self.zero) / self.per


METRIC, IMPERIAL = "metric", "imperial"


@dataclass(frozen=True)
class Units:
    """What each quantity is shown in. ``decimal_comma`` writes 3,30 for 3.30."""

    mass: str = "g"
    length: str = "mm"
    height: str = "m"
    speed: str = "m/s"
    temperature: str = "°C"
    decimal_comma: bool = False

    def written(self) -> str:
        """All of it as words that :func:`read_units` reads: ``oz,in,ft,mph,°F,comma``."""
        chosen = [getattr(self, quantity) for quantity in CHOICES]
        return ",".join([*chosen, COMMA if self.decimal_comma else POINT])


CHOICES: dict[str, tuple[str, ...]] = {
    "mass": ("g", "oz"),
    "length": ("mm", "in"),
    "height": ("m", "ft"),
    "speed": ("m/s", "km/h", "mph", "kn"),
    "temperature": ("°C", "°F"),
}
COMMA, POINT = "comma", "point"
READY = {METRIC: Units(), IMPERIAL: Units(mass="oz", length="in", height="ft", speed="mph", temperature="°F")}
_SPELLED = {"c": "°C", "f": "°F", "ms": "m/s", "kmh": "km/h", "kt": "kn", "knots": "kn"}
_QUANTITY_OF = {choice: quantity for quantity, choices in CHOICES.items() for choice in choices}

_OUNCE_G, _INCH_MM, _FOOT_M, _MILE_KM, _NAUTICAL_MILE_KM = 28.349523125, 25.4, 0.3048, 1.609344, 1.852
_SHOWN: dict[str, tuple[str, dict[str, Shown]]] = {
    "g": ("mass", {"oz": Shown("oz", 1 / _OUNCE_G, finer=1)}),
    "g/dm²": ("mass", {"oz": Shown("oz/ft²", (10 * _FOOT_M) ** 2 / _OUNCE_G, finer=1)}),
    "mm": ("length", {"in": Shown("in", 1 / _INCH_MM, finer=1)}),
    "dm²": ("length", {"in": Shown("in²", (100 / _INCH_MM) ** 2, finer=-1)}),
    "m²": ("length", {"in": Shown("ft²", 1 / _FOOT_M**2, finer=-1)}),
    "m": ("height", {"ft": Shown("ft", 1 / _FOOT_M)}),
    "m/s": ("speed", {
        "km/h": Shown("km/h", 3.6), "mph": Shown("mph", 3.6 / _MILE_KM), "kn": Shown("kn", 3.6 / _NAUTICAL_MILE_KM),
    }),
    "km": ("speed", {"mph": Shown("mi", 1 / _MILE_KM), "kn": Shown("nmi", 1 / _NAUTICAL_MILE_KM)}),
    "°C": ("temperature", {"°F": Shown("°F", 1.8, 32.0)}),
    "K": ("temperature", {"°F": Shown("°F", 1.8)}),
}  # fmt: skip
"""Of a kept unit, the choice that it follows, and what it is shown as by that choice where not as it is kept."""


class _Present:
    """The one setting of this process: two windows of one person show the same."""

    units = Units()


def units() -> Units:
    """What is shown at present."""
    return _Present.units


def show_units(wanted: Units) -> None:
    """Show these from now on; what is shown already is to be said again by whoever shows it."""
    _Present.units = wanted


@contextmanager
def shown_in(wanted: Units) -> Iterator[None]:
    """Show these for a while."""
    before = units()
    show_units(wanted)
    try:
        yield
    finally:
        show_units(before)


def shown(symbol: str) -> Shown:
    """How the unit that values are kept in is shown at present; most, such as volts, are shown as they are kept."""
    if symbol not in _SHOWN:
        return Shown(symbol)
    quantity, others = _SHOWN[symbol]
    return others.get(getattr(_Present.units, quantity)) or Shown(symbol)


def with_mark(text: str) -> str:
    """A number that was written with a point, with the decimal mark of the moment."""
    return text.replace(".", ",") if _Present.units.decimal_comma else text


def read_units(text: str) -> Units:
    """Units as they are written on a command line: "metric", "imperial", or some of them such as "oz,in,comma".

    Raises :class:`ValueError` with a sentence where a word names none.
    """
    read = Units()
    for word in (part.strip() for part in text.split(",")):
        spelled = _SPELLED.get(word.lower(), word.lower().replace("°c", "°C").replace("°f", "°F"))
        if spelled in READY:
            read = replace(READY[spelled], decimal_comma=read.decimal_comma)
        elif spelled in (COMMA, POINT):
            read = replace(read, decimal_comma=spelled == COMMA)
        elif spelled in _QUANTITY_OF:
            read = replace(read, **{_QUANTITY_OF[spelled]: spelled})  # type: ignore[arg-type]
        else:
            every = ", ".join([*READY, *_QUANTITY_OF, COMMA, POINT])
            raise ValueError(f"{quoted(word)} is no unit to show; write one or more of {every}, with commas between.")
    return read
