"""Nothing is extrapolated silently: a flight outside what a fitted cell was measured at says so."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.result import Answer, Finding, caution
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_celsius, format_number

FIT_MARGIN_C = 5.0


def outside_fit(complete: CompleteDesign, answer: Answer) -> bool:
    """Whether a fitted cell is flown outside the currents and temperatures that its fit rests on."""
    return any(True for _ in fit_range_findings(complete, answer))


def fit_range_findings(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Nothing is extrapolated silently: a flight outside what a fitted cell was measured at says so."""
    for pack in answer.packs:
        cell, fitted = pack.complete.cell, pack.complete.cell.fitted
        if fitted is None:
            continue
        cruise = pack.currents.cruise_a * pack.build.worst_share / pack.build.recipe.parallel_count
        if cruise > fitted.highest_current_a:
            yield caution(
                f"Each cell gives {cruise:.1f} A; the fit of {cell.name} rests on at most"
                f" {fitted.highest_current_a:.1f} A. Expect more doubt, or add a faster discharge.",
                pack.complete.path("cell.fitted"),
            )
        if pack.coldest_c < fitted.coldest_c - FIT_MARGIN_C or pack.hottest_c > fitted.warmest_c + FIT_MARGIN_C:
            yield caution(
                f"Cells are between {format_number(pack.coldest_c, 0)} and {format_celsius(pack.hottest_c)}; the fit of"
                f" {cell.name} rests on {format_number(fitted.coldest_c, 0)} to {format_celsius(fitted.warmest_c)}."
                " Expect more doubt, or add a discharge at that temperature.",
                pack.complete.path("cell.fitted"),
            )
