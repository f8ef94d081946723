"""Designs beside each other: what differs, and what of the minutes comes from what."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight import FlightBatch, fly
from wise_cellar.core.flight.batch import total
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.units import format_grams, format_minutes, format_number, format_significant, of_limit
from wise_cellar.core.words import lower_first

_SMALL_S = 0.5
_MASS = ("weight_n", "thrust_wanted_n", "block_w", "block_motor_v", "block_slip", "cruising_slip")
"""All that follows a flight's mass: a heavier wing flies faster, and its propellers slip otherwise."""


@dataclass(frozen=True)
class Share:
    """A part of a difference."""

    name: str
    amount: float


@dataclass(frozen=True)
class Difference:
    """What one design has more than another: grams by the lines of the ledger, seconds by their cause."""

    grams: float
    grams_of: tuple[Share, ...]
    """Greatest first."""
    seconds: float
    seconds_of: tuple[Share, ...]

    def sentence(self) -> str:
        """ "+58 g, of which cells 44 g; +4 min 20 s, of which capacity 5 min 10 s, mass −50 s." """
        grams = format_grams(self.grams, signed=True)
        parts = [share for share in self.grams_of if abs(share.amount) >= max(0.15 * abs(self.grams), 0.5)]
        if parts and not (len(parts) == 1 and abs(parts[0].amount - self.grams) < 0.5):
            listed = ", ".join(f"{share.name.lower()} {_signed(share.amount, self.grams)}" for share in parts[:3])
            grams += f", of which {listed}"
        minutes = ("+" if self.seconds >= 0 else "−") + format_minutes(abs(self.seconds))
        causes = [share for share in self.seconds_of if abs(share.amount) >= _SMALL_S]
        if causes:
            minutes += ", of which " + ", ".join(
                f"{share.name} {'−' if share.amount < 0 else '+'}{format_minutes(abs(share.amount))}"
                for share in causes
            )
        return f"{grams}; {minutes}."


LIKE, ALIKE = 0.03, 0.07
"""Minutes and grams so near each other are the same, and so are thrusts."""


def in_short(first: Answer, other: Answer) -> str:
    """What another design is worth against the first, in one sentence: thrust for minutes, grams, and what breaks."""
    minutes = other.duration_s / max(first.duration_s, 1e-9)
    thrust = other.late_punch.thrust_margin / max(first.late_punch.thrust_margin, 1e-9)
    grams = other.takeoff_mass_g - first.takeoff_mass_g
    worth = "the same thrust" if abs(thrust - 1) < ALIKE else f"{format_number(thrust, 1)} × the thrust"
    times = "the same minutes" if abs(minutes - 1) < LIKE else f"{format_significant(minutes, 2)} × the minutes"
    parts = [f"{worth} and {times}" if worth.startswith("the") == times.startswith("the") else f"{worth} for {times}"]
    if abs(grams) >= LIKE * first.takeoff_mass_g:
        parts.append(f"{format_grams(abs(grams))} {'heavier' if grams > 0 else 'lighter'}")
    weak = other.weak_link
    if weak.worst_share > 1 and weak.name != (first.weak_link.name if first.weak_link.worst_share > 1 else ""):
        parts.append(f"but {lower_first(weak.name.split(',')[0])} at {of_limit(weak.worst_share)}")
    return f"{', '.join(parts)}."


def _signed(amount: float, whole: float) -> str:
    """A part, with its sign where it goes against the whole."""
    against = amount * whole < 0
    return format_grams(amount if against else abs(amount))


def difference(base: CompleteDesign, its: Answer, other: CompleteDesign, others: Answer) -> Difference:
    """What ``other`` has more than ``base``.

    Seconds are told apart by flying the way from one to the other in steps, in one batch: the other's flight (craft,
    mission, weather, landing rule) with the pack of the base, then the other's mass, then as much charge as it has,
    then the rest, which is volts and resistance. The parts add up to the whole; another order would part them a little
    differently.
    """
    grams: dict[str, float] = {}
    for answered, sign in ((others, 1.0), (its, -1.0)):
        for entry in (entry for pack in answered.packs for entry in pack.build.masses):
            name = "Cells" if entry.field == "cell.mass_g" else entry.name
            grams[name] = grams.get(name, 0.0) + sign * entry.mass_g
        rest = answered.takeoff_mass_g - sum(pack.build.mass_g for pack in answered.packs)
        grams["Craft and payload"] = grams.get("Craft and payload", 0.0) + sign * rest
    by_size = sorted((Share(name, amount) for name, amount in grams.items() if abs(amount) > 0.05),
                     key=lambda share: -abs(share.amount))  # fmt: skip
    return Difference(
        others.takeoff_mass_g - its.takeoff_mass_g, tuple(by_size), others.duration_s - its.duration_s,
        _causes(base, its, other, others),
    )  # fmt: skip


def _causes(base: CompleteDesign, its: Answer, other: CompleteDesign, others: Answer) -> tuple[Share, ...]:
    moved = other.changed(design=other.design.changed(packs=base.design.packs), cells=base.cells)
    batch = lower([lower_one(moved, others.factor), lower_one(other, others.factor)])
    one, last = (batch.take(np.array([place])) for place in (0, 1))
    heavier = _with(one, last, _MASS)
    charged = _charged(heavier, last)
    flights = fly(_joined([one, heavier, charged])).lasted_s.tolist()
    stages = [its.duration_s, *flights, others.duration_s]
    names = ("mission, weather and landing", "mass", "capacity", "volts and resistance")
    return tuple(Share(name, after - before) for name, before, after in zip(names, stages, stages[1:], strict=False))


def _with(batch: FlightBatch, other: FlightBatch, names: tuple[str, ...]) -> FlightBatch:
    return replace(batch, **{name: getattr(other, name) for name in names})


def _charged(batch: FlightBatch, other: FlightBatch) -> FlightBatch:
    """With cells of so much charge that the whole pack holds as much as the other's, cell for cell in series."""
    held, mine = (one.series * total(one.parallel * one.cell.charge_c * one.group_share) for one in (other, batch))
    return replace(batch, cell=replace(batch.cell, charge_c=batch.cell.charge_c * held / mine))


def _joined(batches: list[FlightBatch]) -> FlightBatch:
    """One batch of several of one flight each."""
    wide = batches[0].take(np.zeros(len(batches), np.intp))
    changed: dict[str, Any] = {}
    for name in _MASS:
        changed[name] = np.concatenate([getattr(batch, name) for batch in batches])
    cell = replace(wide.cell, charge_c=np.concatenate([batch.cell.charge_c for batch in batches], axis=-1))
    return replace(wide, cell=cell, **changed)
