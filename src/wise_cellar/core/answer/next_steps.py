"""What to weigh or measure next: the inputs that would narrow the range most, and what each would bring."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from wise_cellar.core.answer.doubts import DRIVE_CALIBRATED, STYLE_LEARNED, Doubts, by_minutes, mass_doubt
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.answer.spread import Spread, spread
from wise_cellar.core.cells.doubts import CAPACITY, RESISTANCE
from wise_cellar.core.documents import BlockKind, CompleteDesign, Manner, SourceKind

MOST_STEPS = 3
LEAST_SHARE = 0.02
"""A step that narrows the range by less of it is not worth anybody's time."""


@dataclass(frozen=True)
class NextStep:
    """Something to weigh or measure: how, where it is entered, and the range that it would leave."""

    name: str
    how: str
    """One sentence."""
    field: str
    low_s: float
    high_s: float


@dataclass(frozen=True)
class WhatNext:
    """The steps that would bring most, best first, and those that are done."""

    steps: tuple[NextStep, ...]
    done: tuple[str, ...]


@dataclass(frozen=True)
class _Input:
    """One input: whether somebody has told it, and the doubts that are left once somebody does."""

    name: str
    how: str
    field: str
    done: bool
    drivers: tuple[str, ...]
    """Names of the doubts that it shrinks."""
    after: Callable[[Doubts], Doubts]


def what_next(complete: CompleteDesign, answer: Answer, found: Spread) -> WhatNext:
    """Three inputs at most that are not told yet, each with the range that the same flights would then have.

    Source: the doubts of the answer with that one input's replaced (`spread.py`), flown again; which are flown is told
    by each doubt's own part. Not modelled: that the measured value will differ, and so move the range as well.
    """
    inputs = _inputs(complete, answer)
    low, high = found.duration_s
    effects = {driver.name: driver.effect_s for driver in found.drivers}
    open_ones = [one for one in inputs if not one.done]
    ranked = sorted(open_ones, key=lambda one: -sum(effects.get(name, 0.0) ** 2 for name in one.drivers))
    steps = []
    for one in ranked[: MOST_STEPS + 1]:
        left = spread(complete, answer, known=one.after(found.doubts)).duration_s
        if (high - low) - (left[1] - left[0]) >= LEAST_SHARE * (high - low):
            steps.append(NextStep(one.name, one.how, one.field, *left))
    steps.sort(key=lambda step: step.high_s - step.low_s)
    return WhatNext(tuple(steps[:MOST_STEPS]), tuple(one.name for one in inputs if one.done))


def _inputs(complete: CompleteDesign, answer: Answer) -> list[_Input]:
    craft, cell, recipe = complete.craft, complete.pack.cell, complete.pack.recipe
    found = [
        _Input(
            "Weigh the craft", "Put it on a scale without its battery.", "craft.parts.0.mass_g",
            not craft.is_estimate("parts"), ("mass",),
            lambda known: replace(known, mass=mass_doubt(complete, answer, dry_told=True)),
        ),
        _Input(
            "Weigh the pack", "Put the finished pack on a scale, with its leads and its plug.",
            "design.packs.0.recipe.weighed_g", recipe.weighed_g is not None, ("mass",),
            lambda known: replace(known, mass=mass_doubt(complete, answer, pack_told=True)),
        ),
        _flight(complete, answer),
        _Input(
            "Measure the capacity", "Discharge three cells slowly, from full to empty, and note the mAh of each.",
            "cells.0.bench_results", _measured(complete, "capacity"), ("capacity",),
            lambda known: replace(
                known, cell=replace(known.cell, capacity=min(known.cell.capacity, CAPACITY[SourceKind.MEASURED]))
            ),
        ),
        _Input(
            "Measure the resistance", "Read a cell's volts before and ten seconds into a known load, at half charge; a"
            " meter for it does the same.", "cells.0.dcir_mohm", _measured(complete, "resistance"), ("resistance",),
            _with_resistance,
        ),
    ]  # fmt: skip
    if any(block.kind is BlockKind.MANUAL for block in complete.mission.blocks):
        learned = any(flight.used and flight.manner is Manner.MANUAL for flight in craft.known_flights)
        found.append(
            _Input(
                "Write down a flight by hand", "Fly as you do, from full to landing: minutes, and mAh put back.",
                "craft.known_flights", learned, ("how it is flown",),
                lambda known: replace(known, style=min(known.style, STYLE_LEARNED)),
            )
        )  # fmt: skip
    return found if not cell.fitted else [one for one in found if one.field != "cells.0.dcir_mohm"]


def _flight(complete: CompleteDesign, answer: Answer) -> _Input:
    craft = complete.craft
    known_well = (answer.calibration is not None and not by_minutes(craft)) or craft.hover_test is not None
    if answer.calibration is not None and by_minutes(craft):
        name, how = "Note what the charger puts back", "After the next such flight, read the mAh on the charger."
    elif craft.wing is not None:
        name, how = "Write down one flight", "Cruise level for some minutes, and note amps, volts and airspeed."
    else:
        name, how = "Hover for a minute", "With a full battery, and read amps and volts; or note a whole flight's mAh."
    field = "craft.known_flights.0.charge_used_mah" if by_minutes(craft) else "craft.known_flights"
    return _Input(
        name if not known_well else "A known flight", how, field, known_well, ("drive efficiency",),
        lambda known: replace(known, drive=min(known.drive, DRIVE_CALIBRATED)),
    )  # fmt: skip


def _measured(complete: CompleteDesign, what: str) -> bool:
    """Whether a cell's capacity or resistance was measured, or fitted to its discharges."""
    cell = complete.pack.cell
    name = {"capacity": "capacity_mah", "resistance": "dcir_mohm"}[what]
    on_bench = any(getattr(result, name) is not None for result in cell.bench_results)
    return cell.fitted is not None or on_bench or cell.source_of(name)[0] is SourceKind.MEASURED


def _with_resistance(known: Doubts) -> Doubts:
    least = RESISTANCE[SourceKind.MEASURED]
    cell, share = known.cell, min(least / max(known.cell.resistance, 1e-9), 1.0)
    return replace(
        known, cell=replace(cell, resistance=cell.resistance * share, burst=cell.burst * share, slow=cell.slow * share)
    )
