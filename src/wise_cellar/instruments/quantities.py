"""What devices measure: the names of quantities, the unit that each is kept in, and the units that devices send."""

from __future__ import annotations

from dataclasses import dataclass, field

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import quoted


@dataclass(frozen=True)
class Quantity:
    """One quantity: kept = sent · factor + offset."""

    title: str
    unit: str
    """That it is kept in."""
    units: dict[str, tuple[float, float]] = field(default_factory=dict)
    decimals: int = 3
    """That are shown of what came."""


def _scaled(**factors: float) -> dict[str, tuple[float, float]]:
    return {unit.replace("_", "%"): (factor, 0.0) for unit, factor in factors.items()}


QUANTITIES = {
    "volts": Quantity("Volts", "V", _scaled(V=1, mV=1e-3, uV=1e-6)),
    "amps": Quantity("Amps", "A", _scaled(A=1, mA=1e-3, cA=1e-2)),
    "resistance": Quantity("Resistance", "mΩ", {"mΩ": (1, 0), "mohm": (1, 0), "Ω": (1e3, 0), "ohm": (1e3, 0)}),
    "mass": Quantity("Mass", "g", _scaled(g=1, kg=1e3, oz=28.349523125, lb=453.59237)),
    "temperature": Quantity(
        "Temperature",
        "°C",
        {"°C": (1, 0), "C": (1, 0), "°F": (5 / 9, -160 / 9), "K": (1, -273.15), "c°C": (0.01, 0)},
        decimals=1,
    ),
    "charge": Quantity("Charge", "mAh", _scaled(mAh=1, Ah=1e3), decimals=0),
    "energy": Quantity("Energy", "Wh", _scaled(Wh=1, mWh=1e-3)),
    "power": Quantity("Power", "W", _scaled(W=1, mW=1e-3)),
    "time": Quantity("Time", "s", _scaled(s=1, ms=1e-3, min=60, h=3600)),
    "throttle": Quantity("Throttle", "%", {"%": (1, 0), "share": (100, 0)}, decimals=0),
    "speed": Quantity("Speed", "m/s", {"m/s": (1, 0), "km/h": (1 / 3.6, 0), "kn": (0.514444, 0)}),
    "airspeed": Quantity("Airspeed", "m/s", {"m/s": (1, 0), "km/h": (1 / 3.6, 0), "kn": (0.514444, 0)}),
    "altitude": Quantity("Altitude", "m", {"m": (1, 0), "ft": (0.3048, 0)}),
}
GROUP, EVERY = "group-", "*"
"""Volts of a group are ``group-1`` and so on; ``group-*`` are those of as many groups as there are."""


def quantity_of(name: str) -> Quantity:
    """A quantity by its name; raises :class:`DocumentError` where there is none."""
    place = name.removeprefix(GROUP) if name.startswith(GROUP) else ""
    if place.isdecimal() or place == EVERY:
        return Quantity(f"Group {place}" if place != EVERY else "Groups", "V", QUANTITIES["volts"].units)
    found = QUANTITIES.get(name)
    if found is None:
        raise DocumentError(f"{quoted(name)} is no quantity: one of {', '.join(QUANTITIES)}, or group-1 and so on.")
    return found


def converted(name: str, value: float, unit: str) -> float:
    """A value in the unit that its quantity is kept in; raises :class:`DocumentError` for a unit that it has not."""
    quantity = quantity_of(name)
    known = {each.lower(): pair for each, pair in quantity.units.items()}
    # mV and MV, mA and MA would be one: a unit is taken as it is written where that is known.
    pair = quantity.units.get(unit) or known.get(unit.lower())
    if pair is None:
        raise DocumentError(
            f"{quoted(unit)} is no unit of {quantity.title.lower()}: one of {', '.join(quantity.units)}."
        )
    return value * pair[0] + pair[1]
