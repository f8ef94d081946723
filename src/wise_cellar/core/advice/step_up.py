"""What a step-up in front of the load that stops first would buy."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign, Converter, Part
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one

STEP_UP_G = 6.0
"""A small step-up with its wires: an estimate."""


@dataclass(frozen=True)
class StepUp:
    """A load behind a step-up of its own, flown."""

    load: str
    gain_s: float
    added_g: float
    least_bus_v: float
    """At which it would stop then."""


def step_up(complete: CompleteDesign, answer: Answer) -> StepUp | None:
    """For a flight that ends, or a burst that fails, because a load stops; none where no load does."""
    loads = complete.craft.loads
    fed = [(load.least_bus_v, place) for place, load in enumerate(loads) if load.converter is not Converter.STEP_UP]
    if not fed:
        return None
    least, place = max(fed)
    if answer.reason.ending is not Ending.BROWN_OUT and answer.late_punch.bus_v >= least:
        return None
    lifted = loads[place].changed(converter=Converter.STEP_UP, converter_min_v=None)
    craft = complete.craft.changed(
        loads=(*loads[:place], lifted, *loads[place + 1 :]),
        parts=(*complete.craft.parts, Part(name="step-up", mass_g=STEP_UP_G)),
    )
    flown = fly(lower([lower_one(complete.changed(craft=craft), answer.factor)]))
    return StepUp(lifted.name, float(flown.lasted_s[0]) - answer.duration_s, STEP_UP_G, lifted.least_bus_v)
