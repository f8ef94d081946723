"""Series groups that differ: the weakest ends the flight for all."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.result import Answer, Finding, caution
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_number, format_volts
from wise_cellar.core.words import lower_first, upper_first

APART_V = 0.03
"""Volts a cell at the end from which on a group is told as the weakest."""


def group_findings(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """The weakest group of every pack whose groups differ, with what the others still have."""
    for pack in answer.packs:
        others = [group for group in pack.groups if group is not pack.weakest]
        if not others:
            continue
        weak, best = pack.weakest, max(others, key=lambda group: group.end_cell_v)
        if best.end_cell_v - weak.end_cell_v < APART_V:
            continue
        whose = "" if pack.complete.alone else f" of the {lower_first(pack.complete.name)}"
        yield caution(
            f"{upper_first(weak.words)}{whose} is the weakest: at the end a cell there has"
            f" {format_volts(weak.end_cell_v)} under load and"
            f" {format_number(100 * max(weak.charge_left, 0), 0)} % of its charge, others have"
            f" {format_volts(best.end_cell_v)} and {format_number(100 * max(best.charge_left, 0), 0)} %.",
            pack.complete.path("state.groups"),
        )
