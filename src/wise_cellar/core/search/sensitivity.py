"""What a little more of anything costs the present design, in seconds."""

from __future__ import annotations

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


@dataclass(frozen=True)
class Slope:
    """Seconds in the air for one unit more of something."""

    name: str
    unit: str
    """The step that is told: "1 g"."""
    seconds: float
    field: str


_WIRING_OHM = 1e-3
AIR_TEMPERATURE = "design.conditions.air_temperature_c"
_STEPS: tuple[tuple[str, str, str, float, float], ...] = (
    ("Take-off mass", "1 g more", "design.conditions.payload_g", 10.0, 1.0),
    ("Air and pack", "1 °C warmer", AIR_TEMPERATURE, 2.0, 1.0),
    ("Wind", "1 m/s more", "design.conditions.wind_m_s", 0.5, 1.0),
    ("Altitude", "100 m higher", "design.conditions.altitude_m", 100.0, 100.0),
    ("Capacity", "1 % less", "design.packs.0.state.capacity_percent", -2.0, -1.0),
    ("Cell resistance", "1 % more", "design.packs.0.state.resistance_percent", 5.0, 1.0),
)
"""Name, what is told, path of the field, half the step that is flown, the step that is told."""
_GO_TO = {"design.conditions.payload_g": "design.packs.0.recipe.fittings.other_g"}
"""Where a field is changed, if elsewhere."""


def sensitivity(complete: CompleteDesign, factor: float) -> tuple[Slope, ...]:
    """Slopes by central differences about the design, flown in one batch, steepest first.

    A field that stands at its bound is stepped to one side only.
    """
    designs, spans = [complete], []
    for _, _, path, half, _ in _STEPS:
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
    for number, (name, unit, path, _, told) in enumerate(_STEPS):
        change = float(seconds[2 + 2 * number] - seconds[1 + 2 * number])
        found.append(Slope(name, unit, change / spans[number] * told, _GO_TO.get(path, path)))
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
