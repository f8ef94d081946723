"""The two ledgers of the Pack station, row by row."""

from __future__ import annotations

from wise_cellar.core.advice import CELLS, PackStudy
from wise_cellar.core.answer import Answer
from wise_cellar.core.units import format_amps, format_grams, format_number
from wise_cellar.ui.widgets.ledger import LedgerRow

MASS_COLUMNS = (("", 70.0), ("", 62.0))
OHM_COLUMNS = (("mΩ", 48.0), ("V cruise", 56.0), ("V punch", 54.0), ("W", 42.0), ("s lost", 50.0))


def mass_rows(answer: Answer) -> tuple[str, list[LedgerRow]]:
    """Total and rows, heaviest first."""
    total = answer.build.mass_g
    path = answer.packs[0].complete.path
    entries = sorted(answer.build.masses, key=lambda entry: -entry.mass_g)
    rest = total - sum(e.mass_g for e in entries if e.field == "cell.mass_g")
    return f"{format_grams(total)}, {format_grams(rest)} beside the cells", [
        LedgerRow(
            e.name, e.mass_g / total,
            (format_grams(e.mass_g, 1), f"{format_number(100 * e.mass_g / total, 1)} %"), path(e.field),
        )
        for e in entries
    ]  # fmt: skip


def resistance_rows(answer: Answer, study: PackStudy | None) -> tuple[str, list[LedgerRow]]:
    """Total and rows, in order of the time they cost once that is known, else of resistance.

    Cells at half charge and 25 °C, wiring at 20 °C; volts and watts at the greatest cruise, volts at the greatest
    punch.
    """
    recipe, currents = answer.build.recipe, answer.currents
    cells = answer.cell_dcir_ohm * recipe.series_count / recipe.parallel_count
    path = answer.packs[0].complete.path
    entries = [(CELLS, cells, path("cell_type_id"))]
    entries += [(e.name, e.ohm, path(e.field)) for e in answer.build.resistances if e.ohm >= 5e-6]
    total = sum(ohm for _, ohm, _ in entries)
    lost = study.lost_s if study is not None else {}
    entries.sort(key=lambda entry: (-lost.get(entry[0], 0.0), -entry[1]))
    return (
        (
            f"{format_number(total * 1e3, 1)} mΩ, {format_number(currents.cruise_a, 0)} and"
            f" {format_amps(currents.punch_a, 0)}"
        ),
        [
            LedgerRow(
                name,
                ohm / total,
                (
                    format_number(ohm * 1e3, 2),
                    format_number(currents.cruise_a * ohm, 2),
                    format_number(currents.punch_a * ohm, 2),
                    format_number(currents.cruise_a**2 * ohm, 1),
                    format_number(lost[name], 0) if name in lost else "…",
                ),
                field,
            )
            for name, ohm, field in entries
        ],
    )
