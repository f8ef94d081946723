"""Nothing is extrapolated silently: a flight outside what a fitted cell was measured at says so."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.result import Answer, Finding, PackAnswer, caution
from wise_cellar.core.cells import Use, beyond, most_burst_a
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_celsius, format_number


def use_of(pack: PackAnswer) -> Use:
    """What a flight asks of the cell that carries most, for good and in bursts."""
    share = pack.build.worst_share / pack.build.recipe.parallel_count
    lasting, burst = pack.currents.cruise_a * share, pack.currents.punch_a * share
    return Use(lasting, max(lasting, burst), pack.coldest_c, pack.hottest_c)


def fit_range_findings(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Nothing is extrapolated silently: a flight outside what a fitted cell was measured at says so."""
    for pack in answer.packs:
        cell, fitted = pack.complete.cell, pack.complete.cell.fitted
        if fitted is None:
            continue
        use = use_of(pack)
        out = beyond(cell, use)
        if out.current:
            yield caution(
                f"Each cell gives {use.lasting_a:.1f} A; the fit of {cell.name} rests on at most"
                f" {fitted.highest_current_a:.1f} A. Expect more doubt, or add a faster discharge.",
                pack.complete.path("cell.fitted"),
            )
        if out.burst and use.burst_a > use.lasting_a:
            yield caution(
                f"A burst of {pack.currents.punch_s:g} s asks {use.burst_a:.1f} A of a cell; the fit of {cell.name} saw"
                f" {most_burst_a(fitted):.1f} A at the most, for some seconds. Expect more doubt in the volts of a"
                " punch, or add a log with such bursts.",
                pack.complete.path("cell.fitted"),
            )
        if out.warmth_per_k:
            yield caution(
                f"Cells are between {format_number(pack.coldest_c, 0)} and {format_celsius(pack.hottest_c)}; the fit of"
                f" {cell.name} rests on {format_number(fitted.coldest_c, 0)} to {format_celsius(fitted.warmest_c)}."
                " Expect more doubt, or add a discharge at that temperature.",
                pack.complete.path("cell.fitted"),
            )
