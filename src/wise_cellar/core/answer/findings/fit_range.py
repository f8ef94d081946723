"""Nothing is extrapolated silently: a flight outside what a fitted cell was measured at says so."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.result import Answer, Finding, PackAnswer, caution
from wise_cellar.core.cells import Use, beyond, most_burst_a
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import bare_number, format_amps, format_celsius, format_number, format_significant


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
                f"Each cell gives {format_amps(use.lasting_a)}; the fit of {cell.name} rests on at most"
                f" {format_amps(fitted.highest_current_a)}. Expect more doubt, or add a faster discharge.",
                pack.complete.path("cell.fitted"),
            )
        if out.burst and use.burst_a > use.lasting_a:
            yield caution(
                f"A burst of {format_significant(pack.currents.punch_s)} s asks {format_number(use.burst_a, 1)}"
                f" A of a cell; the fit of {cell.name} saw {format_amps(most_burst_a(fitted))} at the"
                " most, for some seconds. Expect more doubt in the volts of a punch, or add a log with such"
                " bursts.",
                pack.complete.path("cell.fitted"),
            )
        if out.warmth_per_k:
            yield caution(
                f"Cells are between {bare_number(pack.coldest_c, '°C')} and {format_celsius(pack.hottest_c)}; the fit"
                f" of {cell.name} rests on {bare_number(fitted.coldest_c, '°C')} to {format_celsius(fitted.warmest_c)}."
                " Expect more doubt, or add a discharge at that temperature.",
                pack.complete.path("cell.fitted"),
            )
