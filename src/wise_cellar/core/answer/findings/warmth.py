"""How warm and how cold cells get."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.cells import VENTING_C
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_celsius
from wise_cellar.core.words import upper_first

WARM_C = 50.0


def warmth_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Cells too warm, too cold, and frost."""
    for pack in answer.packs:
        cell, cells = pack.complete.cell, upper_first(pack.cells)
        cooling = pack.complete.path("cooling")
        if pack.hottest_c > cell.max_temperature_c:
            yield over(
                f"{cells} reach {format_celsius(pack.hottest_c)}; {cell.name} may reach"
                f" {format_celsius(cell.max_temperature_c)}.",
                cooling,
            )
        elif pack.hottest_c > WARM_C:
            yield caution(f"{cells} reach {format_celsius(pack.hottest_c)}, warm for lithium-ion.", cooling)
        if pack.inside_c > VENTING_C:
            yield over(
                f"{cells} reach {format_celsius(pack.hottest_c)} on the mean and about"
                f" {format_celsius(pack.inside_c)} inside: venting is near.",
                cooling,
            )
        if pack.coldest_c < cell.min_temperature_c:
            yield over(
                f"{cells} are at {format_celsius(pack.coldest_c)}; {cell.name} may not be discharged below"
                f" {format_celsius(cell.min_temperature_c)}.",
                pack.complete.path("state.temperature_c"),
            )
    if complete.design.conditions.air_temperature_c < 0:
        yield caution(
            f"Below {format_celsius(0)} cells sag strongly: start with a warm pack, and expect more doubt in this"
            " answer.",
            "design.conditions.air_temperature_c",
        )
