"""What to be careful about where packs share one bus: putting them there, what they take from each other, their full
volts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer.bus import (
    TRACE_A,
    BusStart,
    flowing_in_a,
    may_words,
    no_match,
    rests_too_high,
    takes_too_much,
)
from wise_cellar.core.answer.result import Answer, Finding, PackAnswer, caution, over
from wise_cellar.core.cells import NO_RATING_RATE, charge_limit_a, one_hour_a
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_amps, format_number, format_volts
from wise_cellar.core.words import lower_first


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
    taker, place = start.taker, start.taker.complete.path("state.start_charge_percent")
    name, window = lower_first(taker.complete.name), 1000 * min(taker.below_v, taker.above_v)
    if not taker.too_much:
        yield over(
            f"They rest {format_number(1000 * start.apart_v, 0)} mV a cell apart; {format_number(window, 0)} mV"
            " is the most that packs may be apart when they are put on one bus. Charge them to the same volts"
            " first.",
            place,
        )
        return
    yield over(
        (
            f"On one bus as they rest, {format_volts(start.apart_v)} a cell apart, the {name} takes"
            f" {format_amps(-taker.current_a)} at once; {taker.may_words}."
        )
        + (
            f" Bring them within {format_number(window, 0)} mV a cell of each other first."
            if window >= 1
            else " Warm them first."
        ),
        place,
    )


def _full_volts(start: BusStart) -> Iterator[Finding]:
    lowest = start.lower_full_v
    if no_match(start.full_v):
        full = " and ".join(format_number(pack.complete.cell.max_voltage_v, 2) for pack in start.packs)
        yield over(
            f"Full at {full} V a cell, these packs are no match for one bus: at the lower voltage the others are far"
            " from full, at the higher it is overcharged.",
            start.packs[0].complete.path("cell.max_voltage_v"),
        )
        return
    for pack, too_high in zip(start.packs, rests_too_high(start.rest_v, start.full_v).tolist(), strict=True):
        if too_high:
            yield over(
                f"The {lower_first(pack.complete.name)} rests at {format_volts(pack.rest_v)} a cell;"
                f" another pack on the bus is full at {format_volts(lowest)}. Charge all of them to"
                f" {format_volts(lowest)}.",
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
    parallel = pack.build.recipe.parallel_count
    limit = charge_limit_a(cell, pack.coldest_c) * parallel
    if takes_too_much(np.array(pack.taken_a), np.array(limit)):
        yield over(
            f"In flight the {name} is charged by the others with up to {format_amps(pack.taken_a)};"
            f" {may_words(limit, pack.coldest_c)}.",
            pack.complete.path("state.start_charge_percent"),
        )
    if cell.charge_current_a is None:
        yield caution(
            f"{cell.name} tells no charge current; half of 1C,"
            f" {format_amps(NO_RATING_RATE * one_hour_a(cell) * parallel)} for the {name}, is taken as"
            " the most it may be charged with.",
            pack.complete.path("cell.charge_current_a"),
        )


def _landed(answer: Answer) -> Iterator[Finding]:
    landed = landed_flow(answer)
    if landed is not None and landed.too_much:
        yield over(landed.sentence, "design.packs")


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
        return bool(takes_too_much(np.array(self.amps), np.array(self.limit_a)))

    @property
    def sentence(self) -> str:
        """In words."""
        rest = " and ".join(format_volts(volts) for volts in self.rest_v)
        name = lower_first(self.name)
        if self.too_much:
            return (
                f"Still on one bus after landing, {format_amps(self.amps)} go on flowing into the {name},"
                f" which may take {format_number(self.limit_a, 1)}: part them before you throttle down for good."
                f" They would rest at {rest} a cell."
            )
        return (
            f"After landing the packs would rest at {rest} a cell. Left on one bus,"
            f" {format_amps(self.amps)} go on flowing into the {name}, within the"
            f" {format_amps(self.limit_a)} it may take: part them after landing."
        )


def landed_flow(answer: Answer) -> LandedFlow | None:
    """By the volts at which the packs come to rest after the flight; none of one pack, or where they rest alike."""
    if answer.bus_start is None:
        return None
    series, packs = answer.bus_start.series_count, answer.bus_start.packs
    volts = np.array([series * pack.resting_v for pack in answer.packs])
    taken = flowing_in_a(volts, np.array([pack.ohm for pack in packs]))
    most = int(np.argmax(taken))
    if taken[most] < TRACE_A:
        return None
    rest, taker = tuple(pack.resting_v for pack in answer.packs), answer.packs[most]
    limit = charge_limit_a(taker.complete.cell, float(taker.series.temperature_c[-1]))
    return LandedFlow(taker.complete.name, float(taken[most]), limit * taker.build.recipe.parallel_count, rest)
