"""What a little more of anything costs the present design, in seconds."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.documents import (
    COLDEST_PACK_C,
    WARMEST_PACK_C,
    CompleteDesign,
    Pack,
    field_info,
    replaced,
    value_at,
)
from wise_cellar.core.flight import fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.shown import shown


@dataclass(frozen=True)
class Slope:
    """Seconds in the air for one unit more of something."""

    name: str
    unit: str
    """The step that is told: "1 g more"."""
    seconds: float
    field: str


_WIRING_OHM = 1e-3
AIR_TEMPERATURE = "design.conditions.air_temperature_c"
_STEPS: tuple[tuple[str, str, str, str, float, float], ...] = (
    ("Take-off mass", "more", "g", "design.conditions.payload_g", 10.0, 1.0),
    ("Air and pack", "warmer", "°C", AIR_TEMPERATURE, 2.0, 1.0),
    ("Wind", "more", "m/s", "design.conditions.wind_m_s", 0.5, 1.0),
    ("Altitude", "higher", "m", "design.conditions.altitude_m", 100.0, 100.0),
    ("Capacity", "less", "%", "design.packs.0.state.capacity_percent", -2.0, 1.0),
    ("Cell resistance", "more", "%", "design.packs.0.state.resistance_percent", 5.0, 1.0),
)
"""Name, which way, unit, path of the field, half the step that is flown, and how many units as shown are told."""
_GO_TO = {"design.conditions.payload_g": "design.packs.0.recipe.fittings.other_g"}
"""Where a field is changed, if elsewhere."""


def sensitivity(complete: CompleteDesign, factor: float) -> tuple[Slope, ...]:
    """Slopes by central differences about the design, flown in one batch, steepest first.

    A field that stands at its bound is stepped to one side only.
    """
    designs, spans = [complete], []
    for _, _, _, path, half, _ in _STEPS:
        low, high = (_stepped(complete, path, side * half) for side in (-1, 1))
        designs += [low, high]
        spans.append(float(value_at(high, path)) - float(value_at(low, path)))
    batch = lower([lower_one(design, factor) for design in designs])
    # One more flight at the end, the design itself with more wiring.
    wide = batch.take(np.append(np.arange(batch.flights), 0))
    wiring = wide.wiring_ohm.copy()
    wiring[0, 0, -1] += _WIRING_OHM
    seconds = fly(replace(wide, wiring_ohm=wiring)).lasted_s
    more = float(seconds[-1] - seconds[0])
    found = [Slope("Leads and joints", "1 mΩ more", more, "design.packs.0.recipe.leads.gauge_awg")]
    for number, (name, way, symbol, path, half, told) in enumerate(_STEPS):
        change = float(seconds[2 + 2 * number] - seconds[1 + 2 * number])
        into = shown(symbol)
        step = math.copysign(told / into.per, half)
        words = f"{told:.0f} {into.symbol} {way}"
        found.append(Slope(name, words, change / spans[number] * step, _GO_TO.get(path, path)))
    return tuple(sorted(found, key=lambda slope: -abs(slope.seconds)))


def _stepped(complete: CompleteDesign, path: str, by: float) -> CompleteDesign:
    """The design with a field moved, held inside its bounds; packs of their own warmth are as much warmer as the
    air."""
    info = field_info(CompleteDesign, path)
    assert info.minimum is not None
    assert info.maximum is not None
    moved = min(max(float(value_at(complete, path)) + by, info.minimum), info.maximum)
    packs = complete.design.packs
    if path == AIR_TEMPERATURE:
        packs = tuple(_warmer(pack, by) for pack in packs)
    return replaced(complete.with_design(packs=packs), path, moved)


def _warmer(pack: Pack, by: float) -> Pack:
    own = pack.state.temperature_c
    if own is None:
        return pack
    warmer = min(max(own + by, COLDEST_PACK_C), WARMEST_PACK_C)
    return pack.changed(state=pack.state.changed(temperature_c=warmer))
