"""What to be careful about where packs share one bus: putting them there, what they take from each other, their full
volts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer.bus import BusStart, no_match, rests_too_high, takes_too_much
from wise_cellar.core.answer.result import Answer, Finding, PackAnswer, caution, over
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.words import lower_first

LEAST_TAKEN_A = 0.05


def bus_findings(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Findings of packs in parallel; none of one pack alone."""
    if answer.bus_start is None:
        return
    for room in (_put_together, _full_volts, _families):
        yield from room(answer.bus_start)
    yield from _landed(answer)
    for pack in answer.packs:
        yield from _charged(pack)


def _put_together(start: BusStart) -> Iterator[Finding]:
    if start.safe:
        return
    taker = start.taker
    name = lower_first(taker.complete.name)
    yield over(
        f"On one bus as they rest, {start.apart_v:.2f} V a cell apart, the {name} takes {-taker.current_a:.1f} A at"
        f" once; it may take {taker.limit_a:.1f} A. Bring them within {taker.below_v:.2f} V a cell of each other"
        " first.",
        taker.complete.path("state.start_charge_percent"),
    )


def _full_volts(start: BusStart) -> Iterator[Finding]:
    lowest = start.lower_full_v
    if no_match(start.full_v):
        full = " and ".join(f"{pack.complete.cell.max_voltage_v:.2f}" for pack in start.packs)
        yield over(
            f"Full at {full} V a cell, these packs are no match for one bus: at the lower voltage the others are far"
            " from full, at the higher it is overcharged.",
            start.packs[0].complete.path("cell.max_voltage_v"),
        )
        return
    for pack, too_high in zip(start.packs, rests_too_high(start.rest_v, start.full_v).tolist(), strict=True):
        if too_high:
            yield over(
                f"The {lower_first(pack.complete.name)} rests at {pack.rest_v:.2f} V a cell; another pack on the bus"
                f" is full at {lowest:.2f} V. Charge all of them to {lowest:.2f} V.",
                pack.complete.path("state.start_charge_percent"),
            )


def _families(start: BusStart) -> Iterator[Finding]:
    """Unlike chemistries share unevenly over a flight."""
    families = dict.fromkeys(pack.complete.cell.ocv_family.words for pack in start.packs)
    if len(families) > 1:
        yield caution(
            f"Packs of unlike chemistry ({', '.join(families)}) share the load unevenly, and the one with more volts"
            " gives first: see what each gives over the flight.",
            "design.packs",
        )


def _charged(pack: PackAnswer) -> Iterator[Finding]:
    cell, name = pack.complete.cell, lower_first(pack.complete.name)
    limit = cell.charge_limit_a * pack.build.recipe.parallel_count
    if takes_too_much(np.array(pack.taken_a), np.array(limit)):
        yield over(
            f"In flight the {name} is charged by the others with up to {pack.taken_a:.1f} A; it may take {limit:.1f}"
            " A.",
            pack.complete.path("state.start_charge_percent"),
        )
    if cell.charge_current_a is None:
        yield caution(
            f"{cell.name} tells no charge current; half of 1C, {limit:.1f} A for the {name}, is taken as the most it"
            " may be charged with.",
            pack.complete.path("cell.charge_current_a"),
        )


def _landed(answer: Answer) -> Iterator[Finding]:
    landed = landed_flow(answer)
    if landed is not None and landed.too_much:
        yield caution(landed.sentence, "design.packs")


@dataclass(frozen=True)
class LandedFlow:
    """What the pack that takes most goes on taking after landing, as long as all stay on one bus."""

    name: str
    amps: float
    limit_a: float
    rest_v: tuple[float, ...]
    """Volts a cell of every pack, at rest by itself."""

    @property
    def too_much(self) -> bool:
        """Whether it is more than the pack may take."""
        return self.amps > self.limit_a

    @property
    def sentence(self) -> str:
        """In words."""
        rest = " and ".join(f"{volts:.2f} V" for volts in self.rest_v)
        may = "more than" if self.too_much else "within"
        return (
            f"After landing the packs would rest at {rest} a cell. Left on one bus, {self.amps:.1f} A go on flowing"
            f" into the {lower_first(self.name)}, {may} the {self.limit_a:.1f} A it may take: part them after"
            " landing."
        )


def landed_flow(answer: Answer) -> LandedFlow | None:
    """By the volts at which the packs come to rest after the flight; none of one pack, or where they rest alike."""
    if answer.bus_start is None:
        return None
    series, packs = answer.bus_start.series_count, answer.bus_start.packs
    volts = [series * pack.resting_v for pack in answer.packs]
    ohms = [pack.ohm for pack in packs]
    bus = sum(v / r for v, r in zip(volts, ohms, strict=True)) / sum(1 / r for r in ohms)
    taken = [(bus - v) / r for v, r in zip(volts, ohms, strict=True)]
    most = max(range(len(taken)), key=lambda place: taken[place])
    if taken[most] < LEAST_TAKEN_A:
        return None
    rest = tuple(pack.resting_v for pack in answer.packs)
    return LandedFlow(packs[most].complete.name, taken[most], packs[most].limit_a, rest)
