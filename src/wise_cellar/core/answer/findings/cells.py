"""What the cell types themselves make impossible or leave in doubt."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from wise_cellar.core.answer.limits import of_whole_packs
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.cells import Verdict, overfull_v, sheet_claims
from wise_cellar.core.cells.charging import overfull_words
from wise_cellar.core.documents import CellType, CompleteDesign


def cell_findings(complete: CompleteDesign, _answer: Answer) -> Iterator[Finding]:
    """What the cell types themselves make impossible or leave in doubt."""
    for pack in complete.packs:
        for finding in _of_cell(pack.cell, pack.recipe.series_count):
            yield replace(finding, field=pack.path(finding.field))


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
    for claim in sheet_claims(cell):
        if claim.verdict is Verdict.CANNOT_BE:
            yield over(f"{cell.name}, {claim.title.lower()}: {claim.sentence}", claim.field)
    if cell.dcir_mohm is None and cell.fitted is None:
        yield caution(
            f"{cell.name} has only an AC resistance, {cell.ac_resistance_mohm:g} mΩ. A DC resistance of"
            f" {cell.resistance_mohm:.0f} mΩ is estimated from it (AC is 0.5 to 0.7 of DC): measure a 10 s pulse.",
            "cell.dcir_mohm",
        )
