"""What the cell types themselves make impossible or leave in doubt."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from wise_cellar.core.answer.limits import of_whole_packs
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.cells import Verdict, believed, capacity_mah, overfull_v, resistance_mohm, sheet_claims
from wise_cellar.core.cells.charging import overfull_words
from wise_cellar.core.documents import CellType, CompleteDesign
from wise_cellar.core.units import format_number, format_significant


def cell_findings(complete: CompleteDesign, _answer: Answer) -> Iterator[Finding]:
    """What the cell types themselves make impossible or leave in doubt."""
    for pack in complete.packs:
        for finding in _of_cell(pack.cell, pack.recipe.series_count):
            yield replace(finding, field=pack.path(finding.field))


_MEASURED = (("capacity_mah", capacity_mah, "capacity"), ("dcir_mohm", resistance_mohm, "resistance"))
AWAY = 0.03
"""Share of the label's value by which a bench must differ to be told."""


def _by_the_bench(cell: CellType) -> Iterator[Finding]:
    """Where three specimens or more stand in for the sheet."""
    for quantity, flies, words in _MEASURED:
        bench = believed(cell, quantity)
        label = cell.capacity_mah if quantity == "capacity_mah" else cell.resistance_mohm
        if bench is None or abs(flies(cell) - bench.median) > 1e-9 or abs(bench.median / label - 1) <= AWAY:
            continue
        side = "under" if bench.median < label else "over"
        yield caution(
            f"{bench.count} specimens of {cell.name} measured"
            f" {format_number(100 * abs(bench.median / label - 1), 0)} % {side} the {words} of its label: this"
            " flight uses what was measured.",
            "cell.bench_results",
        )


def _of_cell(cell: CellType, series: int) -> Iterator[Finding]:
    if not of_whole_packs(series, cell.cells_in_series):
        fitting = sorted({max(series // cell.cells_in_series, 1), series // cell.cells_in_series + 1})
        counts = " or ".join(f"{count * cell.cells_in_series}S" for count in fitting)
        yield over(
            f"{cell.name} is bought whole with {cell.cells_in_series} cells in series; {series}S cannot be made of it,"
            f" {counts} can.",
            "recipe.series_count",
        )
    if (family := overfull_v(cell)) is not None:
        yield over(overfull_words(cell, family), "cell.max_voltage_v")
    yield from _by_the_bench(cell)
    for claim in sheet_claims(cell):
        if claim.field == "cell.bench_results" and believed(cell, "capacity_mah") is not None:
            continue  # what was measured is what flies
        if claim.verdict is not Verdict.HOLDS:
            told = over if claim.verdict is Verdict.CANNOT_BE else caution
            yield told(f"{cell.name}, {claim.title.lower()}: {claim.sentence}", claim.field)
    if cell.dcir_mohm is None and cell.fitted is None and cell.ac_resistance_mohm is not None:
        yield caution(
            f"{cell.name} has only an AC resistance, {format_significant(cell.ac_resistance_mohm)} mΩ. A DC"
            f" resistance of {format_number(cell.resistance_mohm, 0)} mΩ is estimated from it (AC is 0.5 to 0.7"
            " of DC): measure a 10 s pulse.",
            "cell.dcir_mohm",
        )
