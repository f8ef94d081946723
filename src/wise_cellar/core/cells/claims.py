"""Claims of a cell's sheet that the sheet alone can judge: each holds, is doubtful or cannot be, with arithmetic."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import IntEnum
from functools import lru_cache

from wise_cellar.core.cells.model import mean_resting_v
from wise_cellar.core.cells.specimens import measured
from wise_cellar.core.documents import AC_SHARE_OF_DCIR, CellType, FormFactor, SourceKind
from wise_cellar.core.units import (
    TOLD,
    format_amps,
    format_mah,
    format_number,
    format_significant,
    format_volts,
)

SHORT_OF_LABEL = 0.97
LARGE_SAG_V, IMPOSSIBLE_SAG_V = 0.6, 1.2


class Verdict(IntEnum):
    """How a claim stands."""

    HOLDS = 0
    DOUBTFUL = 1
    CANNOT_BE = 2

    @property
    def words(self) -> str:
        """As people read it."""
        return ("holds", "doubtful", "cannot be")[self]


@dataclass(frozen=True)
class Claim:
    """One claim of a sheet. ``sentence`` says what it means, ``arithmetic`` how it was reckoned."""

    verdict: Verdict
    title: str
    sentence: str
    arithmetic: str
    field: str


@dataclass(frozen=True)
class Density:
    """What a form has held: above ``seen`` nothing common is known, above ``ever`` nothing at all. Estimates."""

    seen_wh_kg: float
    ever_wh_kg: float
    seen_wh_l: float
    ever_wh_l: float
    least_g_ml: float
    most_g_ml: float


# Cells that are sold stay under the first of each pair; the second is beyond any of its form. Grams a millilitre are of
# steel cans around wound electrodes, and of soft pouches.
DENSITIES = {
    FormFactor.C18650: Density(275, 300, 760, 820, 2.5, 3.1),
    FormFactor.C21700: Density(275, 310, 760, 850, 2.5, 3.1),
    FormFactor.OTHER_CYLINDER: Density(280, 320, 770, 850, 2.3, 3.2),
    FormFactor.POUCH: Density(290, 330, 700, 800, 1.7, 3.0),
    FormFactor.WHOLE_PACK: Density(200, 240, 480, 600, 1.5, 3.0),
}


@lru_cache(maxsize=2048)
def sheet_verdict(cell: CellType) -> Verdict:
    """The worst verdict of what the sheet alone tells, without flying it."""
    return max((claim.verdict for claim in sheet_claims(cell)), default=Verdict.HOLDS)


def sheet_claims(cell: CellType) -> list[Claim]:
    """Every claim that the sheet alone tells, without flying the cell."""
    rooms = (_mass_claims, _capacity_claims, _resistance_claims)
    return [claim for room in rooms for claim in room(cell)]


def _mass_claims(cell: CellType) -> Iterator[Claim]:
    count, bound = cell.cells_in_series, DENSITIES[cell.form_factor]
    resting = mean_resting_v(cell)
    energy_wh = count * cell.capacity_mah / 1000 * resting
    by_mass, by_size = 1000 * energy_wh / cell.mass_g, energy_wh / cell.volume_l
    cells = f"{count} × " if count > 1 else ""
    reckoned = (
        f"{cells}{format_number(cell.capacity_mah / 1000, 2)} Ah × {format_volts(resting)} at rest ="
        f" {format_number(energy_wh, 1)} Wh"
    )
    yield Claim(
        _over(by_mass, bound.seen_wh_kg, bound.ever_wh_kg),
        "Energy for its mass",
        f"{format_number(by_mass, 0)} Wh/kg; {_held_words(by_mass, bound.seen_wh_kg, bound.ever_wh_kg, cell, 'Wh/kg')}",
        f"{reckoned}; ÷ {format_significant(cell.mass_g)} g = {format_number(by_mass, 0)} Wh/kg",
        "cell.capacity_mah",
    )
    yield Claim(
        _over(by_size, bound.seen_wh_l, bound.ever_wh_l),
        "Energy for its size",
        (
            f"{format_number(by_size, 0)} Wh a litre;"
            f" {_held_words(by_size, bound.seen_wh_l, bound.ever_wh_l, cell, 'Wh a litre')}"
        ),
        f"{reckoned}; ÷ {format_number(1000 * cell.volume_l, 1)} ml = {format_number(by_size, 0)} Wh/l",
        "cell.length_mm",
    )
    heavy = cell.mass_g / (1000 * cell.volume_l)
    fits = bound.least_g_ml <= heavy <= bound.most_g_ml
    far = heavy < 0.85 * bound.least_g_ml or heavy > 1.15 * bound.most_g_ml
    side = "light" if heavy < bound.least_g_ml else "heavy"
    usual = f"({format_significant(bound.least_g_ml)} to {format_significant(bound.most_g_ml)})"
    yield Claim(
        Verdict.HOLDS if fits else Verdict.CANNOT_BE if far else Verdict.DOUBTFUL,
        "Mass against size",
        f"{format_number(heavy, 2)} g a millilitre is usual for its form {usual}."
        if fits
        else f"{format_number(heavy, 2)} g a millilitre is too {side} for its form {usual}: weigh and measure it.",
        (
            f"{format_significant(cell.mass_g)} g ÷ {format_number(1000 * cell.volume_l, 1)} ml ="
            f" {format_number(heavy, 2)} g/ml"
        ),
        "cell.mass_g",
    )


def _capacity_claims(cell: CellType) -> Iterator[Claim]:
    if cell.fitted is not None and not cell.fitted.capacity_given:
        yield _against_label(cell, cell.fitted.capacity_mah, "By its own discharge curves", "cell.fitted")
    specimens = measured(cell.bench_results, "capacity_mah")
    if specimens is not None:
        source = f"Of {specimens.count} on the bench" if specimens.count > 1 else "Of one on the bench"
        yield _against_label(cell, specimens.median, source, "cell.bench_results")


def _against_label(cell: CellType, found_mah: float, source: str, field: str) -> Claim:
    share = found_mah / cell.capacity_mah
    label = "measured value" if cell.source_of("capacity_mah")[0] is SourceKind.MEASURED else "label"
    verdict = Verdict.HOLDS if share >= SHORT_OF_LABEL else Verdict.DOUBTFUL if share >= 0.85 else Verdict.CANNOT_BE
    ends = (
        "holds its label"
        if verdict is Verdict.HOLDS
        else f"is {format_number(100 * (1 - share), 0)} % short of its {label}"
    )
    return Claim(
        verdict,
        "Capacity",
        f"{source}, it {ends}: {format_mah(found_mah)} where {format_number(cell.capacity_mah, 0)} are written.",
        f"{format_number(found_mah, 0)} ÷ {format_mah(cell.capacity_mah)} = {format_number(100 * share, 0)} %",
        field,
    )


def _resistance_claims(cell: CellType) -> Iterator[Claim]:
    amps, ohm = cell.rated_current_a, cell.resistance_mohm * 1e-3
    sag = amps * ohm
    verdict = _over(sag, LARGE_SAG_V, IMPOSSIBLE_SAG_V)
    rate = amps / (cell.capacity_mah / 1000)
    held_rate = LARGE_SAG_V / ohm / (cell.capacity_mah / 1000)
    claimed = (
        f"{format_significant(cell.c_rating)}C"
        if cell.c_rating is not None
        else f"{format_amps(amps, TOLD)} ({format_number(rate, 1)}C)"
    )
    lost = f"{format_volts(sag)} to its own resistance"
    lets = f"about {format_number(held_rate, 0)}C is what that resistance lets through."
    said = {
        Verdict.HOLDS: f"At {claimed} each cell loses {lost}, which it can afford.",
        Verdict.DOUBTFUL: f"At {claimed} each cell loses {lost}; {lets}",
        Verdict.CANNOT_BE: f"At {claimed} each cell would lose {lost} and be under its minimum at once; {lets}",
    }[verdict]
    estimated = ""
    if cell.dcir_mohm is None and cell.ac_resistance_mohm is not None:
        estimated = (
            f" (from {format_significant(cell.ac_resistance_mohm)} mΩ AC ÷ {format_significant(AC_SHARE_OF_DCIR)})"
        )
    yield Claim(
        verdict,
        "C-rating against resistance" if cell.c_rating is not None else "Rated current against resistance",
        said,
        f"{format_significant(amps, 3)} A × {format_significant(cell.resistance_mohm, 3)} mΩ{estimated}"
        f" = {format_volts(sag)}",
        "cell.c_rating" if cell.c_rating is not None else "cell.continuous_current_a",
    )


def _over(value: float, doubtful: float, impossible: float) -> Verdict:
    return Verdict.CANNOT_BE if value > impossible else Verdict.DOUBTFUL if value > doubtful else Verdict.HOLDS


def _held_words(value: float, seen: float, ever: float, cell: CellType, unit: str) -> str:
    kinds = {FormFactor.POUCH: "pouches", FormFactor.WHOLE_PACK: "polymer packs"}
    kind = kinds.get(cell.form_factor, f"{cell.form_factor} cells")
    if value > ever:
        return f"no {kind} have held more than {format_significant(ever)}. Weigh it, and measure its capacity."
    if value > seen:
        return f"beyond the {format_significant(seen)} {unit} that {kind} commonly hold."
    return f"{kind} commonly hold up to {format_significant(seen)}."
