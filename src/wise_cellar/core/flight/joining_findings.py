"""What to be careful about where packs share one bus: joining them, what they take from each other, their full
volts."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight.joining import FAR_APART_V, SAME_V, Joining
from wise_cellar.core.flight.result import Answer, Finding, PackAnswer, caution, lower_first, over


def joining_findings(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Findings of packs in parallel; none of one pack alone."""
    if answer.joining is None:
        return
    for room in (_joined, _full_volts, _families):
        yield from room(answer.joining)
    for pack in answer.packs:
        yield from _charged(pack)


def _joined(joining: Joining) -> Iterator[Finding]:
    if joining.safe:
        return
    taker = joining.taker
    name = lower_first(taker.carried.name)
    yield over(
        f"Joined as they rest, {joining.apart_v:.2f} V a cell apart, the {name} takes {-taker.current_a:.1f} A at"
        f" once; it may take {taker.limit_a:.1f} A. Bring them within {taker.below_v:.2f} V a cell of each other"
        " first.",
        taker.carried.field("design.conditions.start_charge_percent"),
    )


def _full_volts(joining: Joining) -> Iterator[Finding]:
    lowest = joining.lower_full_v
    if any(pack.carried.cell.max_voltage_v > lowest + FAR_APART_V for pack in joining.packs):
        full = " and ".join(f"{pack.carried.cell.max_voltage_v:.2f}" for pack in joining.packs)
        yield over(
            f"Full at {full} V a cell, these packs are no match for one bus: at the lower voltage the others are far"
            " from full, at the higher it is overcharged.",
            joining.packs[0].carried.field("cell_type.max_voltage_v"),
        )
        return
    for pack in joining.packs:
        if pack.rest_v > lowest + SAME_V:
            yield over(
                f"The {lower_first(pack.carried.name)} rests at {pack.rest_v:.2f} V a cell; another pack on the bus"
                f" is full at {lowest:.2f} V. Charge all of them to {lowest:.2f} V.",
                pack.carried.field("design.conditions.start_charge_percent"),
            )


def _families(joining: Joining) -> Iterator[Finding]:
    """Unlike chemistries share unevenly over a flight."""
    families = dict.fromkeys(pack.carried.cell.ocv_family.words for pack in joining.packs)
    if len(families) > 1:
        yield caution(
            f"Packs of unlike chemistry ({', '.join(families)}) share the load unevenly, and the one with more volts"
            " gives first: see what each gives over the flight.",
            "design.beside",
        )


def _charged(pack: PackAnswer) -> Iterator[Finding]:
    cell, name = pack.carried.cell, lower_first(pack.carried.name)
    limit = cell.charge_limit_a * pack.build.recipe.parallel_count
    if pack.taken_a > limit:
        yield over(
            f"In flight the {name} is charged by the others with up to {pack.taken_a:.1f} A; it may take {limit:.1f}"
            " A.",
            pack.carried.field("design.conditions.start_charge_percent"),
        )
    if cell.charge_current_a is None:
        yield caution(
            f"{cell.name} tells no charge current; half of 1C, {limit:.1f} A for the {name}, is taken as the most it"
            " may be charged with.",
            pack.carried.field("cell_type.charge_current_a"),
        )
