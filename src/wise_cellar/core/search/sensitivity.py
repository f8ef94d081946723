"""What a little more of anything costs the present design, in seconds."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.documents import CompleteDesign, Conditions, field_info
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
_STEPS: tuple[tuple[str, str, str, float, float, str], ...] = (
    ("Take-off mass", "1 g more", "payload_g", 10.0, 1.0, "design.recipe.fittings.other_g"),
    ("Air and pack", "1 °C warmer", "air_temperature_c", 2.0, 1.0, "design.conditions.air_temperature_c"),
    ("Wind", "1 m/s more", "wind_m_s", 0.5, 1.0, "design.conditions.wind_m_s"),
    ("Altitude", "100 m higher", "altitude_m", 100.0, 100.0, "design.conditions.altitude_m"),
    ("Capacity", "1 % less", "capacity_percent", -2.0, -1.0, "design.conditions.capacity_percent"),
    ("Cell resistance", "1 % more", "resistance_percent", 5.0, 1.0, "design.conditions.resistance_percent"),
)
"""Name, what is told, field, half the step that is flown, the step that is told, field to go to."""


def sensitivity(complete: CompleteDesign, factor: float) -> tuple[Slope, ...]:
    """Slopes by central differences about the design, flown in one batch, steepest first.

    A field that stands at its bound is stepped to one side only.
    """
    conditions = complete.design.conditions
    designs, spans = [complete], []
    for _, _, field, half, _, _ in _STEPS:
        low, high = (_stepped(conditions, field, side * half) for side in (-1, 1))
        designs += [_in(complete, low), _in(complete, high)]
        spans.append(float(getattr(high, field)) - float(getattr(low, field)))
    batch = lower([lower_one(design, factor) for design in designs])
    # One more flight at the end, the design itself with more wiring.
    wide = batch.take(np.append(np.arange(batch.flights), 0))
    wiring = wide.wiring_ohm.copy()
    np.atleast_2d(wiring)[0, -1] += _WIRING_OHM
    seconds = fly(replace(wide, wiring_ohm=wiring)).airborne_s
    more = float(seconds[-1] - seconds[0])
    found = [Slope("Leads and joints", "1 mΩ more", more, "design.recipe.leads.gauge_awg")]
    for number, (name, unit, _, _, told, path) in enumerate(_STEPS):
        change = float(seconds[2 + 2 * number] - seconds[1 + 2 * number])
        found.append(Slope(name, unit, change / spans[number] * told, path))
    return tuple(sorted(found, key=lambda slope: -abs(slope.seconds)))


def _stepped(conditions: Conditions, field: str, by: float) -> Conditions:
    """Conditions with a field moved, held inside its bounds; a pack of its own warmth is as much warmer as the air."""
    info = field_info(Conditions, field)
    value = float(getattr(conditions, field)) + by
    assert info.minimum is not None
    assert info.maximum is not None
    changed = {field: min(max(value, info.minimum), info.maximum)}
    if field == "air_temperature_c" and conditions.pack_temperature_c is not None:
        changed["pack_temperature_c"] = conditions.pack_temperature_c + by
    return conditions.model_copy(update=changed)


def _in(complete: CompleteDesign, conditions: Conditions) -> CompleteDesign:
    return complete.model_copy(update={"design": complete.design.model_copy(update={"conditions": conditions})})
